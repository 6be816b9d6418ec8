"""One process that carries out task after task, seen from within it and from outside."""

from __future__ import annotations

import ctypes
import os
import resource
import signal
import time
import traceback
from multiprocessing import get_context
from multiprocessing.connection import Connection
from pathlib import Path
from threading import Event

from lucidbench.core.errors import LucidError
from lucidbench.server.jobs.task import Outcome, Task, Tell
from lucidbench.server.problems import ApiError

MEMORY = 2 << 30  # bytes a task may take beyond what the process begins with
GRACE = 15.0  # s beyond its time, after which a task is taken to hang and ended
_OFTEN = 0.1  # s between two words of how far it has come
_LOOKS_UP = 0.05  # s between two looks at whether it was cancelled
_DIES_WITH_PARENT = 1  # PR_SET_PDEATHSIG of prctl(2)

CONTEXT = get_context("forkserver")
CONTEXT.set_forkserver_preload(["lucidbench.server.live.loaded"])


class JobEnded(ApiError):
    """A task was ended before it was done; the words say why."""

    def __init__(self, why: str) -> None:
        super().__init__(422, "Ended", why)


class JobCancelled(JobEnded):
    """The one who asked for it wants it no more."""

    def __init__(self) -> None:
        super().__init__("The run was cancelled.")


class JobProcess:
    """A process that waits for tasks; one at a time."""

    def __init__(self) -> None:
        self._line, theirs = CONTEXT.Pipe()
        self._process = CONTEXT.Process(target=_serve, args=(theirs,), daemon=True)
        self._process.start()
        theirs.close()

    @property
    def is_alive(self) -> bool:
        return self._process.is_alive()

    def carry_out(self, task: Task, seconds: float, tell: Tell, cancelled: Event) -> Outcome:
        """Wait for what `task` comes to. Raises what the task raises, or JobEnded, after which this
        process is gone: where it was cancelled, took longer than `seconds`, or died."""
        until = time.monotonic() + seconds
        try:
            self._line.send(task)
            while True:
                if self._line.poll(_LOOKS_UP):
                    told = self._line.recv()
                    if isinstance(told, (float, bytes)):
                        tell(told)
                    elif isinstance(told, Outcome):
                        return told
                    else:
                        raise told
                if cancelled.is_set():
                    raise JobCancelled
                if time.monotonic() > until:
                    raise JobEnded(
                        f"The run did not end within {seconds:.0f} s and was stopped; shorten it, or "
                        f"let it take longer steps."
                    )
        except JobEnded:
            self.end()
            raise
        except (EOFError, OSError) as error:
            self.end()
            raise JobEnded(
                "The run broke off: the machine ended its process, most likely as memory ran out. "
                "Shorten it, or let it take longer steps."
            ) from error

    def end(self) -> None:
        """At once, whatever it is doing."""
        self._process.kill()
        self._process.join()
        self._line.close()


def _serve(line: Connection) -> None:
    """Until the other side is gone."""
    die_with_parent()
    os.nice(5)  # whoever waits for a figure after an edit goes first
    bound_memory(MEMORY)
    while True:
        try:
            task: Task = line.recv()
            line.send(_outcome(task, _now_and_then(line.send)))
        except (EOFError, OSError):
            return


def _outcome(task: Task, tell: Tell) -> Outcome | Exception:
    try:
        return task.carry_out(tell)
    except LucidError as error:
        return LucidError(str(error))  # the plain sentence: not every error can be sent
    except MemoryError:
        return LucidError(
            f"The run needs more than the {MEMORY >> 30} GB of memory it may take; shorten it, or let "
            f"it take longer steps."
        )
    except OSError:
        raise  # whoever is told how far it has come is gone
    except Exception:
        traceback.print_exc()
        return RuntimeError("a job met a fault of the program; see above")


def _now_and_then(tell: Tell) -> Tell:
    last = 0.0

    def throttled(told: float | bytes) -> None:
        nonlocal last
        if isinstance(told, bytes):
            tell(told)  # what is known so far: whoever tells that takes care not to do so often
            return
        now = time.monotonic()
        if now - last > _OFTEN:
            last = now
            tell(float(told))

    return throttled


def die_with_parent() -> None:
    """Have this process end when the server does, by whatever way, and not before."""
    ctypes.CDLL(None).prctl(_DIES_WITH_PARENT, signal.SIGKILL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is for the server, which ends this


def bound_memory(more: int) -> None:
    """Let this process have `more` bytes of data beyond what it holds."""
    status = Path("/proc/self/status").read_text()
    held = next(line for line in status.splitlines() if line.startswith("VmData"))
    most = int(held.split()[1]) * 1024 + more
    resource.setrlimit(resource.RLIMIT_DATA, (most, resource.getrlimit(resource.RLIMIT_DATA)[1]))
