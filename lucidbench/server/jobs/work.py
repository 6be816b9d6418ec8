"""What a process of its own carries out: a run, or the file of a result. Bytes in, bytes out."""

from __future__ import annotations

import pickle
import time
from collections.abc import Callable
from typing import Literal, NamedTuple

from pydantic import TypeAdapter

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, Run
from lucidbench.core.errors import DocumentError
from lucidbench.core.evaluate import tables
from lucidbench.core.evaluate.designed import DesignLook, designed
from lucidbench.core.evaluate.drawn import drawn_figures
from lucidbench.core.evaluate.exact_shapes import Exactness
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.explained import ExplanationLook, Question, explanation
from lucidbench.core.evaluate.ledgers import CaseLedger, ledgers
from lucidbench.core.evaluate.seek import Free, SeekLook, Target, sought
from lucidbench.core.evaluate.shapes import QuantityLook
from lucidbench.core.evaluate.worked_out import TurnLook, WorkingLook, working_of, your_turn
from lucidbench.core.runs import SECONDS, Result, as_csv, as_xlsx, present, solve
from lucidbench.core.runs.bench_overlay import as_it_was, beside
from lucidbench.core.working import How

# How far it has come, 0 to 1, or what is known so far: JSON.
Tell = Callable[[float | bytes], None]
EXPLAINED_WITHIN = 120.0  # s
WORKED_OUT_WITHIN = 20.0  # s
SOUGHT_WITHIN = 60.0  # s
_OFTEN = 0.2  # s between two states of an answer that grows
FileForm = Literal["csv", "xlsx"]


class Outcome(NamedTuple):
    """`answer` is what is told of it, JSON or a file; `result` the pickled Result of a run."""

    answer: bytes
    result: bytes = b""


class RunTask(NamedTuple):
    """Carry out the run of that id; its result shall be known by `mark`. Raises DocumentError where the
    exercise has no such run."""

    document: Exercise
    run: str
    mark: str
    own: Run | None = None
    case: str = ""

    def carry_out(self, tell: Tell) -> Outcome:
        run = self.own or _run_of(self.document, self.run)
        result = solve(self.document, run, Watch(SECONDS, tell), self.case)
        look = present(result)
        if look.problem:
            return Outcome(look.model_dump_json().encode())
        look.result = self.mark
        return Outcome(look.model_dump_json().encode(), pickle.dumps(result, 5))


class FiguresTask(NamedTuple):
    """What a run comes to everywhere in the circuit, `at` a place of its axis where it has one. Raises
    DocumentError where the exercise has no such run, or it gives nothing."""

    document: Exercise
    run: str
    at: float | None
    case: str = ""

    def carry_out(self, tell: Tell) -> Outcome:
        run = _run_of(self.document, self.run)
        result = solve(self.document, run, Watch(SECONDS, tell), self.case)
        if result.problem:
            raise DocumentError(result.problem)
        return Outcome(_figures.dump_json(drawn_figures(result, self.at)))


_figures = TypeAdapter(list[QuantityLook])


def _run_of(document: Exercise, identity: str) -> Run:
    run = next((run for run in document.runs if run.id == identity), None)
    if run is None:
        raise DocumentError(f"The exercise has no run {identity}.")
    return run


class LedgersTask(NamedTuple):
    """The ledgers of an exercise in several cases, as a file where a form is told."""

    document: Exercise
    cases: tuple[str, ...]
    form: FileForm | None = None

    def carry_out(self, tell: Tell) -> Outcome:
        found = ledgers(self.document, self.cases, tell)
        if self.form is None:
            return Outcome(_ledgers.dump_json(found))
        return Outcome(
            tables.as_csv(found).encode() if self.form == "csv" else tables.as_xlsx(found)
        )


_ledgers = TypeAdapter(list[CaseLedger])


