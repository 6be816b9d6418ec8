"""The API over HTTP: one router a concern, and problems told in one form."""

from __future__ import annotations

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError

from lucidbench import __version__
from lucidbench.server.accounts.api import router as accounts
from lucidbench.server.drawing.api import router as drawing
from lucidbench.server.drawing.records import router as records
from lucidbench.server.exercises.api import router as exercises
from lucidbench.server.problems import problem_of, response_of

api = NinjaAPI(
    title="Lucid Bench", version=__version__, docs_url="/docs" if settings.DEVELOPMENT else None
)
api.add_router("/exercises", exercises)
api.add_router("", drawing)
api.add_router("", records)
api.add_router("", accounts)


def _tell(request: HttpRequest, error: Exception | type[Exception]) -> HttpResponse:
    return response_of(problem_of(error if isinstance(error, Exception) else error()))


for _kind in (ValidationError, Http404, Exception):  # of the first two the library tells otherwise
    api.add_exception_handler(_kind, _tell)
