"""The exercise: what is drawn, worked out by hand, run and read on the bench, as one open document.

The file form is JSON; `lucid schema` prints its schema. A document of an older
version is migrated on reading, one of a later version is refused, and unknown fields are kept.
"""

from __future__ import annotations

import json
import re
from typing import Annotated, Any, Final, Literal

from pydantic import Field, ValidationError, model_validator

from lucidbench.core.document.figure import Figure, Line, Reference
from lucidbench.core.document.migrations import migrated
from lucidbench.core.errors import DocumentError
from lucidbench.core.schematic.document import (
    Block,
    Identifier,
    NamedValue,
    OpenModel,
    Schematic,
    ShortText,
    ValueText,
)

FORMAT: Final = "lucid-bench-exercise"
VERSION: Final = 3
LARGEST_DOCUMENT = 5_000_000  # bytes
# What formulas can call by name: circuit parameters, rows of the ledger.
NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]*")
NAME_RULE = "a name begins with a letter; letters, digits and _ may follow"
MOST_LINES = 200
MOST_RUNS = 40
MOST_SAMPLES = 100_000  # of one column of a record

Finite = Annotated[float, Field(allow_inf_nan=False)]


class CaseChange(OpenModel):
    """One thing in which a case differs from the circuit drawn: a part, by id, that is left `open`,
    `short`ed, or has other `values`, `kind` and `form`; or a circuit parameter, by id, with another
    `text`."""

    part: Reference = ""
    does: Literal["open", "short", "replace"] = "replace"
    kind: ShortText = ""
    form: ShortText = ""
    values: dict[ShortText, ValueText] = Field(default={}, max_length=64)
    parameter: Reference = ""
    text: Annotated[str, Field(max_length=200)] = ""


class Case(OpenModel):
    """A named variant of the circuit drawn."""

    id: Identifier
    name: Annotated[str, Field(max_length=120)] = ""
    changes: list[CaseChange] = Field(default=[], max_length=200)


class HandLine(OpenModel):
    """A line of working in the formula language: of a `case`, or where that is None of all of them, and
    `about` the circuit at rest, its phasors, or a curve over frequency or time; None where that follows from
    the line and the circuit. A heading or a sentence stands between, and is worked out by nobody."""

    id: Identifier
    text: Line
    case: Reference | None = None
    role: Literal["line", "heading", "sentence"] = "line"
    about: Literal["rest", "phasor", "frequency", "time"] | None = None


class Measurement(OpenModel):
    """A reading as it was written down: `2.61 V ± 0.02 V`, of which figure, and how it was taken."""

    id: Identifier
    figure: Figure
    text: ShortText
    note: Annotated[str, Field(max_length=200)] = ""
    recipe: Recipe | None = None


class Column(OpenModel):
    """One column of a record: what it is of, a formula; `uncertainty` is the expanded one (k = 2) of
    every value, `uncertainties` those of each where they differ; `common` is the share of the value by
    which all of them may be off together, expanded too."""

    quantity: Line
    unit: Annotated[str, Field(max_length=20)] = ""
    values: list[Finite] = Field(default=[], max_length=MOST_SAMPLES)
    uncertainty: Annotated[float, Field(ge=0, allow_inf_nan=False)] | None = None
    uncertainties: list[Finite] = Field(default=[], max_length=MOST_SAMPLES)
    common: Annotated[float, Field(ge=0, le=10, allow_inf_nan=False)] = 0.0


Columns = Annotated[list[Column], Field(max_length=40)]


class Record(OpenModel):
    """A table from the bench, of equally long columns, the abscissa first.

    Over a simulated curve it is laid with `shift` added to its abscissa, and its values taken `scale`
    times; where they were triggered is its `trigger`. `earlier` is what it was before it was taken again.
    """

    id: Identifier
    name: Annotated[str, Field(max_length=120)] = ""
    columns: list[Column] = Field(default=[], max_length=40)
    note: Annotated[str, Field(max_length=600)] = ""
    case: Reference = ""
    recipe: Recipe | None = None
    trigger: Finite | None = None
    shift: Finite = 0.0
    scale: Annotated[float, Field(gt=0, allow_inf_nan=False)] = 1.0
    earlier: list[Columns] = Field(default=[], max_length=5)

    @model_validator(mode="after")
    def _equally_long(self) -> Record:
        lengths = {len(c.values) for c in self.columns} | {
            len(c.uncertainties) for c in self.columns if c.uncertainties
        }
        if len(lengths) > 1:
            raise ValueError("the columns of a record are equally long")
        return self


