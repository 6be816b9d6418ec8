"""The transient: the circuit in time, error-controlled, between and at the solver's own steps."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses.balance import balance_sentence, resting_points
from lucidbench.core.analyses.natural import growing_direction
from lucidbench.core.analyses.operating_point import (
    beginning,
    faults_at_rest,
    read_solution,
    relaxed,
    settle,
)
from lucidbench.core.analyses.run import (
    Cost,
    RunRefused,
    Watch,
    refuse_numbers,
    refuse_points,
)
from lucidbench.core.collection import collection_paused
from lucidbench.core.devices.base import Drive
from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.equations.compiled import Ready, evaluated, ready
from lucidbench.core.equations.corners import corners, depends_on_time
from lucidbench.core.equations.currents import law_currents_over, pin_currents_over, traces_of
from lucidbench.core.equations.jumps import weigh_jump
from lucidbench.core.equations.system import (
    Array,
    System,
    assemble,
    refuse_faults,
    refuse_reactances,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit, Element, listed, topology_faults
from lucidbench.core.units import engineering

RELATIVE = 1e-6  # of an unknown's peak: the error allowed at each step
LEAST_VOLTAGE = 1e-9  # [V]
LEAST_CURRENT = 1e-13  # [A]
_LETTING_GO = 1e9  # of the run: how soon held nodes are where they go to by themselves
KICK = 1e-3  # [V]: how far beside an unstable operating point a run starts
_MOST_GROWTH = 80.0  # of an exponent, in a sine that grows
MOST_PERIODS = 200_000  # of a source within one run
_LOOKS_AT_FORMULAS = 1000  # of time, in a run told at the solver's own steps
_FEWEST_STEPS = 20  # in a run, so that nothing short is overlooked
_CHUNK = 2048  # steps between two looks at the clock
_PARASITIC = 1e-9  # [F] for each second of the run: what helps a jump along, 1e-6 of it at 1 kΩ
_DUST = 64 * 2.0**-53  # of the largest voltage of a run: less is rounding, given as zero
_RATHER = " Or let the run begin from starting values, for which nothing has to rest."
_JUST_BEFORE = -1e-300  # [s]: sources that jump at zero have not jumped yet
_NODES = np.array([0.0, (4.0 - 6.0**0.5) / 10.0, (4.0 + 6.0**0.5) / 10.0, 1.0])


@dataclass(frozen=True)
class TransientSettings:
    """`stop` [s]; recorded from `start` on. `step` is the grid of the output, None the solver's own.

    `from_given` starts from the parts' starting values instead of the operating point, all others at
    rest; `node_voltages` [V] hold nodes meanwhile, or start them. `longest` bounds the solver's step.
    """

    stop: float
    start: float = 0.0
    step: float | None = None
    longest: float | None = None
    from_given: bool = False
    node_voltages: Mapping[str, float] = field(default_factory=dict)
    relative: float = RELATIVE


@dataclass(frozen=True)
class Transient:
    """A run. Each step k > 0 leads from `ends[k] - lengths[k]` to `ends[k]` [s] through `stages[k]`,
    shape (3, n); a length of 0 marks a fresh start after a corner, where values may jump.
    """

    system: System
    settings: TransientSettings
    ends: Array
    lengths: Array
    stages: Array
    cost: Cost
    notes: tuple[str, ...]
    ready: Ready = field(repr=False)

    @property
    def circuit(self) -> Circuit:
        return self.system.circuit

    @cached_property
    def _steps(self) -> tuple[Array, Array, Array]:
        """(starts, lengths, points) of the real steps; points, shape (steps, 4, n), start first."""
        real = self._real
        return self.ends[real] - self.lengths[real], self.lengths[real], self.pieces(self.stages)

    def _points_of(self, row: int) -> Array:
        """The points of one unknown, shape (steps, 4), kept: curves are asked many times."""
        kept = self._kept_points
        if row not in kept:
            points = np.ascontiguousarray(self._steps[2][:, :, row])
            kept[row] = np.zeros_like(points) if self._still[row] else points
        return kept[row]

    @cached_property
    def _kept_points(self) -> dict[int, Array]:
        return {}

    @cached_property
    def _still(self) -> npt.NDArray[np.bool_]:
        """Whether an unknown is the voltage of a node that never rises above the rounding of others."""
        sizes = np.maximum(self.stages.max((0, 1)), -self.stages.min((0, 1)))
        nodes = len(self.system.rows) - 1
        still = sizes <= _DUST * sizes[:nodes].max(initial=0.0)
        still[nodes:] = False
        return np.asarray(still)

    @cached_property
    def _real(self) -> npt.NDArray[np.intp]:
        """The records that are steps of some length, with another before them."""
        real = np.flatnonzero(self.lengths > 0)
        return real[real > 0]

    def pieces(self, stages: Array) -> Array:
        """Anything known at the stages of every record, shape (records, 3, ..), as the four points of
        each real step, shape (steps, 4, ..), its start first; `weights` gives it in between."""
        real = self._real
        return np.concatenate([stages[real - 1, 2][:, None], stages[real]], axis=1)

    @property
    def grid(self) -> Array:
        """The times of the output [s]: every `step` from start to stop, or the solver's own."""
        s = self.settings
        if s.step is None:
            inside = self.ends[(self.ends > s.start) & (self.ends < s.stop)]
            return np.asarray(np.unique(np.concatenate([[s.start], inside, [s.stop]])), float)
        count = int(np.floor((s.stop - s.start) / s.step * (1 + 1e-12)))
        times: Array = s.start + s.step * np.arange(count + 1, dtype=float)
        if s.stop - times[-1] > 1e-9 * s.step:
            return np.append(times, s.stop)
        times[-1] = min(times[-1], s.stop)
        return times

    def unknowns(self, times: Array, derivative: bool = False) -> Array:
        """x, or dx/dt, at `times`, shape (n, len(times)); at a jump, after it."""
        k, weights = self.weights(times, derivative)
        found = np.asarray(np.einsum("wt,twn->nt", weights, self._steps[2][k]))
        found[self._still] = 0.0
        return found

    def weights(self, times: Array, derivative: bool = False) -> tuple[npt.NDArray[np.intp], Array]:
        """The step each time falls into, and what its four points count for there, shape (4, times)."""
        starts, lengths, _ = self._steps
        # Not np.clip, which takes longer than all the rest for a few times.
        k = np.maximum(np.searchsorted(starts, times, side="right") - 1, 0)
        k = np.minimum(k, len(starts) - 1)
        theta = np.minimum(np.maximum((times - starts[k]) / lengths[k], 0.0), 1.0)
        return k, _basis_slopes(theta) / lengths[k] if derivative else _basis(theta)

    def _charge_rates(self, times: Array) -> Array:
        """dq/dt of every law's branches [A], shape (branches, times): of the charges' own polynomial,
        so that currents add up at each node as they did in the solver."""
        k, weights = self.weights(times, derivative=True)
        used, place = np.unique(k, return_inverse=True)
        points = self._steps[2][used]
        flat = points.reshape(-1, self.system.size).T
        _, charges = law_currents_over(self.ready.tables, flat)
        shaped = charges.reshape(len(charges), len(used), 4)
        return np.asarray(np.einsum("wt,btw->bt", weights, shaped[:, place]))

    def traces(self, times: Array | None = None) -> dict[str, Array]:
        """Every V_<node> and I_<element> at `times` (the grid where left out)."""
        at = self.grid if times is None else times
        system = self.system
        refuse_numbers(
            float(len(at)) * 3 * max(system.size, 1),
            "output",
            "Take a longer step, or a shorter run.",
        )
        x, rates = self.unknowns(at), self.unknowns(at, derivative=True)
        inside = np.nextafter(at, np.inf) if len(at) else at
        through, _ = law_currents_over(self.ready.tables, x, at)
        charge_rates = self._charge_rates(at)

        def told(drive: Drive) -> Array:
            if drive.waveform is None:
                return np.full(len(inside), drive.dc)
            return drive.waveform.value(inside)

        flows = pin_currents_over(system, x, rates, told, through, charge_rates)
        return traces_of(system, x, flows)

    def trace(self, name: str, times: Array | None = None) -> Array:
        """One of the traces. Raises CircuitError where there is none of that name."""
        at = self.grid if times is None else np.ascontiguousarray(times, float)
        if name.startswith("V_") and name[2:] in self.system.rows:
            row = self.system.rows[name[2:]]
            if row < 0:
                return np.zeros(len(at))
            from lucidbench.core.kernels.between import between

            starts, lengths, _ = self._steps
            return np.asarray(between(starts, lengths, self._points_of(row), at))
        found = self.traces(at)
        if name not in found:
            raise CircuitError(f"The run has no trace called {name}.")
        return found[name]


