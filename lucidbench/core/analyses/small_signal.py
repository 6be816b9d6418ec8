"""A circuit linearised about its operating point: G = df/dx and C = dq/dx there."""

from __future__ import annotations

from typing import Any

import numpy as np

from lucidbench.core.analyses.compiled import Ready, evaluated
from lucidbench.core.analyses.operating_point import OperatingPoint
from lucidbench.core.analyses.system import LARGEST_DENSE, Array, System


def jacobian(point: OperatingPoint) -> Any:
    """G at the operating point, dense (n, n) or, for a large circuit, sparse."""
    return linearised(point)[0]


def linearised(point: OperatingPoint) -> tuple[Any, Any]:
    """(G, C) at the operating point, dense or, for a large circuit, sparse."""
    system = point.system
    if point.ready is None:
        form = system.matrix if system.size <= LARGEST_DENSE else system.sparse
        return form(system.conductances), form(system.charges)
    g, c = slopes_at(point.ready, point.x)
    return placed(system, point.ready, g), placed(system, point.ready, c)


def slopes_at(prepared: Ready, x: Array) -> tuple[Array, Array]:
    """G and C at the pattern's places, shape (m,), at unknowns `x`."""
    _, _, places = evaluated(prepared.tables, x)
    return places[0], places[1]


def placed(system: System, prepared: Ready, values: Array) -> Any:
    """Values at the pattern's places as a matrix."""
    rows, columns = prepared.pattern
    if system.size <= LARGEST_DENSE:
        dense = np.zeros((system.size, system.size))
        dense[rows, columns] = values
        return dense
    from scipy.sparse import coo_array

    return coo_array((values, (rows, columns)), shape=(system.size, system.size)).tocsc()


def law_admittances(point: OperatingPoint, x: Any, factor: Any) -> Any:
    """Small-signal currents of every law's branches for phasors `x`, shape (n, points).

    `factor` is jω at each point. Shape (branches, points).
    """
    if point.ready is None or not len(point.ready.tables.law):
        return np.zeros((0, x.shape[1]), complex)
    from lucidbench.core.kernels.evaluate import law_slopes

    tables = point.ready.tables
    count = len(tables.slots) // 4
    by_current, by_charge = np.zeros(count), np.zeros(count)
    law_slopes(tables, point.x, 0.0, by_current, by_charge)
    grounded = np.vstack([x, np.zeros((1, x.shape[1]))])
    found = np.zeros((len(tables.source), x.shape[1]), complex)
    at = 0
    for use in range(len(tables.law)):
        controls = range(tables.control_at[use], tables.control_at[use + 1])
        for branch in range(tables.branch_at[use], tables.branch_at[use + 1]):
            for m in controls:
                u = grounded[tables.plus[m]] - grounded[tables.minus[m]]
                found[branch] += (by_current[at] + factor * by_charge[at]) * u
                at += 1
    return found
