"""Whether two formulas say the same: by algebra, and where that cannot decide, by numbers at random values.
Numbers alone may prove that they differ.

A polynomial that is not zero is so at a random place but with a probability that is nothing (Schwartz, Fast
Probabilistic Algorithms for Verification of Polynomial Identities, Journal of the ACM 27, 1980).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Known, evaluate, names_in
from lucidbench.core.formula.letters import is_nothing, symbolic
from lucidbench.core.formula.tree import Formula, Node

_PLACES = 5
_SPREAD = 0.3  # of the logarithm of each value
_WITHIN = 1e-8  # relative
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


def _by_algebra(one: Node, other: Node, values: Mapping[str, Known]) -> bool | None:
    """Of fractions of polynomials a decision; of others that they are the same, or None."""
    import sympy

    used = names_in(one) | names_in(other)
    letters: dict[str, Any] = {
        name: sympy.Symbol(name, positive=True) for name in used if name in values
    }
    a, b = symbolic(one, letters), symbolic(other, letters)
    return is_nothing(a - b, MOST_OPERATIONS)
