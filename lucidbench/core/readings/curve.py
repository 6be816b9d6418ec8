"""Values over an axis as something to read from: known between its points, not only at them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from lucidbench.core.errors import LucidError

Array = npt.NDArray[np.float64]
Evaluate = Callable[[Array], Any]
_GAUSS_X, _GAUSS_W = np.polynomial.legendre.leggauss(6)
_CLOSER = 4  # times the neighbourhood of a peak is looked at, each time sixteen times closer
_SHARES = np.linspace(0.0, 1.0, 33)
_MOST_TRIES = 60  # for a root; some ten are usual
_ROOT = 1e-13  # of an abscissa: a root is known
_LEAST = 1e-300


class NoReading(LucidError):
    """The curve does not do what was asked for."""


class Turning(NamedTuple):
    """From which of the grid's pieces to which a curve turns; `way` is 1 at a crest, -1 at a trough."""

    before: int
    after: int
    way: int


@dataclass(frozen=True)
class Curve:
    """Values over an axis. `at` gives them anywhere, by the solver's own order or by solving again;
    `grid`, rising, has a point in every piece, so that nothing happens unseen between two of them.
    `driven` are the periods of what drives it, rising, and `repeats` is the one it is known to have.
    """

    name: str
    unit: str
    axis_unit: str
    grid: Array
    at: Evaluate
    driven: tuple[float, ...] = ()
    repeats: float | None = None
    noise: float = 0.0  # standard, of each value by itself, where they were measured
    unseen: Evaluate | None = None  # half of what it jumps between points that were measured

    @cached_property
    def found(self) -> dict[str, Any]:
        """What several readings rest on, once it was looked for."""
        return {}

    @cached_property
    def values(self) -> Any:
        """On the grid."""
        return self.at(self.grid)

    @cached_property
    def highest(self) -> tuple[float, float]:
        """(abscissa, value) of the maximum of a real curve."""
        return self.peak(np.asarray)

    @cached_property
    def lowest(self) -> tuple[float, float]:
        x, value = self.peak(np.negative)
        return x, -value

    @cached_property
    def greatest(self) -> tuple[float, float]:
        """(abscissa, magnitude) where the magnitude is largest."""
        return self.peak(np.abs)

    @cached_property
    def samples(self) -> tuple[Any, Array]:
        """(values, weights) whose products add up to the integral, exact on every piece's polynomial."""
        lengths = np.diff(self.grid)
        times = self.grid[:-1, None] + lengths[:, None] * (_GAUSS_X + 1) / 2
        return np.asarray(self.at(times.ravel())), (_GAUSS_W * lengths[:, None] / 2).ravel()

    def peak(self, of: Callable[[Any], Any]) -> tuple[float, float]:
        """(abscissa, value) where a real function of the values is largest, within the grid's piece.

        The neighbourhood of the largest point is looked at closer and closer, many points at once.
        """
        sizes = np.asarray(of(self.values), float)
        k = int(np.argmax(sizes))
        low, high = float(self.grid[max(k - 1, 0)]), float(self.grid[min(k + 1, len(sizes) - 1)])
        best, place = float(sizes[k]), float(self.grid[k])
        for _ in range(_CLOSER):
            x = low + (high - low) * _SHARES
            found = np.asarray(of(self.at(x)), float)
            m = int(np.argmax(found))
            if found[m] > best:
                best, place = float(found[m]), float(x[m])
            low, high = float(x[max(m - 1, 0)]), float(x[min(m + 1, len(x) - 1)])
        if 0 < m < len(x) - 1:  # the top of the parabola through the last three
            before, top, after = found[m - 1 : m + 2]
            bend = before - 2 * top + after
            if bend < 0:
                apex = float(x[m] + 0.5 * (before - after) / bend * (x[1] - x[0]))
                there = float(np.asarray(of(self.at(np.array([apex]))))[0])
                if there >= best:  # and not where the curve jumps between the three
                    best, place = there, apex
        return place, best

    def part(self, start: float, stop: float) -> Curve:
        """The same between two abscissas. Raises NoReading where there is nothing between them."""
        if not self.grid[0] <= start < stop <= self.grid[-1]:
            raise NoReading(
                f"{self.name} is known from {self.grid[0]:g} to {self.grid[-1]:g} {self.axis_unit}."
            )
        inside = self.grid[(self.grid > start) & (self.grid < stop)]
        return replace(self, grid=np.concatenate([[start], inside, [stop]]))

    def roots(self, of: Callable[[Any], Any]) -> Iterator[tuple[float, int]]:
        """(abscissa, direction) where a real function of the values passes through zero."""
        values = np.asarray(of(self.values), float)
        found = np.flatnonzero(np.diff(np.signbit(values)))
        if not len(found):
            return
        places = _roots_between(
            lambda x: np.asarray(of(self.at(x)), float),
            self.grid[found], self.grid[found + 1], values[found], values[found + 1],
        )  # fmt: skip
        for k, x in zip(found, places, strict=True):
            yield float(x), (1 if values[k + 1] > values[k] else -1)

    def turns(self, of: Callable[[Any], Any]) -> Iterator[tuple[float, int]]:
        """(abscissa, 1 at a crest or -1 at a trough) of a real function of the values, in turn; of what is
        level there, its beginning."""
        for piece in self.turning(of):
            yield self.turn(of, piece), piece.way

    def turning(self, of: Callable[[Any], Any]) -> list[Turning]:
        """The pieces of the grid in which a real function of the values turns."""
        rising = np.diff(np.asarray(of(self.values), float))
        return [
            Turning(before, after, 1 if rising[before] > 0 else -1)
            for before, after in pairwise(np.flatnonzero(rising).tolist())
            if rising[before] * rising[after] < 0
        ]

    def turn(self, of: Callable[[Any], Any], piece: Turning) -> float:
        """The abscissa at which it turns within a piece."""
        before, after, way = piece
        if after - before > 1:
            return float(self.grid[before + 1])
        near = self.part(float(self.grid[before]), float(self.grid[after + 1]))
        return near.peak(lambda v: way * np.asarray(of(v), float))[0]


def _roots_between(
    of: Callable[[Array], Array], low: Array, high: Array, at_low: Array, at_high: Array
) -> Array:
    """Where a function is zero between each pair of abscissas, at which it has opposite signs.

    All of them at once, by false position with the weight of an end that stays halved (the Illinois
    method: Dowell and Jarratt, BIT 11, 1971): asking a curve for many points costs little more than
    for one.
    """
    low, high, at_low, at_high = (np.array(v, float) for v in (low, high, at_low, at_high))
    x = high.copy()
    with np.errstate(all="ignore"):  # set once: that takes as long as a step
        for _ in range(_MOST_TRIES):
            share = at_high - at_low
            x = np.where(share == 0, 0.5 * (low + high), high - at_high * (high - low) / share)
            value = of(x)
            turned = np.signbit(value) != np.signbit(at_high)
            # Where the sign turned the old end takes the other's place, else the other counts for half.
            low, at_low = np.where(turned, high, low), np.where(turned, at_high, 0.5 * at_low)
            high, at_high = x, value
            width = np.abs(high - low)
            if np.all((value == 0) | (width <= _ROOT * np.abs(x)) | (np.abs(at_high) <= _LEAST)):
                break
    return x
