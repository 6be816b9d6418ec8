"""A circuit linearised about its operating point: G = df/dx and C = dq/dx there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from lucidbench.core.analyses.operating_point import OperatingPoint, operating_point
from lucidbench.core.devices.base import LawUse
from lucidbench.core.equations.compiled import CompiledSystem, evaluated
from lucidbench.core.equations.system import (
    LARGEST_DENSE,
    Array,
    ComplexArray,
    ElementStamp,
    System,
    Triplet,
    assemble,
    laws,
    refuse_faults,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit, topology_faults


def jacobian(point: OperatingPoint) -> Any:
    """The slope of the equation at rest, dense (n, n) or, for a large circuit, sparse."""
    g = linearised(point)[0]
    return g + _form(point.system, point.system.holding) if point.system.unheld else g


def linearised(point: OperatingPoint) -> tuple[Any, Any]:
    """(G, C) at the operating point, dense or, for a large circuit, sparse."""
    system = point.system
    if point.ready is None:
        return _form(system, system.conductances), _form(system, system.charges)
    g, c = slopes_at(point.ready, point.x)
    slope = placed(system, point.ready, g)
    if system.unheld:
        slope = slope - _form(system, system.holding)
    return slope, placed(system, point.ready, c)


def _form(system: System, triplets: list[Triplet]) -> Any:
    return (system.matrix if system.size <= LARGEST_DENSE else system.sparse)(triplets)


def small_signals(circuit: Circuit) -> tuple[System, OperatingPoint | None, Any, Any]:
    """(system, operating point, G, C); a linear circuit needs no operating point, and may have none.

    Raises CircuitError.
    """
    system = assemble(circuit)
    if not system.size:
        raise CircuitError("There is nothing in the circuit that could carry a phasor.")
    if system.is_linear:
        refuse_faults(topology_faults(circuit, moving=True))
        return system, None, _form(system, system.conductances), _form(system, system.charges)
    point = operating_point(circuit)
    g, c = linearised(point)
    return point.system, point, g, c


def slopes_at(prepared: CompiledSystem, x: Array) -> tuple[Array, Array]:
    """G and C at the pattern's places, shape (m,), at unknowns `x`."""
    _, _, places = evaluated(prepared.tables, x)
    return places[0], places[1]


def placed(system: System, prepared: CompiledSystem, values: Array | ComplexArray) -> Any:
    """Values at the pattern's places as a matrix."""
    rows, columns = prepared.pattern
    if system.size <= LARGEST_DENSE:
        dense = np.zeros((system.size, system.size), values.dtype)
        dense[rows, columns] = values
        return dense
    from scipy.sparse import coo_array

    return coo_array((values, (rows, columns)), shape=(system.size, system.size)).tocsc()


@dataclass(frozen=True)
class Slopes:
    """One use of a law at the operating point: di/du and dq/du, shape (branches, controls)."""

    share: ElementStamp
    use: LawUse
    by_current: Array
    by_charge: Array
    controls: Array  # [V], where they were taken


def law_slopes_at(point: OperatingPoint) -> list[Slopes]:
    """The slopes of every law, use by use."""
    if point.ready is None or not len(point.ready.tables.law):
        return []
    from lucidbench.core.kernels.evaluate import law_slopes

    tables = point.ready.tables
    count = len(tables.slots) // 4
    by_current, by_charge = np.zeros(count), np.zeros(count)
    law_slopes(tables, point.x, 0.0, by_current, by_charge)
    at = np.append(point.x, 0.0)  # ground's row, -1, reads the last one
    volts = at[tables.plus] - at[tables.minus]
    found = []
    place = control = 0
    for share, use in laws(point.system):
        shape = (len(use.branches), len(use.controls))
        end = place + shape[0] * shape[1]
        found.append(
            Slopes(
                share,
                use,
                by_current[place:end].reshape(shape),
                by_charge[place:end].reshape(shape),
                volts[control : control + shape[1]],
            )
        )
        place, control = end, control + shape[1]
    return found


def law_admittances(point: OperatingPoint, x: Any, factor: Any) -> Any:
    """Small-signal currents of every law's branches for phasors `x`, shape (n, points).

    `factor` is jω at each point. Shape (branches, points).
    """
    grounded = np.vstack([x, np.zeros((1, x.shape[1]))])
    found = []
    for slopes in law_slopes_at(point):
        row = slopes.share.row
        for k in range(len(slopes.use.branches)):
            current = np.zeros(x.shape[1], complex)
            for m, (plus, minus) in enumerate(slopes.use.controls):
                factors = slopes.by_current[k, m] + factor * slopes.by_charge[k, m]
                current += factors * (grounded[row(plus)] - grounded[row(minus)])
            found.append(current)
    return np.array(found).reshape(-1, x.shape[1])
