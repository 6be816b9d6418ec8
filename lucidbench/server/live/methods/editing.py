"""Asked with every edit: the look of a document, new names, typed cases."""

from __future__ import annotations

from pydantic import BaseModel, Field

from lucidbench.core.cases import typed_case
from lucidbench.core.document.exercise import CaseChange, Exercise
from lucidbench.core.document.patch import Change
from lucidbench.core.document.rename import Renaming
from lucidbench.core.document.rename import rename as renamed
from lucidbench.core.evaluate import EvaluationDelta, delta, evaluation_of
from lucidbench.core.runs import SETTING_READS
from lucidbench.server.live.memory import CachedDocument, memory
from lucidbench.server.live.method import Given, Sent, in_thread

# Bytes that a document with its look holds, generously: most is shared with those before and after.
_A_PART = 8_192
_A_SAMPLE = 32


class LookAsked(Sent):
    """With `inside`, of the block of that id; unless `compared`, without tolerances and ledger; all of it
    in a `case`."""

    inside: str = ""
    compared: bool = True
    case: str = ""


@in_thread
def look(asked: LookAsked, given: Given) -> EvaluationDelta:
    """Nets, findings, operating point, worked lines and ledger of a document, which is kept nowhere.

    Told by what has changed since an earlier look, where one is named and still remembered.
    """
    document = given.document
    before = memory.get(given.page, asked.since)
    told = before.look if isinstance(before, CachedDocument) else None
    seen = evaluation_of(document, asked.inside or None, asked.compared, case=asked.case)
    memory.keep(given.page, given.mark, CachedDocument(document, seen), _size(document))
    return delta(seen, given.mark, told, asked.since)


def _size(document: Exercise) -> int:
    samples = sum(len(column.values) for record in document.records for column in record.columns)
    return _A_PART * (1 + len(document.schematic.parts)) + _A_SAMPLE * samples


class RenameAsked(Sent):
    """What in the document shall be called otherwise."""

    renamings: list[Renaming] = Field(max_length=1_000)


@in_thread
def rename(asked: RenameAsked, given: Given) -> list[Change]:
    """What gives things of a document other names, wherever it speaks of them; nothing is kept."""
    return renamed(given.document, asked.renamings, SETTING_READS)


class CaseAsked(Sent):
    """What a case that was typed changes."""

    text: str = Field(max_length=300)


@in_thread
def case(asked: CaseAsked, given: Given) -> list[CaseChange]:
    """What a case that was typed changes; nothing where the text is a name alone."""
    return typed_case(given.document, asked.text)


class Ping(BaseModel):
    """Whether the line still is one; there and back."""


@in_thread
def ping(asked: Ping, given: Given) -> Ping:
    return asked
