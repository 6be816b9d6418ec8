"""`manage.py purge`: delete for good what was deleted longer ago than it can be brought back."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from lucidbench.server.exercises.models import purge


class Command(BaseCommand):
    help = (
        "Delete for good what was taken out of a notebook longer ago than it can be brought back."
    )

    def handle(self, *_: Any, **__: Any) -> None:
        self.stdout.write(f"Exercises deleted for good: {purge()}.")
