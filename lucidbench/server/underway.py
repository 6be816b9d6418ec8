"""Runs under way, by the key their asker gave them: how far they have come, and whether to stop."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from lucidbench.core.analyses import Watch
from lucidbench.core.runs import SECONDS


@dataclass
class Job:
    share: float = 0.0
    cancelled: bool = False


_jobs: dict[str, Job] = {}


@contextmanager
def followed(key: str) -> Iterator[Watch]:
    """A watch whose progress can be asked for, and which can be cancelled, under `key`."""
    job = Job()

    def tell(share: float) -> None:
        job.share = share

    if key:
        _jobs[key] = job
    try:
        yield Watch(SECONDS, tell, lambda: job.cancelled)
    finally:
        if _jobs.get(key) is job:
            del _jobs[key]


def share_of(key: str) -> float | None:
    """How much is done, 0 to 1; None where nothing of that key is under way."""
    job = _jobs.get(key)
    return job.share if job else None


def cancel(key: str) -> None:
    job = _jobs.get(key)
    if job:
        job.cancelled = True
