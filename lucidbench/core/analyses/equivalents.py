"""What a circuit is, seen from two of its nodes or between its source and its output.

Test sources on the circuit linearised about its operating point: one ampere between the nodes tells
the impedance, one unit of a source the gain. Sources and loads stay as they are.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from lucidbench.core.analyses.frequency import phasors
from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.analyses.small_signal import jacobian, linearised
from lucidbench.core.equations.system import (
    LARGEST_DENSE,
    System,
    assemble,
    dense_solver,
    refuse_faults,
    refuse_reactances,
    sparse_solver,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, topology_faults

_NOTHING = 1e-12  # of the largest entry: an impedance below this is taken as none


@dataclass(frozen=True)
class Equivalent:
    """Thévenin's voltage [V] and impedance [Ω] between two nodes; complex at a frequency."""

    voltage: complex
    impedance: complex

    @property
    def current(self) -> complex | None:
        """Norton's current [A]; None where the impedance is zero, and no Norton form exists."""
        return self.voltage / self.impedance if self.impedance else None


@dataclass(frozen=True)
class TwoPort:
    """From a source to a node: gain, input impedance [Ω] seen by the source, output impedance [Ω]."""

    gain: complex
    input_impedance: complex
    output_impedance: complex


def equivalent(
    circuit: Circuit, node: str, reference: str = GROUND_NODE, frequency: float | None = None
) -> Equivalent:
    """Thévenin's equivalent at DC, or at `frequency` [Hz]. Raises CircuitError."""
    system, solve = _linear(circuit, frequency)
    impedance = _impedance(system, solve, node, reference)
    if frequency is None:
        point = operating_point(circuit)
        volts: complex = point.voltages[node] - point.voltages[reference]
    else:
        at = phasors(circuit, frequency)
        volts = at.voltages[node] - at.voltages[reference]
    return Equivalent(volts, impedance)


def two_port(
    circuit: Circuit,
    source: str,
    node: str,
    reference: str = GROUND_NODE,
    frequency: float | None = None,
) -> TwoPort:
    """Small-signal gain from a source to the voltage between two nodes. Raises CircuitError."""
    system, solve = _linear(circuit, frequency)
    element = circuit.element(source)
    unit = np.zeros(system.size, complex if frequency is not None else float)
    if element.imposes == "V":
        row = system.own_rows[element.name][0]
        unit[row] = 1.0
        x = solve(unit)
        current = -x[row]
        seen = 1 / current if current != 0 else complex(np.inf)
    elif element.imposes == "A":
        for pin, sign in ((0, -1.0), (1, 1.0)):
            at = system.rows[element.nodes[pin]]
            if at >= 0:
                unit[at] += sign
        x = solve(unit)
        seen = _between(system, x, element.nodes[1], element.nodes[0])
    else:
        raise CircuitError(f"{source} is no independent source.", (source,))
    gain = _between(system, x, node, reference)
    return TwoPort(gain, seen, _impedance(system, solve, node, reference))


def _linear(circuit: Circuit, frequency: float | None) -> tuple[System, Callable[[Any], Any]]:
    """(system, solver) of G at DC, of G + jωC at a frequency."""
    if frequency is None:
        refuse_reactances(circuit, "a DC equivalent")
        refuse_faults(topology_faults(circuit))
    system = assemble(circuit)
    if system.is_linear and frequency is not None:
        form = system.matrix if system.size <= LARGEST_DENSE else system.sparse
        g, c, imaginary = (
            form(triplets) for triplets in (system.conductances, system.charges, system.imaginary)
        )
        matrix = g + 2j * np.pi * frequency * c + 1j * imaginary
    else:
        point = operating_point(circuit)
        system = point.system
        g, c = linearised(point)
        matrix = jacobian(point) if frequency is None else g + 2j * np.pi * frequency * c
    if isinstance(matrix, np.ndarray):
        return system, dense_solver(matrix, system)
    return system, sparse_solver(matrix.tocsc(), system)


def _between(system: System, x: Any, node: str, reference: str) -> complex:
    a, b = system.row(node), system.row(reference)
    return (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)


def _impedance(system: System, solve: Callable[[Any], Any], node: str, reference: str) -> complex:
    """What one ampere into `node` and out of `reference` raises between them [Ω]."""
    unit = np.zeros(system.size)
    for name, sign in ((node, 1.0), (reference, -1.0)):
        if system.row(name) >= 0:
            unit[system.row(name)] += sign
    x = solve(unit)
    found = _between(system, x, node, reference)
    return found if abs(found) > _NOTHING * np.max(np.abs(x), initial=0.0) else 0.0