def _basis(theta: Array) -> Array:
    """Weights of a step's start and stages at its share `theta`, shape (4, len(theta))."""
    return np.array(_without_one(theta - _NODES[:, None])) / _BASIS_SCALE


def _without_one(factors: Array) -> list[Array]:
    """The products of all but one of four factors, which it is in turn."""
    a, b, c, d = factors
    ab, cd = a * b, c * d
    return [b * cd, a * cd, ab * d, ab * c]


# What those are at the node of the one: with it each weight is 1 there, and 0 at the other three.
_BASIS_SCALE = np.diag(_without_one(_NODES - _NODES[:, None]))[:, None]


def _basis_slopes(theta: Array) -> Array:
    """Their derivatives over `theta`."""
    a, b, c, d = theta - _NODES[:, None]
    ab, cd, sum_ab, sum_cd = a * b, c * d, a + b, c + d
    without_one = [cd + b * sum_cd, cd + a * sum_cd, ab + d * sum_ab, ab + c * sum_ab]
    return np.array(without_one) / _BASIS_SCALE


@collection_paused()
def transient(
    circuit: Circuit, settings: TransientSettings, watch: Watch | None = None
) -> Transient:
    """Run `circuit` in time. Raises CircuitError, and RunRefused where the run would not fit."""
    began = time.monotonic()
    watch = watch or Watch()
    _refuse(circuit, settings)
    at_rest = not settings.from_given
    refuse_faults(faults_at_rest(circuit) if at_rest else topology_faults(circuit, moving=True))
    refuse_reactances(circuit, "a transient")
    system = assemble(circuit)
    if not system.size:
        raise CircuitError("There is nothing in the circuit that could change in time.")
    prepared = ready(system, moving=True)
    ends = corners(system, settings.stop, settings.start, settings.step)
    notes: list[str] = []
    x, given = _start(prepared, settings, notes)
    run = _Run(prepared, settings, ends, x, given, notes, watch)
    return _finished(system, run, notes, began)


