"""The exercise: what is drawn, worked out by hand and read on the bench, as one open document.

The file form is JSON; its schema is published as docs/exercise.schema.json. A document of an older
version is migrated on reading, one of a later version is refused, and unknown fields are kept.
"""

from __future__ import annotations

import json
from typing import Annotated, Final, Literal

from pydantic import Field, ValidationError

from lucidbench.core.errors import DocumentError
from lucidbench.core.schematic.document import (
    Block,
    Identifier,
    Kept,
    NamedValue,
    Schematic,
    ShortText,
)

FORMAT: Final = "lucid-bench-exercise"
VERSION: Final = 1
LARGEST_DOCUMENT = 5_000_000  # bytes
MOST_LINES = 200
MOST_RUNS = 40

Line = Annotated[str, Field(max_length=500)]


class HandLine(Kept):
    """A line of working in the formula language."""

    id: Identifier
    text: Line


class BenchNote(Kept):
    """A reading as it was written down: `2.61 V ± 0.02 V`, and how it was taken."""

    id: Identifier
    quantity: ShortText
    text: ShortText
    note: Annotated[str, Field(max_length=200)] = ""


class PlotNote(Kept):
    """Words tied to a place of a curve, the curve named by its formula and family member."""

    id: Identifier
    curve: Line
    at: Annotated[float, Field(allow_inf_nan=False)]
    text: Line


class Run(Kept):
    """A kept recipe: an analysis, its settings as typed (empty: as proposed), formulas to show, and what
    is read off them beside what comes by itself."""

    id: Identifier
    name: Annotated[str, Field(max_length=120)] = ""
    analysis: ShortText
    settings: dict[ShortText, Annotated[str, Field(max_length=120)]] = Field(
        default={}, max_length=32
    )
    show: list[Line] = Field(default=[], max_length=24)
    reads: list[ShortText] = Field(default=[], max_length=24)
    notes: list[PlotNote] = Field(default=[], max_length=100)


class TakenFigure(Kept):
    """A figure read off a run and kept in the ledger: what it is, and under which conditions it held.

    `circuit` marks the circuit of that moment, so that a later change shows.
    """

    id: Identifier
    name: ShortText
    label: Annotated[str, Field(max_length=200)]
    value: Annotated[float, Field(allow_inf_nan=False)]
    unit: Annotated[str, Field(max_length=20)] = ""
    run: Annotated[str, Field(max_length=120)] = ""
    conditions: Line = ""
    circuit: Annotated[str, Field(max_length=40)] = ""


class Exercise(Kept):
    format: Literal["lucid-bench-exercise"] = FORMAT
    version: Literal[1] = VERSION
    title: Annotated[str, Field(max_length=120)] = ""
    author: Annotated[str, Field(max_length=120)] = ""
    group: Annotated[str, Field(max_length=120)] = ""
    number: Annotated[str, Field(max_length=40)] = ""
    purpose: Annotated[str, Field(max_length=600)] = ""
    schematic: Schematic = Schematic()
    parameters: list[NamedValue] = Field(default=[], max_length=MOST_LINES)
    blocks: list[Block] = Field(default=[], max_length=100)
    hand: list[HandLine] = Field(default=[], max_length=MOST_LINES)
    bench: list[BenchNote] = Field(default=[], max_length=MOST_LINES)
    runs: list[Run] = Field(default=[], max_length=MOST_RUNS)
    taken: list[TakenFigure] = Field(default=[], max_length=MOST_LINES)


def read_exercise(text: str | bytes) -> Exercise:
    """Read the file form. Raises DocumentError with a sentence saying what is wrong and where."""
    if len(text) > LARGEST_DOCUMENT:
        raise DocumentError(f"The document is larger than {LARGEST_DOCUMENT // 1_000_000} MB.")
    try:
        return Exercise.model_validate_json(text)
    except ValidationError as error:
        raise DocumentError(_sentence(error)) from error


def checked(raw: object) -> Exercise:
    """The exercise of what JSON holds; parts of it that are models already are taken as they are.

    Raises DocumentError.
    """
    try:
        return Exercise.model_validate(raw)
    except ValidationError as error:
        raise DocumentError(_sentence(error)) from error


def _sentence(error: ValidationError) -> str:
    first = error.errors()[0]
    place = " → ".join(str(step) for step in first["loc"])
    if first["type"] == "json_invalid":
        return f"The text is no JSON document: {first['ctx']['error']}."
    if first["loc"] == ("format",):
        return "The document is no Lucid Bench exercise."
    if first["loc"] == ("version",):
        return f"The document is of version {first['input']}; up to version {VERSION} is read here."
    return f"The document cannot be read at {place}: {first['msg'].lower()}."


def schema() -> str:
    """The JSON Schema of the file form, as published."""
    return json.dumps(Exercise.model_json_schema(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    print(schema(), end="")
