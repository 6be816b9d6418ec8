"""The one reckoning of tolerances: what values may be, and what that does to figures.

Three ways lead there: slopes (of an operating point `at_rest`, of anything else `of_readings`), corners, and
draws. The ± that is stated is said in `intervals`.
"""

from lucidbench.core.tolerance.at_rest import (
    Effects,
    operating_point_effects,
    operating_point_uncertainty,
)
from lucidbench.core.tolerance.corners import WorstCase, worst_case, worst_case_of
from lucidbench.core.tolerance.draws import Spread, builds, monte_carlo
from lucidbench.core.tolerance.intervals import (
    NORMAL,
    UNIFORM,
    Interval,
    expanded,
    expanded_of_draws,
    intervals_of,
    limits_of_part,
    place,
    places,
)
from lucidbench.core.tolerance.of_readings import Spreads, spreads_of

__all__ = [
    "NORMAL",
    "UNIFORM",
    "Effects",
    "Interval",
    "Spread",
    "Spreads",
    "WorstCase",
    "builds",
    "expanded",
    "expanded_of_draws",
    "intervals_of",
    "limits_of_part",
    "monte_carlo",
    "operating_point_effects",
    "operating_point_uncertainty",
    "place",
    "places",
    "spreads_of",
    "worst_case",
    "worst_case_of",
]
