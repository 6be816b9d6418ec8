"""How far the operating point may lie from nominal, by its first-order sensitivities to every toleranced
value (JCGM 100:2008, 5.1.2)."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, cast

import numpy as np

from lucidbench.core.analyses.operating_point import (
    OperatingPoint,
    operating_point,
    rests_at_zero,
)
from lucidbench.core.analyses.small_signal import jacobian
from lucidbench.core.devices.base import GROUND_ROW
from lucidbench.core.equations.currents import law_currents_over
from lucidbench.core.equations.system import (
    Array,
    ElementStamp,
    System,
    dense_solver,
    sparse_solver,
    stamped,
)
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.residue import OF_TOLERANCES, cleared, is_residue
from lucidbench.core.tolerance.intervals import Interval, expanded, intervals_of

_RELATIVE_STEP = 1e-4  # central differences of smooth stamps: error of order 1e-8


@dataclass(frozen=True)
class Effects:
    """What the end of every toleranced value's interval does to operating-point values: signed as the value
    grows, in rows by textbook name and in columns by interval."""

    intervals: tuple[Interval, ...] = ()
    names: tuple[str, ...] = ()
    limits: Array = field(default_factory=lambda: np.zeros((0, 0)))

    def uncertainty(self, values: Mapping[str, float]) -> dict[str, float]:
        """Expanded, by name; `values` are the nominal ones, of which an undetermined voltage is none."""
        told = {
            n: u
            for n, u in zip(self.names, expanded(self.limits.T).tolist(), strict=True)
            if n in values
        }
        largest: dict[str, float] = {}
        for (
            name
        ) in told:  # where a figure is nothing, its uncertainty is so beside the others of its kind
            largest[name[0]] = max(largest.get(name[0], 0.0), abs(values[name]))
        return {
            n: cleared(cleared(u, values[n], OF_TOLERANCES), largest[n[0]]) for n, u in told.items()
        }

    def limits_of(self, name: str, value: float) -> dict[str, float]:
        """By source, what the end of each interval does to the figure of a name; but rounding beside its
        nominal `value`."""
        if name not in self.names:
            return {}
        sizes = self.limits[self.names.index(name)].tolist()
        told = zip((each.source for each in self.intervals), sizes, strict=True)
        return {source: size for source, size in told if not is_residue(size, value, OF_TOLERANCES)}


def operating_point_uncertainty(
    circuit: Circuit,
    point: OperatingPoint | None = None,
    only: Collection[str] | None = None,
) -> dict[str, float]:
    """Expanded uncertainty of each operating-point value, by its textbook name, in its own unit.

    Empty where no part has a tolerance. Raises what `operating_point` raises; `point` is its result
    for this circuit, where it is at hand; `only` are the names wanted, where not all are.
    """
    if not intervals_of(circuit):
        return {}
    point = point or operating_point(circuit)
    return operating_point_effects(circuit, point, only).uncertainty(point.values)


def operating_point_effects(
    circuit: Circuit,
    point: OperatingPoint,
    only: Collection[str] | None = None,
) -> Effects:
    """The same source by source, of `only` those names where not all are wanted."""
    if only is not None and not only:
        return Effects()
    intervals = tuple(intervals_of(circuit))
    if not intervals:
        return Effects()
    system, x = point.system, point.x
    if not system.size or rests_at_zero(system):
        return Effects()
    g = jacobian(point)
    solve = dense_solver(g, system) if isinstance(g, np.ndarray) else sparse_solver(g, system)
    shares = {share.element.name: share for share in system.shares}
    off = [_either_side(system, shares[each.element.name], each.key) for each in intervals]
    nominal = [*x.tolist(), 0.0]  # the last entry is ground's, which row -1 reads
    residuals = np.zeros((len(nominal), len(intervals)))
    for column, both in enumerate(off):
        _add_residual_change(*both, nominal, residuals[:, column])
    shifts = -solve(residuals[:-1])  # (n, k): dx for one relative step of each of k parameters
    ground = np.zeros((1, len(intervals)))
    above, below = (np.vstack([x[:, None] + sign * shifts, ground]) for sign in (1, -1))
    scale = np.array([each.half_width for each in intervals]) / (2 * _RELATIVE_STEP)

    nodes = {f"V_{node}": row for node, row in system.rows.items() if row != GROUND_ROW}
    voltages = ((above - below) * scale)[list(nodes.values())]
    if only is not None and all(name.startswith("V_") for name in only):
        return Effects(intervals, tuple(nodes), voltages)
    told = _Told(point)
    change = told.over(above) - told.over(below)
    own: list[tuple[int, int, float]] = []  # each depends on its own value directly too
    for column, each in enumerate(intervals):
        first = told.first_of[each.element.name]
        sides = (_told_at(share, nominal) for share in off[column])
        for row, (higher, lower) in enumerate(zip(*sides, strict=True)):
            own.append((first + row, column, higher - lower))
    rows, columns, changes = zip(*own, strict=True)
    np.add.at(change, (rows, columns), changes)
    names = (*nodes, *told.names)
    return Effects(intervals, names, np.vstack([voltages, change * scale]))


class _Told:
    """The currents that each element tells of, and its power, worked out for all at once."""

    def __init__(self, point: OperatingPoint) -> None:
        self.names: list[str] = []
        self.first_of: dict[str, int] = {}  # the first of an element's figures among all
        self._tables = point.ready.tables if point.ready else None
        self._unknowns: list[int] = []  # at each pin of each element
        self._powers: list[int] = []  # the row that each pin's share of a power is told in
        self._currents: list[tuple[int, int]] = []  # (row told in, pin)
        linear: list[tuple[float, int, int]] = []  # conductances, by pin and unknown
        driven: list[tuple[float, int]] = []
        through: list[tuple[float, int, int]] = []  # the sign of each law's branch at each pin
        branches = 0
        for share in point.system.shares:
            element, first = share.element, len(self._unknowns)
            pins = len(element.nodes)
            names = _names(element)
            row = len(self.names)
            self.first_of[element.name] = row
            self._unknowns += share.rows[:pins]
            for k, (_, pin) in enumerate(element.device.description.currents):
                self._currents.append((row + k, first + pin))
            self._powers += [row + len(names) - 1] * pins
            self.names += names
            for pin, own, value in share.stamps.conductances:
                if 0 <= pin < pins and share.row(own) != GROUND_ROW:
                    linear.append((value, first + pin, share.row(own)))
            driven += [(d.dc, first + pin) for pin, d in share.stamps.drives if 0 <= pin < pins]
            for source, target in (both for use in share.stamps.laws for both in use.branches):
                ends = ((1.0, source), (-1.0, target))
                through += [(s, first + pin, branches) for s, pin in ends if 0 <= pin < pins]
                branches += 1
        self._linear = _matrix(linear, (len(self._unknowns), point.system.size))
        self._through = _matrix(through, (len(self._unknowns), branches))
        self._driven = np.zeros((len(self._unknowns), 1))
        for current, pin in driven:
            self._driven[pin] += current

    def over(self, x: Array) -> Array:
        """The figures in the order of `names` at each column of `x`, which has ground's entry last."""
        flows = self._linear @ x[:-1] - self._driven
        if self._through.shape[1]:
            flows += self._through @ law_currents_over(self._tables, x[:-1])[0]
        told = np.zeros((len(self.names), x.shape[1]))
        rows, pins = np.array(self._currents, dtype=int).reshape(-1, 2).T
        told[rows] = flows[pins]
        np.add.at(told, self._powers, x[self._unknowns] * flows)
        return told


