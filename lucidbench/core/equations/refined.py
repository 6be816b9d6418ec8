"""A solution at rest with the digits that one floating-point number leaves out, and how sure it is.

What is left of each row is summed exactly and solved for once more, so that x + rest keeps the digits of a
difference of two voltages (refinement with a more exact residual: Higham, Accuracy and Stability of
Numerical Algorithms, 2nd ed., 2002, chapter 12; products split as in Dekker, A floating-point technique for
extending the available precision, Numerische Mathematik 18, 1971).

Of a value no more is known than its own rounding leaves. `shaken` is what the solution moves by where each
part is changed by that much, up or down, a few times over: what such a change could wipe out is zero.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from functools import cache
from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from lucidbench.core.equations.currents import law_currents_over, pins_of
from lucidbench.core.equations.system import Array, Places, System, summed
from lucidbench.core.residue import ROUNDING

if TYPE_CHECKING:
    from lucidbench.core.kernels.tables import Tables

Solve = Callable[[Array], Array]

_TIMES = 3  # that every part is changed
_BEYOND = 32.0  # times what such a change does: a figure within may be nothing
_LEFT = 2.0**-32  # of the largest rest: so well is that known itself
_AHEAD = 2.0**12  # what is close is looked at so many times farther, to be told from rounding
_MOST_STEPS = 6
_FINEST = 2.0**-98  # of the largest unknown: no two numbers tell more of it
_LITTLE = 1e-6  # of the largest figure
_NEAR = 1e-2  # of the largest: farther, a solution is not refined
_SPLIT = 2.0**27 + 1


class Refined(NamedTuple):
    """`x` + `rest` solve the equation, shape (n,) each, but for `least`; `shaken`, shape (n, times).
    `flow` is the current [A] into each pin of all elements in turn."""

    x: Array
    rest: Array
    least: Array
    shaken: Array
    flow: Array

    def cut(self, size: int, pins: int) -> Refined:
        """Of the first unknowns and pins alone."""
        x, rest, least, shaken, flow = self
        return Refined(x[:size], rest[:size], least[:size], shaken[:size], flow[:pins])


class Told(NamedTuple):
    """Figures; what the solution leaves of them, shape (figures,); and how each moves with what shakes
    them, shape (figures, times)."""

    values: Array
    least: Array
    shaken: Array

    def sure(self, least: float = 0.0) -> Array:
        """The figures; zero where they may be nothing, and are little beside the largest: what is unsure
        by more than that, as where reverse junctions share a voltage, is told as it was found."""
        unsure = _BEYOND * np.abs(self.shaken).max(1, initial=0.0) + self.least
        unsure = np.minimum(unsure, _LITTLE * np.abs(self.values).max(initial=0.0))
        return np.where(np.abs(self.values) <= np.maximum(unsure, least), 0.0, self.values)


def refined(system: System, x: Array, solve: Solve, tables: Tables | None = None) -> Refined:
    """`x` with what it lacks; `solve` is of the matrix at `x`, for r of shape (n,) or (n, k)."""
    rest = np.zeros(system.size)
    largest = float(np.abs(x).max(initial=0.0))
    for _ in range(_MOST_STEPS):
        step = solve(-_Equation(system, x, tables).left(rest))
        if not np.all(np.abs(step) <= _NEAR * largest):
            break  # a corner of a law lies between: nothing is known beyond `x`
        # What fits into `x` goes there, so that `rest` has digits left for what does not.
        by = rest + step
        whole = x + by
        x, rest = whole, (x - (whole - (whole - x))) + (by - (whole - x))
        if np.all(np.abs(step) <= ROUNDING * np.abs(x)):
            break
    least = np.empty(system.size)
    is_node = np.arange(system.size) < len(system.rows) - 1
    for kind in (is_node, ~is_node):
        least[kind] = _LEFT * np.abs(rest[kind]).max(initial=0.0)
        least[kind] += _FINEST * np.abs(x[kind]).max(initial=0.0)
    of = _Equation(system, x, tables)
    flow = of.flow(rest)
    return Refined(x, rest, least, -solve(of.shaking(flow)), flow)


def unknowns(at: Refined) -> Told:
    """All of them, as many."""
    return Told(at.x + at.rest, at.least, at.shaken)


def differences(at: Refined, rows: Places, others: Places) -> Told:
    """Of the unknowns of `rows` from those of `others`, ground's being -1."""
    x, rest, least = (np.append(part, 0.0) for part in (at.x, at.rest, at.least))
    shaken = np.vstack([at.shaken, np.zeros((1, _TIMES))])
    values = (x[rows] - x[others]) + (rest[rows] - rest[others])
    return Told(values, least[rows] + least[others], shaken[rows] - shaken[others])


def flows(system: System, at: Refined, tables: Tables | None = None) -> Told:
    """The current [A] into each pin of all elements in turn."""
    pins = pins_of(system)
    own = signs(len(system.shares))[pins.owner] * (ROUNDING * at.flow)[:, None]
    _, into, columns, values = pins.flows
    least = np.append(at.least, (0.0, 0.0))
    left = summed(into, np.abs(values) * least[columns], len(pins.nodes))
    moved = _Equation(system, at.x, tables).flow_moved(at.shaken)
    return Told(at.flow, left, moved + own)


