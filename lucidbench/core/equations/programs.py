"""Programs of formulas, gone through for many points at once: what each operation is given.

Loads the compiler of the laws, so whoever may not need it imports this where it is needed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np

from lucidbench.core.devices.laws import expression as e
from lucidbench.core.equations.system import Array

_LEAST = 1e-300
_ONE: dict[int, Callable[[Array], Array]] = {
    e.SQRT: lambda a: np.sqrt(np.maximum(a, 0)), e.EXP: lambda a: np.exp(np.minimum(a, 700)),
    e.LN: lambda a: np.log(np.maximum(a, _LEAST)), e.LG: lambda a: np.log10(np.maximum(a, _LEAST)),
    e.SIN: np.sin, e.COS: np.cos, e.TAN: np.tan, e.ATAN: np.arctan, e.TANH: np.tanh,
    e.NEGATE: np.negative, e.ABS: np.abs,
}  # fmt: skip
_TWO: dict[int, Callable[[Array, Array], Array]] = {
    e.ADD: np.add, e.SUBTRACT: np.subtract, e.MULTIPLY: np.multiply, e.DIVIDE: np.divide,
    e.POWER: np.power, e.MINIMUM: np.minimum, e.MAXIMUM: np.maximum,
}  # fmt: skip


class Step(NamedTuple):
    """An operation and what it is given at each point: None where that is not known."""

    operation: int
    first: Array | None
    second: Array | None = None


def speaks_of_time(program: tuple[float, ...]) -> bool:
    return any(operation == e.TIME for operation, _ in _operations(program))


def steps(
    program: tuple[float, ...], times: Array, controls: Sequence[Array] | None = None
) -> Iterator[Step]:
    """Each operation in turn, kept finite; without `controls` what depends on them is not known."""
    stack: list[Array | None] = []
    with np.errstate(all="ignore"):
        for operation, number in _operations(program):
            if operation == e.CONSTANT:
                stack.append(np.full(len(times), number))
            elif operation == e.CONTROL:
                stack.append(None if controls is None else controls[int(number)])
            elif operation == e.TIME:
                stack.append(times)
            elif operation in _TWO:
                second, first = stack.pop(), stack.pop()
                yield Step(operation, first, second)
                known = first is not None and second is not None
                stack.append(_TWO[operation](first, second) if known else None)  # type: ignore[arg-type]
            else:
                first = stack.pop()
                yield Step(operation, first)
                stack.append(None if first is None else _ONE[operation](first))


def _operations(program: tuple[float, ...]) -> Iterator[tuple[int, float]]:
    """(operation, its number where it has one)."""
    k = 0
    while k < len(program):
        operation = int(program[k])
        takes = operation in (e.CONSTANT, e.CONTROL)
        yield operation, program[k + 1] if takes else 0.0
        k += 2 if takes else 1
