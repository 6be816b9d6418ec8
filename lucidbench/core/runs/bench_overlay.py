"""What the bench says beside a run: its records on the run's axis, read off like its curves, and the gap."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from typing import Literal

import numpy as np
from pydantic import BaseModel

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Record, Run
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import parse
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.registry import ReadingKind, symbol_of
from lucidbench.core.records.alignment import shift_by_fit, shift_by_trigger
from lucidbench.core.records.curves import BenchCurve, axis_of, bench_curves
from lucidbench.core.records.gap import Gap, gap_between, in_words, verdict_of
from lucidbench.core.records.uncertain import reading_of
from lucidbench.core.runs.decimate import thinned
from lucidbench.core.runs.looks import FigureLook
from lucidbench.core.runs.result import Result
from lucidbench.core.runs.traces import Traces
from lucidbench.core.tolerance import intervals_of
from lucidbench.core.units import engineering, parse_value

TOLERANCE_SECONDS = 1.0  # that the band of the tolerances may take
_UNREADABLE = (NoReading, ValueError, LucidError)


class BenchCurveLook(BaseModel):
    """`y` at `x`, of phasors the magnitude with its `phase` [°]; `errors` are expanded uncertainties."""

    record: str
    name: str
    text: str
    unit: str
    x: list[float]
    y: list[float]
    errors: list[float]
    phase: list[float] | None = None
    phase_errors: list[float] | None = None
    readings: list[FigureLook] = []


class GapLook(BaseModel):
    """Bench `less` simulated at `x`, and half the width of the band `allowed`; of phases likewise [°].
    Each is judged by how many of the `count` points are within its band."""

    record: str
    text: str
    unit: str
    x: list[float]
    less: list[float]
    allowed: list[float]
    angle: list[float] | None = None
    angle_allowed: list[float] | None = None
    inside: int
    count: int
    verdict: Literal["agree", "near", "gap"]
    sentence: str
    angle_inside: int | None = None
    angle_verdict: Literal["agree", "near", "gap"] | None = None
    angle_sentence: str | None = None
    by_tolerances: bool = True


class OfferedRecord(BaseModel):
    """A record that fits the axis of the run, shown or not."""

    id: str
    name: str
    shown: bool
    shift: float
    scale: float


class BesideLook(BaseModel):
    curves: list[BenchCurveLook] = []
    gaps: list[GapLook] = []
    offered: list[OfferedRecord] = []
    problems: list[str] = []


def fits(record: Record, result: Result) -> bool:
    """Whether a record is over the axis of a run, and of the case that the run is of."""
    traces = result.members[0].solution.traces if result.members else None
    if traces is None or axis_of(record) != (traces.axis, traces.unit):
        return False
    return record.case == result.case


def as_it_was(record: Record) -> Record:
    """A record as it was before it was taken again last, as one beside it."""
    columns = record.earlier[0] if record.earlier else []
    told = {"id": f"{record.id} before", "name": f"{record.name}, before", "columns": columns}
    return record.model_copy(update=told)


def beside(result: Result, records: Sequence[Record], run: Run) -> BesideLook:
    """Never raises for what a record holds."""
    look = BesideLook()
    if result.problem or not result.members or result.analysis is None:
        return look
    traces = result.members[0].solution.traces
    if traces is None:
        return look
    moved: list[Traces] | None = None
    for record in records:
        if not fits(record, result):
            continue
        shown = record.id not in run.without
        look.offered.append(
            OfferedRecord(id=record.id, name=record.name, shown=shown, shift=record.shift, scale=record.scale)
        )  # fmt: skip
        if not shown:
            continue
        try:
            curves = bench_curves(record)
        except LucidError as error:
            look.problems.append(str(error))
            continue
        if moved is None and curves:
            moved, is_whole = _moved(result)
        for curve in curves:
            look.curves.append(_look(curve, result.analysis.readings, run.reads))
            try:
                look.gaps += _gap(curve, result, traces, moved or [], is_whole)
            except LucidError as error:
                look.problems.append(f"{record.name}: {error}")
    return look


def simulated_curve(result: Result, formula: str) -> Curve:
    """Of the first member. Raises LucidError where the run knows no such thing."""
    traces = result.members[0].solution.traces
    if traces is None:
        raise LucidError("The run has no curves.")
    return traces.curve(parse(formula), formula, result.values)


def placed(
    result: Result, record: Record, formula: str, by: Literal["trigger", "fit", "fit and scale"]
) -> tuple[float, float]:
    """(shift, scale) for a record over a simulated curve. Raises LucidError where it cannot be laid so."""
    simulated = simulated_curve(result, formula)
    channels = bench_curves(record)
    curve = next((c for c in channels if c.formula == formula), None)
    if curve is None:
        raise LucidError(f"The record {record.name} has no {formula}.")
    if by != "trigger":
        return shift_by_fit(simulated, curve, with_scale=by == "fit and scale")
    settings = record.recipe.settings if record.recipe else {}
    if record.trigger is None or "level" not in settings:
        raise LucidError(f"Of the record {record.name} nobody knows by what it was triggered.")
    number = parse_value(settings["level"], "V").number
    triggering = simulated
    rises = settings.get("slope", "rising") != "falling"
    k = int(settings.get("trigger") or "1") - 1
    if k < len(channels):
        triggering = simulated_curve(result, channels[k].formula)
    return shift_by_trigger(triggering, number, rises, record.trigger), record.scale


def _look(of: BenchCurve, kinds: Sequence[ReadingKind], asked: Sequence[str]) -> BenchCurveLook:
    is_complex = np.iscomplexobj(of.values)
    size = np.abs(of.values) if is_complex else of.values
    kept = thinned([size], len(size))
    look = BenchCurveLook(
        record=of.record.id, name=of.record.name, text=of.formula, unit=of.unit,
        x=of.x[kept].tolist(), y=size[kept].tolist(), errors=of.errors[kept].tolist(),
        readings=list(readings_of(of, kinds, asked)),
    )  # fmt: skip
    if of.angle_errors is not None:
        look.phase = np.degrees(np.unwrap(np.angle(of.values)))[kept].tolist()
        look.phase_errors = of.angle_errors[kept].tolist()
    return look


def readings_of(
    of: BenchCurve, kinds: Sequence[ReadingKind], asked: Sequence[str]
) -> Iterator[FigureLook]:
    """What can be read off, with its uncertainty; what it has none of is left out."""
    curve = of.curve
    for kind in kinds:
        if kind.by_itself is None and kind.key not in asked:
            continue
        try:
            if kind.by_itself is not None and not kind.by_itself(curve):
                continue
            value, unit, uncertainty = reading_of(of, kind)
            at = kind.where(curve) if kind.where else None
        except _UNREADABLE:
            continue
        if np.isfinite(value):
            known = np.isfinite(uncertainty) and uncertainty > 0
            spread = f"±\u00a0{engineering(uncertainty, unit, 2)}" if known else None
            yield FigureLook(
                key=kind.key, label=kind.label, text=engineering(value, unit),
                exact=engineering(value, unit, 9), value=value, unit=unit,
                symbol=symbol_of(kind, unit), at=at, spread=spread,
                uncertainty=uncertainty if known else None,
            )  # fmt: skip


def _gap(
    of: BenchCurve, result: Result, traces: Traces, moved: Sequence[Traces], is_whole: bool
) -> Iterator[GapLook]:
    formula = parse(of.formula)
    simulated = traces.curve(formula, of.formula, result.values)
    others = [each.curve(formula, of.formula, result.values) for each in moved]
    gap = gap_between(of, simulated, others)
    if gap is None:
        return
    sizes = [gap.less] if gap.angle is None else [gap.less, gap.angle]
    kept = thinned(sizes, len(gap.x))
    yield _gap_look(of, gap, kept, is_whole)


def _gap_look(of: BenchCurve, gap: Gap, kept: np.ndarray, is_whole: bool) -> GapLook:
    look = GapLook(
        record=of.record.id, text=of.formula, unit=of.unit, x=gap.x[kept].tolist(),
        less=gap.less[kept].tolist(), allowed=gap.allowed[kept].tolist(),
        inside=int(np.count_nonzero(gap.inside)), count=len(gap.x),
        verdict=verdict_of(gap.inside), sentence=in_words(gap.x, gap.inside, of.axis_unit),
        by_tolerances=is_whole,
    )  # fmt: skip
    within = gap.angle_inside
    if within is not None and gap.angle is not None and gap.angle_allowed is not None:
        look.angle_inside = int(np.count_nonzero(within))
        look.angle_verdict = verdict_of(within)
        look.angle_sentence = in_words(gap.x, within, of.axis_unit)
        look.angle = gap.angle[kept].tolist()
        look.angle_allowed = gap.angle_allowed[kept].tolist()
    return look


def _moved(result: Result) -> tuple[list[Traces], bool]:
    """The run with one toleranced value after the other at the end of its interval, and whether that
    could be done for all of them in the time it may take."""
    circuit, analysis = result.circuit, result.analysis
    assert analysis is not None
    if result.members[0].role != "alone":
        return [], False
    until = time.thread_time() + TOLERANCE_SECONDS
    found: list[Traces] = []
    for each in intervals_of(circuit):
        left = until - time.thread_time()
        if left <= 0:
            return [], False
        try:
            traces = analysis.solve(
                each.put(circuit, 1), result.settings, Watch(left, clock=time.thread_time)
            ).traces
        except LucidError:
            return [], False
        if traces is not None:
            found.append(traces)
    return found, True
