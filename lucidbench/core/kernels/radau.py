"""One step of d/dt q(x) + f(x, t) = b(t) by the three-stage Radau IIA method: its stages, its error.

Order 5, L-stable, exact in its algebraic rows, and of order 3 even where a voltage or current is fixed
by a derivative. After Hairer and Wanner, Solving Ordinary Differential Equations II, 2nd ed., 1996,
sections IV.8 and VI.1, written for charges: the stages X_i solve
sum_j (A^-1)_ij (q(X_j) - q_n)/h + f(X_i) - b(t_i) = 0. The polynomial through a step's start and its
stages is the solution in between.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np

from lucidbench.core.devices.laws.compiler import compiled, kernel, within_callers
from lucidbench.core.devices.laws.dispatch import ROOM
from lucidbench.core.kernels.evaluate import evaluate, sizes_of_terms
from lucidbench.core.kernels.lu import factor, solve
from lucidbench.core.kernels.newton import is_rounding
from lucidbench.core.kernels.polynomial import C1, C2, polynomial

_ROOT6 = math.sqrt(6.0)
_A = np.array(
    [
        [(88 - 7 * _ROOT6) / 360, (296 - 169 * _ROOT6) / 1800, (-2 + 3 * _ROOT6) / 225],
        [(296 + 169 * _ROOT6) / 1800, (88 + 7 * _ROOT6) / 360, (-2 - 3 * _ROOT6) / 225],
        [(16 - _ROOT6) / 36, (16 + _ROOT6) / 36, 1 / 9],
    ]
)
INVERSE = np.linalg.inv(_A)
_VALUES, _VECTORS = np.linalg.eig(INVERSE)
_REAL = int(np.argmin(np.abs(_VALUES.imag)))
_PAIR = int(np.argmax(_VALUES.imag))
GAMMA = float(_VALUES[_REAL].real)
ALPHA, BETA = float(_VALUES[_PAIR].real), float(_VALUES[_PAIR].imag)
_T = np.column_stack([_VECTORS[:, _REAL].real, _VECTORS[:, _PAIR].real, -_VECTORS[:, _PAIR].imag])
TO_STAGES = np.ascontiguousarray(_T)
FROM_STAGES = np.linalg.inv(_T)
E1, E2, E3 = -(13 + 7 * _ROOT6) / 3, (-13 + 7 * _ROOT6) / 3, -1 / 3

MOST_ITERATIONS = 8
ROUNDING = 1e-9  # of the tolerance: an iteration that stalls below this has met rounding
NEWTON_SHARE = 0.03  # of the tolerance, left by the iteration
INTERPOLATION = 40.0  # how much larger the foretold value's error is than the one within a step
ALGEBRAIC = 10.0  # looser tolerance of unknowns that hold no charge: no error builds up in them
PEAK_SHARE = (
    1e-3  # of the largest voltage (current): unknowns are not resolved below this part of it
)


class Work(NamedTuple):
    """Room for one step of a circuit of n unknowns and m places. Rows of `b`, `q`, `f` and `points` are
    the stages'; `f_0`, `q_0`, `b_0` belong to the start, `places` are G and C there, shape (2, m)."""

    f_0: Any
    q_0: Any
    b_0: Any
    f: Any
    b: Any
    q: Any
    points: Any
    times: Any
    shifts: Any  # of the stages from the start, shape (3, n)
    w: Any  # the same in the basis that parts the equations
    r_real: Any
    r_complex: Any
    a_real: Any
    a_complex: Any
    exchanges: Any
    exchanges_c: Any
    scratch: Any
    scratch_c: Any
    places: Any
    unused: Any
    room: Any
    error: Any
    trial: Any
    trial_f: Any
    trial_q: Any
    moved: Any
    weight: Any
    foretold: Any
    stateful: Any
    stages: Any
    start: Any


@compiled
def work_for(n, m, size):
    """Room for a circuit of n unknowns and m places, whose factors have `size` numbers."""
    return Work(
        np.empty(n), np.empty(n), np.empty(n), np.empty((3, n)), np.empty((3, n)), np.empty((3, n)),
        np.empty((3, n)), np.empty(3), np.empty((3, n)), np.empty((3, n)), np.empty(n),
        np.empty(n, np.complex128), np.empty(size), np.empty(size, np.complex128),
        np.empty(2 * n, np.int64), np.empty(2 * n, np.int64), np.zeros(n),
        np.zeros(n, np.complex128), np.empty((2, m)), np.empty((2, m)), np.empty(ROOM), np.empty(n),
        np.empty(n), np.empty(n), np.empty(n), np.empty(n), np.empty(n), np.empty(n),
        np.zeros(n, np.bool_), np.empty((3, n)), np.empty(n),
    )  # fmt: skip


@kernel
def node_of(i):
    """The share of a step at which its stage `i` lies."""
    return C1 if i == 0 else (C2 if i == 1 else 1.0)


