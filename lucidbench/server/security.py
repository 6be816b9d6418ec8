"""What the page may load (its own files and nothing else), and who may write (the page alone)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseForbidden
from django.middleware.csrf import CsrfViewMiddleware

from lucidbench.server.problems import Problem, response_of

_POLICY = "; ".join(
    (
        "default-src 'self'",
        "img-src 'self' data:",  # a drawing is painted as a PNG from its own text
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)


class ContentPolicy:
    """Puts the Content-Security-Policy on every answer."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        host = request.get_host()  # its line too, which some browsers do not count as 'self'
        line = f"connect-src 'self' ws://{host} wss://{host}"
        response.headers["Content-Security-Policy"] = f"{_POLICY}; {line}"
        return response


class CsrfEverywhere(CsrfViewMiddleware):
    """Django's check for the API too, whose library marks its views exempt, as for outside clients."""

    def process_view(
        self, request: HttpRequest, _view: Any, callback_args: Any, callback_kwargs: Any
    ) -> HttpResponseForbidden | None:
        return super().process_view(request, _not_exempt, callback_args, callback_kwargs)


def _not_exempt() -> HttpResponse:
    """Stands for the view in the check, so that no exemption is seen; never called."""
    raise NotImplementedError


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    detail = "The request did not come from an open Lucid Bench page; reload the page."
    return response_of(Problem(title="Not from this page", status=403, detail=detail))
