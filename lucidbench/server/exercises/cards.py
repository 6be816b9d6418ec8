"""The notebook: exercises in order, by what is stored of each; pictures made once, in a bounded time."""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import Any

from django.db.models import F, QuerySet
from django.db.models.functions import Lower

from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.schematic.document import Part, Schematic, Wire
from lucidbench.server.exercises.models import Exercise
from lucidbench.server.exercises.schemas import Card, Picture

PICTURING = 0.15  # s that one listing may take to work out what its cards show

ORDERS: dict[str, tuple[Any, ...]] = {
    "newest": ("-saved", "-pk"),
    "title": (Lower("title"), "pk"),
    "number": (F("place").asc(nulls_last=True), "number", "pk"),
    "group": (Lower("group"), F("place").asc(nulls_last=True), Lower("title"), "pk"),
    "oldest": ("created", "pk"),
}


def found(exercises: QuerySet[Exercise], words: str, order: str) -> QuerySet[Exercise]:
    """Those that have every one of the words, in that order."""
    for word in words.lower().split():
        exercises = exercises.filter(words__contains=word)
    return exercises.order_by(*ORDERS[order])


def _picture_some(exercises: Sequence[Exercise]) -> None:
    """As many as there is time for; the others are told without a picture, or with an earlier one."""
    until = time.monotonic() + PICTURING
    for exercise in exercises:
        if exercise.pictured != exercise.latest and time.monotonic() < until:
            picture(exercise)


def picture(exercise: Exercise) -> None:
    """Work out what its card shows, and keep it: of the drawing, its strokes alone."""
    document = exercise.revision().document
    drawn = document.schematic
    bare = ("kind", "name", "form", "block", "at", "rotation", "mirror")
    parts = [Part(id=p.id, **{key: getattr(p, key) for key in bare}) for p in drawn.parts]
    wires = [Wire(id=w.id, points=w.points) for w in drawn.wires]
    seen = evaluation_of(document, limits=None)
    verdicts = [row.verdict for row in seen.ledger if row.verdict != "open"]
    found = Picture(
        schematic=Schematic(parts=parts, wires=wires),
        joints=seen.joints,
        blocks=seen.blocks,
        parts=sum(part.kind != "ground" for part in parts),
        compared=len(verdicts),
        agreeing=verdicts.count("agree"),
        faults=sum(finding.severity == "fault" for finding in seen.findings),
    )
    # Of a revision that was saved in between this is no picture, and its number says so.
    exercise.picture, exercise.pictured = found.model_dump_json(), exercise.latest
    exercise.save(update_fields=["picture", "pictured"])


def listed(some: QuerySet[Exercise], first: int, count: int) -> bytes:
    """Some of the exercises there are, as Listed. What is stored is told as it is stored: reading it into
    models, to be written out again, would take longer than all the rest."""
    exercises = list(some[first : first + count])
    _picture_some(exercises)
    cards = ",".join(_card(exercise) for exercise in exercises)
    return f'{{"total":{some.count()},"first":{first},"cards":[{cards}]}}'.encode()


def _card(exercise: Exercise) -> str:
    fields = ("title", "author", "group", "number", "purpose", "saved")
    card = Card(
        id=exercise.pk,
        picture=None,
        is_current=exercise.pictured == exercise.latest,
        **{field: getattr(exercise, field) for field in fields},
    )
    told = card.model_dump_json(exclude={"picture"}).removesuffix("}")
    return f'{told},"picture":{exercise.picture or "null"}}}'
