"""What people read off a curve over time. Every reading is exact on the solver's own polynomials.

Each is a number that keeps its unit. Raises NoReading where the curve does not do what is asked.
"""

from __future__ import annotations

import contextlib

import numpy as np

from lucidbench.core.readings.curve import Array, Curve, NoReading
from lucidbench.core.readings.cycles import cycles, steady_part
from lucidbench.core.readings.reading import DEGREE, Reading, product

RISE = (0.1, 0.9)  # the levels between which a rise is timed (IEEE Std 181)
FLAT = 1e-9  # of the largest value: a change below this is rounding
SETTLED_WITHIN = 0.02  # of the whole change, where nothing else is said
_STATES = 2000  # values of the repeating part among which its levels are looked for
_WITHIN = 0.02  # of the swing: values that are one level
_STAYS = (
    0.2  # of the time, at least, that it is at a level; a sine is at its crest for half of that
)


def value(curve: Curve, abscissa: float) -> Reading:
    """At an abscissa."""
    if not curve.grid[0] <= abscissa <= curve.grid[-1]:
        raise NoReading(
            f"{curve.name} is known from {curve.grid[0]:g} to {curve.grid[-1]:g} {curve.axis_unit}."
        )
    return Reading(curve.at(np.array([abscissa]))[0], curve.unit)


def crossings(curve: Curve, level: float, direction: int = 0) -> Array:
    """The abscissas where it passes `level`: upwards (1), downwards (-1) or both (0)."""
    return np.array(
        [x for x, way in curve.roots(lambda v: v - level) if direction in (0, way)], float
    )


def extreme(curve: Curve, sign: int) -> tuple[Reading, Reading]:
    """(abscissa, value) of the maximum (1) or minimum (-1)."""
    x, value = curve.highest if sign > 0 else curve.lowest
    return Reading(x, curve.axis_unit), Reading(value, curve.unit)


def maximum(curve: Curve) -> Reading:
    return extreme(curve, 1)[1]


def minimum(curve: Curve) -> Reading:
    return extreme(curve, -1)[1]


def peak_to_peak(curve: Curve) -> Reading:
    return Reading(maximum(curve) - minimum(curve), curve.unit)


def midpoint(curve: Curve) -> Reading:
    """Halfway between maximum and minimum."""
    return Reading((maximum(curve) + minimum(curve)) / 2, curve.unit)


def integral(curve: Curve) -> Reading:
    """Of the curve over its whole span, in its unit times its axis's: V·s, or C for a current."""
    return Reading(_integral(curve, 1), product(curve.unit, curve.axis_unit))


def _integral(curve: Curve, power: int) -> float:
    values, weights = curve.samples
    return float(weights @ values**power)


def mean(curve: Curve) -> Reading:
    """Over whole periods, where it repeats."""
    part = steady_part(curve)
    return Reading(_integral(part, 1) / _span(part), curve.unit)


def rms(curve: Curve) -> Reading:
    """Over whole periods, where it repeats."""
    part = steady_part(curve)
    return Reading(np.sqrt(_integral(part, 2) / _span(part)), curve.unit)


def ac_rms(curve: Curve) -> Reading:
    """Of what swings about the mean, as a meter's AC function shows it."""
    return Reading(np.sqrt(max(rms(curve) ** 2 - mean(curve) ** 2, 0.0)), curve.unit)


def ripple(curve: Curve) -> Reading:
    """RMS of what swings about the mean, over the mean: any electronics text."""
    level = mean(curve)
    if not level:
        raise NoReading(f"The mean of {curve.name} is zero, so nothing can be set beside it.")
    return Reading(ac_rms(curve) / abs(level))


def derivative(curve: Curve, abscissa: float) -> Reading:
    """Slope at an abscissa, per unit of the axis; from within the step it falls into."""
    k = int(
        np.clip(np.searchsorted(curve.grid, abscissa, side="right") - 1, 0, len(curve.grid) - 2)
    )
    width = curve.grid[k + 1] - curve.grid[k]
    at = np.clip(abscissa, curve.grid[k] + width * 2e-4, curve.grid[k + 1] - width * 2e-4)
    both = curve.at(np.array([at - 1e-4 * width, at + 1e-4 * width]))
    slope = (both[1] - both[0]) / (2e-4 * width)
    return Reading(slope, product(curve.unit, curve.axis_unit, -1))


def period(curve: Curve) -> Reading:
    """Of the cycles in which it repeats; of what rings, from crest to crest."""
    return Reading(cycles(curve).period, curve.axis_unit)


def frequency(curve: Curve) -> Reading:
    """One over the period."""
    return Reading(1 / period(curve), product("", curve.axis_unit, -1))


def duty(curve: Curve) -> Reading:
    """Share of its periods spent above the middle."""
    found = cycles(curve)
    if found.level is not None:
        raise NoReading(f"{curve.name} rings out, so that no period is like another.")
    part = curve.part(found.begin, found.end)
    middle = midpoint(part)
    edges = np.concatenate([[found.begin], crossings(part, middle), [found.end]])
    above = np.asarray(curve.at((edges[1:] + edges[:-1]) / 2)) > middle
    return Reading(float(np.diff(edges) @ above) / _span(part))


