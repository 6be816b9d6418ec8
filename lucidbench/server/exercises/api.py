"""What is kept. A save names the revision it builds on."""

from __future__ import annotations

from django.conf import settings
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Status

from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.netlist import write_netlist
from lucidbench.server.accounts.models import User
from lucidbench.server.exercises.cards import found, listed
from lucidbench.server.exercises.models import DELETED_ARE_KEPT, Exercise, Revision
from lucidbench.server.exercises.schemas import (
    Listed,
    ListQuery,
    Opened,
    RevisionOut,
    Save,
    Saved,
    Start,
)
from lucidbench.server.problems import Problem

MOST_LISTED_REVISIONS = 200

router = Router(tags=["exercises"])


@router.get("", response=Listed)
def list_exercises(request: HttpRequest, wanted: Query[ListQuery]) -> HttpResponse:
    """A stretch of the notebook."""
    exercises = _own(request)
    if wanted.deleted:
        exercises = exercises.filter(deleted__gte=timezone.now() - DELETED_ARE_KEPT)
    else:
        exercises = exercises.filter(deleted=None)
    exercises = found(exercises, wanted.find, wanted.order)
    told = listed(exercises, wanted.first, wanted.count)
    return HttpResponse(told, content_type="application/json")


@router.post("", response={201: Opened})
def create_exercise(request: HttpRequest, start: Start) -> Status[Opened]:
    """Begin an exercise, empty or from a document."""
    document = start.document or Document(title="New exercise")
    return Status(201, _opened(Exercise.begin(document, _owner(request)).revision()))


@router.get("/{identity}", response=Opened)
def open_exercise(request: HttpRequest, identity: int) -> Opened:
    return _opened(_kept(request, identity).revision())


@router.put("/{identity}", response={200: Saved, 409: Problem})
def save_exercise(request: HttpRequest, identity: int, save: Save) -> Saved:
    """Append a revision; refused with 409, and nothing changed, unless based on the latest."""
    exercise = _kept(request, identity)
    revision = exercise.save_revision(save.document, save.based_on, save.restores)
    return Saved(revision=revision.number, saved=revision.saved)


@router.post("/{identity}/duplicate", response={201: Opened})
def duplicate_exercise(request: HttpRequest, identity: int) -> Status[Opened]:
    document = _kept(request, identity).revision().document
    copy = document.model_copy(update={"title": f"{document.title} (copy)"[:120]})
    return Status(201, _opened(Exercise.begin(copy, _owner(request)).revision()))


@router.delete("/{identity}", response={204: None})
def delete_exercise(request: HttpRequest, identity: int) -> Status[None]:
    """Take it out of the notebook; `restore` brings it back."""
    exercise = _kept(request, identity)
    exercise.deleted = timezone.now()
    exercise.save(update_fields=["deleted"])
    return Status(204, None)


@router.post("/{identity}/restore", response={204: None})
def restore_exercise(request: HttpRequest, identity: int) -> Status[None]:
    exercise = get_object_or_404(_own(request), pk=identity)
    exercise.deleted = None
    exercise.save(update_fields=["deleted"])
    return Status(204, None)


@router.get("/{identity}/revisions", response=list[RevisionOut])
def list_revisions(request: HttpRequest, identity: int) -> list[RevisionOut]:
    """The latest revisions, newest first."""
    rows = _kept(request, identity).revisions.order_by("-number").defer("content", "places")
    return [
        RevisionOut(number=row.number, saved=row.saved, restores=row.restores, changed=row.changed)
        for row in rows[:MOST_LISTED_REVISIONS]
    ]


@router.get("/{identity}/revisions/{number}", response=Opened)
def open_revision(request: HttpRequest, identity: int, number: int) -> Opened:
    revisions = Revision.objects.select_related("base")
    return _opened(get_object_or_404(revisions, exercise=_kept(request, identity), number=number))


@router.get("/{identity}/netlist")
def download_netlist(request: HttpRequest, identity: int) -> HttpResponse:
    """The circuit as netlist text."""
    document = _kept(request, identity).revision().document
    drawing = drawing_of(document)
    return _file(write_netlist(drawing.circuit), "text/plain; charset=utf-8", f"{identity}.cir")


@router.get("/{identity}/file")
def download(request: HttpRequest, identity: int) -> HttpResponse:
    """The exercise in its open file form."""
    document = _kept(request, identity).revision().document
    return _file(document.model_dump_json(indent=1), "application/json", f"{identity}.json")


def _file(content: str, kind: str, name: str) -> HttpResponse:
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="exercise-{name}"'
    return response


def _owner(request: HttpRequest) -> User | None:
    """Whose it is what is begun; on a machine of one's own, nobody's."""
    return request.user if settings.SHARED and isinstance(request.user, User) else None


def _own(request: HttpRequest) -> QuerySet[Exercise]:
    """What whoever asks may read and change: their own; on a machine of one's own, everything."""
    exercises = Exercise.objects.all()
    return exercises.filter(owner=_owner(request)) if settings.SHARED else exercises


def _kept(request: HttpRequest, identity: int) -> Exercise:
    return get_object_or_404(_own(request), pk=identity, deleted=None)


def _opened(revision: Revision) -> Opened:
    return Opened(
        id=revision.exercise_id,
        revision=revision.number,
        restores=revision.restores,
        saved=revision.saved,
        document=revision.document,
    )
