"""What a number is of: one of nine, told by `of`, and in one case of the circuit ("" the one drawn)."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from lucidbench.core.schematic.document import OpenModel, ShortText

Line = Annotated[str, Field(max_length=500)]
Reference = Annotated[str, Field(max_length=64)]  # the id of something, empty where there is none


class QuantityAtRest(OpenModel):
    """Of the operating point: a name that formulas call it by, "V_out", or what a line of working gives."""

    of: Literal["rest"] = "rest"
    quantity: Line
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.quantity


class AsPhasor(OpenModel):
    """The phasor of a quantity, by its peak value, at the frequency of the working."""

    of: Literal["phasor"] = "phasor"
    quantity: Line
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.quantity


class OfCurve(OpenModel):
    """What is read off a curve, by the key of the `reading`: of a `run`, in a family of the `member` with
    that value; of a `record`; or, with neither, of a curve read by an instrument itself (its AC RMS)."""

    of: Literal["curve"] = "curve"
    curve: Line
    reading: ShortText
    run: Reference = ""
    record: Reference = ""
    member: ShortText = ""
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.curve


class AtMarker(OpenModel):
    """The value of a curve of a run at one of the markers that stand there."""

    of: Literal["marker"] = "marker"
    run: Reference
    curve: Line
    member: ShortText = ""
    marker: Literal["A", "B"]
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.curve


class BetweenMarkers(OpenModel):
    """What is read between the two markers of a run, by its key ("phi")."""

    of: Literal["between"] = "between"
    run: Reference
    reading: ShortText
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.reading


class Cell(OpenModel):
    """Of a table of a run: by the keys of table, row and column, and the formula or part (`subject`) that the
    row, or all of the table, is of; in a family of the `member` with that value."""

    of: Literal["cell"] = "cell"
    run: Reference
    table: ShortText
    subject: Line = ""
    row: ShortText = ""
    column: ShortText
    member: ShortText = ""
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.subject or self.row


class OfPart(OpenModel):
    """The value of one part, measured alone; the part by its name."""

    of: Literal["part"] = "part"
    part: Line
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.part


class OfFormula(OpenModel):
    """A formula of other figures: of names of rows, of quantities at rest, or of a curve and a reading of
    it, "V_out.ac_rms"."""

    of: Literal["formula"] = "formula"
    formula: Line
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.formula


class AsTaken(OpenModel):
    """A value that was taken once and does not follow the circuit, described in `words`."""

    of: Literal["taken"] = "taken"
    words: Line
    case: Reference = ""

    @property
    def spoken(self) -> str:
        return self.words


OfRun = OfCurve | AtMarker | BetweenMarkers | Cell
Figure = Annotated[
    QuantityAtRest
    | AsPhasor
    | OfCurve
    | AtMarker
    | BetweenMarkers
    | Cell
    | OfPart
    | OfFormula
    | AsTaken,
    Field(discriminator="of"),
]


def run_of(figure: Figure) -> str:
    """The id of the run it is read from, or ""."""
    return figure.run if isinstance(figure, OfRun) else ""


def record_of(figure: Figure) -> str:
    return figure.record if isinstance(figure, OfCurve) else ""


def is_same(one: Figure, other: Figure) -> bool:
    """Whether both are of the same thing, in whatever case; what is read off a curve, of whatever run or
    record."""
    apart = {"case", "run", "record"} if isinstance(one, OfCurve) else {"case"}
    fields = type(one).model_fields.keys() - apart
    return type(one) is type(other) and all(
        getattr(one, field) == getattr(other, field) for field in fields
    )