def run_from(
    like: Transient,
    settings: TransientSettings,
    begin: float,
    x: Array,
    charges: Array,
    watch: Watch,
) -> Transient:
    """Run the circuit of another run on from `begin` [s], with these charges; `x` is near it."""
    began = time.monotonic()
    notes: list[str] = []
    ends = corners(like.system, settings.stop, settings.start, settings.step)
    ends = ends[ends > begin]
    run = _Run(like.ready, settings, ends, x.copy(), charges, notes, watch, begin)
    return _finished(like.system, run, notes, began)


def _finished(system: System, run: _Run, notes: list[str], began: float) -> Transient:
    from lucidbench.core.kernels import march

    ends, lengths, stages = run.records()
    state = run.state
    cost = Cost(
        time.monotonic() - began,
        int(state[march.STEPS]),
        int(state[march.REJECTED]),
        int(state[march.ITERATIONS]),
        int(state[march.FACTORED]),
    )
    return Transient(system, run.settings, ends, lengths, stages, cost, tuple(notes), run.prepared)


def _refuse(circuit: Circuit, settings: TransientSettings) -> None:
    """Raise RunRefused where the run could never end or never fit."""
    if not 0 <= settings.start < settings.stop or not np.isfinite(settings.stop):
        raise RunRefused("A run needs a stop above its start, and neither below 0 s.")
    if settings.step is not None:
        if settings.step <= 0:
            raise RunRefused("The output's step must be above 0 s.")
        count = (settings.stop - settings.start) / settings.step
        refuse_points(count, "output", "Take a longer step or a shorter run.")
    if settings.longest is not None:
        if settings.longest <= 0:
            raise RunRefused("The longest step must be above 0 s.")
        refuse_points(
            settings.stop / settings.longest, "run", "Allow longer steps or take a shorter run."
        )
    for element in circuit:
        wave = element.waveform
        if isinstance(wave, Sine) and -wave.damping * (settings.stop - wave.delay) > _MOST_GROWTH:
            raise RunRefused(
                f"{element.name} has a negative damping, with which it would grow beyond all numbers within "
                f"the run; shorten the run or take the minus away."
            )
        period = element.waveform.period if element.waveform else None
        if period and settings.stop / period > MOST_PERIODS:
            raise RunRefused(
                f"{element.name} would repeat {settings.stop / period:.3g} times within the run; "
                f"{MOST_PERIODS:,} are the most. Shorten the run."
            )


