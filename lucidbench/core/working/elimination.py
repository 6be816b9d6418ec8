"""Linear equations with numbers in them, solved as on paper: one unknown put into the others, then back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from lucidbench.core.formula import Known
from lucidbench.core.units.engineering import typed
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.step import WITHIN_NUMBERS, Derivation

MOST_SHOWN = 4  # unknowns: beyond it nobody eliminates by hand
_DIGITS = 7
_NONE = 1e-12  # relative to the largest coefficient
_LEAST = 1e-15  # [A], [V]: beside it there is nothing


def eliminate(
    pad: Derivation,
    names: Sequence[str],
    matrix: np.ndarray,
    right: np.ndarray,
    of_matrix: str,
    of_right: str,
    truths: Mapping[str, Known],
) -> None:
    """matrix [`of_matrix`] times the unknowns is right [`of_right`]: put down with numbers, and solved."""
    a, r = matrix.astype(complex).copy(), right.astype(complex).copy()
    size = len(names)
    nothing = _LEAST + _NONE * max(
        np.abs(r).max(), np.abs(a).max() * max(abs(complex(t.value)) for t in truths.values())
    )

    def cleaned() -> None:
        r[np.abs(r) <= nothing] = 0

    cleaned()
    if size == 1:
        body = f"{_bracketed(_number(r[0], of_right))}/{_factor(_number(a[0, 0], of_matrix))}"
        pad.write(
            "Solved for it:", names[0], body, complex(truths[names[0]].value), within=WITHIN_NUMBERS
        )
        return
    pad.say("With the values put in:")
    for row in range(size):
        left = _row(a[row], names, of_matrix)
        pad.equation("", left, _number(r[row], of_right), truths, within=WITHIN_NUMBERS)
    if size > MOST_SHOWN:
        solved = np.linalg.solve(a, r)
        pad.say(f"{size} equations with {size} unknowns: solved by a machine, as anyone would.")
        unit = truths[names[0]].dimension.unit
        for k, name in enumerate(names):
            pad.write(
                "",
                name,
                _number(solved[k], unit),
                complex(truths[name].value),
                within=WITHIN_NUMBERS,
            )
        return
    order: list[int] = []
    rows = list(range(size))
    used: list[int] = []
    for column in range(size - 1):
        free = [row for row in rows if row not in used]
        pivot = max(free, key=lambda row: abs(a[row, column]))
        if abs(a[pivot, column]) <= _NONE * np.abs(a).max():
            raise NoWorking("The equations have no one solution.")
        used.append(pivot)
        order.append(pivot)
        changed = []
        for row in free:
            if row == pivot or abs(a[row, column]) <= _NONE * np.abs(a).max():
                continue
            factor = a[row, column] / a[pivot, column]
            a[row] -= factor * a[pivot]
            r[row] -= factor * r[pivot]
            a[row, column] = 0
            cleaned()
            changed.append(row)
        for row in changed:
            left = _row(a[row], names, of_matrix)
            pad.equation(
                f"{names[column]} taken from the equation in which its factor is largest, and put in here:",
                left, _number(r[row], of_right), truths, within=WITHIN_NUMBERS,
            )  # fmt: skip
    order.append(next(row for row in rows if row not in used))
    for column in range(size - 1, -1, -1):
        row = order[column]
        others = [
            k for k in range(column + 1, size) if abs(a[row, k]) > _NONE * np.abs(a[row]).max()
        ]
        top = _number(r[row], of_right)
        for k in others:
            top += _term(-a[row, k], names[k], of_matrix, leading=False)
        body = f"{_bracketed(top)}/{_factor(_number(a[row, column], of_matrix))}"
        words = "Solved for the last of them:" if column == size - 1 else "Put back:"
        pad.write(
            words, names[column], body, complex(truths[names[column]].value), within=WITHIN_NUMBERS
        )


def _row(coefficients: np.ndarray, names: Sequence[str], unit: str) -> str:
    largest = np.abs(coefficients).max()
    text = ""
    for coefficient, name in zip(coefficients, names, strict=True):
        if abs(coefficient) > _NONE * largest:
            text += _term(coefficient, name, unit, leading=not text)
    return text or f"0 {unit}*{names[0]}"


def _term(coefficient: complex, name: str, unit: str, leading: bool) -> str:
    number = _number(coefficient, unit)
    if complex(coefficient).imag and complex(coefficient).real:
        return f"({number})*{name}" if leading else f" + ({number})*{name}"
    if number.startswith("-"):
        return f"-{number[1:]}*{name}" if leading else f" - {number[1:]}*{name}"
    return f"{number}*{name}" if leading else f" + {number}*{name}"


def _number(value: complex, unit: str) -> str:
    """As it is typed: 3.2 mS, or 1.2 mS + j3.4 mS."""
    value = complex(value)
    if abs(value.imag) <= _NONE * abs(value):
        return typed(value.real, unit, _DIGITS)
    imaginary = f"j{typed(abs(value.imag), unit, _DIGITS)}"
    if abs(value.real) <= _NONE * abs(value):
        return f"-{imaginary}" if value.imag < 0 else imaginary
    return f"{typed(value.real, unit, _DIGITS)} {'-' if value.imag < 0 else '+'} {imaginary}"


def _factor(text: str) -> str:
    return f"({text})"


def _bracketed(text: str) -> str:
    return f"({text})" if " + " in text or " - " in text else text
