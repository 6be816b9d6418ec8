"""The demo exercises, loaded from their open files into an empty notebook."""

from __future__ import annotations

from functools import cache

from django.conf import settings

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.document.exercise import read_exercise
from lucidbench.server.models import Exercise


@cache
def examples() -> list[Document]:
    """In the order of their numbers."""
    documents = [read_exercise(path.read_bytes()) for path in settings.EXAMPLES.glob("*.json")]
    return sorted(documents, key=lambda document: float(document.number))


def load_examples() -> int:
    """Load every example in number order; nothing where the notebook holds, or held, anything."""
    if Exercise.objects.exists():
        return 0
    for document in examples():
        Exercise.begin(document)
    return len(examples())
