"""A reading of a record with its uncertainty: the points drawn anew within theirs, JCGM 101:2008."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np

from lucidbench.core.errors import LucidError
from lucidbench.core.readings.registry import ReadingKind
from lucidbench.core.records.curves import BenchCurve, between
from lucidbench.core.units.uncertain import COVERAGE, EXPANDED

DRAWS = 100
_LONG, _OF_LONG = 4000, 30  # points from which on fewer draws are made, and how many
_MOST_LOST = 0.1  # share of the draws that may have no such reading


def reading_of(of: BenchCurve, kind: ReadingKind) -> tuple[float, str, float]:
    """(value, unit, expanded uncertainty). Raises what the reading raises of a curve without it.

    The same record gives the same uncertainty each time.
    """
    told = kind.read(of.curve)
    draws = _OF_LONG if len(of.x) > _LONG else DRAWS
    random = np.random.default_rng(1)
    found = []
    for _ in range(draws):
        values = _drawn(of, random)
        curve = replace(of.curve, at=partial(between, of, values))
        try:
            found.append(float(kind.read(curve)))
        except (LucidError, ValueError):
            continue
    if len(found) < (1 - _MOST_LOST) * draws:
        return float(told), told.unit, float("inf")
    spread = COVERAGE * float(np.std(found, ddof=1))
    if not spread and told.unit == of.axis_unit:  # a place that is known to a point of the record
        k = min(int(np.searchsorted(of.x, float(told))), len(of.x) - 2)
        spread = EXPANDED * float(of.x[k + 1] - of.x[max(0, k - 1)]) / 2
    return float(told), told.unit, spread


def _drawn(of: BenchCurve, random: np.random.Generator) -> np.ndarray:
    """The curve's values as they might have been."""
    together = 1 + of.common / COVERAGE * random.standard_normal()
    each = of.errors / COVERAGE * random.standard_normal(len(of.x))
    if not np.iscomplexobj(of.values):
        return np.asarray(of.values * together + each)
    size = np.maximum(np.abs(of.values) * together + each, 1e-300)
    angle = np.angle(of.values)
    if of.angle_errors is not None:
        turned = of.angle_errors / COVERAGE * random.standard_normal(len(of.x))
        angle = angle + np.radians(turned)
    return np.asarray(size * np.exp(1j * angle))
