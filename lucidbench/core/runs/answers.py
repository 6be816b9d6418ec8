"""What a circuit file asks for, answered: an analysis told by numbers alone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses.dc_sweep import Axis
from lucidbench.core.errors import CircuitError

Trace = npt.NDArray[Any]


@dataclass(frozen=True)
class Answer:
    """One analysis: `values` of an operating point, or `traces` over `axis` (and `outer`).

    Raises CircuitError where one of them is no number any more.
    """

    kind: str
    values: Mapping[str, float] = field(default_factory=dict)
    axis: Axis | None = None
    outer: Axis | None = None
    traces: Mapping[str, Trace] = field(default_factory=dict)
    notes: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        traces = self.traces.items() if self.axis is not None else self.values.items()
        for name, values in traces:
            if not np.all(np.isfinite(values)):
                raise CircuitError(f"{name} grows beyond all numbers; the values are too extreme.")

    @property
    def names(self) -> list[str]:
        return list(self.values) or list(self.traces)

    def as_json(self) -> dict[str, Any]:
        if self.axis is None:
            return {"kind": self.kind, "values": dict(self.values)}
        found: dict[str, Any] = {"kind": self.kind, "axis": _axis(self.axis)}
        if self.outer is not None:
            found["outer"] = _axis(self.outer)
        found["traces"] = {name: _trace(trace) for name, trace in self.traces.items()}
        return found


def _axis(axis: Axis) -> dict[str, Any]:
    return {"name": axis.name, "unit": axis.unit, "values": axis.values.tolist()}


def _trace(trace: Trace) -> Any:
    if np.iscomplexobj(trace):
        return {"re": trace.real.tolist(), "im": trace.imag.tolist()}
    return trace.tolist()
