"""The times at which what drives a circuit is not smooth: breakpoints of waveforms, and of formulas of time.

A formula bends where the sides of a `min` or `max` meet, and where an `abs` passes zero. Where those
depend on time alone they are known beforehand: looked for on a fine grid, then closed in on.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from lucidbench.core.devices.base import Law
from lucidbench.core.equations.system import Array, System, laws

_ROUNDING = 8 * 2.0**-52  # of their time: breakpoints closer than this are one
_FEWEST_LOOKS, _MOST_LOOKS = 20_001, 400_001  # at a formula over the run
_HALVINGS = 60


def breakpoints(system: System, stop: float, begin: float, step: float | None) -> Array:
    """The ends of the smooth intervals up to `stop` [s], rising, the stop last; recording begins at
    `begin`, and is told every `step` or, where that is None, at the solver's own."""
    found = [w.breakpoints(0.0, stop) for _, w in system.waveforms]
    if begin > 0:
        found.append(np.array([begin]))
    for program in _programs_of_time(system):
        found.append(_bends(program, stop, step))
    every = np.unique(np.concatenate([*found, np.array([stop])]))
    # Of breakpoints that rounding alone keeps apart, the last one stays.
    apart = np.append(np.diff(every) > _ROUNDING * every[:-1], True)
    return np.asarray(every[apart])


def depends_on_time(system: System) -> bool:
    """Whether a formula of time drives the circuit, of which its breakpoints alone are known beforehand."""
    return any(True for _ in _programs_of_time(system))


def _programs_of_time(system: System) -> Iterator[tuple[float, ...]]:
    from lucidbench.core.equations.programs import speaks_of_time

    for _, use in laws(system):
        if use.law == Law.EXPRESSION and speaks_of_time(use.parameters):
            yield use.parameters


def _bends(program: tuple[float, ...], stop: float, step: float | None) -> Array:
    looks = _FEWEST_LOOKS if step is None else 4 * stop / step
    grid = np.linspace(0.0, stop, int(min(max(looks, _FEWEST_LOOKS), _MOST_LOOKS)))
    found = []
    for which, side in enumerate(_sides(program, grid)):
        if side is None:
            continue
        at = np.flatnonzero((side[:-1] > 0) != (side[1:] > 0))
        low, high = grid[at], grid[at + 1]
        rises = side[at + 1] > 0
        for _ in range(_HALVINGS if len(at) else 0):
            half = 0.5 * (low + high)
            now = _sides(program, half)[which]
            assert now is not None
            past = (now > 0) == rises
            low, high = np.where(past, low, half), np.where(past, half, high)
        found.append(high)
    inside = np.concatenate(found) if found else np.zeros(0)
    return inside[(inside > 0) & (inside < stop)]


def _sides(program: tuple[float, ...], t: Array) -> list[Array | None]:
    """By how much the first side of each min and max lies above the second at `t`, and what each abs is
    of; None where that depends on more than time."""
    from lucidbench.core.devices.laws.expression import ABS, MAXIMUM, MINIMUM
    from lucidbench.core.equations.programs import steps

    sides: list[Array | None] = []
    for operation, first, second in steps(program, t):
        if operation in (MINIMUM, MAXIMUM):
            sides.append(None if first is None or second is None else first - second)
        elif operation == ABS:
            sides.append(first)
    return sides
