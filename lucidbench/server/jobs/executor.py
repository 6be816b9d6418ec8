"""The processes of this worker, as many as are needed and a few at rest."""

from __future__ import annotations

import asyncio
from concurrent.futures import ThreadPoolExecutor
from threading import Event, Lock

from lucidbench.core.runs import SECONDS
from lucidbench.server.jobs.process import GRACE, JobProcess
from lucidbench.server.jobs.task import Outcome, Task, Tell

MOST_AT_ONCE = 8  # tasks; what is asked beyond waits its turn
KEPT_AT_REST = 2  # processes, so that the next task begins at once


class Executor:
    """Carries out tasks in processes. Each is waited for in a thread, which does nothing else."""

    def __init__(self, most: int = MOST_AT_ONCE) -> None:
        self._threads = ThreadPoolExecutor(most, thread_name_prefix="job")
        self._at_rest: list[JobProcess] = []
        self._lock = Lock()

    async def carry_out(self, task: Task, tell: Tell, seconds: float = SECONDS + GRACE) -> Outcome:
        """What the task comes to. Raises what the task raises, or JobEnded.

        Cancelling this ends the task wherever it is: waiting, working, or hanging in a library.
        """
        cancelled = Event()
        waiting = self._threads.submit(self._wait_for, task, seconds, tell, cancelled)
        try:
            return await asyncio.wrap_future(waiting)  # which takes it back where it has not begun
        finally:
            cancelled.set()

    def prepare(self) -> None:
        """Have a process at rest, with the engine loaded."""
        self._put_back(JobProcess())

    def _wait_for(self, task: Task, seconds: float, tell: Tell, cancelled: Event) -> Outcome:
        process = self._take()
        try:
            return process.carry_out(task, seconds, tell, cancelled)
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
