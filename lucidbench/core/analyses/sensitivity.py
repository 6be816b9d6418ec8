"""How a voltage answers to every value in the circuit: one adjoint solve for all of them.

Director and Rohrer, The Generalized Adjoint Network and Network Sensitivities, IEEE Transactions on
Circuit Theory 16, 1969: with G·x = b and Gᵀ·λ = e, dV/dp = -λᵀ·d(f - b)/dp.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses.compiled import evaluated, ready
from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.analyses.run import Watch
from lucidbench.core.analyses.small_signal import jacobian
from lucidbench.core.analyses.system import (
    Array,
    Share,
    System,
    dense_solver,
    sparse_solver,
    stamped,
)
from lucidbench.core.netlist import GROUND_NODE, Circuit

READING_STEP = 1e-3  # relative, of differences of whole readings, whose own error is near 1e-6
_STEP = 1e-5  # relative, of central differences of one element's own equations


@dataclass(frozen=True)
class Sensitivity:
    """Of a figure V to one value p: `absolute` dV/dp, `relative` (p/V)·dV/dp (0 where V is 0)."""

    element: str
    parameter: str
    absolute: float
    relative: float


def sensitivities(circuit: Circuit, node: str, reference: str = GROUND_NODE) -> list[Sensitivity]:
    """Of the DC voltage between two nodes, to every value set in the circuit, largest effect first.

    Raises CircuitError.
    """
    point = operating_point(circuit)
    system, x = point.system, point.x
    unit = np.zeros(system.size)
    for name, sign in ((node, 1.0), (reference, -1.0)):
        row = system.row(name)
        if row >= 0:
            unit[row] += sign
    g = jacobian(point).T
    solve = (
        dense_solver(g, system) if isinstance(g, np.ndarray) else sparse_solver(g.tocsc(), system)
    )
    adjoint = solve(unit)
    volts = point.voltages[node] - point.voltages[reference]
    found = []
    for share in system.shares:
        for key, value in share.element.values.items():
            if not value or not np.isfinite(value):
                continue
            change = residual_change(system, share, key, x)
            by_step = -float(adjoint @ change)  # dV for dp = p
            found.append(
                Sensitivity(
                    share.element.name, key, by_step / value, by_step / volts if volts else 0.0
                )
            )
    return sorted(found, key=lambda s: -abs(s.relative))


def reading_sensitivities(
    circuit: Circuit, reading: Callable[[Circuit], float], watch: Watch | None = None
) -> list[Sensitivity]:
    """Of any figure read off the circuit, to every value set in it, largest effect first.

    `reading` takes a circuit and gives a number: a bandwidth, a period, a distortion. It is read twice
    for each value, a little above and below, so it costs two analyses a value. Raises what it raises.
    """
    watch = watch or Watch(seconds=600.0)
    nominal = reading(circuit)
    named = [
        (e.name, key, v) for e in circuit for key, v in e.values.items() if v and np.isfinite(v)
    ]
    found = []
    for k, (name, key, value) in enumerate(named):
        above, below = (
            reading(circuit.with_value(name, key, value * (1 + sign * READING_STEP)))
            for sign in (1, -1)
        )
        by_step = (above - below) / (2 * READING_STEP)
        relative = by_step / nominal if nominal else 0.0
        found.append(Sensitivity(name, key, by_step / value, relative))
        watch.check((k + 1) / len(named), "search for sensitivities")
    return sorted(found, key=lambda s: -abs(s.relative))


def residual_change(system: System, share: Share, key: str, x: Array) -> Array:
    """p·d(f - b)/dp, shape (n,), for one value p of one element, x held."""
    value = share.element.values[key]
    above, below = (
        _residual(system, moved(system, share, key, value * (1 + sign * _STEP)), x)
        for sign in (1, -1)
    )
    return np.asarray((above - below) / (2 * _STEP))


def moved(system: System, share: Share, key: str, value: float) -> Share:
    """An element's share with one of its values exchanged."""
    element = share.element.with_value(key, value)
    return replace(share, element=element, stamps=stamped(system.circuit, element))


def _residual(system: System, share: Share, x: Array) -> Array:
    """f - b of one element alone, shape (n,)."""
    residual = np.zeros(system.size + 1)  # the last one is ground's
    at = np.append(x, 0.0)
    for row, column, value in share.stamps.conductances:
        residual[share.row(row)] += value * at[share.row(column)]
    for row, drive in share.stamps.drives:
        residual[share.row(row)] -= drive.dc
    if not share.stamps.laws:
        return residual[:-1]
    bare = replace(share, stamps=replace(share.stamps, conductances=[], charges=[], drives=[]))
    alone = ready(replace(system, shares=(bare,)))
    f, _, _ = evaluated(alone.tables, x)
    return residual[:-1] + f