def _start(
    prepared: Ready, settings: TransientSettings, notes: list[str]
) -> tuple[Array, Array | None]:
    """(x, charges) to begin from; charges are None where they follow from x."""
    from lucidbench.core.kernels.evaluate import drive, throw_switches

    system = prepared.system
    tables = prepared.tables
    n = system.size
    b = np.zeros(n)
    drive(tables, _JUST_BEFORE, b)
    held = {_node(system, node): volts for node, volts in settings.node_voltages.items()}
    if settings.from_given:
        x = np.zeros(n)
        for row, volts in held.items():
            x[row] = volts
        _, q, _ = evaluated(tables, x)
        at = np.append(x, 0.0)
        charges = np.append(q, 0.0)
        for share in system.shares:  # a part's own starting value goes before its nodes'
            if share.stamps.starts:
                for row, column, value in share.stamps.charges:
                    charges[share.row(row)] -= value * at[share.row(column)]
                for row, charge in share.stamps.starts:
                    charges[share.row(row)] += charge
        return x, charges[:-1]
    if held:
        sources = tuple(
            Element(f"hold.{node}", "voltage_source", (node, "0"), {"voltage": volts})
            for node, volts in settings.node_voltages.items()
        )
        circuit = replace(system.circuit, elements=(*system.circuit.elements, *sources))
        bound = ready(assemble(circuit), moving=True)
        b_bound = np.zeros(bound.system.size)
        drive(bound.tables, _JUST_BEFORE, b_bound)
        x, _ = settle(bound, b_bound)
        x = np.ascontiguousarray(x[:n])
        _, q, _ = evaluated(tables, x)
        # Let go, each charge stays; what holds none finds its rest nearby.
        free = relaxed(prepared, b, x, q, _LETTING_GO / settings.stop)
        return (x if free is None else free), q
    if system.is_linear and not np.any(b):
        return np.zeros(n), None
    refuse_faults(topology_faults(system.circuit), _RATHER)
    x, _ = settle(prepared, b, beginning(prepared, b))
    throw_switches(tables, x)
    point = read_solution(system, x, prepared)
    direction = growing_direction(point, 1 / settings.stop)
    others = resting_points(point, b) if direction is None else []
    if others:
        choosing = "the run starts in the first; “Rests near”, in text .nodeset, chooses"
        notes.append(balance_sentence(point, others, choosing))
        return others[0].x, None
    if direction is not None:
        notes.append(
            "The operating point is unstable: the run starts 1 mV beside it, as noise would make it."
        )
        x = x + KICK * direction
    return x, None


def starting_point(run: Transient) -> Array:
    """The unknowns that a run from the operating point starts from, shape (n,)."""
    return _start(ready(run.system, moving=True), run.settings, [])[0]


def _node(system: System, name: str) -> int:
    row = system.rows.get(name, -1)
    if row < 0:
        raise CircuitError(f"There is no node called {name} to start at a voltage.", (), (name,))
    return row