@within_callers
def weigh(tables, x, peaks, least, relative, work):
    """What an error counts for in each unknown, and which of them hold a charge. Returns the largest
    voltage or current so far."""
    n = tables.n
    stateful, weight, stored = work.stateful, work.weight, work.places[1]
    columns, is_node = tables.columns, tables.is_node
    stateful[:] = False
    for k in range(len(columns)):
        if stored[k] != 0.0:
            stateful[columns[k]] = True
    highest_v, highest_i = 0.0, 0.0
    for k in range(n):
        peaks[k] = max(peaks[k], abs(x[k]))
        if is_node[k]:
            highest_v = max(highest_v, peaks[k])
        else:
            highest_i = max(highest_i, peaks[k])
    for k in range(n):
        floor = PEAK_SHARE * (highest_v if is_node[k] else highest_i)
        weight[k] = least[k] + relative * max(peaks[k], floor)
    return max(highest_v, highest_i)


@within_callers
def factor_step(tables, plan, h, work):
    """Factor the two matrices of a step of length h. Returns -1, or the row without a pivot."""
    a_real, a_complex, g, c, slot = (
        work.a_real,
        work.a_complex,
        work.places[0],
        work.places[1],
        plan.slot,
    )
    a_real[:] = 0.0
    a_complex[:] = 0.0
    for k in range(len(slot)):
        at = slot[k]
        a_real[at] += g[k] + GAMMA / h * c[k]
        a_complex[at] += g[k] + complex(ALPHA / h, BETA / h) * c[k]
    row = factor(plan, tables.n, a_real, work.exchanges, work.scratch)
    if row < 0:
        row = factor(plan, tables.n, a_complex, work.exchanges_c, work.scratch_c)
    return row


@within_callers
def foretell(x, before, ratio, foretells, straight, work):
    """Note where the last step's polynomial leads, and start the iteration there; with nothing where
    there is none, or where all is straight."""
    n = len(x)
    shifts, w, trial = work.shifts, work.w, work.trial
    if not foretells or straight:
        shifts[:, :] = 0.0
        w[:, :] = 0.0
        if foretells:
            polynomial(before[0], before[1:], 1.0 + ratio, work.foretold)
        return
    for i in range(3):
        polynomial(before[0], before[1:], 1.0 + node_of(i) * ratio, trial)
        for k in range(n):
            shifts[i, k] = trial[k] - x[k]
    foretold = work.foretold
    for k in range(n):
        foretold[k] = trial[k]
        for i in range(3):
            total = 0.0
            for j in range(3):
                total += FROM_STAGES[i, j] * shifts[j, k]
            w[i, k] = total


@kernel
def all_rounding(tables, x, h, work):
    """Whether what is left of every stage's equations is rounding of the terms that add up to it.

    Then the stages are taken back to where that was seen: a further move is rounding as well, over
    whatever little conducts there.
    """
    for i in range(3):
        sizes_of_terms(
            tables,
            work.points[i],
            work.times[i],
            work.b[i],
            work.q_0,
            4.0 / h,
            work.error,
            work.room,
        )
        if not is_rounding(tables, work.f[i], work.error):
            return False
    for i in range(3):
        for k in range(tables.n):
            work.shifts[i, k] = work.points[i, k] - x[k]
    return True


@within_callers
def charge_stages(tables, work):
    """The charges of the stages where they follow the unknowns along straight lines."""
    charges, q_0, shifts, stored = work.q, work.q_0, work.shifts, work.places[1]
    rows, columns = tables.rows, tables.columns
    for i in range(3):
        for k in range(len(q_0)):
            charges[i, k] = q_0[k]
        for k in range(len(rows)):
            charges[i, rows[k]] += stored[k] * shifts[i, columns[k]]


@within_callers
def left_of_stages(tables, x, h, work):
    """Write what is left of the three stages' equations at their shifts, and their charges."""
    n = tables.n
    shifts, points, unused = work.shifts, work.points, work.unused
    residual, charges, drives, q_0 = work.f, work.q, work.b, work.q_0
    for i in range(3):
        for k in range(n):
            points[i, k] = x[k] + shifts[i, k]
        evaluate(
            tables, points[i], work.times[i], False, False, residual[i], charges[i], unused[0],
            unused[1], work.room,
        )  # fmt: skip
        for k in range(n):
            residual[i, k] -= drives[i, k]
    for k in range(n):
        d0, d1, d2 = charges[0, k] - q_0[k], charges[1, k] - q_0[k], charges[2, k] - q_0[k]
        for i in range(3):
            residual[i, k] += (INVERSE[i, 0] * d0 + INVERSE[i, 1] * d1 + INVERSE[i, 2] * d2) / h


