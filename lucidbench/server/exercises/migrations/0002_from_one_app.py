"""What was kept while every revision lay whole in a table of one app is taken over, revision by revision."""

from __future__ import annotations

import json
from datetime import UTC, datetime

from django.db import migrations

from lucidbench.server.exercises.storing import packed, shortest, extract_blobs

LISTED_BY = ("title", "author", "group", "number", "purpose")


def take_over(apps, schema_editor):
    connection = schema_editor.connection
    if "server_exercise" not in connection.introspection.table_names():
        return
    Exercise, Revision, Numbers = (
        apps.get_model("exercises", name) for name in ("Exercise", "Revision", "Numbers")
    )
    exercises, revisions = connection.cursor(), connection.cursor()
    exercises.execute("SELECT id, created, deleted FROM server_exercise ORDER BY id")
    for key, created, deleted in exercises.fetchall():
        exercise = Exercise.objects.create(pk=key, created=_moment(created), deleted=_moment(deleted))
        revisions.execute(
            "SELECT number, saved, restores, document FROM server_revision"
            " WHERE exercise_id = %s ORDER BY number",
            [key],
        )
        base, base_text, raw = None, None, {}
        for number, saved, restores, document in revisions:
            saved = _moment(saved)
            raw = json.loads(document)
            text, places, apart = extract_blobs(raw)
            for digest, value in apart.items():
                Numbers.objects.get_or_create(digest=digest, defaults={"content": packed(value)})
            content, is_against = shortest(text, base_text)
            revision = Revision.objects.create(
                exercise=exercise,
                number=number,
                saved=saved,
                restores=restores,
                base=base if is_against else None,
                content=content,
                places=places,
            )
            if not is_against:
                base, base_text = revision, text
            exercise.latest, exercise.saved = number, saved
        for field in LISTED_BY:
            setattr(exercise, field, raw.get(field, ""))
        exercise.place = _place(exercise.number)
        exercise.words = " ".join(getattr(exercise, field) for field in LISTED_BY).lower()
        exercise.save()
    for table in ("server_revision", "server_exercise"):
        schema_editor.execute(f"DROP TABLE {table}")


def _moment(told):
    """As SQLite hands it out: a text or a datetime, of universal time."""
    if told is None:
        return None
    return (datetime.fromisoformat(told) if isinstance(told, str) else told).replace(tzinfo=UTC)


def _place(number):
    try:
        return float(number)
    except ValueError:
        return None


class Migration(migrations.Migration):
    dependencies = [("exercises", "0001_initial")]
    operations = [migrations.RunPython(take_over, migrations.RunPython.noop)]
