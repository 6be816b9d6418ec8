"""Coils that share all their flux: of each such group, which fluxes follow from the others.

The inductance matrix is then singular. A coil whose flux is c times that of another has c times its voltage
as well, at every instant: said so, instead of by the change of two fluxes whose difference is but rounding,
the equation keeps its digits however short a step is.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import cast

import numpy as np

from lucidbench.core.equations.system import Array, System, Triplet
from lucidbench.core.graphs import Groups

_NOTHING = 1e-12  # of a coil's own inductance: what rounding leaves where nothing is left

# By the row of a coil, what its flux is of those of others: factors by their rows.
Following = Mapping[int, Mapping[int, float]]


def following(system: System) -> Following:
    """The coils whose flux is that of others; empty where there are none."""
    if "following flux" not in system.derived:
        found: dict[int, dict[int, float]] = {}
        for rows in _coupled(system):
            found |= _of_group(system, rows)
        system.derived["following flux"] = found
    return cast(Following, system.derived["following flux"])


def with_voltages_for_fluxes(
    follow: Following, conductances: list[Triplet], charges: list[Triplet]
) -> tuple[list[Triplet], list[Triplet]]:
    """G and C, in which the row of each coil that follows is less what it follows, and holds no flux."""
    leading: dict[int, list[tuple[int, float]]] = {}
    for row, factors in follow.items():
        for other, factor in factors.items():
            leading.setdefault(other, []).append((row, factor))
    less = [
        (row, column, -factor * value)
        for other, column, value in conductances
        for row, factor in leading.get(other, ())
    ]
    return [*conductances, *less], [each for each in charges if each[0] not in follow]


def fluxes(follow: Following, q: Array) -> Array:
    """`q` with the fluxes that are not kept in it."""
    whole = q.copy()
    for row, factors in follow.items():
        whole[row] = sum(factor * q[other] for other, factor in factors.items())
    return whole


def _coupled(system: System) -> list[list[int]]:
    groups = Groups[int]()
    rows: list[int] = []
    for element in system.circuit:
        if element.device.description.couples:
            one, other = (
                system.own_rows[system.circuit.element(n).name][0] for n in element.refers
            )
            groups.join(one, other)
            rows += [row for row in (one, other) if row not in rows]
    by_head: dict[int, list[int]] = {}
    for row in rows:
        by_head.setdefault(groups.head(row), []).append(row)
    return list(by_head.values())


def _of_group(system: System, rows: list[int]) -> dict[int, dict[int, float]]:
    """By elimination, the largest coil first."""
    place = {row: k for k, row in enumerate(rows)}
    whole = np.zeros((len(rows), len(rows)))
    for row, column, value in system.charges:
        if row in place and column in place:
            whole[place[row], place[column]] -= (
                value  # a coil's row holds its flux with the sign turned
            )
    left, leading = whole.copy(), list[int]()
    waiting = list(range(len(rows)))
    while waiting:
        k = max(waiting, key=lambda i: left[i, i] / whole[i, i])
        if left[k, k] <= _NOTHING * whole[k, k]:
            break
        waiting.remove(k)
        leading.append(k)
        left = left - np.outer(left[:, k], left[k]) / left[k, k]
    if not waiting:
        return {}
    factors = np.linalg.solve(whole[np.ix_(leading, leading)], whole[np.ix_(leading, waiting)])
    return {
        rows[k]: {rows[i]: float(factors[m, n]) for m, i in enumerate(leading) if factors[m, n]}
        for n, k in enumerate(waiting)
    }
