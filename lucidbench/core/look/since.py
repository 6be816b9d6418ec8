"""A look told by what has changed since an earlier one, which after most edits is little."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import TypeVar

from pydantic import TypeAdapter

from lucidbench.core.look.shapes import (
    LineLook,
    Look,
    NamedLook,
    NetLook,
    PartLook,
    QuantityLook,
    RowLook,
)
from lucidbench.core.schematic import Finding
from lucidbench.core.schematic.document import Point
from lucidbench.core.schematic.kinds import KindLook

Entry = TypeVar("Entry")


@dataclass(frozen=True)
class LookSince:
    """A look, `mark`ed so that the next one may be told since it. A number in a list stands for the
    entry at that place in the same list of the look marked `since`; where that is None, there is none.

    `blocks` are the document's own kinds of part; `unsolved` says why there is no operating point, and
    is None where there is. Where it is not `compared`, tolerances and ledger are left out.
    """

    mark: str
    since: str | None
    parts: list[int | PartLook]
    parameters: list[int | NamedLook]
    blocks: list[int | KindLook]
    nets: list[int | NetLook]
    joints: list[int | Point]
    findings: list[int | Finding]
    quantities: list[int | QuantityLook]
    unsolved: str | None
    lines: list[int | LineLook]
    compared: bool
    ledger: list[int | RowLook]


def told_since(now: Look, mark: str, before: Look | None = None, since: str | None = None) -> bytes:
    """`now` as JSON, by what is not as in `before`, which is marked `since`; whole without one."""
    earlier = before or _NOTHING
    return _WRITER.dump_json(
        LookSince(
            mark,
            since if before else None,
            _changes(earlier.parts, now.parts, lambda part: part.id),
            _changes(earlier.parameters, now.parameters, lambda named: named.id),
            _changes(earlier.blocks, now.blocks, lambda kind: kind.key),
            _changes(earlier.nets, now.nets, lambda net: net.name),
            _changes(earlier.joints, now.joints, lambda point: point),
            _changes(earlier.findings, now.findings, lambda finding: finding.sentence),
            _changes(earlier.quantities, now.quantities, lambda quantity: quantity.name),
            now.unsolved,
            _changes(earlier.lines, now.lines, lambda line: line.id),
            now.compared,
            _changes(earlier.ledger, now.ledger, lambda row: row.quantity),
        )
    )


def _changes(
    before: list[Entry], now: list[Entry], key: Callable[[Entry], Hashable]
) -> list[int | Entry]:
    # What was not worked out anew is the very same, most often at the same place.
    if before is now:
        return list(range(len(now)))
    told: list[int | Entry] = list(now)
    open_places = list(range(len(now)))
    if len(before) == len(now):
        for place, (old, new) in enumerate(zip(before, now, strict=True)):
            if old is new:
                told[place] = place
        open_places = [place for place, entry in enumerate(told) if not isinstance(entry, int)]
    if open_places:
        places = {key(entry): place for place, entry in enumerate(before)}
        for place in open_places:
            known = places.get(key(now[place]))
            if known is not None and before[known] == now[place]:
                told[place] = known
    return told


_WRITER = TypeAdapter(LookSince)
_NOTHING = Look([], [], [], [], [], [], [], None, [], False, [])
