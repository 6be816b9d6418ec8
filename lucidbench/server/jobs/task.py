"""A task for a worker process, and its outcome. Bytes in, bytes out."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple, Protocol

# How far it has come, 0 to 1, or what is known so far: JSON.
Tell = Callable[[float | bytes], None]


class Outcome(NamedTuple):
    """`answer` is what is told of it, JSON or a file; `kept` what is remembered of it, where anything is."""

    answer: bytes
    kept: bytes = b""


class Task(Protocol):
    """Sent to the process pickled."""

    def carry_out(self, tell: Tell) -> Outcome:
        """Raises LucidError with a sentence for the person."""
