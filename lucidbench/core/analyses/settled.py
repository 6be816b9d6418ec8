"""The settled circuit: what a driven one repeats for ever, and the period of one that runs by itself.

A driven circuit is settled when its charges after one period are those it began with. That equation
is solved by shooting (Aprille and Trick, Steady-State Analysis of Nonlinear Circuits with Periodic
Inputs, Proceedings of the IEEE 60, 1972): for a linear circuit one correction is exact.
"""

from __future__ import annotations

import contextlib
import itertools
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from lucidbench.core.analyses.run import RunRefused, Watch
from lucidbench.core.analyses.trajectory import Transient, TransientSettings
from lucidbench.core.analyses.transient import run_from, transient
from lucidbench.core.devices.waveforms import Exponential, Pieces, Sine, Waveform
from lucidbench.core.equations.breakpoints import depends_on_time
from lucidbench.core.equations.compiled import evaluated
from lucidbench.core.equations.system import Array, assemble
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit

_MOST_CORRECTIONS = 20
_WARM_UP = 4  # periods run before the first correction
_MOST_EXTRAPOLATED, _REMEMBERED = 120, 12  # periods
_LOOKS = 200  # at a run, for the sizes of its charges
_NOTHING = 1e-6  # of the largest charge or flux: one that never gets larger is none
_CLOSED = 1e-6  # of a charge's size: how far the end of the period may be from its start
_AS_STEPS_ALLOW = 1e-5  # the same, once the error of the steps is all that is left of it
_PERTURBED = 1e-4  # of a charge's size: the step of the shooting's differences
_MOST_MULTIPLE = 1000  # of the longest source period, as the common one
_LOOKED_AT, _AS_LARGE = 2000, 1e-3  # points of a cycle, and by which share its size may differ
_LONGEST_WAIT = 2000  # periods an oscillator is waited for


@dataclass(frozen=True)
class PeriodicSteadyState:
    """One period or more of a settled circuit. `run` covers `begin` to `begin + periods·period` [s]."""

    run: Transient
    period: float
    begin: float
    periods: int = 1
    corrections: int = 0

    @property
    def circuit(self) -> Circuit:
        return self.run.circuit

    def times(self, points: int = 400) -> Array:
        """`points` times in each period [s], counted from the start of the run."""
        count = points * self.periods
        return self.begin + self.period * self.periods * np.arange(count + 1) / count

    def traces(self, points: int = 400) -> dict[str, Array]:
        return self.run.traces(self.times(points))


def common_period(circuit: Circuit) -> float:
    """The shortest time after which every source repeats [s]. Raises RunRefused where none does."""
    periods = []
    for element in circuit:
        wave = element.waveform
        if wave is None:
            continue
        if wave.period is None:
            if _stands_still(wave):
                continue
            raise RunRefused(
                f"{element.name} does not repeat, so the circuit never settles into a period."
            )
        periods.append((wave.period, element.name))
    if not periods:
        raise RunRefused("No source repeats, so nothing says what period to settle into.")
    longest, _ = max(periods)
    for multiple in range(1, _MOST_MULTIPLE + 1):
        whole = longest * multiple
        if all(abs(whole / p - round(whole / p)) < 1e-9 * multiple for p, _ in periods):
            return whole
    first, second = sorted(periods)[0], max(periods)
    ratio = Fraction(second[0] / first[0]).limit_denominator(_MOST_MULTIPLE)
    raise RunRefused(
        f"{first[1]} and {second[1]} have no common period up to {_MOST_MULTIPLE} of the longest; "
        f"a ratio of {ratio.numerator}:{ratio.denominator} would be near."
    )


def driving_periods(circuit: Circuit) -> tuple[float, ...]:
    """Of every source that repeats [s], and the one of all of them together where they have one."""
    own = {w.period for e in circuit if (w := e.waveform) and w.period}
    with contextlib.suppress(RunRefused):
        own.add(common_period(circuit))
    return tuple(sorted(own))


def _stands_still(wave: Waveform) -> bool:
    match wave:
        case Sine():
            return wave.amplitude == 0
        case Pieces():
            return len(set(wave.values)) == 1
        case Exponential():
            return wave.first == wave.second
    return False


def _begins(circuit: Circuit, period: float) -> float:
    """A whole number of periods by which every source has begun to repeat, and every switch that goes by the
    clock was worked [s]. Raises RunRefused where a formula of time drives the circuit."""
    system = assemble(circuit)
    if depends_on_time(system):
        raise RunRefused(
            "A formula of the time drives the circuit, of which nothing says that it repeats; give it as a "
            "source with a period, or look at it in a transient."
        )
    once = [w for _, w in system.waveforms if isinstance(w, Pieces) and not w.repeats]
    late = [w.delay for _, w in system.waveforms if isinstance(w, (Sine, Pieces))]
    late += [
        w.delay + t
        for w in once
        for t, v in zip(w.times, w.values, strict=True)
        if v != w.values[-1]
    ]
    return period * int(np.ceil(max(late, default=0.0) / period - 1e-9))


