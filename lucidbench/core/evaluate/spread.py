"""What tolerances do to figures that only a whole solution tells: each value moved, or whole builds drawn.

To first order each toleranced value is moved to the end of its interval, and what that does is one source
(JCGM 100:2008, 5.1.2). Where a figure bends over that, its uncertainty is found by draws instead
(JCGM 101:2008).
"""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from typing import Generic, TypeVar

import numpy as np

from lucidbench.core.analyses.families import builds
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.units.uncertain import COVERAGE, EXPANDED

_DUST = 1e-6  # of the value; below the errors of a run
_BENT = 0.1  # of all that is uncertain: what straight lines may miss
_DRAWS, _FEWEST = 200, 30
_DRAWING = 5.0  # s that draws may take

Name = TypeVar("Name", bound=Hashable)


@dataclass(frozen=True)
class Spreads(Generic[Name]):
    """`budgets` are expanded contributions by source, signed; `drawn` the expanded uncertainty by draws of
    those figures that bend."""

    budgets: dict[Name, dict[str, float]] = field(default_factory=dict)
    drawn: dict[Name, float] = field(default_factory=dict)


def source_of(name: str, key: str, main: str | None) -> str:
    """How a toleranced value is called as a source of uncertainty: R1, or Q1.beta."""
    return name if key == main else f"{name}.{key}"


def spreads_of(
    circuit: Circuit,
    nominal: Mapping[Name, float],
    read: Callable[[Circuit], Mapping[Name, float]],
    until: float,
    *,
    is_thorough: bool,
) -> Spreads[Name] | None:
    """Of the figures `nominal`, which `read` gives of any circuit, or raises LucidError. One way only unless
    `is_thorough`, which looks for bends too; None where it cannot be done for all until the clock says
    `until` [s]."""
    spreads = [(e, key, a) for e in circuit for key, a in e.spreads.items() if a > 0]
    found = Spreads[Name]({name: {} for name in nominal})
    bends: dict[Name, dict[str, float]] = {name: {} for name in nominal}
    for element, key, width in spreads:
        sides: list[Mapping[Name, float]] = []
        for sign in (1, -1)[: 1 + is_thorough]:
            if time.monotonic() > until:
                return None
            other = circuit.with_value(element.name, key, element.values[key] * (1 + sign * width))
            try:
                sides.append(read(other))
            except LucidError:
                return None
        source = source_of(element.name, key, element.main_key)
        for name, value in nominal.items():
            if any(name not in side for side in sides):
                return None
            changes = [side[name] - value for side in sides]
            size = (changes[0] - changes[1]) / 2 if is_thorough else changes[0]
            if abs(size) > _DUST * abs(value):
                found.budgets[name][source] = EXPANDED * size
            bends[name][source] = abs(sum(changes)) / 2 * EXPANDED if is_thorough else 0.0
    bent = [n for n, value in nominal.items() if _is_bent(value, found.budgets[n], bends[n])]
    if bent:
        until = min(until, time.monotonic() + _DRAWING)
        found.drawn.update(_drawn(circuit, bent, read, until))
    return found


def _is_bent(value: float, budget: Mapping[str, float], bends: Mapping[str, float]) -> bool:
    """Whether what a straight line misses matters beside all that is uncertain."""
    whole = float(np.hypot.reduce([*budget.values(), 0.0]))
    missed = float(np.hypot.reduce([*bends.values(), 0.0]))
    return missed > _BENT * whole and missed > _DUST * abs(value)


def _drawn(
    circuit: Circuit,
    names: list[Name],
    read: Callable[[Circuit], Mapping[Name, float]],
    until: float,
) -> dict[Name, float]:
    """Twice the standard deviation over builds; nothing where too few could be solved in time."""
    told: dict[Name, list[float]] = {name: [] for name in names}
    for build in builds(circuit, _DRAWS):
        if time.monotonic() > until:
            break
        try:
            figures = read(build)
        except LucidError:
            continue
        for name in names:
            if name in figures:
                told[name].append(figures[name])
    return {
        name: COVERAGE * float(np.std(values, ddof=1))
        for name, values in told.items()
        if len(values) >= _FEWEST
    }
