"""What a process of its own carries out: a run, or the file of a result. Bytes in, bytes out."""

from __future__ import annotations

import pickle
from collections.abc import Callable
from typing import Literal, NamedTuple

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import DocumentError
from lucidbench.core.runs import SECONDS, Result, as_csv, as_xlsx, present, solve

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

    def carry_out(self, tell: Tell) -> Outcome:
        run = next((run for run in self.document.runs if run.id == self.run), None)
        if run is None:
            raise DocumentError(f"The exercise has no run {self.run}.")
        result = solve(self.document, run, Watch(SECONDS, tell))
        look = present(result)
        if look.problem:
            return Outcome(look.model_dump_json().encode())
        look.result = self.mark
        return Outcome(look.model_dump_json().encode(), pickle.dumps(result, 5))


class FileTask(NamedTuple):
    """A result's curves with all their points, and in a workbook its readings and tables, as a file."""

    result: bytes
    form: FileForm

    def carry_out(self, tell: Tell) -> Outcome:
        look = present(result_of(self.result), whole=True)
        return Outcome(as_csv(look).encode() if self.form == "csv" else as_xlsx(look))


Task = RunTask | FileTask


def result_of(pickled: bytes) -> Result:
    """The result that a run of this server came to."""
    result = pickle.loads(pickled)
    assert isinstance(result, Result)
    return result
