"""A bound on what a request may carry, for a server that would read any number of bytes."""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable
from typing import Any

from lucidbench.server.problems import Problem

Event = dict[str, Any]
Receive = Callable[[], Awaitable[Event]]
Send = Callable[[Event], Awaitable[None]]
Application = Callable[[Event, Receive, Send], Awaitable[None]]

_TOO_LARGE = Problem(title="Too large", status=413, detail="The document is larger than 5 MB.")


class MaxBodySize:
    """An ASGI application that answers for itself where a body is larger than `most` bytes."""

    def __init__(self, within: Application, most: int) -> None:
        self._within, self._most = within, most

    async def __call__(self, scope: Event, receive: Receive, send: Send) -> None:
        length = dict(scope["headers"]).get(b"content-length", b"0")
        if not length.isdigit() or int(length) > self._most:
            await _refuse(send)
            return
        received = 0

        async def counted() -> Event:
            nonlocal received
            event = await receive()
            if event["type"] == "http.request":
                received += len(event["body"])
            if received > self._most:  # of a body that does not say how long it is
                return {"type": "http.disconnect"}
            return event

        await self._within(scope, counted, send)


async def _refuse(send: Send) -> None:
    body = json.dumps(_TOO_LARGE.model_dump(exclude_none=True)).encode()
    headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": 413, "headers": headers})
    await send({"type": "http.response.body", "body": body, "more_body": False})
