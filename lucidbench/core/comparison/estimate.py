"""A figure and what it may be off by, source by source, so that what two figures share is known of both.

JCGM 100:2008, 5.1.2 and 5.2: contributions of different sources add in quadrature, those of one source as
they are. Where a formula bends too much over them, JCGM 101:2008 by draws takes the place of that.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Formula, Known, evaluate, names_in
from lucidbench.core.tolerance import expanded, expanded_of_draws, places
from lucidbench.core.units.dimensions import NUMBER, Dimension
from lucidbench.core.units.uncertain import COVERAGE, EXPANDED

_BENT = 0.1  # of the change by a source: what a straight line may miss of it
_DRAWS = 2000
_MOST_LOST = 0.1  # share of the draws that may have no value


@dataclass(frozen=True)
class Estimate:
    """What may move a figure, by source, each with the sign in which the source moves it: `budget` are
    expanded contributions (k = 2) of readings, `limits` what the ends of tolerances do. `drawn` is the
    expanded uncertainty by draws, where it was found so. Of a phasor `value` is the magnitude, and `angle`
    [rad] how far it is turned; None of all else."""

    value: float
    dimension: Dimension = NUMBER
    budget: Mapping[str, float] = field(default_factory=dict)
    limits: Mapping[str, float] = field(default_factory=dict)
    drawn: float | None = None
    angle: float | None = None

    @property
    def number(self) -> complex:
        """With its angle."""
        return complex(self.value) if self.angle is None else cmath.rect(self.value, self.angle)

    @property
    def unit(self) -> str:
        return self.dimension.unit

    @property
    def uncertainty(self) -> float:
        """Expanded (k = 2); zero where nothing is known of it."""
        if self.drawn is not None:
            return self.drawn
        return math.hypot(float(expanded([*self.limits.values()])), *self.budget.values())

    @property
    def shares(self) -> list[tuple[str, float, float]]:
        """(source, what it comes to, its share of the variance), the largest share first."""
        sizes = [(source, size, size**2) for source, size in self.budget.items()]
        sizes += [(source, size, (EXPANDED * size) ** 2) for source, size in self.limits.items()]
        whole = sum(square for *_, square in sizes)
        told = [
            (source, abs(size), square / whole if whole else 0.0) for source, size, square in sizes
        ]
        return sorted(told, key=lambda each: -each[2])

    @property
    def turned(self) -> Estimate:
        """With the other sign."""
        if self.angle is not None:
            return of_phasor(-self.number, self.dimension)
        budget = {source: -size for source, size in self.budget.items()}
        limits = {source: -size for source, size in self.limits.items()}
        return replace(self, value=-self.value, budget=budget, limits=limits)

    def less(self, other: Estimate) -> Estimate:
        """Their difference, in which what both owe to one source counts once."""
        drawn = None
        if self.drawn is not None or other.drawn is not None:
            drawn = math.hypot(self.uncertainty, other.uncertainty)
        return Estimate(
            self.value - other.value,
            self.dimension,
            _less(self.budget, other.budget),
            _less(self.limits, other.limits),
            drawn,
        )


def of_phasor(value: complex, dimension: Dimension) -> Estimate:
    return Estimate(abs(value), dimension, angle=cmath.phase(value))


def _less(some: Mapping[str, float], others: Mapping[str, float]) -> dict[str, float]:
    return {s: some.get(s, 0.0) - others.get(s, 0.0) for s in (*some, *others)}


def combined(formula: Formula, names: Mapping[str, Estimate]) -> Estimate:
    """A formula of figures. Raises FormulaError where it cannot be worked out, or is complex."""
    used = {name: names[name] for name in sorted(names_in(formula.body)) if name in names}

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
    is_bent = False

    def moved_by(effects: Mapping[str, Mapping[str, float]]) -> dict[str, float]:
        nonlocal is_bent
        found = {}
        for source in dict.fromkeys(source for own in effects.values() for source in own):
            move = {name: own.get(source, 0.0) for name, own in effects.items()}
            above, below = (at({n: sign * by for n, by in move.items()})[0] for sign in (1, -1))
            found[source] = (above - below) / 2
            is_bent = is_bent or abs(above + below - 2 * value) > _BENT * abs(above - below)
        return found

    budget = moved_by({name: of.budget for name, of in used.items()})
    limits = moved_by({name: of.limits for name, of in used.items()})
    drawn = _by_draws(lambda moved: at(moved)[0], used, value) if is_bent else None
    return Estimate(value, dimension, budget, limits, drawn)


def _by_draws(
    at: Callable[[Mapping[str, float]], float], used: Mapping[str, Estimate], value: float
) -> float:
    """Every reading drawn by a bell curve and every toleranced value between its ends; infinite where too
    many draws have no value."""
    random = np.random.default_rng(1)
    moves = {name: np.zeros(_DRAWS) for name in used}
    for source in dict.fromkeys(source for of in used.values() for source in of.budget):
        shares = random.standard_normal(_DRAWS) / COVERAGE
        for name, of in used.items():
            moves[name] += of.budget.get(source, 0.0) * shares
    for source in dict.fromkeys(source for of in used.values() for source in of.limits):
        shares = places(random, _DRAWS)
        for name, of in used.items():
            moves[name] += of.limits.get(source, 0.0) * shares
    found = []
    for k in range(_DRAWS):
        try:
            found.append(at({name: float(move[k]) for name, move in moves.items()}))
        except FormulaError:
            continue
    if len(found) < (1 - _MOST_LOST) * _DRAWS:
        return math.inf
    return expanded_of_draws(found, value)
