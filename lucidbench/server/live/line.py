"""The line of one page: a WebSocket (RFC 6455) that stays open, on which asks are answered as they are done.

The page sends text messages, each a JSON object: `{"id", "ask", "body"}`, or `{"id", "cancel": true}` of an
ask under way. It is sent messages whose first line is a JSON object with the `id`: with a `status` as
HTTP has them, after which the answer follows, a problem where it is refused; or with a `progress`, 0 to 1;
or with `so_far`, after which follows what is known of the answer by then.
Text messages carry JSON, binary ones a file. What is no such message ends the line.
"""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import Mapping
from secrets import token_hex
from typing import Any, NamedTuple

from channels.generic.websocket import AsyncWebsocketConsumer
from django.conf import settings
from django.http.request import split_domain_port, validate_host

from lucidbench.server.accounts.rights import refusal_on_line
from lucidbench.server.benches.sessions import sessions
from lucidbench.server.jobs.process import JobCancelled
from lucidbench.server.live.memory import memory
from lucidbench.server.live.method import Caller
from lucidbench.server.live.methods import METHODS
from lucidbench.server.problems import ApiError, Problem, problem_of

MOST_UNDER_WAY = 16  # asks of one line
MOST_JOBS = 4  # of them in processes of their own
MOST_A_SECOND = 200  # messages, on the average of a few seconds
PATIENCE = 20.0  # s that a page may take to read what it is sent
NOT_UNDERSTOOD, NOT_ALLOWED, TOO_MANY = 1007, 4403, 1008


class UnderWay(NamedTuple):
    """An ask that is being answered."""

    is_job: bool
    answering: asyncio.Task[None]


class ExerciseConsumer(AsyncWebsocketConsumer):  # type: ignore[misc]  # its package tells no types
    async def connect(self) -> None:
        """Only for a page that came from here: others would borrow the reader's cookies."""
        self.page = token_hex(8)
        self.under_way: dict[int, UnderWay] = {}
        self.credit, self.counted = float(2 * MOST_A_SECOND), time.monotonic()
        self.sending = asyncio.Lock()
        self.over = False
        if not _is_from_here(dict(self.scope["headers"])):
            await self.end()  # before it is accepted: refused with 403
            return
        await self.accept()
        await self.may_go_on()

    async def end(self, code: int | None = None, reason: str = "") -> None:
        self.over = True
        await self.close(code, reason)

    async def disconnect(self, code: int) -> None:
        self.over = True
        for asked in self.under_way.values():
            asked.answering.cancel()
        memory.forget(self.page)
        # Its instruments are let go in a thread: a reading under way is waited for there.
        asyncio.get_running_loop().run_in_executor(None, sessions.forget, self.page)

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        if self.over:
            return  # what was sent before the page heard of the end
        if not self._has_credit():
            await self.end(TOO_MANY, "more messages than a page sends")
            return
        try:
            message = json.loads(text_data or "")
            key = int(message["id"])
            name = str(message.get("ask"))
        except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
            await self.end(NOT_UNDERSTOOD, "no such message")
            return
        if message.get("cancel"):
            if key in self.under_way:
                self.under_way[key].answering.cancel()
            return
        if not await self.may_go_on():
            return
        is_job = name in METHODS and METHODS[name].is_job
        if not self._has_room(is_job):
            too_many = "Too much is under way on this page already."
            await self.tell(key, Problem(title="Too much at once", status=429, detail=too_many))
            return
        answering = asyncio.create_task(self.answer(key, name, message.get("body")))
        self.under_way[key] = UnderWay(is_job, answering)

    async def answer(self, key: int, name: str, body: Any) -> None:
        loop = asyncio.get_running_loop()

        def tell(told: float | bytes) -> None:  # from another thread
            if isinstance(told, bytes):
                sending = self._send(key, {"so_far": True}, told)
            else:
                sending = self._send(key, {"progress": told})
            asyncio.run_coroutine_threadsafe(sending, loop)

        problem, told = None, b""
        try:
            if name not in METHODS:
                raise ApiError(404, "Not there", f"There is nothing to ask called {name[:40]}.")
            told = await METHODS[name].carry_out(Caller(self.page, tell), body)
        except asyncio.CancelledError:
            problem = JobCancelled().problem
        except Exception as error:  # whatever it is, the page is told
            problem = problem_of(error)
        finally:
            self.under_way.pop(key, None)  # what is done is told, whoever cancels it now
        if problem:
            await self.tell(key, problem)
        else:
            await self._send(key, {"status": 200}, told, is_file=METHODS[name].answer is None)

    async def may_go_on(self) -> bool:
        """Whether whoever opened the line still may use it; it ends where not."""
        problem = await refusal_on_line(self.scope["headers"])
        if problem:
            await self.end(NOT_ALLOWED, problem.detail)
        return problem is None

    async def tell(self, key: int, problem: Problem) -> None:
        told = problem.model_dump_json(exclude_none=True).encode()
        await self._send(key, {"status": problem.status}, told)

    async def _send(
        self, key: int, head: Mapping[str, float], body: bytes = b"", is_file: bool = False
    ) -> None:
        first = json.dumps({"id": key, **head}).encode() + b"\n"
        try:
            async with asyncio.timeout(PATIENCE), self.sending:
                if self.over:
                    return
                if is_file:
                    await self.send(bytes_data=first + body)
                else:
                    await self.send(text_data=(first + body).decode())
        except TimeoutError:
            await self.end(TOO_MANY, "what was sent was not read")
        except OSError:
            pass  # the page is gone

    def _has_room(self, for_job: bool) -> bool:
        """Whether one more may be under way. Who waits for runs is still told looks."""
        jobs = sum(asked.is_job for asked in self.under_way.values())
        return len(self.under_way) < MOST_UNDER_WAY and not (for_job and jobs >= MOST_JOBS)

    def _has_credit(self) -> bool:
        """Whether this message is within what a page sends; a pause makes up for a burst."""
        now = time.monotonic()
        earned = (now - self.counted) * MOST_A_SECOND
        self.credit, self.counted = min(2.0 * MOST_A_SECOND, self.credit + earned) - 1, now
        return self.credit >= 0


def _is_from_here(headers: dict[bytes, bytes]) -> bool:
    origin = headers.get(b"origin", b"").decode("latin-1").partition("://")[2]
    host = headers.get(b"host", b"").decode("latin-1")
    return origin == host and validate_host(split_domain_port(host)[0], settings.ALLOWED_HOSTS)
