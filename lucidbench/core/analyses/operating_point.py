"""The DC operating point: f(x) = b, every charge at rest.

A linear circuit takes one solve. Others are iterated by Newton's method with limited junctions; where
that does not settle, with a conductance from every node to ground that fades (gmin stepping), then
with sources that rise from zero, then as a transient whose nodes have capacitances of their own
(pseudo-transient; Kelley and Keyes, Convergence Analysis of Pseudo-Transient Continuation, 1998).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from lucidbench.core.collection import collection_paused
from lucidbench.core.equations.compiled import (
    SMALL,
    CompiledSystem,
    compile_system,
    evaluated,
    places_of,
)
from lucidbench.core.equations.currents import pins_of
from lucidbench.core.equations.formulas import formula_parts, refuse_undefined
from lucidbench.core.equations.refined import (
    Refined,
    Solve,
    differences,
    flows,
    refined,
    unknowns,
)
from lucidbench.core.equations.system import (
    Array,
    System,
    assemble,
    refuse_faults,
    refuse_reactances,
    summed,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import (
    GROUND_NODE,
    Circuit,
    Element,
    Fault,
    FaultKind,
    listed,
    topology_faults,
)

if TYPE_CHECKING:
    from lucidbench.core.kernels.tables import Plan, Tables

_LEAST = 1e-200  # [A]: below it products lose their digits
# Far below the charge of an electron in a second: what a junction's equation leaves where nothing drives
# it is nothing.
_LEAST_OF_LAWS = 1e-30  # [A]
_LEAST_POWER = 1e-290  # [W]: where none is larger, there are too few digits left for them to add up
_TOO_EXTREME = "The circuit's values are too extreme to be worked out."
_MOST_ITERATIONS = 100
_FIRST_GMIN, _LAST_GMIN = 1e-2, 1e-13  # [S]
_MOST_STAGES = 200  # of any stepping


@dataclass(frozen=True)
class OperatingPoint:
    """Node voltages [V] by node; currents [A] and powers [W] by element.

    A current counts from the element's first pin through it; where a part has more than two pins
    that carry one, each is told by name ("Q1.C") and counts into the pin. A power above zero is taken
    in, below zero given; all of them sum to zero (Tellegen). `x` are the unknowns of `system`;
    `iterations` what it took.
    """

    circuit: Circuit
    voltages: dict[str, float]
    system: System = field(repr=False, compare=False)
    solved: Refined = field(repr=False, compare=False)
    x: Array = field(repr=False, compare=False)
    iterations: int = 1
    ready: CompiledSystem | None = field(default=None, repr=False, compare=False)

    @cached_property
    def currents(self) -> dict[str, float]:
        first, last = pins_of(self.system).volts, -len(self.system.shares) or None
        named = zip(self.names[first:last], self.figures[first:last], strict=True)
        return {name.removeprefix("I_"): current for name, current in named}

    @cached_property
    def powers(self) -> dict[str, float]:
        names = [share.element.name for share in self.system.shares]
        return dict(zip(names, self._flows[1].tolist(), strict=True))

    @cached_property
    def _flows(self) -> tuple[Array, Array]:
        """(the current into each pin, the power of each element), worked out when first asked for."""
        pins = pins_of(self.system)
        tables = self.ready.tables if self.ready else None
        least = _LEAST_OF_LAWS if pins.laws else _LEAST
        told = flows(self.system, self.solved, tables)
        flow = told.sure(least)
        count = np.diff(pins.first)
        first = pins.first[:-1]
        pairs = np.flatnonzero(count == 2)
        across = differences(self.solved, pins.nodes[first[pairs]], pins.nodes[first[pairs] + 1])
        volts = np.append(self.x, 0.0)[pins.nodes]  # ground's row, -1, reads the last one
        with np.errstate(over="ignore"):
            powers = summed(pins.owner, volts * flow, len(count))
            # The difference first: it may be small beside either.
            powers[pairs] = across.sure() * flow[first[pairs]]
        if not np.all(np.isfinite(powers)):
            raise CircuitError(_TOO_EXTREME)
        if np.abs(powers).max(initial=0.0) < _LEAST_POWER:
            powers[:] = 0.0
        return flow, powers

    @cached_property
    def figures(self) -> list[float]:
        """Every result: voltages [V] of nodes but ground, currents [A], powers [W], as in `names`."""
        flow, powers = self._flows
        told = flow[pins_of(self.system).told]
        return [*self.node_voltages.values(), *told.tolist(), *powers.tolist()]

    @property
    def names(self) -> tuple[str, ...]:
        """Their names, V_<node>, I_<element>, P_<element>; the very same where only values differ."""
        return pins_of(self.system).names

    @property
    def node_voltages(self) -> dict[str, float]:
        """Those of `voltages` that are told: left out are ground's, which is zero, and those that are
        undetermined, for which zero stands."""
        pins = pins_of(self.system)
        told = (name.removeprefix("V_") for name in pins.names[: pins.volts])
        return {node: self.voltages[node] for node in told}

    @property
    def values(self) -> dict[str, float]:
        """Every result by its textbook name: V_<node>, I_<element>, P_<element>; ground left out."""
        return dict(zip(self.names, self.figures, strict=True))


@collection_paused()
def operating_point(
    circuit: Circuit,
    hold: Mapping[str, float] | None = None,
    near: Array | None = None,
) -> OperatingPoint:
    """Solve `circuit` at DC. Raises CircuitError naming what stands in the way.

    A linear circuit that nothing drives at DC rests at zero, even where other states are possible.

    `hold` keeps nodes at given voltages [V] meanwhile; `near` is a solution of a like circuit to
    begin from, shape (n,). Where that is None, the circuit's own `near` says where.
    """
    refuse_faults(faults_at_rest(circuit))
    refuse_reactances(circuit, "the operating point")
    if hold:
        return _held(circuit, hold)
    system = assemble(circuit)
    if not system.size:
        return read_solution(system, np.zeros(0), solve=np.asarray)
    if rests_at_zero(system):
        prepared = None if system.is_linear else compile_system(system)
        return read_solution(system, np.zeros(system.size), prepared, solve=np.asarray)
    if system.is_linear:
        solve = system.solver()
        return read_solution(system, solve(system.dc_drive()), solve=solve)
    prepared = compile_system(system)
    if near is None:
        near = beginning(prepared, prepared.tables.constant)
    try:
        x, iterations = settle(prepared, prepared.tables.constant, near)
    except CircuitError:
        _refuse_formulas_amid(system)
        raise
    refuse_undefined(system, x)
    return read_solution(system, x, prepared, iterations)


def _refuse_formulas_amid(system: System) -> None:
    """Raise CircuitError where the rest of the circuit, solved alone, leaves a formula without a value."""
    parts = formula_parts(system)
    if not parts:
        return
    x = np.zeros(system.size)
    try:
        alone = operating_point(system.circuit.without(parts))
    except CircuitError:
        return
    for node, volts in alone.node_voltages.items():
        x[system.row(node)] = volts
    refuse_undefined(system, x)


def beginning(prepared: CompiledSystem, b: Array) -> Array | None:
    """Where to begin, shape (n,), for the voltages that the circuit wants rest to be sought near: held
    at first, then let go; None where it wants none."""
    circuit = prepared.system.circuit
    if not circuit.near:
        return None
    held = _held(replace(circuit, near={}), circuit.near).x
    found = relaxed(prepared, b, held)
    return held if found is None else found


def rests_at_zero(system: System) -> bool:
    """Whether nothing drives it at DC, and nothing in it could make something of nothing.

    Of what is not linear only where a loop of coils or an island behind capacitors leaves the equation
    without a single solution: nothing at all is the one that is meant.
    """
    if np.any(system.dc_drive()):
        return False
    return system.is_linear or (
        bool(topology_faults(system.circuit))
        and not topology_faults(system.circuit, moving=True)
        and is_still(compile_system(system))
    )


def is_still(prepared: CompiledSystem) -> bool:
    """Whether no part that is not linear lets a current flow where all is at zero."""
    f, _, _ = evaluated(prepared.tables, np.zeros(prepared.system.size))
    return float(np.abs(f).max(initial=0.0)) <= _LEAST_OF_LAWS


def faults_at_rest(circuit: Circuit) -> list[Fault]:
    """What of the wiring stands in the way of an operating point, gravest first.

    Loops of coils and islands behind capacitors do not where nothing drives the circuit at DC.
    """
    faults = topology_faults(circuit)
    if faults and not is_driven(circuit):
        return topology_faults(circuit, moving=True)
    return faults


def is_driven(circuit: Circuit) -> bool:
    """Whether anything drives it at DC, or it may be driven by a part that is not linear."""
    try:
        return not rests_at_zero(assemble(circuit))
    except CircuitError:  # of a value, which is told where the circuit is solved
        return True


def holding(circuit: Circuit, hold: Mapping[str, float]) -> Circuit:
    """The circuit with sources at the held nodes [V]. Raises CircuitError where one is held already."""
    for node in hold:
        if node not in circuit.nodes:
            raise CircuitError(
                f"There is no node called {node} to be held at a voltage.", (), (node,)
            )
    sources = {
        f"hold.{node}": Element(
            f"hold.{node}", "voltage_source", (node, GROUND_NODE), {"voltage": volts}
        )
        for node, volts in hold.items()
    }
    held = replace(circuit, elements=(*circuit.elements, *sources.values()))
    for fault in topology_faults(held):
        doubled = [sources[name].nodes[0] for name in fault.elements if name in sources]
        if doubled and fault.kind is FaultKind.VOLTAGE_LOOP:
            own = [name for name in fault.elements if name not in sources]
            fixed = (
                f"already {'fixes' if len(own) == 1 else 'fix'} the voltage of {listed(doubled)}"
            )
            raise CircuitError(
                f"{listed(own)} {fixed}, so it cannot be chosen too.",
                fault.elements,
                tuple(doubled),
            )
    return held


def _held(circuit: Circuit, hold: Mapping[str, float]) -> OperatingPoint:
    """The operating point with sources at the held nodes, told without them."""
    held = operating_point(holding(circuit, hold))
    plain = assemble(circuit)
    solved = held.solved.cut(plain.size, len(pins_of(plain).nodes))
    return replace(held, circuit=circuit, system=plain, solved=solved, x=held.x[: plain.size])


def settle(
    prepared: CompiledSystem,
    b: Array,
    near: Array | None = None,
    q_0: Array | None = None,
    s: float = 0.0,
) -> tuple[Array, int]:
    """(x, iterations) with f(x) + s·(q(x) - q_0) = b. Raises CircuitError where nothing settles."""
    search = _Search(prepared, b, q_0, s)
    n = prepared.system.size
    start = np.zeros(n) if near is None else near.copy()
    for way in (
        search.straight,
        search.fading_conductance,
        search.rising_sources,
        search.pseudo_transient,
    ):
        x = way(start)
        if x is not None:
            return x, search.iterations
        start = np.zeros(n)
    raise search.failure()


def relaxed(
    prepared: CompiledSystem, b: Array, start: Array, q_0: Array | None = None, s: float = 0.0
) -> Array | None:
    """Where f(x) + s·(q(x) - q_0) = b comes to rest from `start`, were there a capacitance at every
    node; None where it does not. What can rest in several states stays in the nearest."""
    return _Search(prepared, b, q_0, s).pseudo_transient(start)


class NoOperatingPoint(CircuitError):
    """None was found, though the equation may well have one."""


class _Search:
    """The ways to a solution, each tried from a start; None where it does not settle."""

    def __init__(self, prepared: CompiledSystem, b: Array, q_0: Array | None, s: float) -> None:
        self.prepared = prepared
        self.b = b
        self.s = s
        self.n = prepared.system.size
        self.q_0 = np.zeros(self.n) if q_0 is None else q_0
        self.moved = np.zeros(self.n)
        self.singular_row: int | None = None
        self.iterations = 0
        self.places = places_of(prepared.tables)
        self.dense = False  # once no fixed order of pivots has served
        self.plan: Plan | None = None if self.n > SMALL else prepared.plan(self.places[0])

    def iterate(
        self, x: Array, share: float = 1.0, kappa: float = 0.0, reference: Array | None = None
    ) -> bool:
        """Newton from `x`, in place. True where it settled."""
        from lucidbench.core.kernels.newton import SINGULAR, newton

        tables = self.prepared.tables
        reference = np.zeros(self.n) if reference is None else reference
        for attempt in range(8):
            if self.plan is None:
                self.dense = self.dense or attempt > 2
                self.plan = self._plan_at(x, kappa)
                if self.plan is None:
                    return False
            taken = newton(
                tables,
                self.plan,
                x,
                0.0,
                share * self.b,
                self.q_0,
                self.s,
                kappa,
                reference,
                _MOST_ITERATIONS,
                self.moved,
                self.places,
            )
            if taken > 0:
                self.iterations += taken
                return bool(np.all(np.isfinite(x)))
            self.iterations += _MOST_ITERATIONS
            if taken > SINGULAR:
                return False
            row = SINGULAR - taken
            self.singular_row = row if self.plan.dense else int(self.plan.column_order[row])
            if self.plan.dense or not np.all(np.isfinite(x)):
                return False
            self.plan = None  # the order of pivots suits these values no more
        return False

    def _plan_at(self, x: Array, kappa: float) -> Plan | None:
        """An order of pivots for the matrix at `x`; None where there is none."""
        tables = self.prepared.tables
        _, _, self.places = evaluated(tables, x, limiting=True)
        values = self.places[0] + self.s * self.places[1]
        values[tables.diagonal] += np.where(tables.is_node, kappa, 0.0)
        try:
            return self.prepared.plan(values, self.dense)
        except CircuitError:
            return None

    def _begin(self, start: Array) -> Array:
        x = start.copy()
        tables = self.prepared.tables
        for k in range(len(tables.held)):
            a, b = tables.plus[k], tables.minus[k]
            tables.held[k] = (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)
        return x

    def straight(self, start: Array) -> Array | None:
        x = self._begin(start)
        return x if self.iterate(x) else None

    def fading_conductance(self, start: Array) -> Array | None:
        x = self._begin(start)
        kappa, step = _FIRST_GMIN, 0.1
        if not self.iterate(x, kappa=kappa):
            return None
        for _ in range(_MOST_STAGES):
            if kappa <= _LAST_GMIN:
                break
            trial = x.copy()
            if self.iterate(trial, kappa=kappa * step):
                x, kappa = trial, kappa * step
                step = max(step**1.5, 1e-3)
            else:
                step = step**0.4
                if step > 0.98:
                    return None
        return x if self.iterate(x) else None

    def rising_sources(self, start: Array) -> Array | None:
        x = self._begin(np.zeros(self.n))
        if not self.iterate(x, share=0.0):
            return None
        share, step = 0.0, 0.1
        for _ in range(_MOST_STAGES):
            if share >= 1.0:
                return x
            trial = x.copy()
            to = min(1.0, share + step)
            if self.iterate(trial, share=to):
                x, share, step = trial, to, step * 2
            else:
                step /= 4
                if step < 1e-6:
                    return None
        return None

    def pseudo_transient(self, start: Array) -> Array | None:
        x = self._begin(start)
        kappa = 1.0
        for _ in range(_MOST_STAGES):
            trial = x.copy()
            if self.iterate(trial, kappa=kappa, reference=x):
                x = trial
                kappa *= 0.5
                if kappa < _LAST_GMIN:
                    return x if self.iterate(x) else None
            else:
                kappa *= 8.0
                if kappa > 1e9:
                    return None
        return None

    def failure(self) -> CircuitError:
        """What would not settle, or has no single solution."""
        system = self.prepared.system
        if self.singular_row is not None and not np.any(np.abs(self.moved) > 0):
            return system.singular(self.singular_row)
        worst = np.argsort(-np.abs(self.moved))
        nodes = [
            u.name[2:]
            for u in (system.unknowns[k] for k in worst[:8])
            if u.element is None and abs(self.moved[worst[0]]) > 0
        ][:3]
        laws = {s.element.name for s in system.shares if s.stamps.laws}
        parts = tuple(
            e.name for e in system.circuit if e.name in laws and set(e.nodes) & set(nodes)
        )
        where = f" at {listed(nodes)}" if nodes else ""
        about = f" around {listed(parts)}" if parts else ""
        return NoOperatingPoint(
            f"No operating point was found: the voltages{where} would not settle{about}. "
            f"Check the values and connections there; a circuit that only oscillates has none.",
            parts,
            tuple(nodes),
        )


def read_solution(
    system: System,
    x: Array,
    prepared: CompiledSystem | None = None,
    iterations: int = 1,
    solve: Solve | None = None,
) -> OperatingPoint:
    """What the unknowns `x`, shape (n,), say of every node and element; `solve` is of the matrix there,
    where it is known."""
    if not np.all(np.isfinite(x)):
        raise CircuitError(_TOO_EXTREME)
    node_count = len(system.rows) - 1
    if prepared and np.abs(x[:node_count]).max(initial=0.0) < _LEAST_OF_LAWS:
        x = np.zeros_like(x)  # times an ohm: the same nothing
    tables = prepared.tables if prepared else None
    try:
        solved = refined(system, x, solve or _solver_at(system, x, tables), tables)
    except (OverflowError, ValueError) as error:  # of numbers that have no sum
        raise CircuitError(_TOO_EXTREME) from error
    told = unknowns(solved).sure()
    voltages = {node: float(told[row]) for node, row in system.rows.items() if row >= 0}
    voltages[GROUND_NODE] = 0.0
    return OperatingPoint(system.circuit, voltages, system, solved, told, iterations, prepared)


def _solver_at(system: System, x: Array, tables: Tables | None) -> Solve:
    """Of the matrix at `x`; of one that is singular there, at a corner of a law, one that leaves `x` as it
    was found. Raises CircuitError where a linear system's is."""
    if tables is None:
        return system.solver()
    _, _, places = evaluated(tables, x)
    rows, columns = (each.astype(np.intp) for each in (tables.rows, tables.columns))
    try:
        return system.solver_of(rows, columns, places[0])
    except CircuitError:
        return np.zeros_like
