"""What people read off a curve over frequency. Between points the circuit itself is solved again.

Each is a number that keeps its unit. Raises NoReading where the curve does not do what is asked.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import cast

import numpy as np

from lucidbench.core.readings.curve import Array, Curve, NoReading
from lucidbench.core.readings.reading import DECIBEL, DEGREE, Reading
from lucidbench.core.units import engineering

_DECADES_BEYOND, _A_DECADE = 8, 4  # looked at beyond an end of the sweep, and points in each
_LEVEL = 1e-6  # of its size: what changes less over a decade has come to its limit
HALF_POWER = 20 * np.log10(np.sqrt(0.5))  # [dB]: what "-3 dB" stands for, -3.0103


def magnitude(curve: Curve, frequency: float) -> Reading:
    """In the curve's own unit."""
    return Reading(abs(curve.at(np.array([frequency]))[0]), curve.unit)


def decibels(curve: Curve, frequency: float) -> Reading:
    """20·lg of its magnitude. Raises NoReading where that is nothing."""
    size = magnitude(curve, frequency)
    if not size:
        raise NoReading(f"{curve.name} is zero at {engineering(frequency, curve.axis_unit)}.")
    return Reading(20 * np.log10(size), DECIBEL)


def phase(curve: Curve, frequency: float) -> Reading:
    """Between -180° and 180°."""
    return Reading(np.degrees(np.angle(curve.at(np.array([frequency]))[0])), DEGREE)


@dataclass(frozen=True)
class Peak:
    frequency: Reading
    magnitude: Reading


def peak(curve: Curve) -> Peak:
    """Where its magnitude is largest."""
    at, best = curve.greatest
    return Peak(Reading(at, curve.axis_unit), Reading(best, curve.unit))


@dataclass(frozen=True)
class Band:
    """Where a curve is within `level` dB of its reference. None: it is so up to that end of the sweep.
    The centre may lie beyond the sweep."""

    reference: Reading  # magnitude
    level: Reading
    lower: Reading | None
    upper: Reading | None
    centre: Reading  # where it is largest

    @property
    def width(self) -> Reading | None:
        if self.upper is None:
            return None
        return Reading(self.upper - (self.lower or 0.0), self.upper.unit)

    @property
    def quality(self) -> Reading | None:
        """Q: the centre over the width; None where one side is open."""
        if self.lower is None or self.upper is None:
            return None
        return Reading(np.sqrt(self.lower * self.upper) / (self.upper - self.lower))


def band(curve: Curve, level: float = HALF_POWER, reference: float | None = None) -> Band:
    """Both sides of the band around the largest magnitude there is, `level` dB from that or `reference`."""
    key = f"band {level} {reference}"
    if key not in curve.found:
        curve.found[key] = _band(curve, level, reference)
    return cast(Band, curve.found[key])


def _band(curve: Curve, level: float, reference: float | None) -> Band:
    top = extremum(curve)
    size = top.magnitude if reference is None else reference
    limit = size * 10 ** (level / 20)
    near = replace(curve, grid=np.unique(np.concatenate([curve.grid, _around(curve, top)])))
    edges = [x for x, _ in near.roots(lambda v: np.abs(v) - limit)]
    if not edges:
        raise NoReading(f"{curve.name} stays on one side of {level:.4g} dB throughout the sweep.")
    below = [x for x in edges if x < top.frequency]
    above = [x for x in edges if x >= top.frequency]
    lower, upper = (
        Reading(x, curve.axis_unit) if x else None
        for x in (max(below, default=0.0), min(above, default=0.0))
    )
    return Band(Reading(size, curve.unit), Reading(level, DECIBEL), lower, upper, top.frequency)


def extremum(curve: Curve) -> Peak:
    """Where its magnitude is largest: of a curve that is largest at an end of the sweep, beyond that end,
    or the limit that it comes to there. Raises NoReading where it rises without end."""
    if "extremum" not in curve.found:
        curve.found["extremum"] = _extremum(curve)
    return cast(Peak, curve.found["extremum"])


