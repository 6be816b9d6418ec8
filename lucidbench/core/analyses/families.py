"""One analysis over many values: families of curves."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Generic, TypeVar

import numpy as np

from lucidbench.core.analyses.dc_sweep import changed
from lucidbench.core.analyses.run import Watch, refuse_points
from lucidbench.core.netlist import Circuit

Result = TypeVar("Result")


@dataclass(frozen=True)
class Member(Generic[Result]):
    """One member of a family: the values it was run at, and what came out."""

    values: Mapping[str, float]
    result: Result


def family(
    circuit: Circuit,
    over: Mapping[str, Sequence[float]],
    analysis: Callable[[Circuit], Result],
    watch: Watch | None = None,
) -> Iterator[Member[Result]]:
    """`analysis` at every combination of the values of `over`: sources, main values of elements,
    circuit parameters, or "temp" [°C]. Raises CircuitError, RunRefused.
    """
    watch = watch or Watch(seconds=600.0)
    axes = [[(subject, float(v)) for v in values] for subject, values in over.items()]
    total = int(np.prod([len(axis) for axis in axes])) if axes else 0
    refuse_points(total, "family", "Take fewer values.")
    for k, combination in enumerate(product(*axes)):
        here = circuit
        for subject, value in combination:
            here = changed(here, subject, value)
        yield Member(dict(combination), analysis(here))
        watch.check((k + 1) / total, "family")
