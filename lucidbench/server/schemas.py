"""What the API says, beyond the core's own models."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from pydantic import Field

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.document.patch import Change
from lucidbench.core.document.rename import Renaming
from lucidbench.core.schematic.document import Block, NamedValue, Part, Point, Port, Schematic
from lucidbench.core.schematic.kinds import KindLook
from lucidbench.core.units.values import LONGEST_TEXT


class Problem(Schema):
    """An error as RFC 9457 has it; `detail` is the sentence for the person."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    latest: int | None = None


class TypedText(Schema):
    text: str = Field(max_length=10 * LONGEST_TEXT)


class Previewed(Schema):
    part: Part
    parameters: list[NamedValue] = Field(default=[])


class Sent(Schema):
    """A document, whole or by what is changed since the look marked `since`."""

    document: Document | None = None
    since: str = ""
    changes: list[Change] = Field(default=[], max_length=1_000)


class LookAsked(Sent):
    """With `inside`, of the block of that id; unless `compared`, without tolerances and ledger."""

    inside: str = ""
    compared: bool = True


class RunAsked(Sent):
    """Which of a document's runs to carry out; `key` is what the asker calls it meanwhile."""

    run: str
    key: str = ""


class ResultAsked(Schema):
    """A result, by the mark it is remembered by."""

    result: str


class WindowAsked(ResultAsked):
    """`window` is the part of the axis that is looked at."""

    window: tuple[float, float] | None = None


class RenameAsked(Sent):
    """What in the document shall be called otherwise."""

    renamings: list[Renaming] = Field(max_length=1_000)


class Progress(Schema):
    """The share of a run that is done, 0 to 1; nothing where it is not under way."""

    share: float | None


class BlockAsked(Schema):
    """What of a sheet shall become a block."""

    schematic: Schematic
    blocks: list[Block] = Field(default=[])
    chosen: list[str] = Field(max_length=10_000)
    name: str = Field(max_length=64)
    identity: str = Field(min_length=1, max_length=64)


class PortSides(Schema):
    """A block, and the names of its ports, side by side, each in order."""

    block: Block
    left: list[str] = Field(default=[], max_length=64)
    right: list[str] = Field(default=[], max_length=64)
    top: list[str] = Field(default=[], max_length=64)
    bottom: list[str] = Field(default=[], max_length=64)


class PortsLaid(Schema):
    """The ports where they come to lie, in the order they had, and the kind of part that makes."""

    ports: list[Port]
    kind: KindLook


class ImportAsked(Schema):
    text: str
    name: str = Field(default="", max_length=200)


class TableAsked(Schema):
    """A table of recorded values, and which of its columns, counted from 0, is meant."""

    text: str
    column: int | None = None


class Starter(Schema):
    """A ready circuit to begin an exercise from."""

    title: str
    purpose: str
    document: Document


class Card(Schema):
    """An exercise as the notebook shows it."""

    id: int
    title: str
    author: str
    group: str
    number: str
    purpose: str
    saved: datetime
    schematic: Schematic
    joints: list[Point]
    blocks: list[KindLook]
    parts: int
    compared: int
    agreeing: int
    faults: int


class Opened(Schema):
    id: int
    revision: int
    restores: int | None
    saved: datetime
    document: Document


class Save(Schema):
    based_on: int = Field(ge=1)
    restores: int | None = None
    document: Document


class Saved(Schema):
    revision: int
    saved: datetime


class Start(Schema):
    document: Document | None = None


class RevisionOut(Schema):
    number: int
    saved: datetime
    restores: int | None
