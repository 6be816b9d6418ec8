"""Curves judged like figures, in one case: a record beside the run that shows the same, and a curve by hand,
"V_out = V1*(1 - exp(-t/(R1*C1)))", beside both."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import Watch
from lucidbench.core.comparison.verdict import AGREES_WITHIN
from lucidbench.core.document.exercise import Exercise, Record, Run
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known, parse
from lucidbench.core.records.curves import axis_of, bench_curves
from lucidbench.core.records.gap import gap_between, in_words, verdict_of
from lucidbench.core.runs import Result, case_of_run, solve
from lucidbench.core.runs.bench_overlay import GapLook, beside
from lucidbench.core.runs.traces import shown_formula
from lucidbench.core.tolerance import intervals_of
from lucidbench.core.units import engineering

Array = npt.NDArray[np.float64]
Part = Literal["", "magnitude", "phase"]
_ANALYSES = {"t": "transient", "f": "frequency_sweep"}
_ANGLE = 1.0  # [°] that a phase by hand may be off, as 1 % of a magnitude
_UNREADABLE = (LucidError, ValueError)
_BARE = ("abs(", "arg(", "dB(")


@dataclass(frozen=True, slots=True)
class CurveVerdict:
    """`voices` are the two that are compared, `part` what is judged of phasors; `inside` of `count` points
    are within what tolerances and uncertainties allow, or of hand beside simulated, within 1 % (three-figure
    working; common practice, no published source). `laid` says how a record in time was moved."""

    voices: Literal["bench − simulated", "simulated − hand", "bench − hand"]
    record: str
    name: str
    run: str
    run_name: str
    quantity: str
    part: Part
    inside: int
    count: int
    verdict: Literal["agree", "near", "gap"]
    sentence: str
    laid: str


def judged_curves(exercise: Exercise, case: str, seconds: float) -> Iterator[CurveVerdict]:
    """Never raises for what a record or a run holds; a run may take so many `seconds`."""
    records = [record for record in exercise.records if record.case == case]
    seen: set[tuple[str, str]] = set()
    for run in exercise.runs:
        own = [record for record in records if _belongs(record, run)]
        by_hand = [text for text in run.show if "=" in text]
        if not (own or by_hand) or case_of_run(run, case) != case:
            continue
        result = solve(exercise, run, Watch(seconds), case)
        if result.problem or not result.members:
            continue
        for gap in beside(result, own, run).gaps:
            if gap.text in run.show and (gap.record, gap.text) not in seen:
                seen.add((gap.record, gap.text))
                record = next(each for each in own if each.id == gap.record)
                yield from _of_record(record, run, gap)
        for text in by_hand:
            with contextlib.suppress(*_UNREADABLE):  # said where the run is shown
                yield from _of_hand(text, result, run, own)


def _of_record(record: Record, run: Run, gap: GapLook) -> Iterator[CurveVerdict]:
    told = partial(
        CurveVerdict, "bench − simulated", record.id, record.name, run.id, run.name, gap.text
    )
    laid = _laid(record)
    part: Part = "" if gap.angle_sentence is None else "magnitude"
    yield told(part, gap.inside, gap.count, gap.verdict, gap.sentence, laid)
    if gap.angle_verdict and gap.angle_inside is not None and gap.angle_sentence:
        yield told(
            "phase", gap.angle_inside, gap.count, gap.angle_verdict, gap.angle_sentence, laid
        )


def _of_hand(text: str, result: Result, run: Run, records: list[Record]) -> Iterator[CurveVerdict]:
    """A curve by hand beside the simulated one, and beside what was measured. Raises LucidError."""
    traces = result.members[0].solution.traces
    quantity = text.partition("=")[0].strip()
    if traces is None:
        return
    hand = traces.curve(shown_formula(text), text, result.values)
    simulated = traces.curve(parse(quantity), quantity, result.values)
    x = np.asarray(hand.grid)
    drawn, told = np.asarray(hand.at(x)), np.asarray(simulated.at(x))
    known = np.isfinite(drawn) & np.isfinite(told)
    by_hand = partial(CurveVerdict, "simulated − hand", "", "", run.id, run.name, quantity)
    yield from _close(x[known], traces.unit, told[known], drawn[known], by_hand)
    moved = [traces.curve(shown_formula(text), text, values) for values in _moved(result)]
    for record in records:
        for of in bench_curves(record):
            gap = gap_between(of, hand, moved) if of.formula == quantity else None
            if gap is not None:
                named = (record.id, record.name, run.id, run.name, quantity)
                told_by = partial(CurveVerdict, "bench − hand", *named)
                parts: list[tuple[Part, npt.NDArray[np.bool_]]] = [("", gap.inside)]
                if gap.angle_inside is not None:
                    parts = [("magnitude", gap.inside), ("phase", gap.angle_inside)]
                yield from _verdicts(parts, gap.x, traces.unit, told_by, _laid(record))


def _moved(result: Result) -> Iterator[dict[str, Known]]:
    """What names stand for, one toleranced part after the other at the end of its interval."""
    for each in intervals_of(result.circuit):
        known = result.values.get(each.source)
        if known is not None:
            moved = replace(known, value=known.value * (1 + each.half_width))
            yield {**result.values, each.source: moved}


def _close(
    x: Array, unit: str, simulated: npt.NDArray[Any], hand: npt.NDArray[Any],
    told: Callable[..., CurveVerdict],
) -> Iterator[CurveVerdict]:  # fmt: skip
    """Whether two curves are close: over time beside the largest of them, a phasor beside its own size."""
    has_phases = np.iscomplexobj(simulated) and np.iscomplexobj(hand)
    size = np.abs if np.iscomplexobj(simulated) or np.iscomplexobj(hand) else np.real
    scale = np.abs(hand) if has_phases else np.max(np.abs(hand), initial=0.0)
    inside = np.abs(size(simulated) - size(hand)) <= AGREES_WITHIN * scale
    parts: list[tuple[Part, npt.NDArray[np.bool_]]] = [("magnitude" if has_phases else "", inside)]
    if has_phases:
        turned = np.abs(np.degrees(np.angle(simulated / hand)))
        parts.append(("phase", turned <= _ANGLE))
    yield from _verdicts(parts, x, unit, told, "")


def _verdicts(
    parts: list[tuple[Part, npt.NDArray[np.bool_]]], x: Array, unit: str,
    told: Callable[..., CurveVerdict], laid: str,
) -> Iterator[CurveVerdict]:  # fmt: skip
    for part, within in parts:
        count = int(np.count_nonzero(within))
        sentence = in_words(x, within, unit)
        yield told(part, count, len(within), verdict_of(within), sentence, laid)


def run_of_record(exercise: Exercise, record: Record, wanted: str = "") -> Run | None:
    """The run that shows what a record is of: the one `wanted` by its id if it does, else the first."""
    runs = [run for run in exercise.runs if _belongs(record, run)]
    return next((run for run in runs if run.id == wanted), runs[0] if runs else None)


def _belongs(record: Record, run: Run) -> bool:
    """Whether a run is of the record's kind, shows something of it and does not leave it away."""
    axis, _ = axis_of(record)
    shown = {_formula(column.quantity) for column in record.columns[1:]}
    return (
        run.analysis == _ANALYSES.get(axis, "dc_sweep")
        and record.id not in run.without
        and bool(shown & set(run.show))
    )


def _formula(quantity: str) -> str:
    return quantity[quantity.index("(") + 1 : -1] if quantity.startswith(_BARE) else quantity


def _laid(record: Record) -> str:
    if not record.shift:
        return ""
    words = f"moved by {engineering(record.shift, 's', 3)}"
    return f"{words}, taken {record.scale:.4g} times" if record.scale != 1 else words
