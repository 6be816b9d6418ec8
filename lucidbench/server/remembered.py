"""The last looks told, so that the next may be told by what has changed. Losing one costs time alone."""

from __future__ import annotations

from collections import OrderedDict
from secrets import token_hex
from threading import Lock

from lucidbench.core.look import Look

MOST_KEPT = 32  # one for each open page is asked for again


class Remembered:
    """Looks by mark, those asked for longest ago forgotten first; may be used from any thread."""

    def __init__(self) -> None:
        self._looks: OrderedDict[str, Look] = OrderedDict()
        self._lock = Lock()

    def keep(self, look: Look) -> str:
        """Remember `look`; the mark it is known by."""
        mark = token_hex(8)
        with self._lock:
            self._looks[mark] = look
            if len(self._looks) > MOST_KEPT:
                self._looks.popitem(last=False)
        return mark

    def get(self, mark: str) -> Look | None:
        with self._lock:
            if mark in self._looks:
                self._looks.move_to_end(mark)
            return self._looks.get(mark)


looks = Remembered()
