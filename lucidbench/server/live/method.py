"""The registry of what a page may ask on its line: `METHODS`, by name.

A method is a function of what was asked and what is `given` with it. Its name, what is sent and what comes
back follow from its signature; a decorator tells where it is carried out.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Any, Literal, NamedTuple, get_type_hints

from pydantic import BaseModel, Field, TypeAdapter

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.errors import DocumentError
from lucidbench.server.jobs.executor import executor
from lucidbench.server.jobs.task import Outcome, Tell
from lucidbench.server.live.memory import CachedDocument, memory, new_mark
from lucidbench.server.problems import CacheExpired

LOOKS_AT_ONCE = 4  # threads; looks take milliseconds each
BENCHES_AT_ONCE = 16  # points being measured, each of which waits for instruments most of the time


class Sent(BaseModel):
    """A document, whole or by what is changed since the look marked `since`."""

    document: Exercise | None = None
    since: str = ""
    changes: list[Change] = Field(default=[], max_length=1_000)


class ResultAsked(BaseModel):
    """A result, by the mark it is remembered by."""

    result: str


def _nobody(told: float | bytes) -> None:
    """Takes reports of progress while nobody follows the work."""


@dataclass
class Given:
    """What a method works with beside what was asked: the page's `document` and pickled `result`, where it
    was sent them. What the method puts into `kept` is remembered by the `mark`."""

    page: str
    mark: str
    sent: Exercise | None = None
    result: bytes = b""
    kept: bytes = b""
    tell: Tell = _nobody

    @property
    def document(self) -> Exercise:
        if self.sent is None:
            raise DocumentError("An exercise is missing.")
        return self.sent


Work = Callable[[Any, Given], Any]
Where = Literal["thread", "process", "bench"]


class Caller(NamedTuple):
    """The page that asks, and where its progress is reported."""

    page: str
    tell: Tell


@dataclass(frozen=True)
class Method:
    """`body` is the model of what is sent, `answer` the type of what comes back, None where that is a file.
    What takes longer than an edit may is carried out in a `process`."""

    name: str
    body: type[BaseModel]
    answer: Any
    work: Work = field(repr=False)
    where: Where

    @property
    def is_job(self) -> bool:
        return self.where == "process"

    async def carry_out(self, caller: Caller, body: object) -> bytes:
        """The answer. Raises what tells why there is none: ValidationError, LucidError, ApiError."""
        loop = asyncio.get_running_loop()
        asked, given = await loop.run_in_executor(_LOOKS, self._given, caller, body)
        if self.where == "process":
            job = Job(self.name, asked, replace(given, tell=_nobody))
            told = await executor.carry_out(job, caller.tell)
        else:
            threads = _BENCHES if self.where == "bench" else _LOOKS
            told = await loop.run_in_executor(threads, self.outcome, asked, given)
        if told.kept:
            memory.keep(caller.page, given.mark, told.kept, len(told.kept))
        return told.answer

    def _given(self, caller: Caller, body: object) -> tuple[BaseModel, Given]:
        asked = self.body.model_validate(body)
        given = Given(caller.page, new_mark(), tell=caller.tell)
        if isinstance(asked, Sent):
            given.sent = _document(caller.page, asked)
        if isinstance(asked, ResultAsked):
            result = memory.get(caller.page, asked.result)
            if not isinstance(result, bytes):
                raise CacheExpired
            given.result = result
        return asked, given

    def outcome(self, asked: BaseModel, given: Given) -> Outcome:
        told = self.work(asked, given)
        if not isinstance(told, bytes):
            told = writer(self.answer).dump_json(told)
        return Outcome(told, given.kept)


class Job(NamedTuple):
    """A method on its way to a process."""

    method: str
    asked: BaseModel
    given: Given

    def carry_out(self, tell: Tell) -> Outcome:
        return METHODS[self.method].outcome(self.asked, replace(self.given, tell=tell))


METHODS: dict[str, Method] = {}


def in_thread(work: Work) -> Work:
    """Of a few milliseconds: in a thread of this process."""
    return _entered(work, "thread")


def in_process(work: Work) -> Work:
    """In a process, bounded in time and memory, which can be ended."""
    return _entered(work, "process")


def at_bench(work: Work) -> Work:
    """In a thread of those that wait for instruments."""
    return _entered(work, "bench")


def _entered(work: Work, where: Where) -> Work:
    hints = get_type_hints(work)
    answer = hints.pop("return")
    name = work.__name__
    METHODS[name] = Method(
        name, next(iter(hints.values())), None if answer is bytes else answer, work, where
    )
    return work


@cache
def writer(of: Any) -> TypeAdapter[Any]:
    return TypeAdapter(of)


def _document(page: str, asked: Sent) -> Exercise:
    """The document sent, whole or as changes. Raises CacheExpired if their base is no longer cached."""
    if asked.document is not None:
        return asked.document
    before = memory.get(page, asked.since)
    if not isinstance(before, CachedDocument):
        raise CacheExpired
    return patched(before.document, asked.changes)


_LOOKS = ThreadPoolExecutor(LOOKS_AT_ONCE, thread_name_prefix="look")
_BENCHES = ThreadPoolExecutor(BENCHES_AT_ONCE, thread_name_prefix="bench")
