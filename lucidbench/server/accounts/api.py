"""Who one is to this server, and signing in and out."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.throttling import AnonRateThrottle
from pydantic import Field

from lucidbench.server.problems import ApiError, Problem

TRIES = "60/m"  # from one address: a class may share it, one who guesses passwords gets nowhere

router = Router(tags=["accounts"])


class Person(Schema):
    """`name` is what one is signed in as. Where none is `needed` the server asks nobody who they are."""

    needed: bool
    name: str | None


class SignIn(Schema):
    name: str = Field(max_length=150)
    password: str = Field(max_length=128)


@router.get("/me", response=Person)
def me(request: HttpRequest) -> Person:
    is_known = settings.SHARED and request.user.is_authenticated
    return Person(needed=settings.SHARED, name=request.user.get_username() if is_known else None)


@router.post("/sign-in", response={200: Person, 403: Problem}, throttle=[AnonRateThrottle(TRIES)])
def sign_in(request: HttpRequest, who: SignIn) -> Person:
    person = authenticate(request, username=who.name, password=who.password)
    if person is None:
        raise ApiError(403, "Not known", "The name or the password is wrong.")
    login(request, person)
    return Person(needed=settings.SHARED, name=person.get_username())


@router.post("/sign-out", response={204: None})
def sign_out(request: HttpRequest) -> Status[None]:
    logout(request)
    return Status(204, None)