class FixedValue(OpenModel):
    """A value of a part, by id, that its build shall have, as it is typed."""

    part: Reference
    key: ShortText
    text: ShortText


class Fault(OpenModel):
    """What is wrong with a part of a build, by id: another value by a `factor`, exchanged with another
    part, open, short, turned round, or with its pin (counted from 0) on the row of another node."""

    part: Reference
    does: Literal["factor", "exchange", "open", "short", "turn", "wire"]
    factor: Annotated[float, Field(gt=0, le=1e9, allow_inf_nan=False)] = 10.0
    other: Reference = ""
    pin: Annotated[int, Field(ge=0, le=20)] = 0
    node: ShortText = ""


class Build(OpenModel):
    """The circuit as it stands on the bench: which parts came out of the drawer, by a `seed`.

    Values are drawn within their tolerances and imperfections about their typical sizes, evenly
    ("uniform") or by a bell curve cut off at three deviations ("normal"). `ideal` leaves imperfections
    away. Where it is `sealed`, that text holds all the rest for the server alone, and `digest` is the
    salted SHA-256 by which it is known again.
    """

    seed: Annotated[int, Field(ge=0, le=2**31)] = 1
    distribution: Literal["uniform", "normal"] = "uniform"
    ideal: bool = False
    temperature: Annotated[float, Field(ge=-273, le=500, allow_inf_nan=False)] = 23.0  # [°C]
    fixed: list[FixedValue] = Field(default=[], max_length=200)
    faults: list[Fault] = Field(default=[], max_length=20)
    sealed: Annotated[str, Field(max_length=60_000)] = ""
    digest: Annotated[str, Field(max_length=128)] = ""


class Recipe(OpenModel):
    """How something was measured, so that it can be again: by which way ("meter", "record" …), what was
    set, as typed, on which bench, and when (ISO 8601)."""

    way: ShortText
    settings: dict[ShortText, Annotated[str, Field(max_length=200)]] = Field(
        default={}, max_length=40
    )
    bench: Annotated[str, Field(max_length=120)] = ""
    taken: Annotated[str, Field(max_length=40)] = ""


class PlotNote(OpenModel):
    """Words tied to a place of a curve: by its formula, and in a family the value it was run with."""

    id: Identifier
    curve: Line
    member: ShortText = ""
    at: Finite
    text: Line


class Marker(OpenModel):
    """A place on a curve: by its formula, and in a family the value it was run with."""

    curve: Line
    member: ShortText = ""
    at: Finite


class Run(OpenModel):
    """A kept recipe: an analysis, its settings as typed (empty: as proposed), formulas to show, and what
    is read off them beside what comes by itself.

    `plots` are the formulas that share a plot, each group one of its own; what is in none stands with
    others of its unit. Those `aside` have a scale of their own at the right. Records of the bench are shown
    beside the curves but for those it is `without`. Without a `case` it is of the one that is looked at.
    """

    id: Identifier
    name: Annotated[str, Field(max_length=120)] = ""
    analysis: ShortText
    settings: dict[ShortText, Annotated[str, Field(max_length=120)]] = Field(
        default={}, max_length=32
    )
    show: list[Line] = Field(default=[], max_length=24)
    reads: list[ShortText] = Field(default=[], max_length=24)
    notes: list[PlotNote] = Field(default=[], max_length=100)
    markers: list[Marker] = Field(default=[], max_length=2)
    without: list[Reference] = Field(default=[], max_length=MOST_RUNS)
    plots: list[Annotated[list[Line], Field(max_length=24)]] = Field(default=[], max_length=24)
    aside: list[Line] = Field(default=[], max_length=24)
    case: Reference = ""


