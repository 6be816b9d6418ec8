"""The times at which what drives a circuit is not smooth: breakpoints of waveforms, and of formulas of time.

A formula bends where the sides of a `min` or `max` meet, and where an `abs` passes zero. Where those
depend on time alone they are known beforehand: looked for on a fine grid, then closed in on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

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
    from lucidbench.core.devices.laws.expression import TIME

    for _, use in laws(system):
        if use.law == Law.EXPRESSION and any(op == TIME for op, _ in operations(use.parameters)):
            yield use.parameters


def operations(program: tuple[float, ...]) -> Iterator[tuple[int, float]]:
    """(operation, its number where it has one)."""
    from lucidbench.core.devices.laws.expression import CONSTANT, CONTROL

    k = 0
    while k < len(program):
        op = int(program[k])
        takes = op in (CONSTANT, CONTROL)
        yield op, program[k + 1] if takes else 0.0
        k += 2 if takes else 1


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
    from lucidbench.core.devices.laws import expression as e

    plain: dict[int, Callable[[Array], Array]] = {
        e.SQRT: lambda a: np.sqrt(np.maximum(a, 0)), e.EXP: lambda a: np.exp(np.minimum(a, 80)),
        e.LN: lambda a: np.log(np.maximum(a, 1e-300)), e.LG: lambda a: np.log10(np.maximum(a, 1e-300)),
        e.SIN: np.sin, e.COS: np.cos, e.TAN: np.tan, e.ATAN: np.arctan, e.TANH: np.tanh,
        e.NEGATE: np.negative, e.ABS: np.abs,
    }  # fmt: skip
    joined: dict[int, Callable[[Array, Array], Array]] = {
        e.ADD: np.add, e.SUBTRACT: np.subtract, e.MULTIPLY: np.multiply, e.DIVIDE: np.divide,
        e.POWER: np.power, e.MINIMUM: np.minimum, e.MAXIMUM: np.maximum,
    }  # fmt: skip
    sides: list[Array | None] = []
    stack: list[Array | None] = []  # None: more than time decides it
    with np.errstate(all="ignore"):
        for op, number in operations(program):
            if op == e.CONSTANT:
                stack.append(np.full(len(t), number))
            elif op == e.CONTROL:
                stack.append(None)
            elif op == e.TIME:
                stack.append(t)
            elif op in joined:
                b, a = stack.pop(), stack.pop()
                if op in (e.MINIMUM, e.MAXIMUM):
                    sides.append(None if a is None or b is None else a - b)
                stack.append(None if a is None or b is None else joined[op](a, b))
            else:
                a = stack.pop()
                if op == e.ABS:
                    sides.append(a)
                stack.append(None if a is None else np.asarray(plain[op](a)))
    return sides
