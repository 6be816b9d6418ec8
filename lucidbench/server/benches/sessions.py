"""Which bench each page has in use, bounded in number and in life."""

from __future__ import annotations

import time
from pathlib import Path
from threading import Lock, RLock, Timer

from django.conf import settings

from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise, Recipe
from lucidbench.core.errors import LucidError
from lucidbench.instruments.build import built
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.dialects import Settings, read_settings
from lucidbench.instruments.measuring import Measuring, Plan, plan_of
from lucidbench.instruments.ways import Taken
from lucidbench.server.benches.sealed import on_the_table
from lucidbench.server.benches.stand_in import StandIn

MOST_IN_USE = 24  # benches of a worker; of those the one used longest ago makes room
IDLE = 900.0  # s after which a bench nobody measures on is let go
STAND_IN = "Stand-in bench"


class Session:
    """A bench in use by a page. One at a time measures on it."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.lock = RLock()
        self.used = time.monotonic()
        self._stand_in: StandIn | None = None
        self._measuring: Measuring | None = None
        self._addresses: dict[str, str] = {}

    def take(self, exercise: Exercise, plan: Plan, at: float) -> Taken:
        """One point. Raises LucidError."""
        with self.lock:
            self.used = time.monotonic()
            taken = self._ready(exercise).take(plan, at)
            self.used = time.monotonic()
            return taken

    def _ready(self, exercise: Exercise) -> Measuring:
        listed = instrument_settings()
        if self.name == STAND_IN:
            opened = on_the_table(exercise)
            circuit, seed = built(opened), opened.build.seed
            if self._stand_in is None or not self._stand_in.is_alive:
                self._stand_in = StandIn(circuit, seed)
            self._stand_in.load(circuit, seed)
            addresses = self._stand_in.addresses
        else:
            bench = next((each for each in listed.benches if each.name == self.name), None)
            if bench is None:
                raise LucidError(
                    f"There is no bench called {self.name} in the list of instruments."
                )
            addresses = dict(bench.addresses)
        if self._measuring is None or addresses != self._addresses:
            if self._measuring:
                self._measuring.close()
            self._addresses = addresses
            self._measuring = Measuring(BenchClient(self.name, addresses, listed))
        return self._measuring

    def end(self) -> None:
        with self.lock:
            if self._measuring:
                self._measuring.close()
            if self._stand_in:
                self._stand_in.end()
            self._measuring = self._stand_in = None


class Sessions:
    """By page and name of the bench. For any thread."""

    def __init__(self, most: int = MOST_IN_USE, idle: float = IDLE) -> None:
        self._most, self._idle = most, idle
        self._open: dict[tuple[str, str], Session] = {}
        self._lock = Lock()
        self._timer: Timer | None = None

    def of(self, page: str, bench: str) -> Session:
        over: list[Session] = []
        with self._lock:
            key = (page, bench)
            if key not in self._open:
                while len(self._open) >= self._most:
                    oldest = min(self._open, key=lambda each: self._open[each].used)
                    over.append(self._open.pop(oldest))
                self._open[key] = Session(bench)
            session = self._open[key]
            session.used = time.monotonic()
            self._wake()
        for each in over:
            each.end()
        return session

    def forget(self, page: str) -> None:
        """All benches of a page that is gone."""
        with self._lock:
            over = [self._open.pop(key) for key in list(self._open) if key[0] == page]
        for session in over:
            session.end()

    def _wake(self) -> None:
        """Look for idle ones later. Called with the lock held."""
        if self._timer is None:
            self._timer = Timer(self._idle, self._let_go)
            self._timer.daemon = True
            self._timer.start()

    def _let_go(self) -> None:
        now = time.monotonic()
        with self._lock:
            self._timer = None
            idle = [key for key, each in self._open.items() if now - each.used >= self._idle]
            over = [self._open.pop(key) for key in idle]
            if self._open:
                self._wake()
        for session in over:
            session.end()


sessions = Sessions()


def instrument_settings() -> Settings:
    """What the owner of this server lists. Raises LucidError where the file has a fault."""
    return read_settings(Path(settings.INSTRUMENTS))


def plan_for(exercise: Exercise, recipe: Recipe) -> Plan:
    """What a recipe comes to for what is drawn. Raises LucidError."""
    drawing = drawing_of(exercise)
    if not drawing.circuit.elements:
        raise LucidError("Nothing is drawn yet that could be measured.")
    units = {name: known.dimension.unit for name, known in drawing.parameters.items()}
    return plan_of(drawing.circuit, recipe, units)
