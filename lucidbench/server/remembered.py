"""The last looks told, and the documents they are of, so that what comes next may be told by what has
changed. Losing one costs time alone."""

from __future__ import annotations

from collections import OrderedDict
from secrets import token_hex
from threading import Lock
from typing import NamedTuple

from lucidbench.core.exercise import Exercise
from lucidbench.core.look import Look

MOST_KEPT = 32  # one for each open page is asked for again


class Forgotten(Exception):
    """What is asked about is remembered no more."""


class Told(NamedTuple):
    document: Exercise
    look: Look


class Remembered:
    """What was told, by mark, what was asked for longest ago forgotten first; for any thread."""

    def __init__(self) -> None:
        self._told: OrderedDict[str, Told] = OrderedDict()
        self._lock = Lock()

    def keep(self, told: Told) -> str:
        """Remember it; the mark it is known by."""
        mark = token_hex(8)
        with self._lock:
            self._told[mark] = told
            if len(self._told) > MOST_KEPT:
                self._told.popitem(last=False)
        return mark

    def get(self, mark: str) -> Told | None:
        with self._lock:
            if mark in self._told:
                self._told.move_to_end(mark)
            return self._told.get(mark)


remembered = Remembered()
