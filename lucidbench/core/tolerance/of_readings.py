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

from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.residue import OF_RUNS, is_residue
from lucidbench.core.tolerance.draws import builds
from lucidbench.core.tolerance.intervals import expanded, expanded_of_draws, intervals_of

_BENT = 0.1  # of all that is uncertain: what straight lines may miss
_DRAWS, _FEWEST = 200, 30
_DRAWING = 5.0  # s that draws may take

Name = TypeVar("Name", bound=Hashable)


@dataclass(frozen=True)
class Spreads(Generic[Name]):
    """`limits` are what the end of each interval does, by source, signed; `drawn` the expanded uncertainty by
    draws of those figures that bend."""

    limits: dict[Name, dict[str, float]] = field(default_factory=dict)
    drawn: dict[Name, float] = field(default_factory=dict)


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
    `until` [s, of this thread's work]."""
    found = Spreads[Name]({name: {} for name in nominal})
    bends: dict[Name, list[float]] = {name: [] for name in nominal}
    for each in intervals_of(circuit):
        sides: list[Mapping[Name, float]] = []
        for end in (1, -1)[: 1 + is_thorough]:
            if time.thread_time() > until:
                return None
            try:
                sides.append(read(each.put(circuit, end)))
            except LucidError:
                return None
        for name, value in nominal.items():
            if any(name not in side for side in sides):
                return None
            changes = [side[name] - value for side in sides]
            size = (changes[0] - changes[1]) / 2 if is_thorough else changes[0]
            if not is_residue(size, value, OF_RUNS):
                found.limits[name][each.source] = size
            if is_thorough:
                bends[name].append(sum(changes) / 2)
    bent = [
        n for n, value in nominal.items() if _is_bent(value, [*found.limits[n].values()], bends[n])
    ]
    if bent:
        until = min(until, time.thread_time() + _DRAWING)
        found.drawn.update(_drawn(circuit, {n: nominal[n] for n in bent}, read, until))
    return found


def _is_bent(value: float, limits: list[float], bends: list[float]) -> bool:
    """Whether what a straight line misses matters beside all that is uncertain."""
    missed = float(expanded(bends))
    return missed > _BENT * float(expanded(limits)) and not is_residue(missed, value, OF_RUNS)


def _drawn(
    circuit: Circuit,
    nominal: Mapping[Name, float],
    read: Callable[[Circuit], Mapping[Name, float]],
    until: float,
) -> dict[Name, float]:
    """By builds; nothing where too few could be solved in time."""
    told: dict[Name, list[float]] = {name: [] for name in nominal}
    for build in builds(circuit, _DRAWS):
        if time.thread_time() > until:
            break
        try:
            figures = read(build)
        except LucidError:
            continue
        for name in nominal:
            if name in figures:
                told[name].append(figures[name])
    return {
        name: expanded_of_draws(values, nominal[name])
        for name, values in told.items()
        if len(values) >= _FEWEST
    }