class _Run:
    """One march through the corners, in chunks."""

    def __init__(
        self,
        prepared: Ready,
        settings: TransientSettings,
        corners: Array,
        x: Array,
        given: Array | None,
        notes: list[str],
        watch: Watch,
        begin: float = 0.0,
    ) -> None:
        from lucidbench.core.kernels import march

        self.prepared = prepared
        self.settings = settings
        self.corners = corners
        self.x = np.ascontiguousarray(x)
        self.notes = notes
        self.watch = watch
        n = prepared.system.size
        self.n = n
        self.span = settings.stop - begin
        self.given = np.zeros(n) if given is None else given
        self.state = np.zeros(march.STATE_SIZE)
        self.state[march.TIME] = begin
        self.state[march.FRESH] = 1.0
        self.state[march.GIVEN] = 0.0 if given is None else 1.0
        self.state[march.STEP] = self.state[march.CAREFUL] = self._first_step()
        self.state[march.BEGUN] = self.state[march.ORIGIN] = begin
        self.jump = np.zeros((5, n))
        self.helped = False
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
        from lucidbench.core.kernels import march
        from lucidbench.core.kernels.knees import release

        n, state, settings = self.n, self.state, self.settings
        tables = self.prepared.tables
        longest = min(settings.longest or np.inf, self.span / _FEWEST_STEPS)
        if depends_on_time(self.prepared.system):
            longest = min(longest, settings.step or self.span / _LOOKS_AT_FORMULAS)
        least = np.where(tables.is_node, LEAST_VOLTAGE, LEAST_CURRENT)
        before, peaks = np.zeros((4, n)), np.abs(self.x)
        chunk = max(16, min(_CHUNK, 4_000_000 // (3 * n)))
        rec_t, rec_h, rec_x = np.empty(chunk), np.empty(chunk), np.empty((chunk, 3, n))
        kept: list[tuple[Array, Array, Array]] = []
        numbers = 0
        plan = self.prepared.plan(self._values())
        replanned_at = -1.0
        while True:
            outcome, count = march.march(
                tables, plan, state, self.x, self.given, before, peaks, self.corners,
                settings.relative, least, longest, settings.start, chunk, rec_t, rec_h, rec_x,
                self.jump,
            )  # fmt: skip
            if count:
                kept.append((rec_t[:count].copy(), rec_h[:count].copy(), rec_x[:count].copy()))
                if state[march.TIME] < settings.start:
                    kept = kept[-1:]
                    numbers = 0
                numbers += count * 3 * n
                refuse_numbers(numbers, "run", "Shorten it, or record a later part of it only.")
            if outcome == march.FINISHED:
                break
            self.watch.check(state[march.TIME] / settings.stop, "run")
            if outcome == march.JUMPED:
                note = weigh_jump(self.prepared.system, self.jump, float(state[march.BEGUN]))
                if note and not self.leaks:
                    self.leaks = True
                    self.notes.append(note)
                continue
            if outcome == march.FULL:
                continue
            if outcome == march.SINGULAR and not plan.dense:
                again = state[march.TIME] <= replanned_at
                replanned_at = state[march.TIME]
                plan = self.prepared.plan(self._values(), dense=again)
                if plan.dense or not again:
                    continue
            if not self.helped and outcome != march.GROWS:
                self._help()
                continue
            release(tables)
            raise self._stuck(outcome)
        release(tables)
        ends, lengths, stages = (np.concatenate(parts) for parts in zip(*kept, strict=True))
        return ends, lengths, stages

    def _values(self) -> Array:
        """Entries of the matrix that will be factored, about."""
        _, _, places = evaluated(self.prepared.tables, self.x)
        return np.asarray(places[0] + places[1] / max(float(self.state[1]), 1e-300))

    def _help(self) -> None:
        """Give every node a small capacitance, so that a jump has a way to happen."""
        from lucidbench.core.kernels import march

        self.helped = True
        tables = self.prepared.tables
        farads = _PARASITIC * self.settings.stop
        nodes = tables.diagonal[tables.is_node]
        tables.c[nodes] += farads
        self.state[march.FRESH] = 1.0
        self.state[march.STEP] = max(self.state[march.STEP], 1e-6 * self.settings.stop)
        self.notes.append(
            f"At {engineering(self.state[march.TIME], 's', 6)} the circuit jumps, and nothing in it says "
            f"how fast: every node was given {engineering(farads, 'F', 2)} from there on."
        )

    def _stuck(self, outcome: int) -> CircuitError:
        from lucidbench.core.kernels import march

        at = self.state[march.TIME]
        laws = [s.element.name for s in self.prepared.system.shares if s.stamps.laws]
        about = f" Parts that may be the reason: {listed(laws)}." if laws else ""
        if outcome == march.GROWS:
            worst = self.prepared.system.unknowns[int(np.argmax(np.abs(self.x)))]
            return CircuitError(
                f"By {at:.6g} s {worst.name} has grown beyond all numbers: something in the circuit gives "
                f"more the more there is. Shorten the run, or look for feedback of the wrong sign.",
                (worst.element,) if worst.element else (),
            )
        if outcome == march.CHATTERS:
            return CircuitError(
                f"At {at:.6g} s something switches back and forth without end: what it switches "
                f"works back on what it is switched by. A hysteresis or a small capacitance there "
                f"mends it.{about}",
                tuple(laws),
            )
        if outcome == march.SINGULAR:
            return CircuitError(
                f"The run stopped at {at:.6g} s, where the circuit has no single solution.{about}",
                tuple(laws),
            )
        return CircuitError(
            f"The run stopped at {at:.6g} s: no step is short enough to follow what happens there. A "
            f"small capacitance or resistance at the parts that switch usually mends it.{about}",
            tuple(laws),
        )
