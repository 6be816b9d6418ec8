"""Solved runs, kept by what they depend on within a budget of bytes, the latest used the longest."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

BUDGET = 64 << 20  # bytes, of a process

Kept = TypeVar("Kept")


class Store(Generic[Kept]):
    """For several threads. What is larger than the whole budget is not kept."""

    def __init__(self, budget: int = BUDGET) -> None:
        self._budget = budget
        self._kept: OrderedDict[Hashable, tuple[Kept, int]] = OrderedDict()
        self._size = 0
        self._lock = Lock()

    def get(self, key: Hashable) -> Kept | None:
        with self._lock:
            found = self._kept.get(key)
            if found is None:
                return None
            self._kept.move_to_end(key)
            return found[0]

    def keep(self, key: Hashable, what: Kept, size: int) -> None:
        """`size` in bytes."""
        with self._lock:
            _, before = self._kept.pop(key, (None, 0))
            self._size -= before
            if size > self._budget:
                return
            self._kept[key] = what, size
            self._size += size
            while self._size > self._budget:
                _, (_, oldest) = self._kept.popitem(last=False)
                self._size -= oldest

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()
            self._size = 0
