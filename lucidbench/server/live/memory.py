"""What pages may come back to: the last documents with their looks, and results. Losing one costs time
alone."""

from __future__ import annotations

from collections import OrderedDict, defaultdict
from secrets import token_hex
from threading import Lock
from typing import NamedTuple

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.evaluate import Evaluation

PAGE_BUDGET = 256 << 20  # bytes of one page: more than the largest result
WORKER_BUDGET = 1 << 30  # bytes of all pages of a worker


class CachedDocument(NamedTuple):
    """A document, and the look that was told of it."""

    document: Exercise
    look: Evaluation


Thing = CachedDocument | bytes  # a pickled result


def new_mark() -> str:
    return token_hex(8)


class Memory:
    """Things by page and mark. Where a budget is exceeded, what was asked for longest ago is forgotten:
    of that page, or of all. The last of a page is kept though it exceed the page's. For any thread."""

    def __init__(self, page_budget: int = PAGE_BUDGET, budget: int = WORKER_BUDGET) -> None:
        self._page_budget, self._budget = page_budget, budget
        self._kept: OrderedDict[tuple[str, str], tuple[Thing, int]] = OrderedDict()
        self._sizes: defaultdict[str, int] = defaultdict(int)
        self._lock = Lock()

    def keep(self, page: str, mark: str, thing: Thing, size: int) -> None:
        """Remember it, of `size` bytes, by a mark that is known to its page and to no other."""
        with self._lock:
            self._kept[page, mark] = thing, size
            self._sizes[page] += size
            while self._sizes[page] > self._page_budget and self._forget_oldest_of(page, mark):
                pass
            while self.size > self._budget and len(self._kept) > 1:
                self._forget(next(iter(self._kept)))

    def get(self, page: str, mark: str) -> Thing | None:
        with self._lock:
            if (page, mark) not in self._kept:
                return None
            self._kept.move_to_end((page, mark))
            return self._kept[page, mark][0]

    def forget(self, page: str) -> None:
        """Everything of a page that is gone."""
        with self._lock:
            for key in [key for key in self._kept if key[0] == page]:
                self._forget(key)

    @property
    def size(self) -> int:
        """Bytes of all pages."""
        return sum(self._sizes.values())

    def _forget_oldest_of(self, page: str, last: str) -> bool:
        oldest = next(key for key in self._kept if key[0] == page)
        if oldest[1] == last:
            return False
        self._forget(oldest)
        return True

    def _forget(self, key: tuple[str, str]) -> None:
        _, size = self._kept.pop(key)
        self._sizes[key[0]] -= size
        if not self._sizes[key[0]]:
            del self._sizes[key[0]]


memory = Memory()
