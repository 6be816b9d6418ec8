"""A case as a document of its own: the exercise with the changes of the case made on its drawing.

Whatever is drawn, solved, checked or measured of an exercise is so of a case, and knows nothing of cases.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lucidbench.core.document.exercise import Case, CaseChange, Exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.formula.worksheet import given_by
from lucidbench.core.schematic.document import Part, Schematic
from lucidbench.core.schematic.geometry import pin_points
from lucidbench.core.schematic.kinds import kind_of_part, kinds_with

BASE = ""  # the id of the circuit as it is drawn
BASE_NAME = "As drawn"
WITHIN = "/"  # in a reference, between a block and a part of its drawing


def case_of(exercise: Exercise, case: str) -> Case | None:
    """None for the circuit as it is drawn. Raises LucidError where there is no such case."""
    if case == BASE:
        return None
    found = next((each for each in exercise.cases if each.id == case), None)
    if found is None:
        raise LucidError(f"The exercise has no case {case}.")
    return found


def name_of(exercise: Exercise, case: str) -> str:
    """What a case is called; by its number where it has no name."""
    if case == BASE:
        return BASE_NAME
    return next(
        (each.name or f"Case {k}" for k, each in enumerate(exercise.cases, 1) if each.id == case),
        case,
    )


def in_case(exercise: Exercise, case: str) -> Exercise:
    """The exercise as it is in a case, the same where that is the circuit drawn.

    A change that speaks of nothing there is any more changes nothing. Raises LucidError where there is no
    such case.
    """
    found = case_of(exercise, case)
    if found is None:
        return exercise
    schematic, blocks, parameters = exercise.schematic, exercise.blocks, exercise.parameters
    for change in found.changes:
        if change.parameter:
            parameters = [
                named.model_copy(update={"text": change.text})
                if named.id == change.parameter
                else named
                for named in parameters
            ]
            continue
        block, within, part = change.part.rpartition(WITHIN)
        if within:
            blocks = [
                b.model_copy(update={"schematic": _changed(b.schematic, part, change)})
                if b.id == block
                else b
                for b in blocks
            ]
        else:
            schematic = _changed(schematic, part, change)
    return exercise.model_copy(
        update={"schematic": schematic, "blocks": blocks, "parameters": parameters}
    )


def lines_in(exercise: Exercise, case: str) -> list[str]:
    """The text of each line of the working in a case: "" of headings and sentences, of other cases' lines,
    and of those of all cases where the case has its own of that name."""
    own = {(given_by(line.text) or line.text) for line in exercise.hand if line.case == case}
    return [
        line.text
        if line.role == "line"
        and (
            line.case == case
            or (line.case is None and (given_by(line.text) or line.text) not in own)
        )
        else ""
        for line in exercise.hand
    ]


def _changed(schematic: Schematic, part: str, change: CaseChange) -> Schematic:
    if not any(each.id == part for each in schematic.parts):
        return schematic
    parts = [_part(each, change) if each.id == part else each for each in schematic.parts]
    return schematic.model_copy(update={"parts": parts})


def _part(part: Part, change: CaseChange) -> Part:
    if change.does != "replace":
        return part.model_copy(update={"state": change.does})
    if change.kind:
        told = {"kind": change.kind, "form": change.form, "values": dict(change.values)}
        return part.model_copy(update=told)
    values = {**part.values, **change.values}
    return part.model_copy(update={"values": values, "form": change.form or part.form})


def problems_of(exercise: Exercise, case: Case) -> Iterator[str]:
    """What in a case is of no use, in sentences."""
    kinds = kinds_with(exercise.blocks)
    for change in case.changes:
        if change.parameter:
            if not any(named.id == change.parameter for named in exercise.parameters):
                yield "It changes a parameter that is not there any more."
            continue
        part = _found(exercise, change.part)
        if part is None:
            yield "It changes a part that is not there any more."
        elif change.does == "replace" and change.kind:
            other = _part(part, change)
            if kind_of_part(other, kinds) is None:
                yield f"{part.name} is replaced by a kind of part not known here, “{change.kind}”."
            elif pin_points(other) != pin_points(part):
                yield (
                    f"What replaces {part.name} has its pins at other places; leave it out, and draw the "
                    f"other beside it."
                )


def _found(exercise: Exercise, reference: str) -> Part | None:
    block, within, part = reference.rpartition(WITHIN)
    sheets: Sequence[Schematic] = [exercise.schematic]
    if within:
        sheets = [b.schematic for b in exercise.blocks if b.id == block]
    return next((p for sheet in sheets for p in sheet.parts if p.id == part), None)
