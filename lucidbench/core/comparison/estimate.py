"""A figure and what it may be off by, source by source, so that what two figures share is known of both.

JCGM 100:2008, 5.1.2 and 5.2: contributions of different sources add in quadrature, those of one source as
they are. Where a formula bends too much over them, JCGM 101:2008 by draws takes the place of that.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Formula, Known, evaluate, names_in
from lucidbench.core.units.dimensions import NUMBER, Dimension
from lucidbench.core.units.uncertain import COVERAGE

_BENT = 0.1  # of the change by a source: what a straight line may miss of it
_DRAWS = 2000
_MOST_LOST = 0.1  # share of the draws that may have no value


@dataclass(frozen=True)
class Estimate:
    """`budget` are expanded contributions (k = 2) by source, each with the sign in which the source moves
    the value. `drawn` is the expanded uncertainty by draws, where it was found so."""

    value: float
    dimension: Dimension = NUMBER
    budget: Mapping[str, float] = field(default_factory=dict)
    drawn: float | None = None

    @property
    def unit(self) -> str:
        return self.dimension.unit

    @property
    def uncertainty(self) -> float:
        """Expanded (k = 2); zero where nothing is known of it."""
        return math.hypot(*self.budget.values()) if self.drawn is None else self.drawn


def combined(formula: Formula, names: Mapping[str, Estimate]) -> Estimate:
    """A formula of figures. Raises FormulaError where it cannot be worked out, or is complex."""
    used = [name for name in sorted(names_in(formula.body)) if name in names]

    def at(moved: Mapping[str, float]) -> tuple[float, Dimension]:
        known = {
            name: Known(of.value + moved.get(name, 0.0), of.dimension) for name, of in names.items()
        }
        result = evaluate(formula, known)
        value = complex(result.value)
        if value.imag:
            raise FormulaError("this is complex; take abs, arg, Re or Im of it", formula.body.at)
        return value.real, result.dimension

    value, dimension = at({})
    sources = dict.fromkeys(source for name in used for source in names[name].budget)
    budget: dict[str, float] = {}
    is_bent = False
    for source in sources:
        move = {name: names[name].budget.get(source, 0.0) for name in used}
        above, below = (at({n: sign * by for n, by in move.items()})[0] for sign in (1, -1))
        budget[source] = (above - below) / 2
        is_bent = is_bent or abs(above + below - 2 * value) > _BENT * abs(above - below)
    drawn = None
    if is_bent:
        drawn = _by_draws(lambda moved: at(moved)[0], names, used, list(sources))
    return Estimate(value, dimension, budget, drawn)


def _by_draws(
    at: Callable[[Mapping[str, float]], float],
    names: Mapping[str, Estimate],
    used: Sequence[str],
    sources: Sequence[str],
) -> float:
    """Twice the standard deviation over draws of every source by a bell curve; infinite where too many of
    them have no value."""
    random = np.random.default_rng(1)
    effects = np.array([[names[n].budget.get(s, 0.0) for s in sources] for n in used]) / COVERAGE
    found = []
    for shares in random.standard_normal((_DRAWS, len(sources))):
        try:
            found.append(at(dict(zip(used, effects @ shares, strict=True))))
        except FormulaError:
            continue
    if len(found) < (1 - _MOST_LOST) * _DRAWS:
        return math.inf
    return COVERAGE * float(np.std(found, ddof=1))