class FileTask(NamedTuple):
    """A result's curves with all their points, and in a workbook its readings and tables, as a file."""

    result: bytes
    form: FileForm

    def carry_out(self, tell: Tell) -> Outcome:
        look = present(result_of(self.result), whole=True)
        return Outcome(as_csv(look).encode() if self.form == "csv" else as_xlsx(look))


class BesideTask(NamedTuple):
    """What the records of an exercise are beside a result of its run of that id, or of its `own`; of one
    of them, by id, `before` it was taken again too."""

    result: bytes
    document: Exercise
    run: str
    own: Run | None = None
    before: str = ""

    def carry_out(self, tell: Tell) -> Outcome:
        run = self.own or _run_of(self.document, self.run)
        earlier = [as_it_was(each) for each in self.document.records if each.id == self.before]
        look = beside(result_of(self.result), [*self.document.records, *earlier], run)
        return Outcome(look.model_dump_json().encode())


class ExplainTask(NamedTuple):
    """Why two voices differ; what is known so far is told as it grows. Raises LucidError where there is
    nothing to be explained."""

    document: Exercise
    question: Question

    def carry_out(self, tell: Tell) -> Outcome:
        last = 0.0

        def grows(so_far: ExplanationLook) -> None:
            nonlocal last
            now = time.monotonic()
            if now - last > _OFTEN:
                last = now
                tell(_explanation.dump_json(so_far))

        watch = Watch(EXPLAINED_WITHIN, tell)
        return Outcome(
            _explanation.dump_json(explanation(self.document, self.question, watch, grows))
        )


_explanation = TypeAdapter(ExplanationLook)


class ExactTask(NamedTuple):
    """Whether the figures by hand are the circuit's own, in a case."""

    document: Exercise
    case: str

    def carry_out(self, tell: Tell) -> Outcome:
        return Outcome(_exact.dump_json(exactness(self.document, self.case)))


_exact = TypeAdapter(list[Exactness])


class WorkingTask(NamedTuple):
    """How a figure comes about. Raises LucidError where it is none that can be worked out."""

    document: Exercise
    figure: str
    how: How
    case: str

    def carry_out(self, tell: Tell) -> Outcome:
        watch = Watch(WORKED_OUT_WITHIN, tell)
        return Outcome(
            _working.dump_json(working_of(self.document, self.figure, self.how, self.case, watch))
        )


_working = TypeAdapter(WorkingLook)


class TurnTask(NamedTuple):
    """Whether a line is the one of a step. Raises LucidError where it cannot be worked out."""

    document: Exercise
    figure: str
    how: How
    case: str
    way: str
    step: int
    text: str

    def carry_out(self, tell: Tell) -> Outcome:
        return Outcome(_turn.dump_json(your_turn(*self)))


_turn = TypeAdapter(TurnLook)


class DesignTask(NamedTuple):
    """What lines with a question mark come to, and preferred values near it."""

    document: Exercise
    case: str
    series: str
    pairs: bool

    def carry_out(self, tell: Tell) -> Outcome:
        return Outcome(_design.dump_json(designed(*self)))


_design = TypeAdapter(DesignLook)


class SeekTask(NamedTuple):
    """Values sought so that simulated figures are met. Raises DocumentError for what cannot be sought."""

    document: Exercise
    free: tuple[Free, ...]
    targets: tuple[Target, ...]
    case: str

    def carry_out(self, tell: Tell) -> Outcome:
        watch = Watch(SOUGHT_WITHIN, tell)
        found = sought(self.document, self.free, self.targets, self.case, watch)
        return Outcome(_seek.dump_json(found))


_seek = TypeAdapter(SeekLook)

Task = (
    RunTask
    | FiguresTask
    | FileTask
    | BesideTask
    | LedgersTask
    | ExplainTask
    | ExactTask
    | WorkingTask
    | TurnTask
    | DesignTask
    | SeekTask
)


def result_of(pickled: bytes) -> Result:
    """The result that a run of this server came to."""
    result = pickle.loads(pickled)
    assert isinstance(result, Result)
    return result
