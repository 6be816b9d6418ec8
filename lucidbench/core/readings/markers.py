"""Markers: a place on a curve each, where it may go from there, and what lies between two of them.

Values are the solver's own, so that they equal what is read off the same curve.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucidbench.core.readings import frequency, time
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.reading import DECIBEL, DEGREE, Reading, product
from lucidbench.core.units import engineering

Jump = Literal["crossing", "peak", "trough", "half_power", "unity"]
_SAME = 1e-9  # of the axis: places nearer to one another are one


@dataclass(frozen=True)
class Mark:
    curve: Curve
    at: float

    @property
    def value(self) -> complex:
        """NaN where the curve has none."""
        return complex(np.asarray(self.curve.at(np.array([self.at])))[0])


def next_place(curve: Curve, kind: Jump, after: float) -> float:
    """The next place of a kind beyond `after`, from the last on to the first. Raises NoReading."""
    places = np.sort(np.fromiter(_places(curve, kind), float))
    if not len(places):
        raise NoReading(f"{curve.name} has no {_WORDS[kind]} here.")
    width = float(curve.grid[-1] - curve.grid[0])
    beyond = places[places > after + _SAME * width]
    return float(beyond[0] if len(beyond) else places[0])


_WORDS: dict[Jump, str] = {
    "crossing": "passage through zero", "peak": "peak", "trough": "trough",
    "half_power": "point 3 dB below its maximum", "unity": "point of size one",
}  # fmt: skip


def _places(curve: Curve, kind: Jump) -> Iterator[float]:
    phasors = np.iscomplexobj(curve.values)
    match kind:
        case "peak" | "trough":
            of = np.abs if phasors else np.asarray
            yield from (x for x, way in curve.turns(of) if way == (1 if kind == "peak" else -1))
        case "crossing":
            # Of a phasor, where it is real: there its phase passes zero or half a turn.
            yield from (x for x, _ in curve.roots(np.imag if phasors else np.asarray))
        case "unity":
            yield from (x for x, _ in curve.roots(lambda v: np.abs(v) - 1.0))
        case "half_power":
            edges = frequency.band(curve)
            yield from (x for x in (edges.lower, edges.upper) if x is not None)


def between(a: Mark, b: Mark, source_period: float | None) -> Iterator[tuple[str, str, Reading]]:
    """(symbol, words, figure): what lies from one marker to the other.

    An angle, in time, is of the period of what drives the circuit, or of the first curve's own; it is
    within ±180° and above zero where the second curve leads.
    """
    unit = a.curve.axis_unit
    apart = b.at - a.at
    letter = {"s": "t", "Hz": "f"}.get(unit, "x")
    yield f"d_{letter}", "B − A", Reading(apart, unit)
    if apart and unit in ("s", "Hz"):
        inverse = "f" if unit == "s" else "T"
        yield inverse, "1/(B − A)", Reading(1 / abs(apart), product("", unit, -1))
    if unit == "s":
        yield from _shift(a, b, source_period)
    first, second = a.value, b.value
    if unit == "Hz" and first and second and a.curve.name != b.curve.name:
        turn = np.degrees(np.angle(second / first))
        yield "phi", lead(b.curve.name, a.curve.name, turn), Reading(turn, DEGREE)
    if a.curve.unit == b.curve.unit and abs(first) and np.isfinite(abs(second)):
        ratio = second / first
        plain = abs(ratio) if np.iscomplexobj(a.curve.values) else ratio.real
        yield "A", "B/A", Reading(float(plain))
        if ratio:
            yield "A_dB", "B/A in dB", Reading(20 * float(np.log10(abs(ratio))), DECIBEL)


def _shift(a: Mark, b: Mark, source_period: float | None) -> Iterator[tuple[str, str, Reading]]:
    try:
        whole = source_period or float(time.period(a.curve))
    except NoReading:
        return
    angle = -360.0 * (b.at - a.at) / whole
    turned = angle - 360.0 * np.ceil((angle - 180.0) / 360.0)
    if a.curve.name == b.curve.name:
        yield "phi", f"of a period of {engineering(whole, 's')}", Reading(-angle, DEGREE)
    else:
        yield "phi", lead(b.curve.name, a.curve.name, turned), Reading(float(turned), DEGREE)


def lead(second: str, first: str, angle: float) -> str:
    """In words, which of two leads."""
    if not angle:
        return f"{second} is in phase with {first}"
    return f"{second} {'leads' if angle > 0 else 'lags'} {first}"
