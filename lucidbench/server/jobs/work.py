"""What a process of its own carries out: a run, or the file of a result. Bytes in, bytes out."""

from __future__ import annotations

import pickle
from collections.abc import Callable
from typing import Literal, NamedTuple

from pydantic import TypeAdapter

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, Run
from lucidbench.core.errors import DocumentError
from lucidbench.core.evaluate import tables
from lucidbench.core.evaluate.drawn import drawn_figures
from lucidbench.core.evaluate.ledgers import CaseLedger, ledgers
from lucidbench.core.evaluate.shapes import QuantityLook
from lucidbench.core.runs import SECONDS, Result, as_csv, as_xlsx, present, solve
from lucidbench.core.runs.beside import as_it_was, beside

Tell = Callable[[float], None]
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


Task = RunTask | FiguresTask | FileTask | BesideTask | LedgersTask


def result_of(pickled: bytes) -> Result:
    """The result that a run of this server came to."""
    result = pickle.loads(pickled)
    assert isinstance(result, Result)
    return result
