"""Whether two formulas say the same: by algebra, and where that cannot decide, by numbers at random values.
Numbers alone may prove that they differ.

A polynomial that is not zero is so at a random place but with a probability that is nothing (Schwartz, Fast
Probabilistic Algorithms for Verification of Polynomial Identities, Journal of the ACM 27, 1980).
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Known, evaluate, names_in
from lucidbench.core.formula.sympy_bridge import is_nothing, symbolic
from lucidbench.core.formula.tree import Formula, Negation, Node, Operation

_PLACES = 5
_SPREAD = 0.3  # of the logarithm of each value
_WITHIN = 1e-8  # relative
_WITHIN_ROUNDED = 2e-3  # of equations that have numbers alone beside the unknowns
MOST_OPERATIONS = 400  # of both together: beyond it algebra may take longer than anyone waits


@dataclass(frozen=True)
class Verdict:
    """`by_algebra` is False where numbers decided."""

    is_same: bool
    by_algebra: bool


def same(one: Node, other: Node, values: Mapping[str, Known]) -> Verdict:
    """Of two formulas in names that have `values`. Raises FormulaError where one cannot be worked out."""
    if not _by_numbers(one, other, values):
        return Verdict(False, True)  # one place at which two formulas differ is proof enough
    try:
        proven = _by_algebra(one, other, values)
    except (FormulaError, ArithmeticError, ValueError, TypeError):
        proven = None
    return Verdict(proven is not False, proven is not None)


def _by_numbers(one: Node, other: Node, values: Mapping[str, Known]) -> bool:
    random = np.random.default_rng(7)
    used = sorted((names_in(one) | names_in(other)) & set(values))
    for place in range(_PLACES):
        if place % 2:  # all of one size, so that none is lost beside another
            numbers = [float(x) for x in np.exp(_SPREAD * random.normal(size=len(used)))]
        else:
            factors = (
                np.exp(_SPREAD * random.normal(size=len(used))) if place else np.ones(len(used))
            )
            numbers = [values[n].value * f for n, f in zip(used, factors, strict=True)]
        at = {
            **values,
            **{n: Known(x, values[n].dimension) for n, x in zip(used, numbers, strict=True)},
        }
        a, b = (evaluate(Formula(None, node, ""), at) for node in (one, other))
        if a.dimension != b.dimension:
            return False
        scale = max(abs(complex(a.value)), abs(complex(b.value)))
        if abs(complex(a.value) - complex(b.value)) > _WITHIN * scale:
            return False
    return True


def same_equation(
    one: tuple[Formula, Formula],
    other: tuple[Formula, Formula],
    values: Mapping[str, Known],
    unknowns: Collection[str],
) -> bool:
    """Whether two equations say the same of the `unknowns`: what the sides of one are apart is then some
    times what those of the other are, whatever the unknowns are. By numbers at random values. Raises
    FormulaError where one cannot be worked out."""
    random = np.random.default_rng(11)
    names = [names_in(left.body) | names_in(right.body) for left, right in (one, other)]
    used = sorted((names[0] | names[1]) & set(values))
    within = _WITHIN if names[1] - set(unknowns) else _WITHIN_ROUNDED
    for _ in range(_PLACES):
        at = {n: Known(values[n].value * _drawn(random), values[n].dimension) for n in used}
        gaps: list[tuple[complex, complex]] = []
        scale = 0.0
        for _ in range(_PLACES):
            moved = {n: Known(at[n].value + _drawn(random), at[n].dimension)
                     for n in used if n in unknowns}  # fmt: skip
            here = {**values, **at, **moved}
            gaps.append((_apart(one, here), _apart(other, here)))
            scale = max(scale, *(scale_of(side, here) for side in one))
        own, wanted = np.array(gaps).T
        times = np.vdot(wanted, own) / max(np.vdot(wanted, wanted).real, 1e-300)
        if not times or np.abs(own - times * wanted).max() > within * scale:
            return False
    return True


def holds(equation: tuple[Formula, Formula], values: Mapping[str, Known], within: float) -> bool:
    """Whether its sides are one, beside how large what is added up in them is."""
    scale = max(scale_of(side, values) for side in equation)
    return abs(_apart(equation, values)) <= within * scale


def _drawn(random: np.random.Generator) -> float:
    return float(np.exp(_SPREAD * random.normal()))


def _apart(equation: tuple[Formula, Formula], at: Mapping[str, Known]) -> complex:
    left, right = (evaluate(side, at) for side in equation)
    if left.dimension != right.dimension and left.value != 0 and right.value != 0:
        raise FormulaError(
            f"{left.dimension.quantity} cannot be equal to {right.dimension.quantity}", 0
        )
    return complex(left.value) - complex(right.value)


def scale_of(side: Formula, names: Mapping[str, Known]) -> float:
    """How large what is added up is, by which its difference is judged."""

    def of(node: Node) -> float:
        match node:
            case Operation(operator="+" | "-"):
                return max(of(node.left), of(node.right))
            case Operation(operator="/"):
                return of(node.left) / max(abs(value(node.right)), 1e-300)
            case Operation(operator="*"):
                return of(node.left) * of(node.right)
            case Negation():
                return of(node.operand)
            case _:
                return abs(value(node))

    def value(node: Node) -> complex:
        return complex(evaluate(replace(side, body=node), names).value)

    return of(side.body)


def _by_algebra(one: Node, other: Node, values: Mapping[str, Known]) -> bool | None:
    """Of fractions of polynomials a decision; of others that they are the same, or None."""
    import sympy

    used = names_in(one) | names_in(other)
    letters: dict[str, Any] = {
        name: sympy.Symbol(name, positive=True) for name in used if name in values
    }
    a, b = symbolic(one, letters), symbolic(other, letters)
    return is_nothing(a - b, MOST_OPERATIONS)