def settled(
    circuit: Circuit, periods: int = 1, relative: float = 1e-6, watch: Watch | None = None
) -> PeriodicSteadyState:
    """The periodic steady state of a driven circuit. Raises RunRefused, CircuitError."""
    watch = watch or Watch(seconds=120.0)
    period = common_period(circuit)
    begin = _begins(circuit, period)
    warm = transient(
        circuit,
        TransientSettings(stop=begin + _WARM_UP * period, start=begin, relative=relative),
        watch,
    )
    search = _Search(warm, begin, period, watch)
    start = _end(warm)
    try:
        x, q, corrections = search.by_slopes(*start)
    except CircuitError:
        x, q, corrections = search.by_extrapolation(*start)
    whole = replace(search.one, stop=begin + periods * period)
    run = run_from(warm, whole, begin, x, q, watch)
    return PeriodicSteadyState(run, period, begin, periods, corrections)


class _Search:
    """For the charges that a period ends with as it began."""

    def __init__(self, warm: Transient, begin: float, period: float, watch: Watch) -> None:
        self.warm, self.begin, self.watch = warm, begin, watch
        self.one = replace(warm.settings, stop=begin + period, start=begin)
        self.storing = np.flatnonzero(_storing(warm))
        self.sizes = _sizes(warm)
        self.nearest = np.inf

    def after(self, x: Array, q: Array) -> tuple[Array, Array]:
        """(x, charges) a period later."""
        return _end(run_from(self.warm, self.one, self.begin, x, q, self.watch))

    def from_near(self, x: Array, q: Array) -> tuple[Array, Array, Array]:
        """(charges to begin with, x and charges a period later). A coil whose current would have nowhere to
        go begins empty."""
        coils = self.warm.system.own_rows
        while True:
            try:
                return q, *self.after(x, q)
            except CircuitError as refusal:
                rows = [row for name in refusal.elements for row in coils.get(name, ())]
                if not np.any(q[rows]):
                    raise
                q = q.copy()
                q[rows] = 0.0

    def is_there(self, miss: Array) -> bool:
        """Whether a period ends as it began, as nearly as its steps allow."""
        far_off = float(np.max(np.abs(miss) / self.sizes, initial=0.0))
        is_stuck = far_off > self.nearest / 2 and far_off <= _AS_STEPS_ALLOW
        self.nearest = min(far_off, self.nearest)
        return far_off <= _CLOSED or is_stuck

    def by_slopes(self, x: Array, q: Array) -> tuple[Array, Array, int]:
        """By Newton's method, with the slopes of differences."""
        storing = self.storing
        for correction in range(_MOST_CORRECTIONS):
            self.watch.check(correction / _MOST_CORRECTIONS, "search for the settled state")
            q, after_x, after = self.from_near(x, q)
            miss = after - q
            if self.is_there(miss):
                return x, q, correction
            slopes = np.empty((len(storing), len(storing)))
            for k, row in enumerate(storing):
                step = _PERTURBED * max(abs(q[row]), 1e-3 * self.sizes[row])
                other = q.copy()
                other[row] += step
                _, far = self.after(x, other)
                slopes[:, k] = (far - after)[storing] / step
            # Charges that nothing can change make I - slopes singular; they are left as they are.
            shift, *_ = np.linalg.lstsq(np.eye(len(storing)) - slopes, miss[storing], rcond=1e-9)
            q = q.copy()
            q[storing] += shift
            x = after_x
        raise self.failure()

    def by_extrapolation(self, x: Array, q: Array) -> tuple[Array, Array, int]:
        """From period to period, each begun from what those before tend to (Anderson, Iterative procedures
        for nonlinear integral equations, Journal of the ACM 12, 1965). What all of them have in common they
        keep: coils that share all their flux, or one that is empty as a period begins."""
        self.nearest = np.inf
        rows, sizes = self.storing, self.sizes[self.storing]
        starts: list[Array] = []
        misses: list[Array] = []
        last = x, q
        for correction in range(_MOST_EXTRAPOLATED):
            self.watch.check(correction / _MOST_EXTRAPOLATED, "search for the settled state")
            try:
                q, after_x, after = self.from_near(x, q)
            except CircuitError:
                if not starts:
                    raise
                # What was extrapolated to cannot be: from the last period on, then.
                x, q = last
                starts.clear()
                misses.clear()
                continue
            miss = after - q
            if self.is_there(miss):
                return x, q, correction
            last = after_x, after
            starts = [*starts, q[rows] / sizes][-_REMEMBERED:]
            misses = [*misses, miss[rows] / sizes][-_REMEMBERED:]
            x, q = after_x, after.copy()
            if len(misses) > 1:
                steps, turns = np.diff(starts, axis=0).T, np.diff(misses, axis=0).T
                share, *_ = np.linalg.lstsq(turns, misses[-1], rcond=1e-8)
                q[rows] -= ((steps + turns) @ share) * sizes
        raise self.failure()

    @staticmethod
    def failure() -> CircuitError:
        return CircuitError("No settled state found. The circuit may oscillate on its own.")


