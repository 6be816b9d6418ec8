"""What flows into each pin, read off the same stamps the equation was made of."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any

import numpy as np

from lucidbench.core.analyses.system import Array, System
from lucidbench.core.devices.base import GROUND_ROW, Drive

if TYPE_CHECKING:
    from lucidbench.core.kernels.tables import Tables


def pin_currents(system: System, x: Array, tables: Tables | None = None) -> list[list[float]]:
    """The DC current [A] into each pin of each element, at unknowns `x`, shape (n,).

    `tables` are wanted where the circuit has laws. A pin's current is the sum of its own element's
    share of that row, so two pins on one node are told apart.
    """
    through: Iterator[float] = iter(())
    if tables is not None and len(tables.law):
        currents, _ = law_currents_over(tables, x[:, None])
        through = iter(currents[:, 0].tolist())
    at = [*x.tolist(), 0.0]  # ground's row, -1, reads the last one
    found = []
    for share in system.shares:
        pins = len(share.element.nodes)
        rows = share.rows
        flow = [0.0] * pins
        for row, column, value in share.stamps.conductances:
            if 0 <= row < pins and column != GROUND_ROW:
                flow[row] += value * at[rows[column]]
        for row, drive in share.stamps.drives:
            if 0 <= row < pins:
                flow[row] -= drive.dc
        for use in share.stamps.laws:
            for source, target in use.branches:
                current = next(through)
                if 0 <= source < pins:
                    flow[source] += current
                if 0 <= target < pins:
                    flow[target] -= current
        found.append(flow)
    return found


def pin_currents_over(
    system: System,
    x: Any,
    rates: Any,
    told: Callable[[Drive], Any],
    through: Any,
    charge_rates: Any,
) -> list[list[Any]]:
    """The same for many points at once, each argument with the points along its last axis.

    `x`, `rates`: unknowns and their time derivatives (or jω times them), shape (n, points);
    `told` gives what a drive imposes, also into a pin on ground; `through`, `charge_rates`: current and
    rate of charge of each law's branches, shape (branches, points), or None in a linear circuit.
    """
    zero = np.zeros(x.shape[1], dtype=x.dtype)
    found = []
    branch = 0
    for share in system.shares:
        pins = len(share.element.nodes)
        rows = share.rows
        flow = [zero] * pins
        for kind, of in ((share.stamps.conductances, x), (share.stamps.charges, rates)):
            for row, column, value in kind:
                if 0 <= row < pins and column != GROUND_ROW and rows[column] != GROUND_ROW:
                    flow[row] = flow[row] + value * of[rows[column]]
        for row, drive in share.stamps.drives:
            if 0 <= row < pins:
                flow[row] = flow[row] - told(drive)
        for use in share.stamps.laws:
            for source, target in use.branches:
                if through is not None:
                    current = through[branch] + charge_rates[branch]
                    if 0 <= source < pins:
                        flow[source] = flow[source] + current
                    if 0 <= target < pins:
                        flow[target] = flow[target] - current
                branch += 1
        found.append(flow)
    return found


def law_currents_over(
    tables: Tables | None, x: Array, times: Array | None = None
) -> tuple[Array, Array]:
    """(currents, charges) of every law's branches at each column of `x`, shape (branches, points)."""
    points = x.shape[1]
    if tables is None or not len(tables.law):
        return np.zeros((0, points)), np.zeros((0, points))
    from lucidbench.core.kernels.evaluate import branches_over

    at = np.zeros(points) if times is None else np.ascontiguousarray(times)
    currents = np.zeros((points, len(tables.source)))
    charges = np.zeros_like(currents)
    branches_over(tables, np.ascontiguousarray(x.T), at, currents, charges)
    return currents.T, charges.T


def traces_of(system: System, x: Any, flows: list[list[Any]]) -> dict[str, Any]:
    """Every V_<node> and I_<element> by name, from unknowns (n, points) and the currents into pins."""
    found = {f"V_{node}": x[row] for node, row in system.rows.items() if row != GROUND_ROW}
    for share, flow in zip(system.shares, flows, strict=True):
        name = share.element.name
        for label, pin in share.element.device.description.currents:
            found[f"I_{name}.{label}" if label else f"I_{name}"] = flow[pin]
    return found
