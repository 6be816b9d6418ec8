"""The one page: the built browser application, for every address that is not the API's."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie

_NOT_BUILT = "The page is not built yet: run ./lucid demo, which builds it.\n"


@never_cache
@ensure_csrf_cookie
def application(request: HttpRequest) -> HttpResponse:
    page = settings.WEB / "index.html"
    if not page.exists():
        return HttpResponse(_NOT_BUILT, status=503, content_type="text/plain")
    return HttpResponse(page.read_bytes())
