"""What is sent and told while a page draws, beyond the core's own models."""

from __future__ import annotations

from ninja import Schema
from pydantic import Field

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.evaluate.tables import LedgerColumn
from lucidbench.core.schematic.document import Block, NamedValue, Part, Port, Schematic
from lucidbench.core.schematic.kinds import KindLook
from lucidbench.core.units.values import LONGEST_TEXT


class TypedText(Schema):
    text: str = Field(max_length=10 * LONGEST_TEXT)


class Previewed(Schema):
    part: Part
    parameters: list[NamedValue] = Field(default=[])


class Reshaped(Schema):
    """A drawn source, and the waveform it shall have."""

    part: Part
    form: str = Field(max_length=32)


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


class ExportLook(Schema):
    """A file form by its `form`, the ending of the file's name."""

    form: str
    label: str
    of_curves: bool


class Exports(Schema):
    """What results of runs and ledgers can be written as, and what stands in the columns of a ledger."""

    runs: list[ExportLook]
    ledgers: list[ExportLook]
    columns: list[LedgerColumn]