def _matrix(places: list[tuple[float, int, int]], shape: tuple[int, int]) -> Any:
    from scipy.sparse import coo_array

    values, rows, columns = zip(*places, strict=True) if places else ((), (), ())
    return coo_array((values, (rows, columns)), shape=shape).tocsr()


def _told_at(share: ElementStamp, nominal: Sequence[float]) -> list[float]:
    """The same of one element at one point."""
    flow = _pin_flow(share, nominal)
    power = sum(nominal[row] * i for row, i in zip(share.rows, flow, strict=False))
    return [*(flow[pin] for _, pin in share.element.device.description.currents), power]


def _either_side(
    system: System, share: ElementStamp, key: str
) -> tuple[ElementStamp, ElementStamp]:
    """An element's share with one of its values a little above, and a little below."""
    element = share.element
    sides = cast("tuple[Element, Element] | None", element.derived.get(("either side", key)))
    if sides is None:
        value = element.values[key]
        above, below = (
            element.with_value(key, value * (1 + sign * _RELATIVE_STEP)) for sign in (1, -1)
        )
        element.derived["either side", key] = sides = (above, below)
    a, b = (share._replace(element=e, stamps=stamped(system.circuit, e)) for e in sides)
    return a, b


def _add_residual_change(
    above: ElementStamp, below: ElementStamp, nominal: Sequence[float], change: Array
) -> None:
    """Add what f(x) - b changes by for one relative step of a parameter, x held, to `change`."""
    for share, sign in ((above, 0.5), (below, -0.5)):
        for row, column, value in share.stamps.conductances:
            change[share.row(row)] += sign * value * nominal[share.row(column)]
        for row, drive in share.stamps.drives:
            change[share.row(row)] -= sign * drive.dc


def _pin_flow(share: ElementStamp, nominal: Sequence[float]) -> list[float]:
    """The DC current [A] into each pin of an element without laws; parts with a tolerance have none."""
    pins = len(share.element.nodes)
    flow = [0.0] * pins
    for row, column, value in share.stamps.conductances:
        if 0 <= row < pins:
            flow[row] += value * nominal[share.row(column)]
    for row, drive in share.stamps.drives:
        if 0 <= row < pins:
            flow[row] -= drive.dc
    return flow


def _names(element: Element) -> list[str]:
    currents = element.device.description.currents
    names = [f"I_{element.name}.{name}" if name else f"I_{element.name}" for name, _ in currents]
    return [*names, f"P_{element.name}"]