def rise_time(curve: Curve, low: float | None = None, high: float | None = None) -> Reading:
    """From 10 % to 90 % of the way between two levels: where they are not given, those between which it
    goes to and fro, or its first and last."""
    return _transition(curve, low, high, 1)


def fall_time(curve: Curve, high: float | None = None, low: float | None = None) -> Reading:
    """From 90 % to 10 % of the way."""
    return _transition(curve, low, high, -1)


def _transition(curve: Curve, low: float | None, high: float | None, way: int) -> Reading:
    curve, states = _states(curve)
    if states is None:
        first, last = _ends(curve, None, None)
        states = (first, last) if way > 0 else (last, first)
    bottom = states[0] if low is None else low
    top = states[1] if high is None else high
    if not top - bottom > FLAT * max(abs(top), abs(bottom)):
        raise NoReading(f"{curve.name} does not {'rise' if way > 0 else 'fall'}.")
    levels = [bottom + share * (top - bottom) for share in (RISE if way > 0 else RISE[::-1])]
    begins, finishes = (crossings(curve, level, way) for level in levels)
    after = finishes[finishes > begins[0]] if len(begins) else finishes[:0]
    if not len(after):
        raise NoReading(f"{curve.name} has no whole {'rise' if way > 0 else 'fall'}.")
    start = begins[begins < after[0]][-1]
    return Reading(after[0] - start, curve.axis_unit)


def _states(curve: Curve) -> tuple[Curve, tuple[float, float] | None]:
    """The part of a curve in which it goes to and fro, and its two levels there (IEEE Std 181: where it
    stays the longest, else its extremes); the whole of it and None where it does not."""
    part = steady_part(curve)
    if part is curve:
        return curve, None
    times = np.linspace(part.grid[0], part.grid[-1], _STATES + 1)[:-1]
    values = np.asarray(part.at(times), float)
    low, high = float(minimum(part)), float(maximum(part))
    return part, (_level(values, low, high), _level(values, high, low))


def _level(values: Array, extreme: float, other: float) -> float:
    """Where values stay on one side of the middle; at the extreme where they stay nowhere."""
    swing = other - extreme
    own = np.sort((values - extreme) / swing)
    own = own[own < 0.5]
    width = np.searchsorted(own, own + _WITHIN, side="right") - np.arange(len(own))
    if not len(own) or width.max() < _STAYS * len(values):
        return extreme
    k = int(np.argmax(width))
    return extreme + swing * float(np.median(own[k : k + int(width[k])]))


def overshoot(curve: Curve, first: float | None = None, last: float | None = None) -> Reading:
    """How far it swings beyond its last level, as a share of the whole change; 0 where it does not."""
    part, states = _states(curve)
    if states is not None and first is None and last is None:
        low, high = states
        return Reading(max(0.0, (maximum(part) - high) / (high - low)))
    start, end = _ends(curve, first, last)
    beyond = maximum(curve) - end if end > start else end - minimum(curve)
    return Reading(max(0.0, beyond / abs(end - start)))


def settling_time(
    curve: Curve,
    within: float = SETTLED_WITHIN,
    first: float | None = None,
    last: float | None = None,
) -> Reading:
    """After its start, until it stays within a share of the whole change around its last level."""
    start, end = _ends(curve, first, last)
    band = within * abs(end - start)
    leaves = [x for x, _ in curve.roots(lambda v: np.abs(v - end) - band)]
    return Reading(max(leaves) - curve.grid[0] if leaves else 0.0, curve.axis_unit)


def time_shift(first: Curve, second: Curve) -> Reading:
    """How much later `second` rises through its middle than `first`, within half a period."""
    length = period(first)
    ahead, behind = _rises(first), _rises(second)
    if not len(behind):
        raise NoReading(f"{second.name} does not pass its middle upwards.")
    shift = float(behind[-1] - ahead[-1])
    return Reading((shift + length / 2) % length - length / 2, first.axis_unit)


def phase(first: Curve, second: Curve) -> Reading:
    """Phase of `second` against `first` in degrees, below zero where it lags."""
    return Reading(-360.0 * time_shift(first, second) / period(first), DEGREE)


def _rises(curve: Curve) -> Array:
    """The abscissas where it rises through its middle, in the part that repeats; none where it is flat."""
    if "rises" not in curve.found:
        curve.found["rises"] = _look_for_rises(steady_part(curve))
    return np.asarray(curve.found["rises"])


def _look_for_rises(curve: Curve) -> Array:
    high, low = maximum(curve), minimum(curve)
    if high - low <= FLAT * max(abs(high), abs(low)):
        return np.zeros(0)
    return crossings(curve, (high + low) / 2, 1)


def _span(curve: Curve) -> float:
    return float(curve.grid[-1] - curve.grid[0])


def _ends(curve: Curve, first: float | None, last: float | None) -> tuple[float, float]:
    """The first and last level; of a curve that still rings, the level that it settles at."""
    ends = np.asarray(curve.at(curve.grid[[0, -1]]), float)
    start = float(ends[0]) if first is None else first
    end = float(ends[1]) if last is None else last
    if last is None:
        with contextlib.suppress(NoReading):
            level = cycles(curve).level
            end = end if level is None else level
    if abs(end - start) <= FLAT * max(abs(start), abs(end)):
        raise NoReading(f"{curve.name} ends where it begins, so there is no change to measure by.")
    return start, end
