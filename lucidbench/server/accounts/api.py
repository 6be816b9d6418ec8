"""Who one is to this server."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema

router = Router(tags=["accounts"])


class Person(Schema):
    """`name` is what one is signed in as; nothing on a server that asks nobody."""

    name: str | None


@router.get("/me", response=Person)
def me(request: HttpRequest) -> Person:
    return Person(name=request.user.get_username() if settings.SHARED else None)
