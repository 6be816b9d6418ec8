"""The application as the server runs it: HTTP for what is kept, one line a page for what is live."""

from __future__ import annotations

import gc
import os
from threading import Thread, Timer
from typing import cast

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")

from channels.routing import ProtocolTypeRouter, URLRouter
from django.core.asgi import get_asgi_application
from django.urls import path

THREADS_END_WITHIN = 1.0  # s, once the server has ended
LARGEST_REQUEST = 64_000_000  # bytes; a document may have 5 MB, and is then refused with a sentence

http = get_asgi_application()  # sets Django up, which what follows needs

from lucidbench.core.analyses.warm import warm
from lucidbench.server.bounded import Application, Event, MaxBodySize, Receive, Send
from lucidbench.server.jobs.executor import executor
from lucidbench.server.live.line import ExerciseConsumer


def _warm_up() -> None:
    """Load what the first look and the first run would wait for otherwise, a second or so."""
    warm()
    executor.prepare()
    # What is loaded stays for good: looking through it for garbage would be most of an answer's time.
    gc.collect()
    gc.freeze()


async def _lifespan(scope: Event, receive: Receive, send: Send) -> None:
    """Ends this process a moment after the server has shut down: a thread that compiles or solves would be
    waited for, and what was answered as saved is on the disk by then."""
    while True:
        event = await receive()
        await send({"type": f"{event['type']}.complete"})
        if event["type"] == "lifespan.shutdown":
            end = Timer(THREADS_END_WITHIN, os._exit, [0])
            end.daemon = True
            end.start()
            return


Thread(target=_warm_up, daemon=True, name="warming up").start()
application = ProtocolTypeRouter(
    {
        "http": MaxBodySize(cast(Application, http), LARGEST_REQUEST),
        "lifespan": _lifespan,
        "websocket": URLRouter([path("line", ExerciseConsumer.as_asgi())]),
    }
)
