"""The drawn document: what stands where on the sheet. Nothing here is derived.

Coordinates are whole grid units, x to the right, y down. Every model keeps fields it does not know,
so that a document written by a later version survives a round trip.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

MOST_PARTS = 1_000
MOST_WIRES = 4_000
SHEET_EDGE = 10_000  # grid units from the origin, either way

Coordinate = Annotated[int, Field(ge=-SHEET_EDGE, le=SHEET_EDGE)]
Point = tuple[Coordinate, Coordinate]
Identifier = Annotated[str, Field(min_length=1, max_length=64)]
ShortText = Annotated[str, Field(max_length=64)]
ValueText = Annotated[str, Field(max_length=80_000)]  # a formula, or a table of samples


class OpenModel(BaseModel):
    """A model that keeps what it does not know, and whose fields are set once and for all."""

    model_config = ConfigDict(extra="allow", frozen=True)


class Part(OpenModel):
    """A part turned clockwise by `rotation` after being mirrored left to right, origin at `at`.

    `form` is the way it is modelled ("" the usual one); `textbook` leaves its imperfections out, whatever
    is written for them; `caption` where its text was put by hand,
    counted from `at`; `block` the block that a part of kind "block" is an instance of. In a `state` it is
    drawn, but left "open" or "short" as if it were taken out or bridged by a wire.
    """

    id: Identifier
    kind: ShortText
    name: ShortText
    values: dict[ShortText, ValueText] = Field(default={}, max_length=64)
    form: ShortText = ""
    textbook: bool = False
    at: Point
    rotation: Literal[0, 90, 180, 270] = 0
    mirror: bool = False
    caption: Point | None = None
    block: Annotated[str, Field(max_length=64)] = ""
    state: Literal["open", "short"] | None = None


class Wire(OpenModel):
    """A run of horizontal and vertical pieces. Its ends join whatever they touch."""

    id: Identifier
    points: list[Point] = Field(min_length=2, max_length=200)


class Junction(OpenModel):
    """A dot that joins wires which would otherwise only cross."""

    id: Identifier
    at: Point


class Label(OpenModel):
    """The name of the node it stands on; a *supply* is drawn as a bar, and means the same."""

    id: Identifier
    name: ShortText
    at: Point
    style: Literal["name", "supply"] = "name"


class Note(OpenModel):
    """A text on the drawing; what stands between dollar signs is a formula."""

    id: Identifier
    text: Annotated[str, Field(max_length=1_000)] = ""
    at: Point


class NumberedNode(OpenModel):
    """The name that a node nobody named goes by, as n3, and the pins it is known by, each as the id of
    its part and its place there. Without pins the node is gone, and its name is still spoken of."""

    name: Annotated[str, Field(pattern=r"^n[1-9][0-9]{0,5}$")]
    pins: list[tuple[Identifier, Annotated[int, Field(ge=0, le=1_000)]]] = Field(
        default=[], max_length=4 * MOST_PARTS
    )


class NamedValue(OpenModel):
    """A circuit parameter: a name, and a value or an expression of others."""

    id: Identifier
    name: ShortText
    text: Annotated[str, Field(max_length=200)] = ""


class Schematic(OpenModel):
    parts: list[Part] = Field(default=[], max_length=MOST_PARTS)
    wires: list[Wire] = Field(default=[], max_length=MOST_WIRES)
    junctions: list[Junction] = Field(default=[], max_length=MOST_WIRES)
    labels: list[Label] = Field(default=[], max_length=MOST_PARTS)
    notes: list[Note] = Field(default=[], max_length=200)
    nodes: list[NumberedNode] = Field(default=[], max_length=4 * MOST_PARTS)


class Port(OpenModel):
    """A connection of a block: the node of that name inside, and where its pin is outside."""

    name: ShortText
    at: Point


class Block(OpenModel):
    """A circuit used as a part. Its parameters have their defaults here and may differ in each use."""

    id: Identifier
    name: ShortText
    purpose: Annotated[str, Field(max_length=200)] = ""
    schematic: Schematic = Schematic()
    ports: list[Port] = Field(default=[], max_length=64)
    parameters: list[NamedValue] = Field(default=[], max_length=64)
