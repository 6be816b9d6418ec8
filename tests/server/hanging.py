"""Tasks that go wrong within a library, as a run might: they cannot be reached by any flag of ours."""

from __future__ import annotations

import os
import re
import signal
import time
from typing import NamedTuple

import numpy as np

from lucidbench.server.jobs.task import Outcome, Tell


class Hangs(NamedTuple):
    """Within a regular expression that takes an age, and holds the interpreter's lock meanwhile."""

    def carry_out(self, tell: Tell) -> Outcome:
        tell(0.5)
        re.match(r"(a+)+$", 60 * "a" + "b")
        return Outcome(b"")


class TakesMemory(NamedTuple):
    """More than a task may have."""

    def carry_out(self, tell: Tell) -> Outcome:
        return Outcome(np.ones(1 << 30).tobytes())


class Dies(NamedTuple):
    """As where the machine has no memory left and picks a process to end."""

    def carry_out(self, tell: Tell) -> Outcome:
        os.kill(os.getpid(), signal.SIGKILL)
        return Outcome(b"")


class Sleeps(NamedTuple):
    seconds: float

    def carry_out(self, tell: Tell) -> Outcome:
        time.sleep(self.seconds)
        return Outcome(b"slept")
