"""The last looks told with the documents they are of, and the last results: what comes next may be told
by what has changed, and a result looked at closer. Losing one costs time alone."""

from __future__ import annotations

from collections import OrderedDict
from secrets import token_hex
from threading import Lock
from typing import Generic, NamedTuple, TypeVar

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.evaluate import Evaluation
from lucidbench.core.runs import Result

MOST_LOOKS = 32  # one for each open page is asked for again
MOST_RESULTS = 16

Thing = TypeVar("Thing")


class Forgotten(Exception):
    """What is asked about is remembered no more."""


class Told(NamedTuple):
    document: Exercise
    look: Evaluation


class Remembered(Generic[Thing]):
    """Things by mark, what was asked for longest ago forgotten first; for any thread."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: OrderedDict[str, Thing] = OrderedDict()
        self._lock = Lock()

    def keep(self, thing: Thing) -> str:
        """Remember it; the mark it is known by."""
        mark = token_hex(8)
        with self._lock:
            self._kept[mark] = thing
            if len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return mark

    def get(self, mark: str) -> Thing | None:
        with self._lock:
            if mark in self._kept:
                self._kept.move_to_end(mark)
            return self._kept.get(mark)


looks: Remembered[Told] = Remembered(MOST_LOOKS)
results: Remembered[Result] = Remembered(MOST_RESULTS)
