"""The API over HTTP: one router a concern, and problems told in one form."""

from __future__ import annotations

from django.core.exceptions import RequestDataTooBig
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError

from lucidbench import __version__
from lucidbench.core.errors import LucidError
from lucidbench.server.accounts.api import router as accounts
from lucidbench.server.drawing.api import router as drawing
from lucidbench.server.exercises.api import router as exercises
from lucidbench.server.problems import Refusal, problem_of

api = NinjaAPI(title="Lucid Bench", version=__version__, docs_url=None)
api.add_router("/exercises", exercises)
api.add_router("", drawing)
api.add_router("", accounts)


def _tell(request: HttpRequest, error: Exception | type[Exception]) -> HttpResponse:
    problem = problem_of(error if isinstance(error, Exception) else error())
    told = problem.model_dump(exclude_none=True)
    response = api.create_response(request, told, status=problem.status)
    response["Content-Type"] = "application/problem+json"
    return response


for _kind in (
    ValidationError, RequestDataTooBig, Http404, LucidError, Refusal, OperationalError, Exception,
):  # fmt: skip
    api.add_exception_handler(_kind, _tell)
