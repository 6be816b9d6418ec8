"""Curves judged like figures: each record beside the run that shows the same, in one case."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, Record, Run
from lucidbench.core.records.curves import axis_of
from lucidbench.core.runs import case_of_run, solve
from lucidbench.core.runs.beside import beside
from lucidbench.core.units import engineering

_ANALYSES = {"t": "transient", "f": "frequency_sweep"}
_BARE = ("abs(", "arg(", "dB(")


@dataclass(frozen=True, slots=True)
class CurveVerdict:
    """`part` is what is judged of phasors; `inside` of `count` points are within what tolerances and
    uncertainties allow. `laid` says how a record in time was moved."""

    record: str
    name: str
    run: str
    run_name: str
    quantity: str
    part: Literal["", "magnitude", "phase"]
    inside: int
    count: int
    verdict: Literal["agree", "near", "gap"]
    sentence: str
    laid: str


def judged_curves(exercise: Exercise, case: str, seconds: float) -> Iterator[CurveVerdict]:
    """Never raises for what a record or a run holds; a run may take so many `seconds`."""
    names = {record.id: record for record in exercise.records if record.case == case}
    seen: set[tuple[str, str]] = set()
    for run in exercise.runs:
        own = [record for record in names.values() if _belongs(record, run)]
        if not own or case_of_run(run, case) != case:
            continue
        result = solve(exercise, run, Watch(seconds), case)
        for gap in beside(result, own, run).gaps:
            if gap.text not in run.show or (gap.record, gap.text) in seen:
                continue
            seen.add((gap.record, gap.text))
            record = names[gap.record]
            told = (gap.record, record.name, run.id, run.name, gap.text)
            laid = _laid(record)
            size: Literal["", "magnitude"] = "" if gap.angle_sentence is None else "magnitude"
            yield CurveVerdict(*told, size, gap.inside, gap.count, gap.verdict, gap.sentence, laid)
            if gap.angle_verdict and gap.angle_inside is not None and gap.angle_sentence:
                yield CurveVerdict(
                    *told, "phase", gap.angle_inside, gap.count, gap.angle_verdict,
                    gap.angle_sentence, laid,
                )  # fmt: skip


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
