"""A reading of a record with its uncertainty: the points drawn anew within theirs, JCGM 101:2008."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import cast

import numpy as np

from lucidbench.core.errors import LucidError
from lucidbench.core.readings.curve import Array, Curve, Evaluate
from lucidbench.core.readings.cycles import Cycles, cycles_as_of
from lucidbench.core.readings.registry import ReadingKind
from lucidbench.core.records.curves import BenchCurve, between
from lucidbench.core.units.uncertain import COVERAGE, EXPANDED

DRAWS = 100
_LONG, _OF_LONG = 4000, 30  # points from which on fewer draws are made, and how many
_MOST_LOST = 0.1  # share of the draws that may have no such reading
_EDGE = 0.02  # of the way between two points: an edge is so steep


def reading_of(of: BenchCurve, kind: ReadingKind) -> tuple[float, str, float]:
    """(value, unit, expanded uncertainty). Raises what the reading raises of a curve without it.

    The same record gives the same uncertainty each time.
    """
    told = kind.read(of.curve)
    drawn = _drawn(of)
    found = []
    for curve in drawn:
        _share_cycles(of.curve, curve)
        try:
            found.append(float(kind.read(curve)))
        except (LucidError, ValueError):
            continue
    if len(found) < (1 - _MOST_LOST) * len(drawn):
        return float(told), told.unit, float("inf")
    spread = COVERAGE * float(np.std(found, ddof=1))
    if not spread and told.unit == of.axis_unit:  # a place that is known to a point of the record
        k = min(int(np.searchsorted(of.x, float(told))), len(of.x) - 2)
        spread = EXPANDED * float(of.x[k + 1] - of.x[max(0, k - 1)]) / 2
    return float(told), told.unit, spread


def _drawn(of: BenchCurve) -> list[Curve]:
    """The curve as it might have been, so many times; drawn once for all that is read off it, since
    several readings rest on one search for its period."""
    found = of.curve.found
    if "drawn" not in found:
        random = np.random.default_rng(1)
        draws = _OF_LONG if len(of.x) > _LONG else DRAWS
        found["drawn"] = [replace(of.curve, at=_as_it_might_be(of, random)) for _ in range(draws)]
    return cast("list[Curve]", found["drawn"])


def _share_cycles(told: Curve, drawn: Curve) -> None:
    """A drawn curve repeats as often as the measured one, with a period of its own."""
    repeats = told.found.get("cycles")
    if isinstance(repeats, Cycles) and repeats.level is None and "cycles" not in drawn.found:
        drawn.found["cycles"] = cycles_as_of(drawn, repeats)


def _as_it_might_be(of: BenchCurve, random: np.random.Generator) -> Evaluate:
    """Between two points smooth curves may be bowed either way; where it jumps, the edge is anywhere."""
    values = _values_drawn(of, random)
    if np.iscomplexobj(values):
        return partial(between, of, values)
    bowed = of.sagittas * random.uniform(-1, 1, len(of.sagittas))
    steps = np.diff(values)
    upright = np.minimum(2 * of.jumps / np.maximum(np.abs(steps), 1e-300), 1) * steps
    edges = random.uniform(_EDGE / 2, 1 - _EDGE / 2, len(steps))

    def at(x: Array) -> Array:
        x = np.asarray(x, float)
        k = of.piece(x)
        share = np.clip((x - of.x[k]) / (of.x[k + 1] - of.x[k]), 0, 1)
        stepped = np.clip((share - edges[k]) / _EDGE + 0.5, 0, 1)
        off = 4 * share * (1 - share) * bowed[k] + (stepped - share) * upright[k]
        return np.asarray(between(of, values, x) + off)

    return at


def _values_drawn(of: BenchCurve, random: np.random.Generator) -> np.ndarray:
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
