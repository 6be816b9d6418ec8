"""What a page asks on its line."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from lucidbench.core.document.exercise import Exercise, Marker
from lucidbench.core.document.patch import Change
from lucidbench.core.document.rename import Renaming
from lucidbench.core.readings.markers import Jump
from lucidbench.core.runs.marks import MOST_MARKS


class Sent(BaseModel):
    """A document, whole or by what is changed since the look marked `since`."""

    document: Exercise | None = None
    since: str = ""
    changes: list[Change] = Field(default=[], max_length=1_000)


class LookAsked(Sent):
    """With `inside`, of the block of that id; unless `compared`, without tolerances and ledger."""

    inside: str = ""
    compared: bool = True


class RunAsked(Sent):
    """Which of a document's runs to carry out."""

    run: str


class FiguresAsked(RunAsked):
    """What the run comes to all over the circuit; `at` a place of its axis, where it has one."""

    at: float | None = None


class ResultAsked(BaseModel):
    """A result, by the mark it is remembered by."""

    result: str


class WindowAsked(ResultAsked):
    """`window` is the part of the axis that is looked at."""

    window: tuple[float, float] | None = None


class MarksAsked(ResultAsked):
    """What stands at markers; with `jump`, the last goes on to the next place of that kind first."""

    marks: list[Marker] = Field(max_length=MOST_MARKS)
    jump: Jump | None = None


class FileAsked(ResultAsked):
    """A result's curves with all their points, as a file."""

    form: Literal["csv", "xlsx"]


class RenameAsked(Sent):
    """What in the document shall be called otherwise."""

    renamings: list[Renaming] = Field(max_length=1_000)


class Ping(BaseModel):
    """Whether the line still is one; there and back."""
