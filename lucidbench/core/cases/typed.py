"""A case as it is typed: "without R5, C3 shorted, R3 = 1.1k, V2 off"."""

from __future__ import annotations

import re

from lucidbench.core.cases.variant import in_case
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Case, CaseChange, Exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.schematic.document import Part
from lucidbench.core.schematic.kinds import kind_of_part, kinds_with

_NAME = r"([A-Za-z][A-Za-z0-9_]*)"
_OPEN = re.compile(rf"(?:without|no)\s+{_NAME}|{_NAME}\s+(?:open|left out|out)", re.IGNORECASE)
_SHORT = re.compile(rf"(?:short\s+{_NAME}|{_NAME}\s+(?:short|shorted))", re.IGNORECASE)
_OFF = re.compile(rf"{_NAME}\s+off", re.IGNORECASE)
_VALUE = re.compile(rf"{_NAME}\s*=\s*(.+)")


def typed_case(exercise: Exercise, text: str) -> list[CaseChange]:
    """What a case that was typed changes; nothing where the text speaks of no change, and is a name alone.

    Raises LucidError, naming the piece, where only a part of it is understood, or nothing bears the name.
    """
    pieces = [piece.strip() for piece in re.split(r"[,;]", text) if piece.strip()]
    found = [_change(exercise, piece) for piece in pieces]
    if not any(found):
        return []
    for piece, change in zip(pieces, found, strict=True):
        if change is None:
            raise LucidError(
                f"“{piece}” says nothing of a part; write without R5, C3 shorted, V2 off or R3 = 1.1k"
            )
    changes = [change for change in found if change is not None]
    _check(exercise, changes)
    return changes


def _change(exercise: Exercise, piece: str) -> CaseChange | None:
    for pattern, does in ((_OPEN, "open"), (_SHORT, "short")):
        match = pattern.fullmatch(piece)
        name = next(filter(None, match.groups()), "") if match else ""
        if match and (does == "short" or _is_there(exercise, name) or re.search(r"\d", name)):
            return CaseChange.model_validate({"part": _part(exercise, name).id, "does": does})
    match = _OFF.fullmatch(piece)
    if match:
        source = _part(exercise, match[1])
        if not source.kind.endswith("_source"):
            raise LucidError(f"{source.name} is no source, which could be off")
        does = "open" if source.kind == "current_source" else "short"
        return CaseChange.model_validate({"part": source.id, "does": does})
    match = _VALUE.fullmatch(piece)
    return _valued(exercise, match[1], match[2].strip()) if match else None


def _valued(exercise: Exercise, name: str, text: str) -> CaseChange:
    for named in exercise.parameters:
        if named.name == name:
            return CaseChange(parameter=named.id, text=text)
    part = _part(exercise, name)
    description = kind_of_part(part, kinds_with(exercise.blocks))
    main = description.main if description else None
    if main is None:
        raise LucidError(f"{part.name} has no value of its own; change it in its card")
    return CaseChange(part=part.id, values={main.key: text})


def _is_there(exercise: Exercise, name: str) -> bool:
    return any(part.name.lower() == name.lower() for part in exercise.schematic.parts)


def _part(exercise: Exercise, name: str) -> Part:
    for part in exercise.schematic.parts:
        if part.name.lower() == name.lower():
            return part
    raise LucidError(f"there is no part called {name}")


def _check(exercise: Exercise, changes: list[CaseChange]) -> None:
    """That every value that was typed is one."""
    trial = exercise.model_copy(update={"cases": [Case(id="typed", changes=changes)]})
    here = in_case(trial, "typed")
    drawing = drawing_of(here)
    for change in changes:
        for value in drawing.values.get(change.part, ()):
            if value.problem and value.parameter.key in change.values:
                raise LucidError(value.problem)
    for name, problem in drawing.wrong.items():
        if any(p.name == name and p.id == c.parameter for p in here.parameters for c in changes):
            raise LucidError(f"{name}: {problem}")
