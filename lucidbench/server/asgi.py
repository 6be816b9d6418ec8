"""The application as the server runs it: HTTP for what is kept, one line a page for what is live."""

from __future__ import annotations

import gc
import os
import time
from threading import Thread, main_thread
from typing import cast

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")

from channels.routing import ProtocolTypeRouter, URLRouter
from django.core.asgi import get_asgi_application
from django.urls import path

LINGERS = 1.0  # s that threads may still take once the server has ended
LARGEST_REQUEST = 64_000_000  # bytes; a document may have 5 MB, and is then refused with a sentence

http = get_asgi_application()  # sets Django up, which what follows needs

from lucidbench.core.analyses.warm import warm
from lucidbench.server.bounded import Application, Bounded
from lucidbench.server.jobs.executor import executor
from lucidbench.server.live.line import Line


def _warm_up() -> None:
    """Load what the first look and the first run would wait for otherwise, a second or so."""
    warm()
    executor.prepare()
    # What is loaded stays for good: looking through it for garbage would be most of an answer's time.
    gc.collect()
    gc.freeze()


def _end_in_time() -> None:
    """A thread that compiles or solves would be waited for when the server is told to stop; what was
    answered as saved is on the disk by then."""
    main_thread().join()
    time.sleep(LINGERS)
    os._exit(0)


Thread(target=_warm_up, daemon=True, name="warming up").start()
Thread(target=_end_in_time, daemon=True, name="ending").start()
application = ProtocolTypeRouter(
    {
        "http": Bounded(cast(Application, http), LARGEST_REQUEST),
        "websocket": URLRouter([path("line", Line.as_asgi())]),
    }
)
