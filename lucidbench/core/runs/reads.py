"""What is read off a curve: as it comes, the figures people look for first; and more when asked."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from lucidbench.core.readings import frequency, time
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.reading import Reading
from lucidbench.core.runs.looks import BandLook

_END = 10**0.25  # how far from its end a sweep's slope there is measured
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
    if not curve.unit and top.magnitude > 1 + _STILL:  # and not by rounding alone
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


def _percent(share: Reading) -> Reading:
    return Reading(100 * share, "%")


def _slope(curve: Curve, at_end: bool) -> Reading:
    """Over the first or last quarter of a decade of the sweep."""
    low, high = float(curve.grid[0]), float(curve.grid[-1])
    if at_end:
        return frequency.slope(curve, max(low, high / _END), high)
    return frequency.slope(curve, low, min(high, low * _END))


def band_of(curve: Curve) -> BandLook:
    """The pass band and what lies beside it. Raises NoReading where the curve has none."""
    found = frequency.band(curve)
    return BandLook(
        lower=found.lower,
        upper=found.upper,
        slope_below=None if found.lower is None else _slope(curve, False),
        slope_above=None if found.upper is None else _slope(curve, True),
        ends=(float(curve.grid[0]), float(curve.grid[-1])),
        sizes=(float(abs(curve.values[0])), float(abs(curve.values[-1]))),
    )


def _phase_at_cutoff(curve: Curve, side: str) -> Reading:
    edge = getattr(frequency.band(curve), side)
    if edge is None:
        raise NoReading(f"{curve.name} has no {side} cutoff within the sweep.")
    return frequency.phase(curve, edge)


def _steepest(curve: Curve) -> Reading:
    middles = (curve.grid[:-1] + curve.grid[1:]) / 2
    k = int(np.argmax(np.abs(np.diff(curve.values) / np.diff(curve.grid))))
    return time.derivative(curve, float(middles[k]))


BAND = "band"  # not a figure but marks on the plot

# By analysis and by the key under which runs/analyses.py offers it.
MORE: dict[str, dict[str, Callable[[Curve], Reading]]] = {
    "transient": {
        "midpoint": time.midpoint,
        "rise_time": time.rise_time,
        "fall_time": time.fall_time,
        "overshoot": lambda curve: _percent(time.overshoot(curve)),
        "settling_time": time.settling_time,
        "duty": lambda curve: _percent(time.duty(curve)),
        "integral": time.integral,
    },
    "frequency_sweep": {
        "slope_low": lambda curve: _slope(curve, False),
        "slope_high": lambda curve: _slope(curve, True),
        "phase_lower": lambda curve: _phase_at_cutoff(curve, "lower"),
        "phase_upper": lambda curve: _phase_at_cutoff(curve, "upper"),
        "phase_margin": frequency.phase_margin,
        "gain_margin": frequency.gain_margin,
    },
    "dc_sweep": {
        "maximum": time.maximum,
        "minimum": time.minimum,
        "midpoint": time.midpoint,
        "steepest": _steepest,
    },
}


_SYMBOLS = {
    "period": "T", "frequency": "f", "maximum at": "f_0", "lower cutoff": "f_1", "upper cutoff": "f_2",
    "bandwidth": "B", "Q": "Q", "unity gain at": "f_u", "mean slope": "A", "rise time": "t_r",
    "fall time": "t_f", "overshoot": "d_os", "settling time": "t_s", "duty cycle": "D",
    "slope at the low end": "s_1", "slope at the high end": "s_2", "phase at the lower cutoff": "phi_1",
    "phase at the upper cutoff": "phi_2", "phase margin": "phi_m", "gain margin": "A_m",
    "steepest slope": "s",
}  # fmt: skip
_ENDINGS = {
    "maximum": "max",
    "minimum": "min",
    "peak to peak": "pp",
    "mean": "mean",
    "RMS": "rms",
    "midpoint": "mid",
}
_LETTERS = {"V": "V", "A": "I", "W": "P", "Hz": "f", "s": "t", "Ω": "Z", "%": "d"}


def symbol_of(label: str, unit: str) -> str:
    """A short textbook name for a reading: `f_2` for an upper cutoff, `V_pp` for a peak to peak."""
    if label in _SYMBOLS:
        return _SYMBOLS[label]
    letter = _LETTERS.get(unit, "A" if not unit else "x")
    return f"{letter}_{_ENDINGS[label]}" if label in _ENDINGS else letter
