"""What is read off a curve as it comes: the figures people look for first."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from lucidbench.core.readings import frequency, time
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.reading import Reading

_STILL = 1e-9  # of its size: a curve that moves less does not move


def time_readings(curve: Curve) -> Iterator[tuple[str, Reading, float | None]]:
    """(label, figure, abscissa where it is) of a curve over time."""
    when_high, high = time.extreme(curve, 1)
    when_low, low = time.extreme(curve, -1)
    if abs(high - low) <= _STILL * max(abs(high), abs(low)):
        yield "constant at", high, None
        return
    yield "maximum", high, float(when_high)
    yield "minimum", low, float(when_low)
    yield "peak to peak", Reading(high - low, curve.unit), None
    yield "mean", time.mean(curve), None
    yield "RMS", time.rms(curve), None
    for label, period, at in _tried(("period", time.period), of=curve):
        yield label, period, at
        yield "frequency", Reading(1 / period, "Hz"), None


def frequency_readings(curve: Curve) -> Iterator[tuple[str, Reading, float | None]]:
    """The same of phasors over frequency."""
    top = frequency.peak(curve)
    yield "maximum", top.magnitude, float(top.frequency)
    try:
        band = frequency.band(curve)
    except NoReading:
        return
    if band.lower is not None and band.upper is not None:
        yield "maximum at", band.centre, float(band.centre)
    if band.lower is not None:
        yield "lower cutoff", band.lower, float(band.lower)
    if band.upper is not None:
        yield "upper cutoff", band.upper, float(band.upper)
    if band.lower is not None and band.width is not None:
        yield "bandwidth", band.width, None
    if band.quality is not None:
        yield "Q", band.quality, None
    if not curve.unit and top.magnitude > 1:
        yield from _tried(("unity gain at", frequency.unity_gain_frequency), of=curve)


def value_readings(curve: Curve) -> Iterator[tuple[str, Reading, float | None]]:
    """The same over a swept value."""
    first, last = (Reading(float(curve.values[k]), curve.unit) for k in (0, -1))
    yield "at the start", first, float(curve.grid[0])
    yield "at the end", last, float(curve.grid[-1])
    span = float(curve.grid[-1] - curve.grid[0])
    if span and curve.unit == curve.axis_unit:
        yield "mean slope", Reading((last - first) / span), None


def _tried(
    *asked: tuple[str, Callable[[Curve], Reading]], of: Curve
) -> Iterator[tuple[str, Reading, float | None]]:
    for label, read in asked:
        try:
            found = read(of)
        except NoReading:
            continue
        if np.isfinite(found):
            yield label, found, None


_SYMBOLS = {
    "period": "T", "frequency": "f", "maximum at": "f_0", "lower cutoff": "f_1", "upper cutoff": "f_2",
    "bandwidth": "B", "Q": "Q", "unity gain at": "f_u", "mean slope": "A",
}  # fmt: skip
_ENDINGS = {"maximum": "max", "minimum": "min", "peak to peak": "pp", "mean": "mean", "RMS": "rms"}
_LETTERS = {"V": "V", "A": "I", "W": "P", "Hz": "f", "s": "t", "Ω": "Z", "%": "d"}


def symbol_of(label: str, unit: str) -> str:
    """A short textbook name for a reading: `f_2` for an upper cutoff, `V_pp` for a peak to peak."""
    if label in _SYMBOLS:
        return _SYMBOLS[label]
    letter = _LETTERS.get(unit, "A" if not unit else "x")
    return f"{letter}_{_ENDINGS[label]}" if label in _ENDINGS else letter
