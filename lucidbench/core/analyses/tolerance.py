"""How far the operating point may lie from nominal, given the tolerances of the parts.

Each part's marked tolerance a is taken as the half-width of a rectangular distribution, standard
uncertainty a/√3 (JCGM 100:2008, 4.3.7). First-order sensitivities carry them to the results, where
they add in quadrature (5.1.2); the result is expanded by the coverage factor 2 (6.2.1, 6.3).
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from lucidbench.core.analyses.currents import law_currents_over, pin_currents_over
from lucidbench.core.analyses.operating_point import OperatingPoint, operating_point
from lucidbench.core.analyses.sensitivity import moved, residual_change
from lucidbench.core.analyses.small_signal import jacobian
from lucidbench.core.analyses.system import (
    Array,
    Share,
    dense_solver,
    sparse_solver,
)
from lucidbench.core.devices.base import GROUND_ROW
from lucidbench.core.netlist import Circuit, Element

COVERAGE_FACTOR = 2.0
_RELATIVE_STEP = 1e-4  # central differences of smooth stamps: error of order 1e-8
_DUST = 1e-9  # of the nominal value; far below any tolerance a part is sold with


def operating_point_uncertainty(
    circuit: Circuit, point: OperatingPoint | None = None
) -> dict[str, float]:
    """Expanded uncertainty of each operating-point value, by its textbook name, in its own unit.

    Empty where no part has a tolerance. Raises what `operating_point` raises; `point` is its result
    for this circuit, where it is at hand.
    """
    spreads = [(e, key, a) for e in circuit for key, a in e.spreads.items() if a > 0]
    if not spreads:
        return {}
    point = point or operating_point(circuit)
    system, x = point.system, point.x
    if not system.size:
        return {}
    g = jacobian(point)
    solve = dense_solver(g, system) if isinstance(g, np.ndarray) else sparse_solver(g, system)
    shares = {share.element.name: share for share in system.shares}
    residuals = np.column_stack(
        [_RELATIVE_STEP * residual_change(system, shares[e.name], key, x) for e, key, _ in spreads]
    )
    shifts = -solve(residuals)  # (n, k): dx for one relative step of each of k parameters
    above, below = x[:, None] + shifts, x[:, None] - shifts
    half_widths = np.array([half_width for _, _, half_width in spreads])
    scale = COVERAGE_FACTOR * half_widths / math.sqrt(3) / (2 * _RELATIVE_STEP)

    found: dict[str, float] = {}
    voltage_uncertainty = np.sqrt((((above - below) * scale) ** 2).sum(axis=1))
    for node, row in system.rows.items():
        if row != GROUND_ROW:
            found[f"V_{node}"] = _without_dust(voltage_uncertainty[row], x[row])
    own: dict[str, list[tuple[int, str]]] = {element.name: [] for element in circuit}
    for column, (element, key, _) in enumerate(spreads):
        own[element.name].append((column, key))
    flows_above, flows_below = _flows(point, above), _flows(point, below)
    for share, high, low in zip(system.shares, flows_above, flows_below, strict=True):
        element = share.element
        change = _told(share, above, np.array(high)) - _told(share, below, np.array(low))
        for column, key in own[element.name]:  # it depends on its own value directly too
            for sign in (1, -1):
                value = element.values[key] * (1 + sign * _RELATIVE_STEP)
                own_share = moved(system, share, key, value)
                alone = replace(system, shares=(own_share,))
                flow = pin_currents_over(alone, *_at_rest(own_share, x))
                change[:, column] += sign * _told(share, x[:, None], np.array(flow[0]))[:, 0]
        uncertainty = np.sqrt(((change * scale) ** 2).sum(axis=1))
        for name, spread in zip(_names(element), uncertainty, strict=True):
            found[name] = _without_dust(spread, point.values[name])
    return found


def _flows(point: OperatingPoint, x: Array) -> list[list[Array]]:
    drives = [drive.dc for _, drive in point.system.drives]
    through, _ = law_currents_over(point.ready.tables if point.ready else None, x)
    return pin_currents_over(point.system, x, 0 * x, drives, through, 0 * through)


def _at_rest(share: Share, x: Array) -> tuple[Array, Array, list[float], None, None]:
    """One element's arguments of `pin_currents_over` at DC; parts with a tolerance have no laws."""
    drives = [d.dc for row, d in share.stamps.drives if share.row(row) != GROUND_ROW]
    return x[:, None], 0 * x[:, None], drives, None, None


def _names(element: Element) -> list[str]:
    currents = element.device.description.currents
    names = [f"I_{element.name}.{name}" if name else f"I_{element.name}" for name, _ in currents]
    return [*names, f"P_{element.name}"]


def _told(share: Share, x: Array, flow: Array) -> Array:
    """The currents an element tells of, then its power, shape (told, k)."""
    grounded = np.vstack([x, np.zeros(x.shape[1])])
    pins = len(share.element.nodes)
    volts = grounded[list(share.rows[:pins])]
    told = [flow[pin] for _, pin in share.element.device.description.currents]
    return np.array([*told, (volts * flow).sum(axis=0) if pins else np.zeros(x.shape[1])])


def _without_dust(uncertainty: float, nominal: float) -> float:
    """Zero where it is rounding beside the nominal value."""
    return float(uncertainty) if uncertainty > _DUST * abs(nominal) else 0.0
