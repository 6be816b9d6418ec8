"""Phasors at one frequency, and sweeps over many: (G + jωC)·X = B about the operating point."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from lucidbench.core.analyses.operating_point import OperatingPoint
from lucidbench.core.analyses.run import Cost, RunRefused, Watch, refuse_numbers, refuse_points
from lucidbench.core.analyses.small_signal import law_admittances, small_signals
from lucidbench.core.collection import collection_paused
from lucidbench.core.devices.base import Drive
from lucidbench.core.equations.currents import pin_currents_over, traces_of
from lucidbench.core.equations.refined import signs
from lucidbench.core.equations.system import (
    Array,
    ComplexArray,
    System,
    refuse_reactances,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.residue import ROUNDING, cleared_parts

_CHUNK = 4_000_000  # entries of all matrices solved at once
_BEYOND = 32.0  # times what rounding was seen to do: a figure within may be nothing


def decades(start: float, stop: float, points: int) -> Array:
    """`points` frequencies [Hz] in each decade, from `start` up to `stop`."""
    return _spaced(start, stop, points, 10.0)


def octaves(start: float, stop: float, points: int) -> Array:
    """`points` frequencies [Hz] in each octave."""
    return _spaced(start, stop, points, 2.0)


def _spaced(start: float, stop: float, points: int, base: float) -> Array:
    if not 0 < start <= stop or points < 1:
        raise RunRefused("A sweep needs frequencies above 0 Hz, the last not below the first.")
    steps = np.log(stop / start) / np.log(base) * points
    refuse_points(steps, "sweep", "Take fewer points.")
    return np.asarray(start * base ** (np.arange(int(np.floor(steps + 1e-9)) + 1) / points))


@dataclass(frozen=True)
class FrequencySweep:
    """Peak phasors of every unknown, `x` of shape (points, n), at `frequencies` [Hz]."""

    system: System
    frequencies: Array
    x: ComplexArray
    cost: Cost
    point: OperatingPoint | None = field(repr=False)
    matrices: tuple[Any, Any] = field(repr=False)  # G and C

    @property
    def circuit(self) -> Circuit:
        return self.system.circuit

    def at(self, frequencies: Array) -> FrequencySweep:
        """The same circuit at other frequencies [Hz]."""
        x = _solve_over(
            self.system, *self.matrices, self.system.phasor_drive(), frequencies, Watch()
        )
        return replace(self, frequencies=frequencies, x=x)

    @cached_property
    def flows(self) -> list[list[ComplexArray]]:
        """The current into each pin of each element, peak phasors over frequency."""
        refuse_numbers(float(self.x.size) * 6, "sweep", "Take fewer points.")
        return self._flows_of(self.x, 1.0)

    def _flows_of(self, x: ComplexArray, drive: float) -> list[list[ComplexArray]]:
        """The same of unknowns of that shape, with so much of what the sources impose."""
        factor = 2j * np.pi * self.frequencies
        through = law_admittances(self.point, x.T, factor) if self.point else None
        charges = np.zeros_like(through) if through is not None else None

        def told(of: Drive) -> ComplexArray:
            return np.full(len(factor), drive * of.phasor, complex)

        return pin_currents_over(self.system, x.T, factor * x.T, told, through, charges)

    def coarse(self) -> tuple[Array, list[list[float]]]:
        """(by node's row, by pin of each element): how far off rounding may leave the phasors of the only
        frequency, tried out with a few roundings of every row (`ROUNDING`)."""
        sizes = abs(self._matrix) @ np.abs(self.x[0]) + np.abs(self.system.phasor_drive())
        moved = [self._solved(ROUNDING * column * sizes) for column in signs(self.system.size).T]
        flows = [self._flows_of(x, 0.0) for x in moved]
        return np.max([np.abs(x[0]) for x in moved], axis=0), [
            [float(max(abs(of[k][pin][0]) for of in flows)) for pin in range(len(flow))]
            for k, flow in enumerate(self.flows)
        ]

    def refined(self) -> FrequencySweep:
        """Of one frequency, after a step of iterative refinement: every row is then solved to the rounding
        of its own terms (Skeel, Iterative refinement implies numerical stability, Mathematics of
        Computation 35, 1980)."""
        left = self.system.phasor_drive() - self._matrix @ self.x[0]
        return replace(self, x=self.x + self._solved(left))

    @property
    def _matrix(self) -> Any:
        g, c = self.matrices
        fixed = _imaginary(self.system, g)
        return g + 2j * np.pi * self.frequencies[0] * c + (0 if fixed is None else fixed)

    def _solved(self, drive: ComplexArray) -> ComplexArray:
        return _solve_over(self.system, *self.matrices, drive, self.frequencies, Watch())

    @cached_property
    def traces(self) -> dict[str, ComplexArray]:
        """Every V_<node> and I_<element> as peak phasors over frequency."""
        return traces_of(self.system, self.x.T, self.flows)

    def voltage(self, node: str, reference: str = GROUND_NODE) -> ComplexArray:
        """Of a node against another, peak phasors over frequency. Raises CircuitError."""
        return _node_phasors(self, node) - _node_phasors(self, reference)

    def ratio(self, output: str, source: str) -> ComplexArray:
        """V_output over the phasor of a source, over frequency."""
        return np.asarray(self.voltage(output) / source_phasor(self.circuit, source))


def _node_phasors(sweep: FrequencySweep, node: str) -> ComplexArray:
    row = sweep.system.row(node)
    return sweep.x[:, row] if row >= 0 else np.zeros(len(sweep.frequencies), complex)


def source_phasor(circuit: Circuit, name: str) -> complex:
    """The phasor a source imposes. Raises CircuitError where it is none, or zero."""
    element = circuit.element(name)
    if not element.imposes:
        raise CircuitError(f"{name} is no independent source.", (name,))
    magnitude = element.values.get("magnitude", 0.0)
    if not magnitude:
        raise CircuitError(f"{name} has no phasor: give it a magnitude.", (name,))
    return complex(magnitude * np.exp(1j * np.radians(element.values.get("phase", 0.0))))


@collection_paused()
def frequency_sweep(
    circuit: Circuit, frequencies: Sequence[float] | Array, watch: Watch | None = None
) -> FrequencySweep:
    """Phasors at each of `frequencies` [Hz]. Raises CircuitError, RunRefused."""
    at = np.asarray(frequencies, float)
    refuse_points(len(at), "sweep", "Take fewer points.")
    if not len(at) or np.any(at < 0) or not np.all(np.isfinite(at)):
        raise RunRefused("A sweep needs one frequency or more, none below 0 Hz.")
    if len(at) > 1:
        refuse_reactances(circuit, "a frequency sweep")
    began = time.monotonic()
    system, point, g, c = small_signals(circuit)
    refuse_numbers(float(len(at)) * system.size, "sweep", "Take fewer points.")
    x = _solve_over(system, g, c, system.phasor_drive(), at, watch or Watch())
    return FrequencySweep(system, at, x, Cost(time.monotonic() - began, len(at)), point, (g, c))


def _solve_over(
    system: System, g: Any, c: Any, drive: ComplexArray, at: Array, watch: Watch
) -> ComplexArray:
    """X at each frequency, shape (points, n)."""
    n = system.size
    x = np.empty((len(at), n), complex)
    s = 2j * np.pi * at
    fixed = _imaginary(system, g)
    if isinstance(g, np.ndarray):
        chunk = max(1, _CHUNK // (n * n))
        for k in range(0, len(at), chunk):
            part = s[k : k + chunk]
            matrices = np.empty((len(part), n, n), complex)
            matrices.real = g if fixed is None else (g + fixed).real
            np.multiply(part.imag[:, None, None], c, out=matrices.imag)
            if fixed is not None:
                matrices += fixed
            try:
                x[k : k + chunk] = np.linalg.solve(matrices, drive[:, None])[..., 0]
            except np.linalg.LinAlgError:
                raise _no_solution(system, matrices, at[k : k + chunk]) from None
            watch.check((k + len(part)) / len(at), "sweep")
    else:
        from scipy.sparse.linalg import splu

        for k, factor in enumerate(s):
            matrix = (g + factor * c if fixed is None else g + fixed + factor * c).tocsc()
            try:
                x[k] = splu(matrix).solve(drive)
            except RuntimeError:
                raise system.singular(None) from None
            if not k % 16:
                watch.check(k / len(at), "sweep")
    if not np.all(np.isfinite(x)):
        raise system.singular(None)
    return x


def _imaginary(system: System, g: Any) -> Any:
    """What reactances given at this frequency add; None without any."""
    if not any(value for _, _, value in system.imaginary):
        return None
    form = system.matrix if isinstance(g, np.ndarray) else system.sparse
    return 1j * form(system.imaginary)


def _no_solution(system: System, matrices: ComplexArray, at: Array) -> CircuitError:
    ranks = np.linalg.matrix_rank(matrices)
    worst = int(np.argmin(ranks))
    return CircuitError(
        f"At {at[worst]:g} Hz the circuit has no single solution: it resonates without any loss "
        f"there, or a part constrains nothing. Give it some resistance."
    )


@dataclass(frozen=True)
class Phasors:
    """All phasors at one frequency [Hz], peak values; `rms` gives the others.

    Complex power S = V·I*/2 [VA] is what an element takes in; Q is above zero for an inductor.
    """

    frequency: float
    voltages: dict[str, complex]
    currents: dict[str, complex]
    powers: dict[str, complex]
    circuit: Circuit = field(repr=False)

    @property
    def rms(self) -> Phasors:
        """The same as RMS values; powers stay what they are."""
        scale = 1 / np.sqrt(2)
        return Phasors(
            self.frequency,
            {k: v * scale for k, v in self.voltages.items()},
            {k: i * scale for k, i in self.currents.items()},
            self.powers,
            self.circuit,
        )

    @property
    def values(self) -> dict[str, complex]:
        named = {f"V_{node}": v for node, v in self.voltages.items() if node != GROUND_NODE}
        named |= {f"I_{name}": i for name, i in self.currents.items()}
        named |= {f"S_{name}": s for name, s in self.powers.items()}
        return named

    def impedance(self, source: str) -> complex:
        """What an independent source sees [Ω]. Raises CircuitError."""
        element = self.circuit.element(source)
        if not element.imposes:
            raise CircuitError(f"{source} is no independent source.", (source,))
        a, b = (self.voltages[node] for node in element.nodes)
        current = -self.currents[element.name]
        if current == 0:
            raise CircuitError(
                f"{source} carries no current, so what it sees is infinite.", (source,)
            )
        return (a - b) / current


def phasors(circuit: Circuit, frequency: float) -> Phasors:
    """Every voltage, current and complex power at `frequency` [Hz]. Raises CircuitError."""
    if not frequency > 0 or not np.isfinite(frequency):
        raise RunRefused("Phasors need a frequency above 0 Hz.")
    sweep = frequency_sweep(circuit, [frequency]).refined()
    system = sweep.system
    coarse, coarse_flows = sweep.coarse()
    voltages = {
        n: cleared_parts(sweep.x[0, row], _BEYOND * coarse[row])
        for n, row in system.rows.items()
        if row >= 0
    }
    voltages[GROUND_NODE] = 0j
    flows = [
        [cleared_parts(into[0], _BEYOND * off) for into, off in zip(*of, strict=True)]
        for of in zip(sweep.flows, coarse_flows, strict=True)
    ]
    traces = traces_of(system, sweep.x.T, flows)
    currents = {name[2:]: into for name, into in traces.items() if name.startswith("I_")}
    powers = {}
    for share, flow in zip(system.shares, flows, strict=True):
        pins = zip(share.element.nodes, flow, strict=True)
        power = sum((voltages[node] * into.conjugate() for node, into in pins), 0j)
        powers[share.element.name] = cleared_parts(power / 2)
    return Phasors(frequency, voltages, currents, powers, circuit)