class _Equation:
    """What flows by the parts of a system at `x`, and near it."""

    def __init__(self, system: System, x: Array, tables: Tables | None) -> None:
        self.system, self.x = system, x
        self.tables = tables if tables is not None and len(tables.law) else None
        self.law = self._law(x)

    def _law(self, x: Array) -> Array:
        """The currents of the laws' branches, shape (branches,)."""
        return law_currents_over(self.tables, np.ascontiguousarray(x)[:, None])[0][:, 0]

    def law_moved(self, by: Array) -> Array:
        """How they differ where the unknowns do, which is too little to be told from rounding."""
        if self.tables is None:
            return np.zeros(0)
        return (self._law(self.x + _AHEAD * by) - self.law) / _AHEAD

    def left(self, rest: Array) -> Array:
        """What the rows sum up to, less what drives them, at `x` + `rest`."""
        system, n = self.system, self.system.size
        _, rows, columns, values = system.linear_terms
        held = np.array(system.unheld, np.intp)
        parts = [
            *_products(rows, values, self.x[columns], rest[columns]),
            *((held, part[held]) for part in (self.x, rest)),
            *((np.array([row]), np.array([-drive.dc])) for row, drive in system.drives),
        ]
        for branch in (self.law, self.law_moved(rest)):
            parts += self._branches(branch)
        return _exactly(parts, n + 1)[:n]

    def _branches(self, branch: Array) -> list[Part]:
        """What currents of the laws' branches add to rows; ground's, -1, is the last one."""
        if self.tables is None:
            return []
        n = self.system.size
        ends = ((self.tables.source, branch), (self.tables.target, -branch))
        return [(rows.astype(np.intp) % (n + 1), currents) for rows, currents in ends]

    def flow(self, rest: Array) -> Array:
        """The current [A] into each pin at `x` + `rest`."""
        pins = pins_of(self.system)
        _, into, columns, values = pins.flows
        at, beside = np.append(self.x, (0.0, 1.0)), np.append(rest, (0.0, 0.0))
        parts = list(_products(into, values, at[columns], beside[columns]))
        for branch in (self.law, self.law_moved(rest)):
            parts += [
                (np.array([pin]), np.array([sign * branch[k]]))
                for pin, k, sign in (pins.laws if len(branch) else ())
            ]
        return _exactly(parts, len(pins.nodes))

    def flow_moved(self, by: Array) -> Array:
        """How the currents into pins move with the unknowns, shape (pins, times) of (n, times)."""
        pins = pins_of(self.system)
        _, into, columns, values = pins.flows
        moved = np.zeros((len(pins.nodes), by.shape[1]))
        at = np.vstack([by, np.zeros((2, by.shape[1]))])
        np.add.at(moved, into, values[:, None] * at[columns])
        if self.tables is not None:
            coarse = ROUNDING * signs(len(by)) * self.x[:, None]
            for k in range(by.shape[1]):
                branch = self.law_moved(by[:, k] + coarse[:, k])
                for pin, number, sign in pins.laws:
                    moved[pin, k] += sign * branch[number]
        return moved

    def shaking(self, flow: Array) -> Array:
        """What a rounding of every part's own value leaves of the rows, shape (n, times), where `flow` is
        what flows into the pins."""
        system, n = self.system, self.system.size
        pins = pins_of(system)
        left = np.zeros((n + 1, _TIMES))
        through = signs(len(system.shares))[pins.owner] * flow[:, None]
        np.add.at(left, pins.nodes % (n + 1), through)
        nodes = len(system.rows) - 1
        left[nodes:n] = signs(n - nodes) * self._sizes_of_own()[:, None]
        return ROUNDING * left[:n]

    def _sizes_of_own(self) -> Array:
        """By the elements' own rows, the size of what stands on either side of their equation."""
        system, n = self.system, self.system.size
        nodes = len(system.rows) - 1
        _, rows, columns, values = system.linear_terms
        terms = values * self.x[columns]
        of_nodes = columns < nodes
        sums = [summed(rows[part], terms[part], n) for part in (of_nodes, ~of_nodes)]
        sums.append(system.dc_drive())
        sums.append(_exactly(self._branches(self.law), n + 1)[:n])
        across = np.zeros(n)
        grounded = np.append(self.x, 0.0)
        for share in system.shares:
            own = system.own_rows.get(share.element.name, ())
            if own and len(share.element.nodes) > 1:
                across[list(own)] = grounded[share.rows[0]] - grounded[share.rows[1]]
        sizes: Array = np.abs([*sums, across]).max(0)
        return sizes[nodes:]


Part = tuple[Places, Array]


def _products(places: Places, values: Array, at: Array, beside: Array) -> Iterator[Part]:
    """values · (at + beside) as sums of numbers, each by its place: no digit of values · at is lost."""
    whole = values * at
    (a, b), (c, d) = _halves(values), _halves(at)
    with np.errstate(over="ignore", invalid="ignore"):
        lost = ((a * c - whole) + a * d + b * c) + b * d
    yield places, whole
    yield places, np.where(np.isfinite(lost), lost, 0.0)
    yield places, values * beside


def _halves(values: Array) -> tuple[Array, Array]:
    """Two numbers of half the digits that make up each."""
    with np.errstate(over="ignore", invalid="ignore"):
        far = _SPLIT * values
        high = far - (far - values)
    return high, values - high


def _exactly(parts: Sequence[Part], size: int) -> Array:
    """Of all numbers, those of each place summed without rounding in between, shape (size,)."""
    if not parts:
        return np.zeros(size)
    places, values = (np.concatenate(column) for column in zip(*parts, strict=True))
    order = np.argsort(places, kind="stable")
    ends = np.searchsorted(places[order], np.arange(size + 1)).tolist()
    numbers = values[order].tolist()
    return np.array([math.fsum(numbers[a:b]) for a, b in pairwise(ends)])


@cache
def signs(count: int) -> Array:
    """As good as by chance, and the same each time, shape (count, times)."""
    return np.random.default_rng(count).choice([-1.0, 1.0], (count, _TIMES))
