"""One integration over all that drives a circuit, in chunks, helped along where it stops."""

from __future__ import annotations

import numpy as np

from lucidbench.core.analyses.run import (
    Watch,
    refuse_numbers,
)
from lucidbench.core.analyses.trajectory import TransientSettings
from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.equations.breakpoints import depends_on_time
from lucidbench.core.equations.compiled import CompiledSystem, evaluated
from lucidbench.core.equations.jumps import weigh_jump
from lucidbench.core.equations.system import (
    Array,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import listed
from lucidbench.core.units import engineering

LEAST_VOLTAGE = 1e-9  # [V]
LEAST_CURRENT = 1e-13  # [A]
_LOOKS_AT_FORMULAS = 1000  # of time, in a run told at the solver's own steps
_FEWEST_STEPS = 20  # in a run, so that nothing short is overlooked
_MOST_HELPS = 400
_HELP = 1e-6  # of the run: how long nodes keep what helps
_CHUNK = 2048  # steps between two looks at the clock
_PARASITIC = 1e-9  # [F] for each second of the run: what helps a jump along, 1e-6 of it at 1 kΩ


class Integration:
    """One integration over all smooth intervals, in chunks. `first` [s] bounds its first step."""

    def __init__(
        self,
        prepared: CompiledSystem,
        settings: TransientSettings,
        breakpoints: Array,
        x: Array,
        given: Array | None,
        notes: list[str],
        watch: Watch,
        begin: float = 0.0,
        first: float = np.inf,
    ) -> None:
        from lucidbench.core.kernels import integrate

        self.prepared = prepared
        self.settings = settings
        self.breakpoints = breakpoints
        self.x = np.ascontiguousarray(x)
        self.notes = notes
        self.watch = watch
        n = prepared.system.size
        self.n = n
        self.span = settings.stop - begin
        self.given = np.zeros(n) if given is None else given
        self.from_given = given is not None
        self.state = np.zeros(integrate.STATE_SIZE)
        self.state[integrate.TIME] = begin
        self.state[integrate.FRESH] = 1.0
        self.state[integrate.GIVEN] = 0.0 if given is None else 1.0
        careful = self._first_step()
        self.state[integrate.CAREFUL] = careful
        self.state[integrate.STEP] = min(first, careful)
        self.state[integrate.BEGUN] = self.state[integrate.ORIGIN] = begin
        self.jump = np.zeros((5, n))
        self.helped = 0  # how often
        self.helped_until = np.inf
        self.unhelped: Array | None = None  # the tables' capacitances meanwhile
        self.leaks = False

    def _first_step(self) -> float:
        fastest = [
            0.02 / w.frequency
            for _, w in self.prepared.system.waveforms
            if isinstance(w, Sine) and w.frequency > 0
        ]
        return min([1e-3 * self.span, *fastest])

    def records(self) -> tuple[Array, Array, Array]:
        """(ends, lengths, stages) of every step kept."""
        try:
            return self._records()
        finally:
            self._let_go()  # the circuit's tables serve other runs as well

    def _records(self) -> tuple[Array, Array, Array]:
        from lucidbench.core.kernels import integrate
        from lucidbench.core.kernels.event import SETTLING
        from lucidbench.core.kernels.region_boundaries import release

        n, state, settings = self.n, self.state, self.settings
        tables = self.prepared.tables
        longest = float(min(settings.longest or np.inf, self.span / _FEWEST_STEPS))
        if depends_on_time(self.prepared.system):
            longest = min(longest, settings.step or self.span / _LOOKS_AT_FORMULAS)
        least = np.where(tables.is_node, LEAST_VOLTAGE, LEAST_CURRENT)
        chunk = max(16, min(_CHUNK, 4_000_000 // (3 * n)))
        point = integrate.Point(self.x, self.given, np.zeros((4, n)), np.abs(self.x), self.jump)
        bounds = integrate.Bounds(
            self.breakpoints, settings.relative, least, longest, settings.start
        )
        records = integrate.Records(np.empty(chunk), np.empty(chunk), np.empty((chunk, 3, n)))
        kept: list[tuple[Array, Array, Array]] = []
        numbers = 0
        plan = self.prepared.plan(self._values(state[integrate.STEP]))
        replanned_at = -1.0
        while True:
            outcome, count = integrate.integrate(tables, plan, state, point, bounds, records)
            if count:
                ends, lengths, stages = (part[:count].copy() for part in records)
                kept.append((ends, lengths, stages))
                if state[integrate.TIME] < settings.start:
                    kept = kept[-1:]
                    numbers = 0
                numbers += count * 3 * n
                refuse_numbers(numbers, "run", "Shorten it, or record a later part of it only.")
            if outcome == integrate.FINISHED:
                break
            self.watch.check(state[integrate.TIME] / settings.stop, "run")
            if outcome == integrate.JUMPED:
                now = float(state[integrate.BEGUN])
                is_start = self.from_given and now == state[integrate.ORIGIN]
                note = weigh_jump(self.prepared.system, self.jump, now, is_start)
                if note and not self.leaks:
                    self.leaks = True
                    self.notes.append(note)
                continue
            if state[integrate.TIME] > self.helped_until:
                self._let_go()
            if outcome == integrate.FULL:
                continue
            if outcome in (integrate.SINGULAR, integrate.NO_RESTART) and not plan.dense:
                # An order of pivots that serves one length of step may not serve another.
                again = state[integrate.TIME] <= replanned_at
                replanned_at = state[integrate.TIME]
                is_event = outcome == integrate.NO_RESTART
                step = SETTLING * self.span if is_event else state[integrate.STEP]
                plan = self.prepared.plan(self._values(step), dense=again)
                if plan.dense or not again:
                    continue
            helps = self.helped < _MOST_HELPS and self.helped_until == np.inf
            if helps and outcome != integrate.GROWS:
                self._help()
                continue
            release(tables)
            raise self._stuck(outcome)
        release(tables)
        ends, lengths, stages = (np.concatenate(parts) for parts in zip(*kept, strict=True))
        return ends, lengths, stages

    def _values(self, step: float) -> Array:
        """Entries of the matrix that will be factored for such a step [s], about."""
        _, _, places = evaluated(self.prepared.tables, self.x)
        return np.asarray(places[0] + places[1] / max(step, 1e-300))

    def _help(self) -> None:
        """Give every node a small capacitance for a while, so that a jump has a way to happen."""
        from lucidbench.core.kernels import integrate

        state, now = self.state, float(self.state[integrate.TIME])
        farads = _PARASITIC * self.settings.stop
        tables = self.prepared.tables
        self.unhelped = tables.c.copy()
        tables.c[tables.diagonal[tables.is_node]] += farads
        state[integrate.FRESH] = state[integrate.HELPED] = 1.0
        state[integrate.STEP] = max(state[integrate.STEP], 1e-6 * self.settings.stop)
        self.helped += 1
        self.helped_until = now + _HELP * self.settings.stop
        if self.helped == 1:
            self.notes.append(
                f"At {engineering(now, 's', 6)} the circuit jumps, and nothing in it says how fast: every "
                f"node was given {engineering(farads, 'F', 2)} for a moment."
            )

    def _let_go(self) -> None:
        """Take it away again: kept, it would ring with every coil."""
        from lucidbench.core.kernels import integrate

        if self.unhelped is None:
            return
        self.prepared.tables.c[:] = self.unhelped
        self.unhelped = None
        self.state[integrate.HELPED] = 0.0
        self.state[integrate.FRESH] = 1.0
        self.helped_until = np.inf

    def _stuck(self, outcome: int) -> CircuitError:
        from lucidbench.core.kernels import integrate

        at = self.state[integrate.TIME]
        laws = [s.element.name for s in self.prepared.system.shares if s.stamps.laws]
        about = f" Parts that may be the reason: {listed(laws)}." if laws else ""
        if outcome == integrate.GROWS:
            worst = self.prepared.system.unknowns[int(np.argmax(np.abs(self.x)))]
            return CircuitError(
                f"By {at:.6g} s {worst.name} has grown beyond all numbers: something in the circuit gives "
                f"more the more there is. Shorten the run, or look for feedback of the wrong sign.",
                (worst.element,) if worst.element else (),
            )
        if outcome == integrate.CHATTERS:
            return CircuitError(
                f"At {at:.6g} s something switches back and forth without end: what it switches "
                f"works back on what it is switched by. A hysteresis or a small capacitance there "
                f"mends it.{about}",
                tuple(laws),
            )
        if outcome == integrate.SINGULAR:
            return CircuitError(
                f"The run stopped at {at:.6g} s, where the circuit has no single solution.{about}",
                tuple(laws),
            )
        return CircuitError(
            f"The run stopped at {at:.6g} s: no step is short enough to follow what happens there. A "
            f"small capacitance or resistance at the parts that switch usually mends it.{about}",
            tuple(laws),
        )
