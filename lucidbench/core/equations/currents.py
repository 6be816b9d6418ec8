"""What flows into each pin, read off the same stamps the equation was made of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, cast

import numpy as np

from lucidbench.core.devices.base import GROUND_ROW, Drive
from lucidbench.core.equations.system import (
    Array,
    ElementStamp,
    Places,
    System,
    Terms,
    Triplet,
    terms_of,
)
from lucidbench.core.netlist import GROUND_NODE, unheld

if TYPE_CHECKING:
    from lucidbench.core.kernels.tables import Tables


@dataclass(frozen=True)
class Pins:
    """The pins of all elements, counted through, and what flows into them.

    Those of element k begin at `first[k]`; `nodes` are their rows, `owner` their elements. Of `flows`,
    each number times the unknown of its column flows into the pin of its row; beside the unknowns,
    column n stands for nothing and n + 1 for one. What laws add is (pin, branch, sign). The currents that
    are `told` are those into these pins; `names` are those of every voltage, told current and power; the
    first `volts` are of voltages. Undetermined ones are left out.
    """

    first: Places
    nodes: Places
    owner: Places
    flows: Terms
    laws: tuple[tuple[int, int, float], ...]
    told: Places
    names: tuple[str, ...]
    volts: int


def pins_of(system: System) -> Pins:
    """Worked out once."""
    if "pins" not in system.derived:
        system.derived["pins"] = _pins(system)
    return cast(Pins, system.derived["pins"])


def _pins(system: System) -> Pins:
    shares = system.shares
    first = np.cumsum([0, *[len(share.element.nodes) for share in shares]], dtype=np.intp)
    starts: list[int] = first[:-1].tolist()
    untold = {GROUND_NODE, *(node for group in unheld(system.circuit) for node in group)}
    names = [f"V_{node}" for node in system.rows if node not in untold]
    volts = len(names)
    laws: list[tuple[int, int, float]] = []
    told: list[int] = []
    branch = 0
    for share, start in zip(shares, starts, strict=True):
        name, pins = share.element.name, len(share.element.nodes)
        for use in share.stamps.laws:
            for ends in use.branches:
                for own, sign in zip(ends, (1.0, -1.0), strict=True):
                    if 0 <= own < pins:
                        laws.append((start + own, branch, sign))
                branch += 1
        for label, pin in share.element.device.description.currents:
            names.append(f"I_{name}.{label}" if label else f"I_{name}")
            told.append(start + pin)
    names += [f"P_{share.element.name}" for share in shares]
    nodes = [row for share in shares for row in share.rows[: len(share.element.nodes)]]
    flows = [_flows(share, k, system.size) for share, k in zip(shares, starts, strict=True)]
    return Pins(
        first,
        np.array(nodes, np.intp),
        np.repeat(np.arange(len(shares)), np.diff(first)),
        terms_of(flows),
        tuple(laws),
        np.array(told, np.intp),
        tuple(names),
        volts,
    )


def _flows(share: ElementStamp, start: int, size: int) -> list[Triplet]:
    """(pin, column, number) of what flows into the pins of one element, whose first is `start`."""
    pins = len(share.element.nodes)
    rows = share.rows
    found: list[Triplet] = []
    for own, column, value in share.stamps.conductances:
        if 0 <= own < pins and column != GROUND_ROW:
            of = rows[column]
            found.append((start + own, size if of == GROUND_ROW else of, value))
    for own, drive in share.stamps.drives:
        if 0 <= own < pins:
            found.append((start + own, size + 1, -drive.dc))
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
