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


class Kept(BaseModel):
    """A model that keeps what it does not know."""

    model_config = ConfigDict(extra="allow")


class Part(Kept):
    """A part turned clockwise by `rotation` after being mirrored left to right, origin at `at`."""

    id: Identifier
    kind: ShortText
    name: ShortText
    values: dict[ShortText, ShortText] = Field(default={}, max_length=64)
    at: Point
    rotation: Literal[0, 90, 180, 270] = 0
    mirror: bool = False


class Wire(Kept):
    """A run of horizontal and vertical pieces. Its ends join whatever they touch."""

    id: Identifier
    points: list[Point] = Field(min_length=2, max_length=200)


class Junction(Kept):
    """A dot that joins wires which would otherwise only cross."""

    id: Identifier
    at: Point


class Label(Kept):
    """The name of the node it stands on."""

    id: Identifier
    name: ShortText
    at: Point


class Schematic(Kept):
    parts: list[Part] = Field(default=[], max_length=MOST_PARTS)
    wires: list[Wire] = Field(default=[], max_length=MOST_WIRES)
    junctions: list[Junction] = Field(default=[], max_length=MOST_WIRES)
    labels: list[Label] = Field(default=[], max_length=MOST_PARTS)
