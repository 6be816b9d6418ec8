"""Where a curve over time repeats: with what period, over which whole cycles; and how a damped one rings.

A period is told only where it was found to repeat: the last cycle laid over the one before it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import NamedTuple, cast

import numpy as np

from lucidbench.core.readings.curve import Array, Curve, NoReading

_ALIKE = 0.02  # of the swing, RMS: cycles that differ by less are one another's
_TIMES = 2  # the noise of a value, at most
_STEADY = 2e-3  # of the swing: what a cycle may lie above the one before
_MOST_BACK = 20  # cycles that are laid over the last
_WINDOWS = (64, 16, 4, 1)  # shares of the run, from its end, in which a period is looked for
_SAMPLES = 1024  # of such a window
_DIP = 0.05  # of the mean square of the difference from itself, beside which it repeats
_APART = 0.3  # what that has to come to first
_MOVES = 0.3  # of the swing of the run's later half, which is to be seen in a window
_PARTS = (2, 3, 4, 5, 6)  # of a period: a rectifier's ripple goes twice as fast as what drives it
_FEWEST = 200  # places at which two cycles are compared
_TINY = 1e-6  # of a period: beside a jump
_RING = 1e-3  # of the largest swing: crests that stand out less are the solver's
_OUT_OF_NOISE = 8  # times: and so is what that makes
_REGULAR = 5e-3  # of their distance: crests of one ring are so far apart
_EVEN = 0.2  # of their ratio: and each swing is so much smaller than the last


@dataclass(frozen=True)
class Cycles:
    """`count` whole cycles of one `period` up to the curve's end. Where it is not `is_steady` they drift,
    grow or fade; of a ring `level` is the one that it settles at."""

    period: float
    count: int
    begin: float
    end: float
    is_steady: bool
    level: float | None = None

    @property
    def words(self) -> str:
        if self.level is not None:
            return "from crest to crest of the ring"
        return "over the last period" if self.count == 1 else f"over the last {self.count} periods"


def cycles(curve: Curve) -> Cycles:
    """Raises NoReading where no repetition is found."""
    if "cycles" not in curve.found:
        curve.found["cycles"] = _repeating(curve) or _ringing(curve)
    found = cast("Cycles | None", curve.found["cycles"])
    if found is None:
        raise NoReading(f"{curve.name} is not seen to repeat; show two periods or more of it.")
    return found


def cycles_as_of(curve: Curve, other: Cycles) -> Cycles:
    """Of a curve that differs by its noise alone from another, whose cycles are known."""
    period = _refined(curve, other.period)
    begin, end = float(curve.grid[0]), float(curve.grid[-1])
    return replace(other, period=period, begin=max(begin, end - other.count * period), end=end)


def steady_part(curve: Curve) -> Curve:
    """The whole cycles in which it is steady; all of it where it does not repeat."""
    if "steady" not in curve.found:
        try:
            found = cycles(curve)
        except NoReading:
            found = None
        is_part = found is not None and found.is_steady
        curve.found["steady"] = curve.part(found.begin, found.end) if found and is_part else curve
    return cast(Curve, curve.found["steady"])


def steady_words(curve: Curve) -> str:
    """Over which part of a curve a mean is taken."""
    return "over all that is shown" if steady_part(curve) is curve else cycles(curve).words


class _Mismatch(NamedTuple):
    """Of the last cycle and another: how far it lies above on the mean, and how it differs else [RMS], beside
    what it may by its noise; as shares of what it swings about its drift."""

    drift: float
    rest: float
    allowed: float = 0.0

    @property
    def is_alike(self) -> bool:
        return self.rest <= self.allowed

    @property
    def is_steady(self) -> bool:
        return self.is_alike and abs(self.drift) <= _STEADY


def _repeating(curve: Curve) -> Cycles | None:
    for period in _candidates(curve):
        if _mismatch(curve, period).is_alike:
            parts = (n for n in _PARTS if _mismatch(curve, period, 1 / n).is_alike)
            return _counted(curve, period / max(parts, default=1))
    return None


def _counted(curve: Curve, period: float) -> Cycles:
    begin, end = float(curve.grid[0]), float(curve.grid[-1])
    most = int(min((end - begin) / period * (1 + 1e-9), _MOST_BACK))
    count = 1
    while count < most and _mismatch(curve, period, count).is_steady:
        count += 1
    is_steady = count > 1 or curve.repeats is not None
    return Cycles(period, count, max(begin, end - count * period), end, is_steady)


def _candidates(curve: Curve) -> Iterator[float]:
    """Periods [s] that it may have: of what drives it, or its own."""
    begin, end = float(curve.grid[0]), float(curve.grid[-1])
    if curve.repeats is not None and curve.repeats <= (end - begin) * (1 + 1e-9):
        yield curve.repeats
        return
    # What is driven may take two or more periods of what drives it.
    driven = [m * period for m in (1, 2, 3, 4) for period in curve.driven]
    yield from (period for period in driven if 2 * period <= (end - begin) * (1 + 1e-9))
    for share in _WINDOWS:
        for period in _looked_for(curve, end - (end - begin) / share, end):
            if 2 * period <= end - begin:
                found = _refined(curve, period)
                seen = np.ptp(curve.part(end - found, end).values)
                if seen > _MOVES * np.ptp(curve.values[len(curve.grid) // 2 :]):
                    yield found


def _looked_for(curve: Curve, begin: float, end: float) -> Iterator[float]:
    """The first few lags at which a stretch differs least from itself: the difference function of
    A. de Cheveigné and H. Kawahara, J. Acoust. Soc. Am. 111 (2002) 1917."""
    later = curve.values[len(curve.grid) // 2 :]
    x = np.linspace(begin, end, _SAMPLES)
    values = np.asarray(curve.at(x), float)
    if np.ptp(values) <= _MOVES * np.ptp(later):
        return
    samples = np.arange(len(x))
    for degree in (1, 0):  # a drift is taken off, unless it is only how the last period is cut
        level = values - np.polyval(np.polyfit(samples, values, degree), samples)
        for lag in _dips(level):
            yield float(lag * (x[1] - x[0]))


def _dips(values: Array) -> list[int]:
    """The first few lags, in samples, at which values differ least from themselves."""
    half = len(values) // 2
    lags = np.arange(1, half)
    spectrum = np.fft.rfft(values, 2 * len(values))
    products = np.fft.irfft(spectrum * np.conj(spectrum))[1:half]
    squares = np.concatenate([[0.0], np.cumsum(values**2)])
    both = squares[len(values) - lags] + (squares[-1] - squares[lags])
    difference = (both - 2 * products) / np.maximum(both, 1e-300)
    beyond = np.flatnonzero(difference > _APART)
    if not len(beyond):
        return []
    inner = difference[1:-1]
    dips = 1 + np.flatnonzero(
        (inner <= difference[:-2]) & (inner < difference[2:]) & (inner < _DIP)
    )
    return [int(lags[dip]) for dip in dips[dips > beyond[0]][:3]]


def _refined(curve: Curve, period: float) -> float:
    """A period that is known roughly, by where it passes its middle, then by laying cycle over cycle."""
    begin, end = float(curve.grid[0]), float(curve.grid[-1])
    last = curve.part(max(begin, end - 2.5 * period), end)
    sampled = np.asarray(last.values, float)
    middle = float(sampled.max() + sampled.min()) / 2
    rises = np.array([x for x, way in last.roots(lambda v: v - middle) if way > 0])
    apart = np.subtract.outer(rises, rises).ravel()
    near = apart[np.abs(apart - period) < period / 8]
    found = float(near[np.argmin(np.abs(near - period))]) if len(near) else period
    for _ in range(5):
        x, weights = _places(curve, found, 1)
        wide = weights > 4 * _TINY * found
        x, weights = x[wide], weights[wide] / found
        before = x - found
        here, there = np.asarray(curve.at(x), float), np.asarray(curve.at(before), float)
        side = _TINY * found
        slope = (curve.at(before + side) - curve.at(np.maximum(before - side, begin))) / (2 * side)
        apart, slope = here - there, slope - weights @ slope
        energy = float(weights @ slope**2)
        if energy * found**2 < np.ptp(here) ** 2:  # upright edges, which tell their own places
            break
        step = -float(weights @ ((apart - weights @ apart) * slope)) / energy
        if abs(step) > found / 8 or 2 * (found + step) > end - begin:
            break
        found += step
        if abs(step) < 1e-12 * found:
            break
    return found


def _mismatch(curve: Curve, period: float, back: float = 1) -> _Mismatch:
    """Of the last cycle and what is so many periods, or such a part of one, before it."""
    if curve.grid[-1] - (back + 1) * period < curve.grid[0] - 1e-9 * period:
        if period == curve.repeats and back == 1:
            return _Mismatch(0.0, 0.0)
        return _Mismatch(np.inf, np.inf)
    x, weights = _places(curve, period, back)
    earlier = np.maximum(x - back * period, curve.grid[0])
    values, before = np.asarray(curve.at(x), float), np.asarray(curve.at(earlier), float)
    drift = float(weights @ (values - before)) / period
    apart = np.abs(values - before - drift)
    if curve.unseen is not None:  # an edge is somewhere between two points, here and there
        jumps = np.maximum(curve.unseen(x), curve.unseen(earlier))
        apart = np.maximum(apart - 2 * jumps, 0)
    rest = float(np.sqrt(weights @ apart**2 / period))
    # A short piece of anything is as straight as the one before it: what it swings counts without that.
    swing = float(min(np.ptp(values), np.ptp(values - drift / (back * period) * x)))
    if not swing > 1e-9 * float(np.max(np.abs(values))):
        return _Mismatch(np.inf, np.inf)
    noise = 2**0.5 * _TIMES * curve.noise / swing
    return _Mismatch(drift / swing, rest / swing, float(np.hypot(_ALIKE, noise)))


def _places(curve: Curve, period: float, back: float) -> tuple[Array, Array]:
    """(abscissas in the last cycle, the width of each): between the solver's points in it and in the one
    before, so that a jump falls on none."""
    end = float(curve.grid[-1])
    begin = end - period
    shift = back * period
    grid = curve.grid
    own = grid[(grid > begin) & (grid < end)]
    before = grid[(grid > begin - shift) & (grid < end - shift)] + shift
    even = np.linspace(begin, end, _FEWEST)
    nodes = np.unique(np.concatenate([even, own, before[(before > begin) & (before < end)]]))
    return (nodes[1:] + nodes[:-1]) / 2, np.diff(nodes)


def _ringing(curve: Curve) -> Cycles | None:
    """Crests and troughs evenly apart, each swing the same share of the one before it. What a ring swings
    about, and any drift that it is on, leave the distance of its crests alone."""
    pieces = curve.turning(np.asarray)
    roughly = np.array([curve.values[piece.before + 1] for piece in pieces])
    at: list[float] = []
    values: list[float] = []
    # From the end on, so that what does not ring, as noise, is left at its first few crests.
    for piece in reversed(pieces[: _standing_out(roughly, curve.noise)]):
        x = curve.turn(np.asarray, piece)
        value = float(curve.at(np.array([x]))[0])
        if not _is_regular([x, *at], [value, *values]):
            break
        at, values = [x, *at], [value, *values]
    if len(at) < 3:
        return None
    a, b, c = values[-3:]
    bend = a + c - 2 * b
    period = 2 * (at[-1] - at[0]) / (len(at) - 1)
    level = (a * c - b * b) / bend if bend else b
    return Cycles(period, (len(at) - 1) // 2, at[0], at[-1], False, level)


def _standing_out(values: Array, noise: float) -> int:
    """How many there are without those at the end that are too small to be told from the solver's error, or
    from noise."""
    swings = np.abs(np.diff(values))
    large = np.flatnonzero(swings > max(_RING * swings.max(initial=0.0), _OUT_OF_NOISE * noise))
    return int(large[-1]) + 2 if len(large) else 0


def _is_regular(at: list[float], values: list[float]) -> bool:
    """Whether crests and troughs come in one measure."""
    if len(at) < 3:
        return True
    distances, ratios = np.diff(at), np.diff(np.log(np.abs(np.diff(values))))
    even = np.ptp(distances) <= _REGULAR * distances.mean()
    return bool(even and np.ptp(ratios) <= _EVEN * max(1.0, np.abs(ratios).max()))
