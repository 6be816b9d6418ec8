"""What stands at the markers of a run and between them, of the very result that is drawn."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from pydantic import BaseModel, Field

from lucidbench.core.document.exercise import Marker, Record
from lucidbench.core.errors import LucidError
from lucidbench.core.formula.functions import RECORDED
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.markers import Jump, Mark, between, next_place
from lucidbench.core.records.curves import bench_curves
from lucidbench.core.runs.bench_overlay import fits
from lucidbench.core.runs.kinds.rates import source_period
from lucidbench.core.runs.looks import FigureLook
from lucidbench.core.runs.present import to_show
from lucidbench.core.runs.result import Member, Result
from lucidbench.core.runs.traces import shown_formula
from lucidbench.core.units import engineering

MOST_MARKS = 2
_DIGITS = 5


class ValueAtMark(BaseModel):
    """Of one curve at each marker: its value, of a phasor the magnitude, with the `phases` [°]."""

    text: str
    member: str
    values: list[float | None]
    phases: list[float | None] | None = None


class MarksLook(BaseModel):
    """`marks` are where they stand, after a jump where one was asked for; or the `problem` with it."""

    marks: list[Marker] = Field(max_length=MOST_MARKS)
    values: list[ValueAtMark] = []
    between: list[FigureLook] = []
    problem: str | None = None


def at_marks(
    result: Result,
    marks: Sequence[Marker],
    jump: Jump | None = None,
    records: Sequence[Record] = (),
) -> MarksLook:
    """The figures at markers, the last of which goes on to the next place of a kind where it shall.

    A marker may stand on what was measured too: on the curve "bench(V_out)", whose member is the record.

    Raises LucidError where there is no curve that a marker could stand on.
    """
    drawn = {**_drawn(result), **_measured(result, records)}
    placed = [_placed(drawn, mark) for mark in marks]
    look = MarksLook(marks=list(marks))
    if jump and placed:
        try:
            last = placed[-1]
            placed[-1] = Mark(last.curve, next_place(last.curve, jump, last.at))
        except NoReading as reason:
            look.problem = str(reason)
    look.marks = [m.model_copy(update={"at": p.at}) for m, p in zip(marks, placed, strict=True)]
    at = np.array([mark.at for mark in placed])
    for (text, member), curve in drawn.items():
        values = np.asarray(curve.at(at)) if len(at) else np.zeros(0)
        look.values.append(
            ValueAtMark(
                text=text,
                member=member,
                values=_told(np.abs(values) if np.iscomplexobj(values) else values),
                phases=_told(np.degrees(np.angle(values))) if np.iscomplexobj(values) else None,
            )
        )
    if len(placed) == MOST_MARKS:
        a, b = placed
        period = source_period(result.circuit)
        look.between = [
            FigureLook(
                key=symbol, label=words, text=engineering(float(figure), figure.unit, _DIGITS),
                exact=engineering(float(figure), figure.unit, 9), value=float(figure),
                unit=figure.unit, symbol=symbol,
            )
            for symbol, words, figure in between(a, b, period)
            if np.isfinite(figure)
        ]  # fmt: skip
    return look


def _drawn(result: Result) -> dict[tuple[str, str], Curve]:
    """Every curve of a result, by its formula and the key of its member."""
    found: dict[tuple[str, str], Curve] = {}
    for text in to_show(result):
        for member in result.members:
            if member.role == "build" or member.solution.traces is None:
                continue
            try:
                curve = member.solution.traces.curve(shown_formula(text), text, result.values)
            except LucidError:
                continue
            found[text, _key(member)] = curve
    return found


def _measured(result: Result, records: Sequence[Record]) -> dict[tuple[str, str], Curve]:
    """Every curve of the records that fit the axis of a result, by what it is called and its record."""
    found: dict[tuple[str, str], Curve] = {}
    for record in records:
        if fits(record, result):
            with contextlib.suppress(LucidError):  # said where the record is looked at
                for of in bench_curves(record):
                    name = f"{RECORDED}({of.formula})"
                    found[name, record.id] = replace(of.curve, name=name)
    return found


def _key(member: Member) -> str:
    return "" if member.role == "alone" else member.key


def _placed(drawn: dict[tuple[str, str], Curve], mark: Marker) -> Mark:
    """On the curve it belongs to, or where that is gone on the first; within the axis."""
    curve = drawn.get((mark.curve, mark.member)) or next(iter(drawn.values()), None)
    if curve is None:
        raise LucidError("There is no curve to stand on.")
    return Mark(curve, float(np.clip(mark.at, curve.grid[0], curve.grid[-1])))


def _told(values: np.ndarray) -> list[float | None]:
    return [float(v) if np.isfinite(v) else None for v in values]
