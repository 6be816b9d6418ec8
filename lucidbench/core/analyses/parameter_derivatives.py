"""What a small change of one value of one element does to the circuit equation, all else held."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses.operating_point import OperatingPoint
from lucidbench.core.analyses.small_signal import placed, slopes_at
from lucidbench.core.devices import Stamps
from lucidbench.core.devices.base import GROUND_ROW
from lucidbench.core.equations.compiled import CompiledSystem, compile_system
from lucidbench.core.equations.currents import law_currents_over
from lucidbench.core.equations.system import Array, ComplexArray, ElementStamp, System, stamped
from lucidbench.core.netlist import Element

_STEP = 1e-5  # relative, of central differences of one element's own equations


class Value(NamedTuple):
    """One value set in the circuit, with the share of its element."""

    share: ElementStamp
    key: str
    value: float


def values_of(element: Element) -> list[tuple[str, float]]:
    """The values of an element that can be a little larger or smaller."""
    return [(key, v) for key, v in element.values.items() if v and np.isfinite(v)]


def values_in(system: System) -> Iterator[Value]:
    for share in system.shares:
        for key, value in values_of(share.element):
            yield Value(share, key, value)


def moved(system: System, share: ElementStamp, key: str, value: float) -> ElementStamp:
    """An element's share with one of its values exchanged."""
    element = share.element.with_value(key, value)
    return share._replace(element=element, stamps=stamped(system.circuit, element))


def _either_side(system: System, of: Value) -> tuple[ElementStamp, ElementStamp]:
    above, below = (
        moved(system, of.share, of.key, of.value * (1 + sign * _STEP)) for sign in (1, -1)
    )
    return above, below


class Change(NamedTuple):
    """p·d(f - b)/dp and p·dq/dp in some rows of the equation, shape (rows, points)."""

    rows: npt.NDArray[np.intp]
    flows: Array
    charges: Array

    def flows_over(self, size: int) -> Array:
        """p·d(f - b)/dp in every row, shape (size, points)."""
        return self._over(size, self.flows)

    def charges_over(self, size: int) -> Array:
        return self._over(size, self.charges)

    def _over(self, size: int, values: Array) -> Array:
        whole = np.zeros((size, values.shape[1]))
        np.add.at(whole, self.rows, values)
        return whole


def change(system: System, of: Value, x: Array, times: Array | None = None) -> Change:
    """Of one value, at each column of `x`, shape (n, points); `times` [s] where it is a run's."""
    at = np.vstack([x, np.zeros((1, x.shape[1]))])  # the last row is ground's
    (f_above, q_above), (f_below, q_below) = (
        _alone_over(system, share, at, times) for share in _either_side(system, of)
    )
    local = np.array(of.share.rows, np.intp)
    kept = local != GROUND_ROW
    scale = 2 * _STEP
    return Change(
        local[kept], ((f_above - f_below) / scale)[kept], ((q_above - q_below) / scale)[kept]
    )


def _alone_over(
    system: System, share: ElementStamp, at: Array, times: Array | None
) -> tuple[Array, Array]:
    """(f - b, q) of one element alone in its own rows; a source's waveform has no part in it."""
    shape = (len(share.rows), at.shape[1])
    f, q = np.zeros(shape), np.zeros(shape)
    for into, entries in ((f, share.stamps.conductances), (q, share.stamps.charges)):
        for row, column, value in entries:
            if row != GROUND_ROW:
                into[row] += value * at[share.row(column)]
    for row, drive in share.stamps.drives:
        if row != GROUND_ROW and (times is None or drive.waveform is None):
            f[row] -= drive.dc
    if share.stamps.laws:
        tables = _alone(system, share).tables
        currents, charges = law_currents_over(tables, at[:-1], times)
        branches = [branch for use in share.stamps.laws for branch in use.branches]
        for k, (source, target) in enumerate(branches):
            for row, sign in ((source, 1.0), (target, -1.0)):
                if row != GROUND_ROW:
                    f[row] += sign * currents[k]
                    q[row] += sign * charges[k]
    return f, q


def _alone(system: System, share: ElementStamp) -> CompiledSystem:
    """One element's laws as a circuit of their own, in the numbering of the whole."""
    bare = Stamps()
    bare.laws = share.stamps.laws
    return compile_system(replace(system, shares=(share._replace(stamps=bare),)))


def phasor_change(
    system: System, of: Value, x: ComplexArray, s: ComplexArray, point: OperatingPoint | None
) -> ComplexArray:
    """p·d(A·X - B)/dp for phasors `x`, shape (n, points), at `s` = jω; operating point held."""
    above, below = (
        _phasors_alone(system, share, x, s, point) for share in _either_side(system, of)
    )
    return np.asarray((above - below) / (2 * _STEP))


def _phasors_alone(
    system: System,
    share: ElementStamp,
    x: ComplexArray,
    s: ComplexArray,
    point: OperatingPoint | None,
) -> ComplexArray:
    """A·X - B of one element alone, shape (n, points)."""
    residual = np.zeros((system.size + 1, x.shape[1]), complex)  # the last row is ground's
    at = np.vstack([x, np.zeros((1, x.shape[1]))])
    stamps = share.stamps
    factors: tuple[tuple[Any, Any], ...] = (
        (stamps.conductances, 1.0),
        (stamps.charges, s),
        (stamps.impedances, 1j),
    )
    for entries, factor in factors:
        for row, column, value in entries:
            residual[share.row(row)] += factor * value * at[share.row(column)]
    for row, drive in stamps.drives:
        residual[share.row(row)] -= drive.phasor
    if stamps.laws and point is not None:
        alone = _alone(system, share)
        g, c = slopes_at(alone, point.x)
        residual[:-1] += placed(alone.system, alone, g) @ x
        residual[:-1] += (placed(alone.system, alone, c) @ x) * s
    return residual[:-1]
