"""The worst case: every toleranced value at one end of its interval or the other."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.analyses.run import Watch
from lucidbench.core.analyses.sensitivity import (
    Sensitivity,
    reading_sensitivities,
    sensitivities,
)
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.tolerance.intervals import intervals_of

Places = tuple[float, ...]  # of each interval, between -1 and 1
_STRAIGHT = (
    0.5  # of the way from end to end: how far beside its middle a figure that does not turn lies
)
_MOST_ROUNDS = 6
_GAINS = 1e-6  # of the figure: a round that gains less is the last


@dataclass(frozen=True)
class WorstCase:
    """The lowest and highest value of a figure, and where each toleranced value stands then."""

    lowest: float
    nominal: float
    highest: float
    at_lowest: Mapping[str, float]
    at_highest: Mapping[str, float]


def worst_case(circuit: Circuit, figure: str, reference: str | None = None) -> WorstCase:
    """Of a DC voltage or current, "V_out" or "I_R1", less another where given. Raises CircuitError."""

    def value(here: Circuit) -> float:
        found = {**operating_point(here).values, f"V_{GROUND_NODE}": 0.0}
        return found[figure] - (found[reference] if reference else 0.0)

    return _at_the_ends(circuit, value, sensitivities(circuit, figure, reference))


def worst_case_of(
    circuit: Circuit, reading: Callable[[Circuit], float], watch: Watch | None = None
) -> WorstCase:
    """Of any figure read off the circuit. Raises what `reading` raises."""
    return _at_the_ends(circuit, reading, reading_sensitivities(circuit, reading, watch))


def _at_the_ends(
    circuit: Circuit, reading: Callable[[Circuit], float], found: list[Sensitivity]
) -> WorstCase:
    """Each toleranced value at the end that its sensitivity points to: exact where the figure is monotonic in
    each value within its tolerance, as a voltage is in a divider or ladder. Where it bends, as at a match or
    a resonance, one value after the other is put where the figure is largest, at an end or between."""
    slopes = {(s.element, s.parameter): s.absolute for s in found}
    intervals = intervals_of(circuit)

    def value(places: Places) -> float:
        here = circuit
        for each, place in zip(intervals, places, strict=True):
            here = each.put(here, place)
        return reading(here)

    nominal = reading(circuit)
    corner = tuple(
        float(np.sign(slopes.get((each.element.name, each.key), 0.0))) for each in intervals
    )
    bends = _bends(value, len(intervals), nominal)
    ends = []
    for sign in (-1.0, 1.0):
        places = tuple(sign * end for end in corner)
        if bends:
            places = _climbed(lambda at, s=sign: s * value(at), places)  # type: ignore[misc]
        at = {
            f"{each.element.name}.{each.key}": float(each.value(place))
            for each, place in zip(intervals, places, strict=True)
        }
        ends.append((value(places), at))
    (low, at_low), (high, at_high) = ends
    return WorstCase(low, nominal, high, at_low, at_high)


def _bends(value: Callable[[Places], float], count: int, nominal: float) -> bool:
    """Whether the figure turns round, or nearly, as one of the values goes from end to end."""
    middle = (0.0,) * count
    for k in range(count):
        low, high = value(_with(middle, k, -1.0)), value(_with(middle, k, 1.0))
        if abs(low + high - 2 * nominal) > _STRAIGHT * abs(high - low) + _GAINS * abs(nominal):
            return True
    return False


def _climbed(height: Callable[[Places], float], corner: Places) -> Places:
    """The places, between -1 and 1, at which a figure is highest: from the corner or the middle, whichever is
    higher, along one value after the other until nothing gains."""
    middle = (0.0,) * len(corner)
    best, places = max((height(corner), corner), (height(middle), middle))
    for _ in range(_MOST_ROUNDS):
        before = best
        for k in range(len(places)):
            along = {place: height(_with(places, k, place)) for place in (-1.0, 0.0, 1.0)}
            low, between, high = along.values()
            bend = low - 2 * between + high
            if bend < 0 and abs(low - high) < -2 * bend:  # the top of the parabola lies between
                top = 0.5 * (low - high) / bend
                along[top] = height(_with(places, k, top))
            place = max(along, key=along.__getitem__)
            if along[place] > best:
                places, best = _with(places, k, place), along[place]
        if best - before <= _GAINS * abs(best):
            break
    return places


def _with(places: Places, k: int, place: float) -> Places:
    return (*places[:k], place, *places[k + 1 :])
