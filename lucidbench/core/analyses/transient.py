"""The transient: the circuit in time, from where it begins, error-controlled."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np

from lucidbench.core.analyses.equilibria import balance_sentence, resting_points
from lucidbench.core.analyses.integration import Integration
from lucidbench.core.analyses.natural import growing_mode
from lucidbench.core.analyses.operating_point import (
    NoOperatingPoint,
    beginning,
    holding,
    read_solution,
    relaxed,
    rests_at_zero,
    settle,
)
from lucidbench.core.analyses.run import (
    Cost,
    RunRefused,
    Watch,
    refuse_points,
)
from lucidbench.core.analyses.trajectory import Transient, TransientSettings
from lucidbench.core.collection import collection_paused
from lucidbench.core.devices.waveforms import JUST_BEFORE, Sine
from lucidbench.core.equations.breakpoints import breakpoints
from lucidbench.core.equations.compiled import CompiledSystem, compile_system, evaluated
from lucidbench.core.equations.formulas import refuse_undefined
from lucidbench.core.equations.jumps import spike_told
from lucidbench.core.equations.shared_flux import following
from lucidbench.core.equations.system import (
    Array,
    System,
    assemble,
    refuse_faults,
    refuse_reactances,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit, topology_faults

_LETTING_GO = 1e9  # of the run: how soon held nodes are where they go to by themselves
_OF_GROWTH = 0.1  # of the time in which what grows becomes e times as large: the first step
KICK = 1e-3  # [V]: how far beside an unstable operating point a run starts
_MOST_GROWTH = 80.0  # of an exponent, in a sine that grows
MOST_PERIODS = 200_000  # of a source within one run
_FROM_STORED = (
    "The run therefore starts with empty capacitors and with no current in any coil, unless a part has a "
    "starting value (“Start from” starting values; in text uic)."
)


@collection_paused()
def transient(
    circuit: Circuit, settings: TransientSettings, watch: Watch | None = None
) -> Transient:
    """Run `circuit` in time. Raises CircuitError, and RunRefused where the run would not fit."""
    began = time.monotonic()
    watch = watch or Watch()
    _refuse(circuit, settings)
    refuse_faults(topology_faults(circuit, moving=True))
    refuse_reactances(circuit, "a transient")
    system = assemble(circuit)
    if not system.size:
        raise CircuitError("There is nothing in the circuit that could change in time.")
    prepared = compile_system(system, moving=True)
    ends = breakpoints(system, settings.stop, settings.start, settings.step)
    notes: list[str] = []
    x, given, first = _start(prepared, settings, notes)
    if given is not None and not settings.node_voltages:
        settings = replace(settings, from_given=True)  # also where nothing could rest
    run = Integration(prepared, settings, ends, x, given, notes, watch, first=first)
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
    ends = breakpoints(like.system, settings.stop, settings.start, settings.step)
    ends = ends[ends > begin]
    run = Integration(like.ready, settings, ends, x.copy(), charges, notes, watch, begin)
    return _finished(like.system, run, notes, began)


def _finished(system: System, run: Integration, notes: list[str], began: float) -> Transient:
    from lucidbench.core.kernels import integrate

    ends, lengths, stages = run.records()
    refuse_undefined(system, stages[:, 2], ends)
    if spike := spike_told(system, ends, lengths, stages[:, 2]):
        notes.append(spike)
    state = run.state
    cost = Cost(
        time.monotonic() - began,
        int(state[integrate.STEPS]),
        int(state[integrate.REJECTED]),
        int(state[integrate.ITERATIONS]),
        int(state[integrate.FACTORED]),
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
    prepared: CompiledSystem, settings: TransientSettings, notes: list[str]
) -> tuple[Array, Array | None, float]:
    """(x, charges, how long the first step may be [s]) to begin from; charges are None where they follow
    from x."""
    from lucidbench.core.kernels.evaluate import drive, throw_switches

    system = prepared.system
    tables = prepared.tables
    n = system.size
    b = np.zeros(n)
    drive(tables, JUST_BEFORE, b)
    held = {_node(system, node): volts for node, volts in settings.node_voltages.items()}
    if settings.from_given:
        return *_stored(prepared, held), np.inf
    if held:
        bound = compile_system(
            assemble(holding(system.circuit, settings.node_voltages)), moving=True
        )
        b_bound = np.zeros(bound.system.size)
        drive(bound.tables, JUST_BEFORE, b_bound)
        x, _ = settle(_at_rest(bound), b_bound)
        x = np.ascontiguousarray(x[:n])
        _, q, _ = evaluated(tables, x)
        # Let go, each charge stays; what holds none finds its rest nearby.
        free = relaxed(prepared, b, x, q, _LETTING_GO / settings.stop)
        return (x if free is None else free), q, np.inf
    if not np.any(b) and (system.is_linear or rests_at_zero(system)):
        return np.zeros(n), None, np.inf
    loops = topology_faults(system.circuit)
    if loops:
        notes.append(f"{loops[0].sentence} {_FROM_STORED}")
        return *_stored(prepared, held), np.inf
    resting = _at_rest(prepared)
    try:
        x, _ = settle(resting, b, beginning(resting, b))
    except NoOperatingPoint:
        notes.append(f"No operating point was found. {_FROM_STORED}")
        return *_stored(prepared, held), np.inf
    for each in {id(resting): resting, id(prepared): prepared}.values():
        throw_switches(each.tables, x)
    point = read_solution(system, x, resting)
    mode = growing_mode(point, 1 / settings.stop)
    others = resting_points(point, b) if mode is None else []
    if others:
        choosing = "the run starts in the first; “Initial guess”, in text .nodeset, chooses"
        notes.append(balance_sentence(point, others, choosing))
        return others[0].x, None, np.inf
    if mode is not None:
        notes.append(
            "The operating point is unstable: the run starts 1 mV beside it, as noise would make it."
        )
        direction, rate = mode
        # A longer step would damp what grows, and stay.
        return x + KICK * direction, None, _OF_GROWTH / rate
    return x, None, np.inf


def _stored(prepared: CompiledSystem, held: dict[int, float]) -> tuple[Array, Array]:
    """(x, charges) of what is stored: the starting values of parts, and of nodes [V] by their rows."""
    system = prepared.system
    x = np.zeros(system.size)
    for row, volts in held.items():
        x[row] = volts
    _, q, _ = evaluated(prepared.tables, x)
    at = np.append(x, 0.0)
    charges = np.append(q, 0.0)
    for share in system.shares:  # a part's own starting value goes before its nodes'
        if share.stamps.starts:
            for row, column, value in share.stamps.charges:
                charges[share.row(row)] -= value * at[share.row(column)]
            for row, charge in share.stamps.starts:
                charges[share.row(row)] += charge
    charges[list(following(system))] = 0.0
    return x, charges[:-1]


def _at_rest(prepared: CompiledSystem) -> CompiledSystem:
    """The same for rest, where nodes that nothing holds then are held."""
    return compile_system(prepared.system) if prepared.system.unheld else prepared


def starting_point(run: Transient) -> Array:
    """The unknowns that a run from the operating point starts from, shape (n,)."""
    return _start(compile_system(run.system, moving=True), run.settings, [])[0]


def _node(system: System, name: str) -> int:
    row = system.rows.get(name, -1)
    if row < 0:
        raise CircuitError(f"There is no node called {name} to start at a voltage.", (), (name,))
    return row
