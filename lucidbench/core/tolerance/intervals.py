"""What values may be: a stated tolerance is an interval with hard ends, evenly likely within.

JCGM 100:2008, 4.3.7: the standard uncertainty of such a value is the half-width over √3. What several do to
a figure together is stated as its expanded uncertainty (k = 2; 6.2.1), and never as more than the interval
in which the figures of all builds lie: one part of 5 % moves a figure by 5 %, not by 2/√3 of it.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.units.uncertain import COVERAGE, EXPANDED

Array = npt.NDArray[np.float64]
UNIFORM, NORMAL = "uniform", "normal"
_SIGMAS = 3.0  # a normal draw's deviations within the half-width; what lies beyond is drawn anew


@dataclass(frozen=True, slots=True)
class Interval:
    """A value of an element, known within `half_width`, a share of it, either way."""

    element: Element
    key: str
    half_width: float

    @property
    def source(self) -> str:
        """What it is called as a source of uncertainty: R1, or Q1.beta."""
        name = self.element.name
        return name if self.key == self.element.main_key else f"{name}.{self.key}"

    def value(self, place: float | Array = 0.0) -> float | Array:
        """At a `place` between -1, its lower end, and 1."""
        nominal: float = self.element.values[self.key]
        return nominal * (1 + self.half_width * place)

    def put(self, circuit: Circuit, place: float) -> Circuit:
        """The circuit with it at a place between its ends."""
        return circuit.with_value(self.element.name, self.key, self.value(place))


def intervals_of(circuit: Circuit) -> list[Interval]:
    """Every value that a tolerance is stated for."""
    return [Interval(e, key, a) for e in circuit for key, a in e.spreads.items() if a > 0]


def limits_of_part(element: Element | None, value: float) -> Mapping[str, float]:
    """By source, how far the main `value` of a part may lie off; empty where that is not known."""
    width = element.spreads.get(element.main_key, 0.0) if element and element.main_key else 0.0
    return {element.name: width * abs(value)} if element and width else {}


def expanded(limits: npt.ArrayLike) -> Array:
    """Of independent contributions along the first axis, each what a value's end does: the half-width to
    state of their sum."""
    sizes = np.abs(np.asarray(limits, dtype=float))
    return np.asarray(np.minimum(EXPANDED * np.sqrt((sizes**2).sum(axis=0)), sizes.sum(axis=0)))


def expanded_of_draws(draws: npt.ArrayLike, value: float) -> float:
    """The same of a figure whose `draws` lie around `value` (JCGM 101:2008)."""
    away = np.abs(np.asarray(draws) - value)
    return float(min(COVERAGE * np.sqrt(np.mean(away**2)), np.max(away)))


def places(generator: np.random.Generator, draws: int, distribution: str = UNIFORM) -> Array:
    """Places between the ends, -1 and 1, shape (draws,)."""
    if distribution != NORMAL:
        return generator.uniform(-1.0, 1.0, draws)
    found = generator.normal(0.0, 1 / _SIGMAS, draws)
    while np.any(outside := np.abs(found) > 1.0):
        found[outside] = generator.normal(0.0, 1 / _SIGMAS, int(outside.sum()))
    return found


def place(generator: random.Random, distribution: str = UNIFORM) -> float:
    """One of them, by a generator that keeps its numbers from version to version."""
    while True:
        if distribution != NORMAL:
            return generator.uniform(-1.0, 1.0)
        drawn = generator.gauss(0.0, 1 / _SIGMAS)
        if abs(drawn) <= 1:
            return drawn
