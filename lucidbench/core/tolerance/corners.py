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
    """Each toleranced value at the end that its sensitivity points to.

    Exact where the figure is monotonic in each value within its tolerance, as a voltage is in a divider
    or ladder; elsewhere an estimate.
    """
    slopes = {(s.element, s.parameter): s.absolute for s in found}
    ends = []
    for sign in (-1.0, 1.0):
        here, at = circuit, {}
        for each in intervals_of(circuit):
            end = sign * float(np.sign(slopes.get((each.element.name, each.key), 0.0)))
            here = each.put(here, end)
            at[f"{each.element.name}.{each.key}"] = float(each.value(end))
        ends.append((reading(here), at))
    (low, at_low), (high, at_high) = ends
    return WorstCase(low, reading(circuit), high, at_low, at_high)
