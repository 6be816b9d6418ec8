"""Bench less simulated, point by point, and whether tolerances and uncertainties allow it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from lucidbench.core.readings.curve import Curve
from lucidbench.core.records.curves import BenchCurve
from lucidbench.core.tolerance import expanded
from lucidbench.core.units import engineering

Array = npt.NDArray[np.float64]
AGREES_FROM, NEAR_FROM = 0.95, 0.8


@dataclass(frozen=True)
class Gap:
    """`less` is bench less simulated at `x`, of magnitudes; `allowed` half the width of the band.
    `angle` and `angle_allowed` [°] are the same of phases, where both have one."""

    x: Array
    less: Array
    allowed: Array
    angle: Array | None = None
    angle_allowed: Array | None = None

    @property
    def inside(self) -> npt.NDArray[np.bool_]:
        return np.abs(self.less) <= self.allowed

    @property
    def angle_inside(self) -> npt.NDArray[np.bool_] | None:
        if self.angle is None or self.angle_allowed is None:
            return None
        return np.asarray(np.abs(self.angle) <= self.angle_allowed)


def gap_between(
    of: BenchCurve, simulated: Curve, moved: Sequence[Curve] = (), with_phase: bool = True
) -> Gap | None:
    """None where the two have no place in common.

    `moved` are the simulated curves with one toleranced value after the other at the end of its interval.
    """
    within = (of.x >= simulated.grid[0]) & (of.x <= simulated.grid[-1])
    if not np.any(within):
        return None
    x, bench = of.x[within], of.values[within]
    by_simulation = np.asarray(simulated.at(x))
    others = [np.asarray(curve.at(x)) for curve in moved]
    is_complex = np.iscomplexobj(bench) or np.iscomplexobj(by_simulation)
    size = np.abs if is_complex else np.real
    spread = _expanded([size(other) - size(by_simulation) for other in others])
    own = np.hypot(of.errors[within], of.common * size(bench))
    allowed = np.hypot(spread, own)
    less = size(bench) - size(by_simulation)
    if of.angle_errors is None or not with_phase or not np.iscomplexobj(by_simulation):
        return Gap(x, np.asarray(less), np.asarray(allowed))
    turned = np.degrees(np.angle(bench / by_simulation))
    turns = _expanded([np.degrees(np.angle(other / by_simulation)) for other in others])
    angle_allowed = np.hypot(turns, of.angle_errors[within])
    return Gap(x, np.asarray(less), np.asarray(allowed), turned, np.asarray(angle_allowed))


def _expanded(limits: list[Array]) -> Array | float:
    return expanded(limits) if limits else 0.0


def verdict_of(inside: npt.NDArray[np.bool_]) -> Literal["agree", "near", "gap"]:
    """Of a curve, by the share of its points within the band: which of 95 in 100 is what the band is made
    for (k = 2, JCGM 100:2008, G.6.6)."""
    share = float(np.mean(inside))
    return "agree" if share >= AGREES_FROM else "near" if share >= NEAR_FROM else "gap"


def in_words(x: Array, inside: npt.NDArray[np.bool_], unit: str) -> str:
    """ "Agrees at 48 of 50 points; the gap is between 60 kHz and 90 kHz.\""""
    count, whole = int(np.count_nonzero(inside)), len(inside)
    if count == whole:
        return f"Agrees at all {whole} points." if whole > 1 else "Agrees at its one point."
    outside = x[~inside]
    first, last = (engineering(float(v), unit, 3) for v in (outside[0], outside[-1]))
    where = f"at {first}" if len(outside) == 1 else f"between {first} and {last}"
    if not count:
        return f"Differs at all {whole} points."
    return f"Agrees at {count} of {whole} points; the gap is {where}."
