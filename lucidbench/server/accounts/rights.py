"""Who may do what: asked for every request, and for every ask on a line, which may outlive a sign-in."""

from __future__ import annotations

from collections.abc import Callable
from http.cookies import SimpleCookie
from importlib import import_module
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.http import HttpRequest, HttpResponse

from lucidbench.server.problems import Problem, response_of

# And the page, which is the same for all.
_OPEN_TO_ALL = ("/api/me", "/api/sign-in", "/api/sign-out")
SIGN_IN = Problem(title="Not signed in", status=401, detail="You are not signed in.")


def refusal(user: Any) -> Problem | None:
    """Why this person may not use the notebook; nothing where they may.

    A server that only its own machine reaches is one person's notebook and asks nobody who they are.
    """
    if not settings.SHARED or (user.is_authenticated and user.is_active):
        return None
    return SIGN_IN


class RequireLogin:
    """Lets nobody past who may not use the notebook."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        asks_nobody = not request.path.startswith("/api/") or request.path in _OPEN_TO_ALL
        problem = None if asks_nobody else refusal(request.user)
        return response_of(problem) if problem else self.get_response(request)


async def refusal_on_line(headers: list[tuple[bytes, bytes]]) -> Problem | None:
    """The same, of who opened a line with these headers, as things are now."""
    if not settings.SHARED:
        return None
    return await sync_to_async(_refusal_as_things_are)(headers)


def _refusal_as_things_are(headers: list[tuple[bytes, bytes]]) -> Problem | None:
    cookies = SimpleCookie(dict(headers).get(b"cookie", b"").decode("latin-1"))
    cookie = cookies.get(settings.SESSION_COOKIE_NAME)
    request = HttpRequest()
    store = import_module(settings.SESSION_ENGINE).SessionStore
    request.session = store(cookie.value if cookie else None)
    return refusal(get_user(request))
