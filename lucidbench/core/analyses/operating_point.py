"""The DC operating point: f(x) = b, every charge at rest.

With every device linear, f(x) = G x and one solve is exact.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lucidbench.core.analyses.system import Array, System, assemble
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, topology_faults

# Differences and results below this share of the largest beside them are rounding, given as zero.
_DUST = 64 * 2.0**-53


@dataclass(frozen=True)
class OperatingPoint:
    """Node voltages [V] by node; currents [A] and powers [W] by element.

    A current counts from the element's first pin through it to its second. A power above zero is
    taken in, below zero given; all of them sum to zero (Tellegen).
    """

    circuit: Circuit
    voltages: dict[str, float]
    currents: dict[str, float]
    powers: dict[str, float]

    @property
    def values(self) -> dict[str, float]:
        """Every result by its textbook name: V_<node>, I_<element>, P_<element>; ground left out."""
        named = {f"V_{node}": v for node, v in self.voltages.items() if node != GROUND_NODE}
        named |= {f"I_{name}": i for name, i in self.currents.items()}
        named |= {f"P_{name}": p for name, p in self.powers.items()}
        return named


def operating_point(circuit: Circuit) -> OperatingPoint:
    """Solve `circuit` at DC. Raises CircuitError naming what stands in the way."""
    faults = topology_faults(circuit)
    if faults:
        raise CircuitError(faults[0].sentence, faults[0].elements, faults[0].nodes)
    system = assemble(circuit)
    if not system.size:
        return read_solution(system, np.zeros(0))
    return read_solution(system, system.solver()(system.drive()))


def read_solution(system: System, x: Array) -> OperatingPoint:
    """What the unknowns `x`, shape (n,), say of every node and element."""
    if not np.all(np.isfinite(x)):
        raise CircuitError("The circuit's values are too extreme to be worked out.")
    node_count = len(system.rows) - 1
    potentials = np.where(np.abs(x) <= _DUST * np.max(np.abs(x[:node_count]), initial=0.0), 0.0, x)
    voltages = {node: float(potentials[row]) for node, row in system.rows.items() if row >= 0}
    voltages[GROUND_NODE] = 0.0
    currents: dict[str, float] = {}
    powers: dict[str, float] = {}
    largest = np.max(np.abs(x[node_count:]), initial=0.0)
    for element in system.circuit:
        first, second = (voltages[node] for node in element.nodes)
        if abs(first - second) <= _DUST * max(abs(first), abs(second)):
            second = first
        branch = float(x[system.branch_rows[element.name]]) if element.device.branches else 0.0
        current = element.device.current(element.values, (first, second), branch)
        currents[element.name] = 0.0 if abs(current) <= _DUST * largest else current
        powers[element.name] = (first - second) * currents[element.name]
    return OperatingPoint(system.circuit, voltages, currents, powers)
