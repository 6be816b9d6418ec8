"""What a page asks on its line."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from lucidbench.core.document.exercise import Exercise, Marker, Recipe, Run
from lucidbench.core.document.patch import Change
from lucidbench.core.document.rename import Renaming
from lucidbench.core.evaluate.explained import Voices
from lucidbench.core.evaluate.seek import MOST_SOUGHT, Free, Target
from lucidbench.core.readings.markers import Jump
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.marks import MOST_MARKS
from lucidbench.core.working import How

Series = Literal["E6", "E12", "E24", "E48", "E96"]


class Sent(BaseModel):
    """A document, whole or by what is changed since the look marked `since`."""

    document: Exercise | None = None
    since: str = ""
    changes: list[Change] = Field(default=[], max_length=1_000)


class LookAsked(Sent):
    """With `inside`, of the block of that id; unless `compared`, without tolerances and ledger; all of it
    in a `case`."""

    inside: str = ""
    compared: bool = True
    case: str = ""


class RunAsked(Sent):
    """Which of a document's runs to carry out, while a `case` is looked at; or `own`, one that it does not
    keep."""

    run: str
    own: Run | None = None
    case: str = ""


class LedgersAsked(Sent):
    """The ledgers of these `cases`, whatever they take."""

    cases: list[str] = Field(max_length=41)


class ExactAsked(Sent):
    """Whether the figures by hand of a `case` are the circuit's own."""

    case: str = ""


class WorkingAsked(Sent):
    """How a `figure` (V_out, I_R1, V_a - V_b) comes about, `how` it is meant, in a `case`."""

    figure: Annotated[str, Field(min_length=1, max_length=140)]
    how: How = "rest"
    case: str = ""


class TurnAsked(WorkingAsked):
    """Whether a line says the same as the `step` of a `way`."""

    way: Annotated[str, Field(max_length=40)]
    step: int
    text: Annotated[str, Field(max_length=500)]


class DesignAsked(Sent):
    """What the lines with a question mark come to in a `case`, and which values of a `series` are near;
    with `pairs`, two in series or in parallel too."""

    case: str = ""
    series: Series = "E24"
    pairs: bool = False


class SeekAsked(Sent):
    """Which values of `free` parts make simulated figures what the `targets` say, in a `case`."""

    case: str = ""
    free: list[Free] = Field(max_length=MOST_SOUGHT)
    targets: list[Target] = Field(max_length=MOST_SOUGHT)


class ExplainAsked(Sent):
    """Why two `voices` differ: the bench and the simulation in all that was measured but what is `left` away,
    records by the `run` meant; or of a hand figure, its `row` in a `case`. `without` are causes that were
    ruled out, "cause part"."""

    voices: Voices = "bench-simulated"
    row: Annotated[str, Field(max_length=64)] = ""
    case: str = ""
    run: str = ""
    left: list[str] = Field(default=[], max_length=600)
    without: list[str] = Field(default=[], max_length=200)


class FiguresAsked(RunAsked):
    """What the run comes to all over the circuit; `at` a place of its axis, where it has one."""

    at: float | None = None


class ResultAsked(BaseModel):
    """A result, by the mark it is remembered by."""

    result: str


class WindowAsked(ResultAsked):
    """`window` is the part of the axis that is looked at."""

    window: tuple[float, float] | None = None


class LedgerFileAsked(LedgersAsked):
    """The same as a file."""

    form: Literal["csv", "xlsx"]


class MarksAsked(Sent, ResultAsked):
    """What stands at markers, on the curves of a result and on the records of a document; with `jump`, the
    last goes on to the next place of that kind first."""

    marks: list[Marker] = Field(max_length=MOST_MARKS)
    jump: Jump | None = None


class FileAsked(ResultAsked):
    """A result's curves with all their points, as a file."""

    form: Literal["csv", "xlsx"]


class RenameAsked(Sent):
    """What in the document shall be called otherwise."""

    renamings: list[Renaming] = Field(max_length=1_000)


class CaseAsked(Sent):
    """What a case that was typed changes."""

    text: str = Field(max_length=300)


class BesideAsked(Sent, ResultAsked):
    """What the records of a document are beside a remembered result of its `run`; with `before`, that
    record as it was before it was taken again too."""

    run: str
    before: str = ""
    own: Run | None = None


class MeasureAsked(Sent):
    """What to measure, in which `case`, and on which bench."""

    recipe: Recipe
    case: str = ""


class TakeAsked(MeasureAsked):
    """One point of it, `at` a place of its abscissa."""

    at: float = 0.0


class LayAsked(Sent, ResultAsked):
    """Where to lay a record over a curve of a remembered result, and by which way."""

    record: str
    curve: str
    by: Literal["trigger", "fit", "fit and scale"]


class SealAsked(Sent):
    """A build to be sealed, or opened again, with a word."""

    word: Annotated[str, Field(min_length=1, max_length=200)]


class LeadLook(BaseModel):
    role: str
    node: str
    part: str
    pin: int
    words: str


class PlanLook(BaseModel):
    """What a recipe comes to: its settings as they are understood, where leads go, and the abscissas."""

    settings: list[SettingLook]
    leads: list[LeadLook]
    points: list[float]
    problem: str | None
    benches: list[str]
    conditions: str


class TakenColumn(BaseModel):
    """What one point gives of a quantity; `text` is a lone value with its uncertainty, written out."""

    quantity: str
    unit: str
    values: list[float]
    uncertainties: list[float]
    common: float
    text: str = ""


class TakenLook(BaseModel):
    columns: list[TakenColumn]
    trigger: float | None
    note: str
    taken: str


class PlacedLook(BaseModel):
    """What is added to a record's abscissa, and what its values are taken times."""

    shift: float
    scale: float


class Ping(BaseModel):
    """Whether the line still is one; there and back."""