@within_callers
def solve_stages(tables, plan, x, h, straight, work):
    """Newton's iteration for the three stages, once where all is straight. Returns (whether it
    converged, iterations)."""
    n = tables.n
    shifts, w, weight, stateful = work.shifts, work.w, work.weight, work.stateful
    residual, drives, f_0 = work.f, work.b, work.f_0
    r_real, r_complex = work.r_real, work.r_complex
    size, size_before, theta = 0.0, 0.0, 0.5
    for iteration in range(MOST_ITERATIONS):
        if straight:  # from where the step starts it is one iteration, and known there already
            for i in range(3):
                for k in range(n):
                    residual[i, k] = f_0[k] - drives[i, k]
        else:
            left_of_stages(tables, x, h, work)
        for k in range(n):
            v0, v1, v2 = residual[0, k], residual[1, k], residual[2, k]
            r_real[k] = -(FROM_STAGES[0, 0] * v0 + FROM_STAGES[0, 1] * v1 + FROM_STAGES[0, 2] * v2)
            re = FROM_STAGES[1, 0] * v0 + FROM_STAGES[1, 1] * v1 + FROM_STAGES[1, 2] * v2
            im = FROM_STAGES[2, 0] * v0 + FROM_STAGES[2, 1] * v1 + FROM_STAGES[2, 2] * v2
            r_complex[k] = complex(-re, -im)
        solve(plan, n, work.a_real, work.exchanges, r_real, work.scratch)
        solve(plan, n, work.a_complex, work.exchanges_c, r_complex, work.scratch_c)
        size = 0.0
        for k in range(n):
            w[0, k] += r_real[k]
            w[1, k] += r_complex[k].real
            w[2, k] += r_complex[k].imag
            for i in range(3):
                moved_by = (
                    TO_STAGES[i, 0] * r_real[k]
                    + TO_STAGES[i, 1] * r_complex[k].real
                    + TO_STAGES[i, 2] * r_complex[k].imag
                )
                shifts[i, k] += moved_by
                scale = weight[k] if stateful[k] else ALGEBRAIC * weight[k]
                size = max(size, abs(moved_by) / scale)
        if not np.isfinite(size):
            return False, iteration + 1
        if straight:
            charge_stages(tables, work)
            return True, 1
        if iteration > 0:
            theta = size / max(size_before, 1e-300)
            if theta >= 0.99:
                met = size < ROUNDING or all_rounding(tables, x, h, work)
                return met, iteration + 1
            if theta / (1.0 - theta) * size <= NEWTON_SHARE:
                return True, iteration + 1
            rest = MOST_ITERATIONS - 1 - iteration
            if theta**rest / (1.0 - theta) * size > NEWTON_SHARE * 10.0:
                return all_rounding(tables, x, h, work), iteration + 1
        elif size <= 0.03 * NEWTON_SHARE:
            return True, iteration + 1
        size_before = size
    return False, MOST_ITERATIONS


@within_callers
def error_of(tables, plan, x, t, h, once_more, work):
    """The step's error, largest of the unknowns that hold a charge, as a share of what is allowed."""
    n = tables.n
    charges, q_0, error = work.q, work.q_0, work.error
    f_0, b_0, rates, trial, trial_f = work.f_0, work.b_0, work.trial_f, work.trial, work.moved
    for k in range(n):
        error[k] = (
            E1 * (charges[0, k] - q_0[k])
            + E2 * (charges[1, k] - q_0[k])
            + E3 * (charges[2, k] - q_0[k])
        ) / h
        rates[k] = error[k]
        error[k] += b_0[k] - f_0[k]
    solve(plan, n, work.a_real, work.exchanges, error, work.scratch)
    norm = error_norm(error, work.weight, work.stateful)
    if norm >= 1.0 and once_more:
        for k in range(n):
            trial[k] = x[k] + error[k]
        evaluate(
            tables, trial, t, False, False, trial_f, work.trial_q, work.unused[0], work.unused[1],
            work.room,
        )  # fmt: skip
        for k in range(n):
            error[k] = rates[k] + b_0[k] - trial_f[k]
        solve(plan, n, work.a_real, work.exchanges, error, work.scratch)
        norm = error_norm(error, work.weight, work.stateful)
    return norm


@kernel
def error_norm(error, weight, stateful):
    largest = 0.0
    for k in range(len(error)):
        if stateful[k]:
            largest = max(largest, abs(error[k]) / weight[k])
    return largest


@within_callers
def foretold_norm(x, norm, work):
    """The same, or more where an unknown was foretold badly: between its stages a step is no more exact
    than that tells, also where a source or a capacitor fixes what it is there."""
    weight, last, foretold = work.weight, work.shifts[2], work.foretold
    for k in range(len(x)):
        off = abs(x[k] + last[k] - foretold[k]) / INTERPOLATION
        norm = max(norm, off / (ALGEBRAIC * weight[k]))
    return norm