def _sizes(run: Transient) -> Array:
    """How large each row's charge or flux gets, shape (n,), but no smaller than one that is nothing
    beside others of its kind."""
    n, nodes = run.system.size, len(run.system.rows) - 1
    every = np.unique(np.linspace(0, len(run.stages) - 1, _LOOKS).astype(int))
    charges = [
        evaluated(run.ready.tables, np.ascontiguousarray(run.stages[k, 2]))[1] for k in every
    ]
    sizes: Array = np.max(np.abs(charges), axis=0, initial=0.0)
    is_node = np.arange(n) < nodes
    for kind in (is_node, ~is_node):
        sizes[kind] = np.maximum(sizes[kind], _NOTHING * sizes[kind].max(initial=0.0))
    return np.where(sizes > 0, sizes, np.inf)


def _end(run: Transient) -> tuple[Array, Array]:
    """(x, charges) at the end of a run."""
    x = np.ascontiguousarray(run.stages[-1, 2])
    _, q, _ = evaluated(run.ready.tables, x)
    return x, q


def _storing(run: Transient) -> Array:
    """Which rows of the equation hold a charge."""
    _, _, places = evaluated(run.ready.tables, np.ascontiguousarray(run.stages[-1, 2]))
    rows = np.zeros(run.system.size, bool)
    rows[run.ready.pattern[0][places[1] != 0]] = True
    return rows


def oscillation(
    circuit: Circuit,
    node: str,
    expected: float,
    relative: float = 1e-6,
    watch: Watch | None = None,
) -> PeriodicSteadyState:
    """One period of a circuit that runs by itself, from where `node` rises through its middle.

    `expected` [s] is a guess of the period. Raises RunRefused where it does not oscillate, or not
    steadily within a couple of thousand periods.
    """
    watch = watch or Watch(seconds=120.0)
    span = 40 * expected
    while True:
        run = transient(
            circuit, TransientSettings(stop=span, start=span / 2, relative=relative), watch
        )
        rises = _rises(run, node)
        if len(rises) >= 4:
            lengths = np.diff(rises)
            if np.ptp(lengths[-3:]) <= 1e-4 * lengths[-1] and _keeps_its_size(run, node, rises):
                return PeriodicSteadyState(run, float(lengths[-1]), float(rises[-2]))
        if span >= _LONGEST_WAIT * expected:
            raise RunRefused(
                f"{node} does not oscillate steadily within {span:g} s"
                + ("; it stands still." if len(rises) < 2 else ".")
            )
        span *= 4


def _keeps_its_size(run: Transient, node: str, rises: Array) -> bool:
    """Whether the first and the last cycle of a run are as large as one another."""
    cycles = ((rises[0], rises[1]), (rises[-2], rises[-1]))
    looks = [run.trace(f"V_{node}", np.linspace(*ends, num=_LOOKED_AT)) for ends in cycles]
    first, last = (float(np.ptp(look)) for look in looks)
    return abs(last - first) <= _AS_LARGE * last


def _rises(run: Transient, node: str) -> Array:
    """When the voltage of `node` rises through its middle [s]."""
    from scipy.optimize import brentq

    name = f"V_{node}"
    starts = run.grid
    between = np.concatenate(
        [a + (b - a) * np.arange(4) / 4 for a, b in itertools.pairwise(starts)]
    )
    values = run.trace(name, between)
    low, high = float(values.min()), float(values.max())
    if high - low < 1e-6:
        return np.zeros(0)
    middle = (low + high) / 2
    up = np.flatnonzero((values[:-1] < middle) & (values[1:] >= middle))
    return np.array(
        [
            brentq(
                lambda t: float(run.trace(name, np.array([t]))[0]) - middle,
                between[k],
                between[k + 1],
                xtol=1e-15,
                rtol=1e-12,
            )
            for k in up
        ]
    )
