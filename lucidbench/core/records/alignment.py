"""Where a record in time lies over a simulated curve: by its trigger, or by what fits best."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize_scalar

from lucidbench.core.errors import LucidError
from lucidbench.core.readings.curve import Curve
from lucidbench.core.records.curves import BenchCurve

Array = npt.NDArray[np.float64]
_TRIED = 400  # shifts, before the best is looked at closer
_POINTS = 1000  # of the record, at most
_LEAST_OVERLAP = 0.25  # of the record, or of the run where that is shorter


def shift_by_trigger(simulated: Curve, level: float, rises: bool, trigger: float) -> float:
    """What to add to a record's times so that its trigger stands where the simulated curve first passes
    the level in the same direction. Raises LucidError where it never does."""
    for place, direction in simulated.roots(lambda values: np.asarray(values) - level):
        if (direction > 0) == rises:
            return place - trigger
    raise LucidError(
        f"{simulated.name} does not pass the level of the trigger within the run, so the record cannot "
        f"be laid by it."
    )


def shift_by_fit(simulated: Curve, of: BenchCurve, with_scale: bool = False) -> tuple[float, float]:
    """(shift, scale) by which the record is nearest to the simulated curve, in the least mean square.

    Without `with_scale` that is 1. Raises LucidError where neither reaches over the other.
    """
    stride = max(1, len(of.x) // _POINTS)
    x, y = of.x[::stride] - of.record.shift, np.real(of.values[::stride]) / of.record.scale
    first, last = float(simulated.grid[0]), float(simulated.grid[-1])
    long = min(float(x[-1] - x[0]), last - first)
    if long <= 0:
        raise LucidError("The record has no length that could be laid over the curve.")
    low = first - float(x[-1]) + _LEAST_OVERLAP * long
    high = last - float(x[0]) - _LEAST_OVERLAP * long
    if x[-1] - x[0] <= last - first:  # it is wanted whole where there is room for it
        low, high = first - float(x[0]), last - float(x[-1])

    def miss(shift: float) -> tuple[float, float]:
        """(mean square of what is left, scale)"""
        at = x + shift
        inside = (at >= first) & (at <= last)
        if np.count_nonzero(inside) < 2:
            return np.inf, 1.0
        target, own = np.real(simulated.at(at[inside])), y[inside]
        size = float(own @ own)
        scale = float(own @ target) / size if with_scale and size else 1.0
        if scale <= 0:
            return np.inf, 1.0
        return float(np.mean((scale * own - target) ** 2)), scale

    tried = np.linspace(low, high, _TRIED)
    found = [miss(float(shift))[0] for shift in tried]
    k = int(np.argmin(found))
    near = (float(tried[max(0, k - 1)]), float(tried[min(len(tried) - 1, k + 1)]))
    best = float(tried[k])
    if near[1] > near[0]:
        closer = minimize_scalar(lambda s: miss(float(s))[0], bounds=near, method="bounded",
                                 options={"xatol": 1e-6 * (near[1] - near[0])})  # fmt: skip
        if closer.fun <= found[k]:
            best = float(closer.x)
    return best, miss(best)[1]
