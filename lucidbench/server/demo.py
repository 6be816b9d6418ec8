"""The demo exercises, loaded from their open files into an empty notebook."""

from __future__ import annotations

from django.conf import settings

from lucidbench.core.exercise import read_exercise
from lucidbench.server.models import Exercise


def load_examples() -> int:
    """Load every example in number order; nothing where the notebook holds, or held, anything."""
    if Exercise.objects.exists():
        return 0
    documents = [read_exercise(path.read_bytes()) for path in settings.EXAMPLES.glob("*.json")]
    for document in sorted(documents, key=lambda document: float(document.number)):
        Exercise.begin(document)
    return len(documents)
