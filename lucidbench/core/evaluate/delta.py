"""A look told by what has changed since an earlier one, which after most edits is little."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import TypeVar

from lucidbench.core.evaluate.shapes import (
    Evaluation,
    LineLook,
    NamedLook,
    NetLook,
    PartLook,
    QuantityLook,
    RowLook,
    RunMark,
)
from lucidbench.core.schematic import Finding
from lucidbench.core.schematic.document import Point
from lucidbench.core.schematic.kinds import KindLook

Entry = TypeVar("Entry")


@dataclass(frozen=True, slots=True)
class Span:
    """Entries from `first` up to, not including, `end`."""

    first: int
    end: int


@dataclass(frozen=True)
class EvaluationDelta:
    """A look, `mark`ed so that the next one may be told since it. A span in a list stands for those
    entries of the same list of the look marked `since`; where that is None, there are none.

    `blocks` are the document's own kinds of part; `unsolved` says why there is no operating point, and
    is None where there is. Where it is not `compared`, tolerances and ledger are left out.
    """

    mark: str
    since: str | None
    parts: list[Span | PartLook]
    parameters: list[Span | NamedLook]
    blocks: list[Span | KindLook]
    nets: list[Span | NetLook]
    joints: list[Span | Point]
    findings: list[Span | Finding]
    quantities: list[Span | QuantityLook]
    unsolved: str | None
    lines: list[Span | LineLook]
    compared: bool
    ledger: list[Span | RowLook]
    runs: list[Span | RunMark]
    spoken: list[str]


def delta(
    now: Evaluation, mark: str, before: Evaluation | None = None, since: str | None = None
) -> EvaluationDelta:
    """`now` by what is not as in `before`, which is marked `since`; whole without one."""
    earlier = before or _NOTHING
    return EvaluationDelta(
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
        _changes(earlier.runs, now.runs, lambda run: run.id),
        now.spoken,
    )


def _changes(
    before: list[Entry], now: list[Entry], key: Callable[[Entry], Hashable]
) -> list[Span | Entry]:
    if before is now:
        return [Span(0, len(now))] if now else []
    told: list[Span | Entry] = []
    places: dict[Hashable, int] | None = None
    first = end = 0  # of the entries of before that are being told

    def tell() -> None:
        if first < end:
            told.append(Span(first, end))

    for entry in now:
        # What was not worked out anew is the very same; it, or what is told in its stead, comes next.
        if end < len(before):
            if before[end] is entry:
                end += 1
                continue
            if key(before[end]) == key(entry) and before[end] != entry:
                tell()
                told.append(entry)
                first = end = end + 1
                continue
        if places is None:
            places = {key(known): place for place, known in enumerate(before)}
        place = places.get(key(entry))
        if place is None or not (before[place] is entry or before[place] == entry):
            tell()
            told.append(entry)
            first = end = end if place is None else place + 1
        elif place == end:
            end += 1
        else:
            tell()
            first, end = place, place + 1
    tell()
    return told


_NOTHING = Evaluation([], [], [], [], [], [], [], None, [], False, [], [], [])
