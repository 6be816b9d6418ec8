"""The processes of this worker, as many as are needed and a few at rest."""

from __future__ import annotations

import asyncio
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from threading import Event, Lock

from lucidbench.core.runs import SECONDS
from lucidbench.server.jobs.process import GRACE, JobCancelled, JobProcess
from lucidbench.server.jobs.work import Outcome, Task, Tell

MOST_AT_ONCE = 8  # jobs; what is asked beyond waits its turn
KEPT_AT_REST = 2  # processes, so that the next job begins at once


@dataclass
class Job:
    """One task under way. `cancel` ends it wherever it is: waiting, working, or hanging in a library."""

    task: Task
    tell: Tell
    seconds: float = SECONDS + GRACE
    cancelled: Event = field(default_factory=Event)
    waiting: Future[Outcome] | None = None

    def cancel(self) -> None:
        self.cancelled.set()
        if self.waiting:
            self.waiting.cancel()  # where it has not begun


class Executor:
    """Carries out jobs in processes. A job is waited for in a thread, which does nothing else."""

    def __init__(self, most: int = MOST_AT_ONCE) -> None:
        self._threads = ThreadPoolExecutor(most, thread_name_prefix="job")
        self._at_rest: list[JobProcess] = []
        self._lock = Lock()

    async def carry_out(self, job: Job) -> Outcome:
        """What the job comes to. Raises what its task raises, or JobEnded."""
        if job.cancelled.is_set():
            raise JobCancelled("The run was cancelled before it began.")
        job.waiting = self._threads.submit(self._wait_for, job)
        try:
            return await asyncio.wrap_future(job.waiting)
        except asyncio.CancelledError:
            if job.cancelled.is_set():
                raise JobCancelled("The run was cancelled before it began.") from None
            job.cancel()  # whoever asked is gone
            raise

    def prepare(self) -> None:
        """Have a process at rest, with the engine loaded."""
        self._put_back(JobProcess())

    def _wait_for(self, job: Job) -> Outcome:
        process = self._take()
        try:
            return process.carry_out(job.task, job.seconds, job.tell, job.cancelled)
        finally:
            self._put_back(process)

    def _take(self) -> JobProcess:
        while True:
            with self._lock:
                process = self._at_rest.pop() if self._at_rest else None
            if process is None:
                return JobProcess()
            if process.is_alive:
                return process

    def _put_back(self, process: JobProcess) -> None:
        with self._lock:
            if process.is_alive and len(self._at_rest) < KEPT_AT_REST:
                self._at_rest.append(process)
                return
        process.end()


executor = Executor()