class Pinned(OpenModel):
    """A figure as it was at a moment, with the conditions it held under.

    `fingerprint` is that of the circuit of that moment, so that a later change shows.
    """

    value: Finite
    unit: Annotated[str, Field(max_length=20)] = ""
    conditions: Line = ""
    fingerprint: Annotated[str, Field(max_length=40)] = ""


class LedgerRow(OpenModel):
    """A figure that was put into the ledger, under the name hand lines call it by; `label` tells it in
    words, `note` what else there is to say. Rows of one `group` stand together under its name. Where it
    `is_kept`, the simulated value is the one `pinned`, whatever the circuit is by now."""

    id: Identifier
    name: ShortText
    figure: Figure
    label: Annotated[str, Field(max_length=200)] = ""
    note: Annotated[str, Field(max_length=300)] = ""
    group: Annotated[str, Field(max_length=80)] = ""
    is_kept: bool = False
    pinned: Pinned | None = None


class Exercise(OpenModel):
    format: Literal["lucid-bench-exercise"] = FORMAT
    version: Literal[3] = VERSION
    title: Annotated[str, Field(max_length=120)] = ""
    author: Annotated[str, Field(max_length=120)] = ""
    group: Annotated[str, Field(max_length=120)] = ""
    number: Annotated[str, Field(max_length=40)] = ""
    purpose: Annotated[str, Field(max_length=600)] = ""
    schematic: Schematic = Schematic()
    parameters: list[NamedValue] = Field(default=[], max_length=MOST_LINES)
    blocks: list[Block] = Field(default=[], max_length=100)
    cases: list[Case] = Field(default=[], max_length=40)
    hand: list[HandLine] = Field(default=[], max_length=MOST_LINES)
    digits: int = Field(default=4, ge=2, le=8)  # significant ones that hand lines are written with
    runs: list[Run] = Field(default=[], max_length=MOST_RUNS)
    records: list[Record] = Field(default=[], max_length=MOST_RUNS)
    measurements: list[Measurement] = Field(default=[], max_length=MOST_LINES)
    build: Build = Build()
    ledger: list[LedgerRow] = Field(default=[], max_length=MOST_LINES)
    # A difference of that share counts as agreement, whatever the uncertainties say.
    allowed: Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)] | None = None
    # The causes that gaps may be explained by, by their keys; all of them where none is named.
    causes: list[ShortText] = Field(default=[], max_length=100)

    @model_validator(mode="before")
    @classmethod
    def _of_today(cls, raw: Any) -> Any:
        return migrated(raw)


def read_exercise(text: str | bytes) -> Exercise:
    """Read the file form. Raises DocumentError with a sentence saying what is wrong and where."""
    if len(text) > LARGEST_DOCUMENT:
        raise DocumentError(f"The document is larger than {LARGEST_DOCUMENT // 1_000_000} MB.")
    try:
        raw = json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise DocumentError(f"The text is no JSON document: {error}.") from error
    if isinstance(raw, dict):
        raw.setdefault("version", 1)  # files told theirs from the first on, but needed not
    return checked(raw)


def checked(raw: Any) -> Exercise:
    """The exercise of what JSON holds, of any version; parts of it that are models already are taken as
    they are.

    Raises DocumentError.
    """
    try:
        return Exercise.model_validate(raw)
    except ValidationError as error:
        raise DocumentError(_sentence(error)) from error


def _no_constant(word: str) -> None:
    raise ValueError(f"{word} is no number")


def _sentence(error: ValidationError) -> str:
    first = error.errors()[0]
    place = " → ".join(str(step) for step in first["loc"])
    if first["loc"] == ("format",):
        return "The document is no Lucid Bench exercise."
    if first["loc"] == ("version",):
        return f"The document is of version {first['input']}; up to version {VERSION} is read here."
    return f"The document cannot be read at {place}: {first['msg'].lower()}."


def schema() -> str:
    """The JSON Schema of the file form, as published."""
    return json.dumps(Exercise.model_json_schema(), indent=1, ensure_ascii=False) + "\n"
