"""What bounds a run and follows it: points, memory, time, progress, cancel."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from lucidbench.core.errors import LucidError

MOST_POINTS = 2_000_000  # of an axis
MOST_NUMBERS = 60_000_000  # kept by one analysis: half a gigabyte
DEFAULT_SECONDS = 60.0


class RunRefused(LucidError):
    """A run would not fit, or was stopped."""


@dataclass
class Watch:
    """Follows one run. `tell` hears the share done, 0 to 1; `cancelled` is asked now and then. By a `clock`
    of the thread's own work what a run comes to does not hang on what else the machine does."""

    seconds: float = DEFAULT_SECONDS
    tell: Callable[[float], None] | None = None
    cancelled: Callable[[], bool] | None = None
    clock: Callable[[], float] = time.monotonic
    began: float = field(default=math.nan)

    def __post_init__(self) -> None:
        if math.isnan(self.began):
            self.began = self.clock()

    @property
    def is_over(self) -> bool:
        return self.clock() - self.began > self.seconds

    def part(self, k: int, count: int) -> Watch:
        """The same for the piece `k` of `count` equal ones."""
        tell = self.tell
        if tell is None or count == 1:
            return self
        return replace(self, tell=lambda share: tell((k + share) / count))

    def check(self, share: float, doing: str) -> None:
        """Raise RunRefused where the time is over or the run was cancelled."""
        if self.tell is not None:
            self.tell(min(1.0, max(0.0, share)))
        if self.cancelled is not None and self.cancelled():
            raise RunRefused(f"The {doing} was cancelled at {share:.0%}.")
        if self.is_over:
            raise RunRefused(
                f"The {doing} took longer than the {self.seconds:g} s it is allowed and had come to "
                f"{share:.0%}; shorten it or allow it more time."
            )


@dataclass(frozen=True)
class Cost:
    """What an analysis took."""

    seconds: float
    steps: int = 0  # accepted steps, or points
    rejected: int = 0
    iterations: int = 0  # of Newton's method
    factorisations: int = 0


def refuse_points(count: float, what: str, mend: str) -> None:
    """Raise RunRefused where an axis would have too many points."""
    if not count <= MOST_POINTS:
        raise RunRefused(
            f"The {what} would have {count:.3g} points; {MOST_POINTS:,} are the most. {mend}"
        )


def refuse_numbers(count: float, what: str, mend: str) -> None:
    """Raise RunRefused where a result would not fit into memory."""
    if not count <= MOST_NUMBERS:
        raise RunRefused(
            f"The {what} would keep {count:.3g} numbers; {MOST_NUMBERS:,} are the most. {mend}"
        )
