"""Errors as RFC 9457 has them, the same over HTTP and on the line; each with a sentence for the person."""

from __future__ import annotations

import logging

from django.core.exceptions import RequestDataTooBig
from django.db import OperationalError
from django.http import Http404, JsonResponse
from ninja import Schema
from ninja.errors import ValidationError as NotOfTheForm
from pydantic import ValidationError

from lucidbench.core.errors import LucidError


class Problem(Schema):
    """An error as RFC 9457 has it; `detail` is the sentence for the person."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    latest: int | None = None


def response_of(problem: Problem) -> JsonResponse:
    told = problem.model_dump(exclude_none=True)
    return JsonResponse(told, status=problem.status, content_type="application/problem+json")


class ApiError(Exception):
    """Something is refused, for a reason that is told."""

    def __init__(self, status: int, title: str, detail: str, latest: int | None = None) -> None:
        super().__init__(detail)
        self.problem = Problem(title=title, status=status, detail=detail, latest=latest)


class CacheExpired(ApiError):
    """What is asked about is remembered no more."""

    def __init__(self) -> None:
        detail = "What was meant is not remembered here any more; it has to be sent, or run, again."
        super().__init__(410, "CacheExpired", detail)


def problem_of(error: Exception) -> Problem:
    """What is told of `error`; of one that should not have come, to the log too."""
    if isinstance(error, ApiError):
        return error.problem
    if isinstance(error, ValidationError | NotOfTheForm):
        return _not_of_the_form(error)
    if isinstance(error, RequestDataTooBig):
        return Problem(title="Too large", status=413, detail="The document is larger than 5 MB.")
    if isinstance(error, Http404):
        detail = "There is no such exercise, or it was deleted."
        return Problem(title="Not there", status=404, detail=detail)
    if isinstance(error, LucidError):
        return Problem(title="Not possible", status=422, detail=str(error))
    if isinstance(error, OperationalError):
        return _of_the_database(error)
    logging.getLogger(__name__).error("a fault of the program", exc_info=error)
    detail = "The server met a fault of its own, which it has written into its log."
    return Problem(title="A fault of the server", status=500, detail=detail)


def _not_of_the_form(error: ValidationError | NotOfTheForm) -> Problem:
    if isinstance(error, NotOfTheForm):
        first, steps = error.errors[0], error.errors[0]["loc"][2:]
    else:
        first, steps = dict(error.errors()[0]), error.errors()[0]["loc"]
    words = [str(step) for step in steps if step != "document"]
    place = " → ".join(words) or "the body"
    detail = f"At {place}: {first['msg'].lower()}."
    return Problem(title="Not understood", status=422, detail=detail)


# What SQLite says, and what that means to the one who saves.
_DATABASE = (
    (
        "full",
        507,
        "The disk of the server is full. Make room on it; nothing that was saved is lost.",
    ),
    ("readonly", 503, "The server may not write to its data folder; its owner can mend that."),
    ("locked", 503, "The server's data are in use by another program. It is tried again."),
    ("disk i/o", 503, "The disk of the server does not take what is written to it."),
)


def _of_the_database(error: OperationalError) -> Problem:
    for words, status, detail in _DATABASE:
        if words in str(error).lower():
            return Problem(title="Not kept", status=status, detail=detail)
    logging.getLogger(__name__).error("the database failed", exc_info=error)
    detail = "The server's database failed; the server's log says how."
    return Problem(title="Not kept", status=503, detail=detail)
