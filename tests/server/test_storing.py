"""How documents lie in the database: what goes in comes out, and what is alike costs little."""

from __future__ import annotations

import json
import math
from importlib import import_module
from pathlib import Path

import pytest
from django.apps import apps
from django.db import connection
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.document.exercise import checked
from lucidbench.server.exercises.models import Exercise, Numbers, Revision
from lucidbench.server.exercises.storing import (
    MANY,
    extract_blobs,
    packed,
    restore_blobs,
    shortest,
    unpacked,
)
from tests.benchmarks.editing import drawing

EXAMPLES = Path(__file__).parents[2] / "examples"
SAMPLES = 10_000

_long = st.lists(st.floats(allow_nan=False, allow_infinity=False), min_size=MANY + 1, max_size=300)
_json = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text() | _long | st.text(min_size=MANY + 1),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(), inner, max_size=4),
    max_leaves=12,
)


@given(st.dictionaries(st.text(), _json, max_size=5))
def test_what_is_taken_apart_is_put_together_again(document: dict[str, object]) -> None:
    text, places, apart = extract_blobs(document)
    places = json.loads(json.dumps(places))  # as they are stored
    assert restore_blobs(text, places, apart) == document


@given(st.text(), st.text() | st.none())
def test_what_is_packed_is_unpacked_again(text: str, base: str | None) -> None:
    content, is_against = shortest(text, base)
    assert unpacked(content, (base or "") if is_against else "") == text
    assert unpacked(packed(text)) == text


@pytest.mark.django_db
def test_an_edit_costs_what_it_changes_and_a_record_is_kept_once() -> None:
    document = drawing(2, 7).model_dump(mode="json")
    times = [k * 1e-5 for k in range(SAMPLES)]
    document["records"] = [
        {
            "id": f"m{k}",
            "columns": [
                {"quantity": "t", "unit": "s", "values": times},
                {"quantity": "V_out1", "values": [math.sin(k + 700 * t) for t in times]},
            ],
        }
        for k in range(2)
    ]
    exercise = Exercise.begin(checked(document))
    saved = [exercise.revision().document]
    for k in range(60):
        part = document["schematic"]["parts"][2 + k % 20]
        part["values"]["resistance"] = f"{k + 1} Ω"
        exercise.save_revision(checked(document), k + 1, None)
        saved.append(checked(document))
    assert Numbers.objects.count() == 3  # the times are the same in both
    sizes = [len(r.content) + len(json.dumps(r.places)) for r in exercise.revisions.all()]
    assert max(sizes[1:]) < 1_500 < len(json.dumps(document)) / 300
    for number in (1, 2, 31, 61):
        assert exercise.revision(number).document == saved[number - 1]
    # Another exercise of the same records needs them not again.
    Exercise.begin(checked(document))
    assert Numbers.objects.count() == 3


@pytest.mark.django_db(transaction=True)
def test_what_was_kept_by_an_earlier_release_is_taken_over() -> None:
    """Tables as the first release made them, with every revision whole."""
    examples = [json.loads(path.read_text()) for path in sorted(EXAMPLES.glob("*.json"))[:3]]
    with connection.cursor() as cursor:
        cursor.execute(
            "create table server_exercise (id integer primary key, created datetime not null,"
            " deleted datetime)"
        )
        cursor.execute(
            "create table server_revision (id integer primary key, number integer not null,"
            " saved datetime not null, document text not null, restores integer,"
            " exercise_id bigint not null)"
        )
        moment = "2026-03-04 05:06:07.000008"
        for key, example in enumerate(examples, 7):
            gone = moment if key == 8 else None
            cursor.execute("insert into server_exercise values (%s, %s, %s)", [key, moment, gone])
            for number, title in ((1, "First"), (2, "Second"), (3, "First")):
                told = json.dumps({**example, "title": title})
                restores = 1 if number == 3 else None
                cursor.execute(
                    "insert into server_revision (number, saved, document, restores, exercise_id)"
                    " values (%s, %s, %s, %s, %s)",
                    [number, moment, told, restores, key],
                )
    take_over = import_module("lucidbench.server.exercises.migrations.0002_from_one_app").take_over
    with connection.schema_editor() as editor:
        take_over(apps, editor)
    assert "server_exercise" not in connection.introspection.table_names()
    assert [e.pk for e in Exercise.objects.filter(deleted=None).order_by("pk")] == [7, 9]
    for key, example in enumerate(examples, 7):
        exercise = Exercise.objects.get(pk=key)
        assert (exercise.latest, exercise.title, exercise.saved.isoformat()) == (
            3, "First", "2026-03-04T05:06:07.000008+00:00",
        )  # fmt: skip
        assert exercise.group.lower() in exercise.words
        for number, title in ((1, "First"), (2, "Second"), (3, "First")):
            revision = exercise.revision(number)
            assert revision.document == checked({**example, "title": title})
        assert revision.restores == 1
        exercise.save_revision(Document(title="Next"), 3, None)
    assert Revision.objects.count() == 12
