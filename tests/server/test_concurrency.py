"""Saves at the same moment: one is kept, the others are told, nothing is half written."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.server.exercises.models import Clash, Exercise

WRITERS = 6


@pytest.mark.django_db(transaction=True)
def test_of_saves_on_the_same_revision_one_is_kept() -> None:
    exercise = Exercise.begin(Document(title="base"))

    def save(writer: int) -> str:
        try:
            fresh = Exercise.objects.get(pk=exercise.pk)
            fresh.save_revision(Document(title=f"writer {writer}"), 1, None)
            return "kept"
        except Clash as clash:
            return f"told of {clash.latest}"
        finally:
            connection.close()

    with ThreadPoolExecutor(WRITERS) as pool:
        outcomes = sorted(pool.map(save, range(WRITERS)))
    assert outcomes == ["kept"] + ["told of 2"] * (WRITERS - 1)
    assert [r.number for r in exercise.revisions.order_by("number")] == [1, 2]
