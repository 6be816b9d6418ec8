"""How a run answers to every value in the circuit: its own steps, linearised and taken once more.

With the steps' lengths held, each step's stages X_i solve R(X, q_n, p) = 0, so that a value's small
change moves them by dX = -(dR/dX)^-1·(dR/dp + dR/dq_n·dq_n). One linear solve a step serves all
values; what is read off the run afterwards costs nothing more, however many figures it is. (Sensitivity
in time by the direct method: Petzold, Li, Cao and Serban, Sensitivity Analysis of Differential-Algebraic
Equations and Partial Differential Equations, Computers and Chemical Engineering 30, 2006.)
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lucidbench.core.analyses.parameter_derivatives import Value, change, values_in
from lucidbench.core.analyses.run import Watch, refuse_numbers
from lucidbench.core.analyses.trajectory import Transient
from lucidbench.core.analyses.transient import starting_point
from lucidbench.core.devices.base import Law
from lucidbench.core.equations.compiled import SMALL, CompiledSystem, compile_system, evaluated
from lucidbench.core.equations.shared_flux import following
from lucidbench.core.equations.system import Array

_JUMP = 1e-7  # of the step that follows: the time a jump of the sources is linearised over
_CHUNK = 4_000_000  # numbers of one stretch of steps held at once


def has_tangents(run: Transient) -> bool:
    """Whether small changes move the run smoothly: no switch, which moves in time as it is thrown,
    no nodes held at the start, no capacitance of the solver's own where the circuit jumps, and no coils
    that share all their flux, whose ratio changes with each of them."""
    system = run.system
    switches = any(use.law == Law.SWITCH for s in system.shares for use in s.stamps.laws)
    helped = not np.array_equal(run.ready.tables.c, compile_system(system, moving=True).tables.c)
    if following(system):
        return False
    return not (switches or helped or run.settings.from_given or run.settings.node_voltages)


def tangents(
    run: Transient, unit: Array, periodic: bool = False, watch: Watch | None = None
) -> tuple[list[Value], Array]:
    """The values set in the circuit, and p·d(unit·X)/dp at each stage of the run for each of them.

    Shape (records, 3, values). A run starts at the operating point, which moves as well; a `periodic`
    one at charges that come back at its end. Raises RunRefused.
    """
    watch = watch or Watch()
    system = run.system
    n, values = system.size, list(values_in(system))
    records = len(run.ends)
    # Columns: a change of each value, then, for a period, one of each charge it begins with.
    free = _storing(run) if periodic else np.zeros(0, np.intp)
    width = len(values) + len(free)
    refuse_numbers(3.0 * records * width, "search for sensitivities", "Shorten the run.")
    charges = np.zeros((n, width))
    if periodic:
        charges[free, len(values) + np.arange(len(free))] = 1.0
    else:
        charges[:, : len(values)] = _start(run, values)
    found = np.empty((records, 3, width))
    chunk = max(1, _CHUNK // (6 * n * width))
    for k in range(0, records, chunk):
        part = _Stretch(run, slice(k, min(k + chunk, records)), values, width)
        for index in range(k, min(k + chunk, records)):
            moved, charges = part.step(index, charges)
            found[index] = moved.transpose(0, 2, 1) @ unit
        watch.check(min(1.0, (k + chunk) / records), "search for sensitivities")
    if periodic and len(free):
        # Begun with charges y more, it ends with e + M·y more; the period repeats where these agree.
        end = charges[free]
        own, over = end[:, : len(values)], end[:, len(values) :]
        begun, *_ = np.linalg.lstsq(np.eye(len(free)) - over, own, rcond=1e-9)
        found = found[..., : len(values)] + found[..., len(values) :] @ begun
    return values, found[..., : len(values)]


def _storing(run: Transient) -> Any:
    """The rows of the equation that hold a charge."""
    _, c = _slopes(run.ready, run.stages[-1, 2], run.ends[-1])
    return np.flatnonzero(np.any(c != 0, axis=1))


def _start(run: Transient, values: list[Value]) -> Array:
    """p·dq/dp at the operating point a run starts from, shape (n, values)."""
    x = starting_point(run)
    g, c = _slopes(run.ready, x, 0.0)
    g = g + run.system.matrix(run.system.holding)
    changes = [change(run.system, of, x[:, None]) for of in values]
    n = run.system.size
    flows = np.column_stack([made.flows_over(n)[:, 0] for made in changes])
    held = np.column_stack([made.charges_over(n)[:, 0] for made in changes])
    return np.asarray(held - c @ np.linalg.solve(g, flows))


def _slopes(prepared: CompiledSystem, x: Array, time: float) -> tuple[Array, Array]:
    """(G, C) at unknowns `x` and `time` [s], dense."""
    _, _, places = evaluated(prepared.tables, np.ascontiguousarray(x), time=time)
    rows, columns = prepared.pattern
    n = prepared.system.size
    g, c = np.zeros((n, n)), np.zeros((n, n))
    g[rows, columns], c[rows, columns] = places
    return g, c


class _Stretch:
    """Some steps of a run on end, with what each value changes in their equations."""

    def __init__(self, run: Transient, steps: slice, values: list[Value], width: int) -> None:
        from lucidbench.core.kernels import polynomial, radau

        self.run = run
        self.begin = steps.start
        self.inverse = radau.INVERSE
        nodes = np.array([polynomial.C1, polynomial.C2, 1.0])
        n = run.system.size
        count = steps.stop - steps.start
        self.times = run.ends[steps, None] - run.lengths[steps, None] * (1 - nodes)
        x = run.stages[steps].reshape(-1, n).T
        self.flows = np.zeros((count, 3, n, width))
        self.charges = np.zeros((count, 3, n, width))
        for column, of in enumerate(values):
            made = change(run.system, of, x, self.times.ravel())
            for whole, here in ((self.flows, made.flows), (self.charges, made.charges)):
                shaped = here.reshape(-1, count, 3).transpose(1, 2, 0)
                for k, row in enumerate(made.rows):
                    whole[:, :, row, column] += shaped[:, :, k]

    def step(self, index: int, before: Array) -> tuple[Array, Array]:
        """(dX of the three stages, dq at the end), from dq at the start; each column a value."""
        run, k = self.run, index - self.begin
        flows, held = self.flows[k], self.charges[k]
        h = run.lengths[index]
        if h == 0:  # a fresh start: charges stay, all else follows
            instant = _JUMP * _following(run, index)
            g, c = _slopes(run.ready, run.stages[index, 2], run.ends[index])
            moved = np.linalg.solve(g + c / instant, (before - held[2]) / instant - flows[2])
            return np.broadcast_to(moved, (3, *moved.shape)), c @ moved + held[2]
        slopes = [_slopes(run.ready, run.stages[index, i], self.times[k, i]) for i in range(3)]
        n, width = before.shape
        change_of_rates = np.einsum("ij,jnp->inp", self.inverse, held - before) / h
        residual = -(flows + change_of_rates)
        if n <= SMALL:
            matrix = np.empty((3, n, 3, n))
            for i in range(3):
                for j in range(3):
                    matrix[i, :, j] = self.inverse[i, j] / h * slopes[j][1]
                matrix[i, :, i] += slopes[i][0]
            moved = np.linalg.solve(matrix.reshape(3 * n, 3 * n), residual.reshape(3 * n, width))
        else:
            moved = self._sparse(slopes, h, residual.reshape(3 * n, width))
        moved = moved.reshape(3, n, width)
        return moved, slopes[2][1] @ moved[2] + held[2]

    def _sparse(self, slopes: list[tuple[Array, Array]], h: float, residual: Array) -> Array:
        from scipy.sparse import block_array, csc_array
        from scipy.sparse.linalg import splu

        g, c = ([csc_array(pair[which]) for pair in slopes] for which in (0, 1))
        blocks = [
            [self.inverse[i, j] / h * c[j] + (g[i] if i == j else 0 * g[i]) for j in range(3)]
            for i in range(3)
        ]
        return np.asarray(splu(block_array(blocks).tocsc()).solve(residual))


def _following(run: Transient, index: int) -> float:
    """The length of the step after a fresh start [s]."""
    later = run.lengths[index + 1 :]
    return float(later[np.argmax(later > 0)]) if np.any(later > 0) else 1.0
