"""What is stored: exercises, and every revision of each."""

from __future__ import annotations

from django.db import models, transaction
from django.utils import timezone

from lucidbench.core.document.exercise import Exercise as Document


class Clash(Exception):
    """A save was based on a revision that is no longer the latest."""

    def __init__(self, latest: Revision) -> None:
        super().__init__(f"revision {latest.number} was saved in the meantime")
        self.latest = latest


class Exercise(models.Model):
    """An exercise, by identity alone: all it says is in its latest revision."""

    created = models.DateTimeField(default=timezone.now)
    deleted = models.DateTimeField(null=True)

    @classmethod
    def begin(cls, document: Document) -> Exercise:
        with transaction.atomic():
            exercise = cls.objects.create()
            exercise.revisions.create(number=1, document=_stored(document))
        return exercise

    @property
    def latest(self) -> Revision:
        return self.revisions.order_by("-number")[0]

    def save_revision(self, document: Document, based_on: int, restores: int | None) -> Revision:
        """Append a revision. Raises Clash, having changed nothing, if `based_on` is not the latest."""
        with transaction.atomic():
            latest = self.latest
            if latest.number != based_on:
                raise Clash(latest)
            return self.revisions.create(
                number=based_on + 1, document=_stored(document), restores=restores
            )


class Revision(models.Model):
    """One saved state. `restores` is the earlier revision it went back to, where it did."""

    exercise = models.ForeignKey(Exercise, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    saved = models.DateTimeField(default=timezone.now)
    document = models.JSONField()
    restores = models.PositiveIntegerField(null=True)

    class Meta:
        constraints = (
            models.UniqueConstraint(fields=("exercise", "number"), name="one_revision_a_number"),
        )


def _stored(document: Document) -> dict[str, object]:
    return document.model_dump(mode="json")
