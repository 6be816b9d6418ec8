"""Accounts with a notebook of demo exercises each: `python -m tests.browser.accounts DATA COUNT`.

Prints the key of a session for each, so that a browser with it as its cookie is signed in.
"""

from __future__ import annotations

import sys
from pathlib import Path

from lucidbench.server.run import load_demo, prepare


def main() -> None:
    data, count = Path(sys.argv[1]), int(sys.argv[2])
    prepare(data)
    load_demo(data)
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
    from django.contrib.sessions.backends.db import SessionStore
    from django.db import transaction

    from lucidbench.server.accounts.models import User
    from lucidbench.server.exercises.models import Exercise, Revision

    originals = list(Exercise.objects.filter(owner=None).order_by("pk"))
    contents = [exercise.revision() for exercise in originals]
    with transaction.atomic():
        for k in range(count):
            person = User.objects.create(username=f"student {k + 1}")
            copies = []
            for exercise in originals:
                exercise.pk, exercise.owner, exercise._state.adding = None, person, True
                exercise.save()
                copies.append(exercise.pk)
            Revision.objects.bulk_create(
                Revision(exercise_id=copy, number=1, content=of.content, places=of.places)
                for copy, of in zip(copies, contents, strict=True)
            )
            session = SessionStore()
            session[SESSION_KEY] = str(person.pk)
            session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
            session[HASH_SESSION_KEY] = person.get_session_auth_hash()
            session.save()
            print(f"key {session.session_key}")


if __name__ == "__main__":
    main()
