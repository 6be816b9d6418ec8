"""What is stored: exercises, every revision of each, and the numbers of records, once each."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import models, transaction
from django.utils import timezone

from lucidbench.core.document.differences import difference
from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.document.exercise import checked
from lucidbench.server.accounts.models import User
from lucidbench.server.exercises.storing import (
    extract_blobs,
    packed,
    restore_blobs,
    shortest,
    unpacked,
)
from lucidbench.server.problems import ApiError

DELETED_ARE_KEPT = timedelta(days=30)
_OF_A_REVISION = ("title", "author", "group", "number", "purpose")


class Clash(ApiError):
    """A save was based on a revision that is no longer the latest."""

    def __init__(self, latest: int) -> None:
        detail = (
            "This exercise was changed elsewhere since you opened it; your changes are still here."
        )
        super().__init__(409, "Changed elsewhere", detail, latest)
        self.latest = latest


class Exercise(models.Model):
    """An exercise: what the notebook lists it by, as its `latest` revision says."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, null=True)
    created = models.DateTimeField(default=timezone.now)
    saved = models.DateTimeField(default=timezone.now)
    deleted = models.DateTimeField(null=True)
    latest = models.PositiveIntegerField(default=0)
    title = models.CharField(max_length=120)
    author = models.CharField(max_length=120)
    group = models.CharField(max_length=120)
    number = models.CharField(max_length=40)
    purpose = models.CharField(max_length=600)
    place = models.FloatField(null=True)  # of its number among the others
    words = models.TextField()  # to be found by, in small letters
    # What its card shows, worked out when it is first listed, of the revision `pictured`.
    pictured = models.PositiveIntegerField(default=0)
    picture = models.TextField()  # JSON

    class Meta:
        indexes = (models.Index(fields=("deleted", "-saved")),)

    @classmethod
    def begin(cls, document: Document, owner: User | None = None) -> Exercise:
        with transaction.atomic():
            exercise = cls.objects.create(owner=owner)
            exercise.append(document.model_dump(mode="json"), None)
        return exercise

    def save_revision(self, document: Document, based_on: int, restores: int | None) -> Revision:
        """Append a revision. Raises Clash, having changed nothing, if `based_on` is not the latest."""
        raw = document.model_dump(mode="json")
        with transaction.atomic():
            self.refresh_from_db(fields=["latest"])
            if self.latest != based_on:
                raise Clash(self.latest)
            return self.append(raw, restores)

    def append(self, raw: dict[str, Any], restores: int | None) -> Revision:
        """Keep the document, as JSON holds it, as the next revision, whatever the latest is."""
        self.latest += 1
        for field in _OF_A_REVISION:
            setattr(self, field, raw[field])
        self.place = _place(self.number)
        self.words = " ".join(raw[field] for field in _OF_A_REVISION).lower()
        self.saved = timezone.now()
        self.save(update_fields=[*_OF_A_REVISION, "latest", "place", "words", "saved"])
        return Revision.append(self, raw, restores)

    def __str__(self) -> str:
        return self.title

    def revision(self, number: int | None = None) -> Revision:
        """The latest, or one of that number. Raises Revision.DoesNotExist."""
        return self.revisions.select_related("base").get(number=number or self.latest)


class Numbers(models.Model):
    """A long column of numbers or characters, by the hash of its content; whoever needs it refers to it."""

    digest = models.CharField(max_length=64, primary_key=True)
    content = models.BinaryField()


class Revision(models.Model):
    """One saved state. `restores` is the earlier revision it went back to, where it did.

    `content` is packed against the revision `base`, which itself stands alone (see storing); `places`
    says what of it is found among Numbers.
    """

    exercise = models.ForeignKey(Exercise, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    saved = models.DateTimeField(default=timezone.now)
    restores = models.PositiveIntegerField(null=True)
    base = models.ForeignKey("self", models.PROTECT, null=True, related_name="+")
    content = models.BinaryField()
    places = models.JSONField(default=list)
    changed = models.CharField(max_length=200, default="")  # in words, since the one before

    class Meta:
        constraints = (
            models.UniqueConstraint(fields=("exercise", "number"), name="one_revision_a_number"),
        )

    @classmethod
    def append(cls, exercise: Exercise, raw: dict[str, Any], restores: int | None) -> Revision:
        """The next revision of `exercise`, which says already which that is."""
        text, places, apart = extract_blobs(raw)
        known = set(Numbers.objects.filter(digest__in=apart).values_list("digest", flat=True))
        Numbers.objects.bulk_create(
            (Numbers(digest=d, content=packed(t)) for d, t in apart.items() if d not in known),
            ignore_conflicts=True,
        )
        before = (
            exercise.revisions.select_related("base").filter(number=exercise.latest - 1).first()
        )
        base = before and (before.base or before)
        content, is_against = shortest(text, base.text if base else None)
        changed = difference(before.raw, raw) if before else ""
        return cls.objects.create(
            exercise=exercise, number=exercise.latest, restores=restores,
            base=base if is_against else None, content=content, places=places, changed=changed[:200],
        )  # fmt: skip

    @property
    def text(self) -> str:
        """Its document without what lies apart, as JSON."""
        return unpacked(bytes(self.content), self.base.text if self.base else "")

    @property
    def raw(self) -> dict[str, Any]:
        """Its document as it was saved, of whatever version."""
        digests = [digest for _, digest in self.places]
        rows = Numbers.objects.filter(digest__in=digests).values_list("digest", "content")
        apart = {digest: unpacked(bytes(content)) for digest, content in rows}
        return restore_blobs(self.text, self.places, apart)

    @property
    def document(self) -> Document:
        return checked(self.raw)


def _place(number: str) -> float | None:
    try:
        return float(number)
    except ValueError:
        return None


def purge() -> int:
    """Delete for good the exercises that were deleted longer ago than they are kept, with their revisions,
    and numbers that no revision refers to any more. How many exercises that were."""
    with transaction.atomic():
        over = Exercise.objects.filter(deleted__lt=timezone.now() - DELETED_ARE_KEPT)
        count = over.count()
        if count:
            # A revision may be packed against another, which is protected: those that are go first.
            Revision.objects.filter(exercise__in=over, base__isnull=False).delete()
            over.delete()
            kept = {
                digest
                for places in Revision.objects.exclude(places=[]).values_list("places", flat=True)
                for _, digest in places
            }
            known = Numbers.objects.values_list("digest", flat=True)
            Numbers.objects.filter(digest__in=[d for d in known if d not in kept]).delete()
    return count
