"""The demo exercises, loaded from their open files into an empty notebook."""

from __future__ import annotations

from functools import cache

from django.conf import settings

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.document.exercise import read_exercise
from lucidbench.server.exercises.cards import picture
from lucidbench.server.exercises.models import Exercise


@cache
def examples() -> list[Document]:
    """In the order of their numbers."""
    documents = [read_exercise(path.read_bytes()) for path in settings.EXAMPLES.glob("*.json")]
    return sorted(documents, key=lambda document: float(document.number))


def load_examples() -> int:
    """Load every example, the first as the newest; nothing where the notebook holds, or held, anything."""
    if Exercise.objects.exists():
        return 0
    loaded = [Exercise.begin(document) for document in examples()]
    for exercise, saved in zip(loaded, reversed([each.saved for each in loaded]), strict=True):
        Exercise.objects.filter(pk=exercise.pk).update(saved=saved)
        picture(exercise)
    return len(loaded)
