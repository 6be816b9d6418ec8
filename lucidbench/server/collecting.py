"""Garbage is looked for while nobody waits.

Looking takes as long as there are living objects, which a large drawing has many of; amid an answer,
that would be most of the answer's time.
"""

from __future__ import annotations

import gc
import time
from collections.abc import Iterable
from threading import Lock, Thread
from wsgiref.types import StartResponse, WSGIApplication, WSGIEnvironment

PAUSE = 0.5  # s without a request, after which nobody is thought to wait
WORTH_IT = 10_000  # objects made since and still there
MOST = 2_000_000  # after which it is not put off any longer


class CollectsInPauses:
    """A WSGI application that collects when the one within has had nothing to do for a while."""

    def __init__(self, within: WSGIApplication) -> None:
        self._within = within
        self._lock = Lock()
        self._under_way = 0
        self._last = time.monotonic()
        # What start-up made lives for good.
        gc.collect()
        gc.freeze()
        gc.disable()
        Thread(target=self._keep_house, daemon=True, name="housekeeping").start()

    def __call__(self, environ: WSGIEnvironment, start_response: StartResponse) -> Iterable[bytes]:
        with self._lock:
            self._under_way += 1
        try:
            return self._within(environ, start_response)
        finally:
            with self._lock:
                self._under_way -= 1
                self._last = time.monotonic()

    def _keep_house(self) -> None:
        while True:
            time.sleep(PAUSE / 2)
            made = gc.get_count()[0]
            paused = not self._under_way and time.monotonic() - self._last > PAUSE
            if made > MOST or (paused and made > WORTH_IT):
                gc.collect()
