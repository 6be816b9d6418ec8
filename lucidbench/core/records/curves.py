"""A record's columns as curves: magnitude and phase of one thing put together, laid where it belongs."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.document.exercise import Column, Record
from lucidbench.core.errors import LucidError
from lucidbench.core.readings.curve import Curve
from lucidbench.core.units.uncertain import COVERAGE

Array = npt.NDArray[np.float64]
_OF = re.compile(r"(abs|dB|arg)\((.*)\)", re.DOTALL)
MAGNITUDE, DECIBELS, ANGLE = "abs", "dB", "arg"
_ROUNDING = 1e-12  # of its length, by which a place at its end may lie beyond
_FEWEST = 20  # points by which noise is told from what is measured
_LEFT = 20**0.5  # of noise, in four values weighed 1, 3, 3 and 1
_MEDIAN = 0.6745  # of a normal deviate's size
_PER_DECIBEL = np.log(10) / 20


@dataclass(frozen=True)
class BenchCurve:
    """`values` over rising `x` [axis_unit] of what `formula` says, complex where a phase was measured too.

    `errors` are expanded uncertainties of each magnitude, `angle_errors` [°] of each phase; `common` is
    the share of the value by which all may be off together.
    """

    record: Record
    formula: str
    unit: str
    axis: str
    axis_unit: str
    x: Array
    values: npt.NDArray[Any]
    errors: Array
    angle_errors: Array | None
    common: float

    @cached_property
    def curve(self) -> Curve:
        """Straight between its points; over a logarithmic axis by logarithms. Beyond them it is NaN."""
        return Curve(
            self.formula,
            self.unit,
            self.axis_unit,
            self.x,
            self.at,
            noise=self.noise,
            unseen=self.unseen,
        )

    @cached_property
    def noise(self) -> float:
        """Standard, of each value by itself: as it is told or, where it shows more, by what four values in a
        row, weighed 1, 3, 3 and 1, leave over."""
        told = float(np.sqrt(np.mean(self.errors**2))) / COVERAGE
        if np.iscomplexobj(self.values) or len(self.x) < _FEWEST:
            return told
        left = np.abs(np.diff(self.values, 3)) / _LEFT
        return max(told, float(np.median(left)) / _MEDIAN)

    @cached_property
    def bends(self) -> Array:
        """By how much the slope changes at each point; 0 where it is complex or has no three of them."""
        if np.iscomplexobj(self.values) or len(self.x) < 3:
            return np.zeros(len(self.x))
        return np.pad(np.diff(np.diff(self.values) / np.diff(self.x)), 1, mode="edge")

    @cached_property
    def jumps(self) -> Array:
        """Half of what it jumps between each two points, beyond what noise alone would make."""
        found = np.abs(np.diff(self.bends)) * np.diff(self.x) / 4
        return np.sqrt(np.maximum(found**2 - (_LEFT / 4 * self.noise) ** 2, 0))

    @cached_property
    def sagittas(self) -> Array:
        """How far a smooth curve lies off the straight line midway between each two points."""
        return np.abs(self.bends[1:] + self.bends[:-1]) / 2 * np.diff(self.x) / 8

    def unseen(self, x: Array) -> Array:
        """Half of what it jumps where `x` lies."""
        return self.jumps[self.piece(x)]

    def piece(self, x: Array) -> npt.NDArray[np.intp]:
        """Between which point, and the next, each of `x` lies."""
        return np.clip(np.searchsorted(self.x, x, side="right") - 1, 0, len(self.x) - 2)

    def at(self, x: Array) -> npt.NDArray[Any]:
        return between(self, self.values, np.asarray(x, float))


def between(of: BenchCurve, values: npt.NDArray[Any], x: Array) -> npt.NDArray[Any]:
    """`values` in the place of the curve's own, at `x`."""
    slack = _ROUNDING * (of.x[-1] - of.x[0])
    x = np.where(x < of.x[0], np.where(x >= of.x[0] - slack, of.x[0], np.nan), x)
    x = np.where(x > of.x[-1], np.where(x <= of.x[-1] + slack, of.x[-1], np.nan), x)
    if not np.iscomplexobj(values):
        return np.asarray(np.interp(x, of.x, values, np.nan, np.nan))
    where, known = (np.log(x), np.log(of.x)) if of.x[0] > 0 else (x, of.x)
    with np.errstate(divide="ignore"):
        size = np.interp(where, known, np.log(np.abs(values)), np.nan, np.nan)
    angle = np.interp(where, known, np.unwrap(np.angle(values)), np.nan, np.nan)
    return np.asarray(np.exp(size + 1j * angle))


def axis_of(record: Record) -> tuple[str, str]:
    """(quantity, unit) of its first column; both empty where it has none."""
    if not record.columns:
        return "", ""
    return record.columns[0].quantity, record.columns[0].unit


def bench_curves(record: Record) -> list[BenchCurve]:
    """Every curve of a record, in the order of its columns. Raises LucidError, naming the record, where it
    has no two points or does not go forward."""
    if len(record.columns) < 2 or len(record.columns[0].values) < 2:
        return []
    axis, axis_unit = axis_of(record)
    x = np.asarray(record.columns[0].values, float)
    order = np.argsort(x, kind="stable")
    x = x[order] + record.shift
    if np.any(np.diff(x) <= 0):
        raise LucidError(
            f"In the record {record.name} two points stand at the same place of {axis}."
        )
    found: dict[str, dict[str, Column]] = {}
    for column in record.columns[1:]:
        of = _OF.fullmatch(column.quantity)
        kind, formula = (of[1], of[2]) if of else ("", column.quantity)
        found.setdefault(formula, {})[kind] = column
    return [
        _curve(record, formula, columns, axis, axis_unit, x, order)
        for formula, columns in found.items()
    ]


def _curve(
    record: Record, formula: str, columns: dict[str, Column], axis: str, axis_unit: str,
    x: Array, order: npt.NDArray[np.intp],
) -> BenchCurve:  # fmt: skip
    kind = next((k for k in ("", MAGNITUDE, DECIBELS) if k in columns), "")
    size = columns.get(kind)
    angle = columns.get(ANGLE)
    if size is None:  # a phase alone
        own, errors, unit, common = np.ones(len(x)), np.zeros(len(x)), "", 0.0
    else:
        own, errors = _values(size)[order], _errors(size)[order]
        unit, common = size.unit, size.common
    if kind == DECIBELS:
        own = 10 ** (own / 20)
        errors, unit = own * _PER_DECIBEL * errors, ""
    own, errors = record.scale * own, record.scale * errors
    values: npt.NDArray[Any] = own
    angle_errors = None
    if angle is not None:
        values = own * np.exp(1j * np.radians(_values(angle)[order]))
        angle_errors = _errors(angle)[order]
    elif kind:
        values = own.astype(complex)  # a magnitude, of which no phase is known
    return BenchCurve(
        record, formula, unit, axis, axis_unit, x, values, errors, angle_errors, common
    )


def _values(column: Column) -> Array:
    return np.asarray(column.values, float)


def _errors(column: Column) -> Array:
    if column.uncertainties:
        return np.asarray(column.uncertainties, float)
    return np.full(len(column.values), column.uncertainty or 0.0)