def beyond(curve: Curve) -> Array:
    """Frequencies at which it is looked at beyond the end of the sweep at which it is largest, the end first;
    none where it is largest within."""
    at = float(peak(curve).frequency)
    ends = (float(curve.grid[0]), float(curve.grid[-1]))
    if at not in ends or ends[0] <= 0:
        return curve.grid[:0]
    steps = np.arange(_DECADES_BEYOND * _A_DECADE + 1) / _A_DECADE
    return np.asarray(at * 10 ** (-steps if at == ends[0] else steps))


def _extremum(curve: Curve) -> Peak:
    within, looked_at = peak(curve), beyond(curve)
    if not len(looked_at):
        return within
    with np.errstate(all="ignore"):
        sizes = np.abs(np.asarray(curve.at(looked_at), complex))
    if not np.all(np.isfinite(sizes)):  # of what was measured nothing is known there
        return within
    if np.ptp(sizes[-1 - _A_DECADE :]) <= _LEVEL * sizes[-1] and sizes[-1] >= sizes.max() * (
        1 - _LEVEL
    ):
        return Peak(Reading(looked_at[-1], curve.axis_unit), Reading(sizes[-1], curve.unit))
    if np.argmax(sizes) == len(sizes) - 1:
        end = "low" if looked_at[-1] < looked_at[0] else "high"
        raise NoReading(f"{curve.name} rises without end towards {end} frequencies.")
    return peak(replace(curve, grid=np.sort(looked_at)))


def _around(curve: Curve, top: Peak) -> Array:
    """Frequencies closer and closer to a crest within the sweep, whose sides may lie between two points."""
    at = float(top.frequency)
    k = int(np.searchsorted(curve.grid, at))
    if not 0 < k < len(curve.grid):
        return curve.grid[:0]
    low, high = float(curve.grid[max(k - 2, 0)]), float(curve.grid[min(k + 1, len(curve.grid) - 1)])
    shares = np.geomspace(1e-6, 1.0, 25)[:-1]
    return np.concatenate([at - (at - low) * shares, [at], at + (high - at) * shares])


def unity_gain_frequency(curve: Curve) -> Reading:
    """The last frequency at which its magnitude falls through one."""
    found = [x for x, way in curve.roots(lambda v: np.abs(v) - 1.0) if way < 0]
    if not found:
        raise NoReading(f"{curve.name} does not fall through one within the sweep.")
    return Reading(found[-1], curve.axis_unit)


def slope(curve: Curve, start: float, stop: float) -> Reading:
    """Of its magnitude between two frequencies, in decibels a decade."""
    rise = decibels(curve, stop) - decibels(curve, start)
    return Reading(rise / np.log10(stop / start), f"{DECIBEL}/decade")


def phase_margin(loop_gain: Curve) -> Reading:
    """How far the phase of a loop gain is above -180° where its magnitude is one."""
    at = unity_gain_frequency(loop_gain)
    return Reading(180.0 + _continuous_phase(loop_gain, at), DEGREE)


def gain_margin(loop_gain: Curve) -> Reading:
    """How far below one a loop gain is where its phase passes -180°."""
    crossing = [
        x
        for x, way in loop_gain.roots(lambda v: np.asarray(v).imag)
        if complex(loop_gain.at(np.array([x]))[0]).real < 0
    ]
    if not crossing:
        raise NoReading(f"The phase of {loop_gain.name} does not pass \u2212180° within the sweep.")
    return Reading(-decibels(loop_gain, crossing[0]), DECIBEL)


def _continuous_phase(curve: Curve, frequency: float) -> float:
    """Phase [degree] followed without jumps from the start of the sweep."""
    below = curve.grid[curve.grid < frequency]
    values = curve.at(np.append(below, frequency))
    return float(np.degrees(np.unwrap(np.angle(values)))[-1])
