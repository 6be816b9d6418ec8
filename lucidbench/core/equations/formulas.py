"""Formulas of circuit quantities, looked at where a solution puts them: whether they have a value there.

While a solution is looked for they are kept finite, as a guess may lie anywhere; a solution may not.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from lucidbench.core.devices.base import GROUND_ROW, Law
from lucidbench.core.equations.system import Array, System, laws
from lucidbench.core.errors import CircuitError
from lucidbench.core.units import engineering

_ROUNDING = 1e-9  # of an argument: it may lie on the wrong side of zero by so much
_LEAST = 1e-300


class _Undefined(NamedTuple):
    """At which of the points, of what argument, in words of the function."""

    at: int
    argument: float
    words: str


def formula_parts(system: System) -> set[str]:
    """The names of parts whose equation is a formula."""
    return {share.element.name for share, use in laws(system) if use.law == Law.EXPRESSION}


def refuse_undefined(system: System, x: Array, times: Array | None = None) -> None:
    """Raise CircuitError, naming part, function and argument, where a formula has no value in a solution.

    `x` has shape (n,) for a point, or (points, n) for a run, whose `times` [s] are then told.
    """
    points = np.atleast_2d(x)
    at = np.zeros(len(points)) if times is None else times
    for share, use in laws(system):
        if use.law != Law.EXPRESSION:
            continue
        controls = [
            _column(points, share.row(plus)) - _column(points, share.row(minus))
            for plus, minus in use.controls
        ]
        found = next(_undefined(use.parameters, controls, at), None)
        if found:
            when = "" if times is None else f" at {engineering(float(at[found.at]), 's')}"
            raise CircuitError(
                f"{share.element.name} takes {found.words.format(engineering(found.argument))}{when}, which "
                f"has no value; keep the formula within its range, with max() or abs()",
                (share.element.name,),
            )


def _column(points: Array, row: int) -> Array:
    return np.zeros(len(points)) if row == GROUND_ROW else points[:, row]


def _undefined(
    program: tuple[float, ...], controls: list[Array], times: Array
) -> Iterator[_Undefined]:
    """Of each operation in turn the first point, if any, at which it has no value."""
    from lucidbench.core.devices.laws import expression as e
    from lucidbench.core.equations.programs import steps

    logarithms = {e.LN: "the logarithm (ln) of {}", e.LG: "the logarithm (log10) of {}"}
    for operation, a, b in steps(program, times, controls):
        assert a is not None
        if operation == e.DIVIDE and b is not None:
            yield from _first(np.abs(b) <= _LEAST, a, "{} divided by 0")
        elif operation == e.POWER and b is not None:
            yield from _first((a < -_ROUNDING) & (b != np.floor(b)), a, "a fractional power of {}")
            yield from _first((a == 0) & (b < 0), a, "a negative power of {}")
        elif operation == e.SQRT:
            yield from _first(a < -_ROUNDING, a, "the square root (sqrt) of {}")
        elif operation in logarithms:
            yield from _first(a <= _LEAST, a, logarithms[operation])


def _first(is_bad: npt.NDArray[np.bool_], argument: Array, words: str) -> Iterator[_Undefined]:
    if np.any(is_bad):
        k = int(np.argmax(is_bad))
        yield _Undefined(k, float(argument[k]), words)
