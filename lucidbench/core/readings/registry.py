"""Everything that can be read off a curve, one entry each, by what the curve is over.

`by_itself` says whether an entry is told of a curve without being asked for.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lucidbench.core.readings import frequency, time
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.cycles import cycles, steady_words
from lucidbench.core.readings.reading import Reading

Read = Callable[[Curve], Reading]
Where = Callable[[Curve], float]

_END = 10**0.25  # how far from its end a sweep's slope there is measured
_STILL = 1e-9  # of its size: a curve that moves less does not move


@dataclass(frozen=True)
class ReadingKind:
    """One thing to read. `where` is its place on the axis, where it has one. `symbol` is a short
    textbook name, such as f_2; without one the unit gives the letter, and `ending` what follows. `over`
    says of which part of the curve it is."""

    key: str
    label: str
    read: Read
    symbol: str = ""
    ending: str = ""
    where: Where | None = None
    by_itself: Callable[[Curve], bool] | None = None
    over: Callable[[Curve], str] | None = None


_LETTERS = {"V": "V", "A": "I", "W": "P", "Hz": "f", "s": "t", "Ω": "Z", "%": "d"}


def symbol_of(kind: ReadingKind, unit: str) -> str:
    """What a figure of that kind is called to begin with: `f_2`, or `V_pp` of a voltage."""
    if kind.symbol:
        return kind.symbol
    letter = _LETTERS.get(unit, "A" if not unit else "x")
    return f"{letter}_{kind.ending}" if kind.ending else letter


def _always(curve: Curve) -> bool:
    return True


def _is_still(curve: Curve) -> bool:
    high, low = curve.highest[1], curve.lowest[1]
    return abs(high - low) <= _STILL * max(abs(high), abs(low))


def _moves(curve: Curve) -> bool:
    return not _is_still(curve)


def _cycles_words(curve: Curve) -> str:
    return cycles(curve).words


def _percent(share: Reading) -> Reading:
    return Reading(100 * share, "%")


def _itself(figure: Read) -> Where:
    """Of a figure that is itself a place on the axis."""
    return lambda curve: float(figure(curve))


def _edge(side: str) -> Read:
    """A corner of the pass band."""

    def read(curve: Curve) -> Reading:
        edge: Reading | None = getattr(frequency.band(curve), side)
        if edge is None:
            raise NoReading(f"{curve.name} has no {side} cutoff within the sweep.")
        return edge

    return read


def _phase_at(side: str) -> Read:
    return lambda curve: frequency.phase(curve, _edge(side)(curve))


def _known(value: Reading | None, curve: Curve, what: str) -> Reading:
    if value is None:
        raise NoReading(f"{curve.name} has no {what} within the sweep.")
    return value


def _has_both_edges(curve: Curve) -> bool:
    band = frequency.band(curve)
    return band.lower is not None and band.upper is not None


def _amplifies(curve: Curve) -> bool:
    return not curve.unit and frequency.peak(curve).magnitude > 1 + _STILL  # not by rounding alone


def slope_at_an_end(curve: Curve, at_end: bool) -> Reading:
    """Over the first or last quarter of a decade of the sweep."""
    low, high = float(curve.grid[0]), float(curve.grid[-1])
    if at_end:
        return frequency.slope(curve, max(low, high / _END), high)
    return frequency.slope(curve, low, min(high, low * _END))


def _end(place: int) -> Read:
    return lambda curve: Reading(float(curve.values[place]), curve.unit)


def _end_at(place: int) -> Where:
    return lambda curve: float(curve.grid[place])


def _zero(curve: Curve) -> Reading:
    """Where it first passes through zero."""
    found = next(curve.roots(np.asarray), None)
    if found is None:
        raise NoReading(f"{curve.name} does not pass through zero.")
    return Reading(found[0], curve.axis_unit)


def _mean_slope(curve: Curve) -> Reading:
    span = float(curve.grid[-1] - curve.grid[0])
    if not span:
        raise NoReading(f"{curve.name} is known at one place only.")
    return Reading(float(curve.values[-1] - curve.values[0]) / span)


def _steepest(curve: Curve) -> Reading:
    middles = (curve.grid[:-1] + curve.grid[1:]) / 2
    k = int(np.argmax(np.abs(np.diff(curve.values) / np.diff(curve.grid))))
    return time.derivative(curve, float(middles[k]))


_MIDPOINT = ReadingKind("midpoint", "midpoint", time.midpoint, ending="mid")

OVER_TIME = (
    ReadingKind("constant", "constant at", time.maximum, by_itself=_is_still),
    ReadingKind("maximum", "maximum", time.maximum, ending="max", by_itself=_moves,
                where=lambda curve: curve.highest[0]),
    ReadingKind("minimum", "minimum", time.minimum, ending="min", by_itself=_moves,
                where=lambda curve: curve.lowest[0]),
    ReadingKind("peak_to_peak", "peak to peak", time.peak_to_peak, ending="pp", by_itself=_moves),
    ReadingKind("mean", "mean", time.mean, ending="mean", by_itself=_moves, over=steady_words),
    ReadingKind("rms", "RMS", time.rms, ending="rms", by_itself=_moves, over=steady_words),
    ReadingKind("ac_rms", "RMS without the mean", time.ac_rms, ending="ac", over=steady_words),
    ReadingKind("period", "period", time.period, "T", by_itself=_moves, over=_cycles_words),
    ReadingKind("frequency", "frequency", time.frequency, "f", by_itself=_moves,
                over=_cycles_words),
    _MIDPOINT,
    ReadingKind("rise_time", "rise time", time.rise_time, "t_r"),
    ReadingKind("fall_time", "fall time", time.fall_time, "t_f"),
    ReadingKind("overshoot", "overshoot", lambda c: _percent(time.overshoot(c)), "d_os"),
    ReadingKind("settling_time", "settling time", time.settling_time, "t_s"),
    ReadingKind("duty", "duty cycle", lambda curve: _percent(time.duty(curve)), "D",
                over=_cycles_words),
    ReadingKind("ripple", "ripple factor", lambda curve: _percent(time.ripple(curve)), "r",
                over=steady_words),
    ReadingKind("integral", "integral", time.integral),
)  # fmt: skip

OVER_FREQUENCY = (
    ReadingKind("maximum", "maximum", lambda curve: frequency.peak(curve).magnitude, ending="max",
                where=lambda curve: float(frequency.peak(curve).frequency), by_itself=_always),
    ReadingKind("maximum_at", "maximum at", lambda curve: frequency.band(curve).centre, "f_0",
                where=lambda curve: float(frequency.band(curve).centre), by_itself=_has_both_edges),
    ReadingKind("lower_cutoff", "lower cutoff", _edge("lower"), "f_1",
                where=_itself(_edge("lower")), by_itself=_always),
    ReadingKind("upper_cutoff", "upper cutoff", _edge("upper"), "f_2",
                where=_itself(_edge("upper")), by_itself=_always),
    ReadingKind("bandwidth", "bandwidth",
                lambda curve: _known(frequency.band(curve).width, curve, "bandwidth"), "B",
                by_itself=_always),
    ReadingKind("quality", "Q", lambda curve: _known(frequency.band(curve).quality, curve, "Q"),
                "Q", by_itself=_always),
    ReadingKind("unity_gain", "gain = 1 (0 dB) at", frequency.unity_gain_frequency, "f_u",
                by_itself=_amplifies),
    ReadingKind("slope_low", "slope at the low end", lambda c: slope_at_an_end(c, False), "s_1"),
    ReadingKind("slope_high", "slope at the high end", lambda c: slope_at_an_end(c, True), "s_2"),
    ReadingKind("phase_lower", "phase at the lower cutoff", _phase_at("lower"), "phi_1"),
    ReadingKind("phase_upper", "phase at the upper cutoff", _phase_at("upper"), "phi_2"),
    ReadingKind("phase_margin", "phase margin", frequency.phase_margin, "phi_m"),
    ReadingKind("gain_margin", "gain margin", frequency.gain_margin, "A_m"),
)  # fmt: skip

OVER_VALUE = (
    ReadingKind("start", "at the start", _end(0), where=_end_at(0), by_itself=_always),
    ReadingKind("end", "at the end", _end(-1), where=_end_at(-1), by_itself=_always),
    ReadingKind("zero", "zero at", _zero, "x_0", where=_itself(_zero), by_itself=_moves),
    ReadingKind("mean_slope", "mean slope", _mean_slope, "A",
                by_itself=lambda curve: curve.unit == curve.axis_unit),
    ReadingKind("maximum", "maximum", time.maximum, ending="max"),
    ReadingKind("minimum", "minimum", time.minimum, ending="min"),
    _MIDPOINT,
    ReadingKind("steepest", "steepest slope", _steepest, "s"),
)  # fmt: skip
