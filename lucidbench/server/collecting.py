"""Garbage is looked for while nobody waits.

Looking takes as long as there are living objects, which a large drawing has many of; amid an answer,
that would be most of the answer's time.
"""

from __future__ import annotations

import asyncio
import gc
from collections.abc import Awaitable, Callable
from typing import Any

PAUSE = 0.5  # s without a request, after which nobody is thought to wait
WORTH_IT = 10_000  # objects made since and still there
MOST = 2_000_000  # after which it is not put off any longer

Application = Callable[[Any, Any, Any], Awaitable[None]]


class CollectsInPauses:
    """An ASGI application that collects when the one within has had nothing to do for a while."""

    def __init__(self, within: Application) -> None:
        self._within = within
        self._under_way = 0
        self._due: asyncio.TimerHandle | None = None
        # What start-up made lives for good.
        gc.collect()
        gc.freeze()
        gc.disable()

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if self._due:
            self._due.cancel()
        self._under_way += 1
        try:
            await self._within(scope, receive, send)
        finally:
            self._under_way -= 1
            if gc.get_count()[0] > MOST:
                gc.collect()
            elif not self._under_way and gc.get_count()[0] > WORTH_IT:
                self._due = asyncio.get_running_loop().call_later(PAUSE, gc.collect)
