"""Runs: carried out, looked at closer, marked, laid beside the bench, written as files."""

from __future__ import annotations

import pickle
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, Marker, Run
from lucidbench.core.errors import DocumentError
from lucidbench.core.evaluate.drawn import DrawnLook, drawn_figures
from lucidbench.core.readings.markers import Jump
from lucidbench.core.runs import (
    SECONDS,
    Result,
    RunLook,
    bench_overlay,
    present,
    solve,
)
from lucidbench.core.runs.bench_overlay import BesideLook, as_it_was, placed
from lucidbench.core.runs.files import EXPORTS, written
from lucidbench.core.runs.marks import MOST_MARKS, MarksLook, at_marks
from lucidbench.server.live.method import Given, ResultAsked, Sent, in_process, in_thread


class RunAsked(Sent):
    """Which of a document's runs to carry out, while a `case` is looked at; or `own`, one that it does not
    keep."""

    run: str
    own: Run | None = None
    case: str = ""


@in_process
def run(asked: RunAsked, given: Given) -> RunLook:
    """A run carried out: its curves, tables and readings. Its result is remembered for a while by the
    mark it is given. Raises DocumentError where the exercise has no such run."""
    chosen = asked.own or _run_of(given.document, asked.run)
    result = solve(given.document, chosen, Watch(SECONDS, given.tell), asked.case)
    look = present(result)
    if not look.problem:
        look.result = given.mark
        given.kept = pickle.dumps(result, 5)
    return look


def _run_of(document: Exercise, identity: str) -> Run:
    found = next((run for run in document.runs if run.id == identity), None)
    if found is None:
        raise DocumentError(f"The exercise has no run {identity}.")
    return found


class FiguresAsked(RunAsked):
    """Every voltage, current and power of the run; `at` a place of its axis, where it has one."""

    at: float | None = None


@in_process
def figures(asked: FiguresAsked, given: Given) -> DrawnLook:
    """Every voltage, current and power. Raises DocumentError where the run gives nothing."""
    chosen = _run_of(given.document, asked.run)
    result = solve(given.document, chosen, Watch(SECONDS, given.tell), asked.case)
    if result.problem:
        raise DocumentError(result.problem)
    return drawn_figures(result, asked.at)


def result_of(pickled: bytes) -> Result:
    """The result that a run of this server came to."""
    result = pickle.loads(pickled)
    assert isinstance(result, Result)
    return result


class WindowAsked(ResultAsked):
    """`window` is the part of the axis that is looked at."""

    window: tuple[float, float] | None = None


@in_thread
def closer(asked: WindowAsked, given: Given) -> RunLook:
    """A part of a remembered result with all its points; nothing is solved again."""
    look = present(result_of(given.result), window=asked.window)
    look.result = asked.result
    return look


class MarksAsked(Sent, ResultAsked):
    """What stands at markers, on the curves of a result and on the records of a document; with `jump`, the
    last goes on to the next place of that kind first."""

    marks: list[Marker] = Field(max_length=MOST_MARKS)
    jump: Jump | None = None


@in_thread
def marks(asked: MarksAsked, given: Given) -> MarksLook:
    """The figures at markers of a remembered result, and between them."""
    return at_marks(result_of(given.result), asked.marks, asked.jump, given.document.records)


class BesideAsked(Sent, ResultAsked):
    """What the records of a document are beside a remembered result of its `run`; with `before`, that
    record as it was before it was taken again too."""

    run: str
    before: str = ""
    own: Run | None = None


@in_process
def beside(asked: BesideAsked, given: Given) -> BesideLook:
    document = given.document
    chosen = asked.own or _run_of(document, asked.run)
    earlier = [as_it_was(each) for each in document.records if each.id == asked.before]
    return bench_overlay.beside(result_of(given.result), [*document.records, *earlier], chosen)


class LayAsked(Sent, ResultAsked):
    """Where to lay a record over a curve of a remembered result, and by which way."""

    record: str
    curve: str
    by: Literal["trigger", "fit", "fit and scale"]


class PlacedLook(BaseModel):
    """What is added to a record's abscissa, and what its values are taken times."""

    shift: float
    scale: float


@in_thread
def lay(asked: LayAsked, given: Given) -> PlacedLook:
    """Where a record belongs over a simulated curve."""
    record = next((r for r in given.document.records if r.id == asked.record), None)
    if record is None:
        raise DocumentError(f"The exercise has no record {asked.record}.")
    shift, scale = placed(result_of(given.result), record, asked.curve, asked.by)
    return PlacedLook(shift=shift, scale=scale)


class FileAsked(ResultAsked):
    """A result's curves with all their points, as a file."""

    form: Annotated[str, Field(max_length=20)]


@in_process
def file(asked: FileAsked, given: Given) -> bytes:
    """The curves with all their points. Raises DocumentError for an unknown form."""
    return written(EXPORTS, asked.form, present(result_of(given.result), whole=True))
