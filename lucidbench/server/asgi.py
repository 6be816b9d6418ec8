"""The application as the server runs it."""

from __future__ import annotations

import os

import django
from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIHandler
from django.http import HttpRequest
from django.http.response import HttpResponseBase

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")


class OneThread(ASGIHandler):
    """Handles a request from end to end in one worker thread.

    Django's own handler goes to and fro between the event loop and a thread for each middleware,
    which costs a small answer more than making it does. The views here are synchronous. Runs, which
    may take seconds and touch no database, have threads of their own, so that looks need not wait.
    """

    def load_middleware(self, is_async: bool = False) -> None:
        super().load_middleware(is_async=False)

    async def get_response_async(self, request: HttpRequest) -> HttpResponseBase:
        in_turn = not request.path.startswith("/api/run")
        return await sync_to_async(self.get_response, thread_sensitive=in_turn)(request)


django.setup(set_prefix=False)
application = OneThread()
