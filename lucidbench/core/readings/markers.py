"""Markers: a place on a curve each, where it may go from there, and what lies between two of them.

Values are the solver's own, so that they equal what is read off the same curve.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucidbench.core.readings import frequency, time
from lucidbench.core.readings.curve import Array, Curve, NoReading
from lucidbench.core.readings.reading import DECIBEL, DEGREE, Reading, product
from lucidbench.core.residue import cleared_level
from lucidbench.core.units import engineering

Jump = Literal["crossing", "peak", "trough", "half_power", "unity"]
_SAME = 1e-9  # of the axis: places nearer to one another are one
_AT_A_TURN = 1 / 16  # of a period: a marker so near a crest is meant to be at it
_BESIDE = 1e-3  # of a period: where it is looked at whether a curve rises
_IN_PHASE = 0.05  # degrees


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
        turn = float(np.degrees(np.angle(second / first)))
        yield "phi", _phase_words(b, a, turn), Reading(cleared_level(turn), DEGREE)
    if a.curve.unit == b.curve.unit and abs(first) and np.isfinite(abs(second)):
        ratio = second / first
        plain = abs(ratio) if np.iscomplexobj(a.curve.values) else ratio.real
        yield "A", "B/A", Reading(float(plain))
        if ratio:
            decibels = 20 * float(np.log10(abs(ratio)))
            yield "A_dB", "B/A in dB", Reading(cleared_level(decibels), DECIBEL)


def _shift(a: Mark, b: Mark, source_period: float | None) -> Iterator[tuple[str, str, Reading]]:
    try:
        whole = source_period or float(time.period(a.curve))
    except NoReading:
        return
    angle = -360.0 * (b.at - a.at) / whole
    if a.curve.name == b.curve.name:
        yield "phi", f"of a period of {engineering(whole, 's')}", Reading(-angle, DEGREE)
        return
    if _are_opposite(a, b, whole):
        angle += 180.0
    turned = float(angle - 360.0 * np.ceil((angle - 180.0) / 360.0))
    yield "phi", _phase_words(b, a, turned), Reading(cleared_level(turned), DEGREE)


def _are_opposite(a: Mark, b: Mark, period: float) -> bool:
    """Whether one stands at a crest and the other at a trough, or one on a rise and the other on a fall:
    then half a period more lies between them than their places say."""
    (is_turn, first), (is_other_turn, second) = (_standing(mark, period) for mark in (a, b))
    return is_turn == is_other_turn and first * second < 0


def _standing(mark: Mark, period: float) -> tuple[bool, float]:
    """(whether a marker stands at a crest or trough, which of the two or whether on a rise or a fall)."""
    begin, end = float(mark.curve.grid[0]), float(mark.curve.grid[-1])

    def around(share: float) -> Array:
        return np.clip([mark.at - share * period, mark.at + share * period], begin, end)

    near = mark.curve.part(*around(_AT_A_TURN))
    way = next((way for _, way in near.turns(np.asarray)), 0)
    if way:
        return True, float(way)
    before, after = np.asarray(mark.curve.at(around(_BESIDE)), float)
    return False, float(after - before)


def _phase_words(second: Mark, first: Mark, angle: float) -> str:
    of, to = second.curve.name, first.curve.name
    if abs(angle) < _IN_PHASE:
        return f"{of} is in phase with {to}"
    if 180.0 - abs(angle) < _IN_PHASE:
        return f"{of} is the reverse of {to}"
    return f"phase of {of} to {to}, below zero where it lags"
