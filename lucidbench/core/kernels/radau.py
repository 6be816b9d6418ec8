"""Stepping d/dt q(x) + f(x, t) = b(t) through time by the three-stage Radau IIA method.

Order 5, L-stable, exact in its algebraic rows, and of order 3 even where a voltage or current is fixed
by a derivative. After Hairer and Wanner, Solving Ordinary Differential Equations II, 2nd ed., 1996,
sections IV.8 and VI.1, written for charges: the stages X_i solve
sum_j (A^-1)_ij (q(X_j) - q_n)/h + f(X_i) - b(t_i) = 0. Each accepted step is recorded as its three
stages, whose polynomial is the solution in between.
"""

from __future__ import annotations

import math

import numpy as np

from lucidbench.core.devices.laws.compiler import compiled
from lucidbench.core.devices.laws.dispatch import KNEE, ROOM, SWITCH
from lucidbench.core.devices.laws.switch import wanted_state
from lucidbench.core.kernels.evaluate import (
    drive,
    drive_all,
    evaluate,
    evaluate_all,
    throw_switches,
)
from lucidbench.core.kernels.lu import factor, solve
from lucidbench.core.kernels.newton import newton

_ROOT6 = math.sqrt(6.0)
C1, C2 = (4.0 - _ROOT6) / 10.0, (4.0 + _ROOT6) / 10.0
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

SAFETY = 0.9
MOST_ITERATIONS = 8
ROUNDING = 1e-9  # of the tolerance: an iteration that stalls below this has met rounding
NEWTON_SHARE = 0.03  # of the tolerance, left by the iteration
GROWTH, SHRINK = 8.0, 0.2
INTERPOLATION = 50.0  # how much larger the foretold value's error is than the one within a step
ALGEBRAIC = 10.0  # looser tolerance of unknowns that hold no charge: no error builds up in them
PEAK_SHARE = (
    1e-3  # of the largest voltage (current): unknowns are not resolved below this part of it
)
SETTLING = 1e-9  # of a stretch: the time in which a jump is followed by two implicit Euler steps
CRAWL = 1e-8  # of a stretch: a step this short that will not converge is done by implicit Euler
NUDGE = 1e-12  # of a stretch: sources are taken this far within it, so jumps fall between stretches
ULP = 2.220446049250313e-16

# The state of a run between calls, in one array.
TIME, STEP, STRETCH, FRESH, STEP_BEFORE, FORETELLS, STEPS, REJECTED, ITERATIONS, FACTORED, GIVEN = (
    range(11)
)
STATE_SIZE = 11

FINISHED, FULL, STUCK, SINGULAR, NO_RESTART = range(5)


@compiled
def shares(theta):
    """What a step's start and its three stages count for at the share `theta` of it."""
    s0, s1, s2, s3 = theta, theta - C1, theta - C2, theta - 1.0
    at0 = s1 * s2 * s3 / (-C1 * C2)
    at1 = s0 * s2 * s3 / (C1 * (C1 - C2) * (C1 - 1.0))
    at2 = s0 * s1 * s3 / (C2 * (C2 - C1) * (C2 - 1.0))
    at3 = s0 * s1 * s2 / ((1.0 - C1) * (1.0 - C2))
    return at0, at1, at2, at3


@compiled
def polynomial(start, stages, theta, out):
    """The solution at the share `theta` of a step: through its start and its three stages."""
    at0, at1, at2, at3 = shares(theta)
    for k in range(len(out)):
        out[k] = at0 * start[k] + at1 * stages[0, k] + at2 * stages[1, k] + at3 * stages[2, k]


@compiled
def crossing(tables, x, start, stages, work):
    """The share of the step at which the first switch or knee is reached, 2.0 where none is."""
    earliest = 2.0
    for use in range(len(tables.law)):
        law = tables.law[use]
        if law != SWITCH and law != KNEE:
            continue
        p = tables.parameters[tables.parameter_at[use] : tables.parameter_at[use + 1]]
        at = tables.control_at[use] + (1 if law == SWITCH else 0)
        a, b = tables.plus[at], tables.minus[at]
        before = (start[a] if a >= 0 else 0.0) - (start[b] if b >= 0 else 0.0)
        after = (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)
        if law == SWITCH:
            if wanted_state(p, after) == p[4]:
                continue
            level = p[1] if p[4] > 0.5 else p[0]
        else:
            level = p[0]
            near = 1e-9 * (1.0 + abs(level))
            if (before > level) == (after > level) or abs(before - level) < near:
                continue
        rising = after > level
        low, high = 0.0, 1.0
        for _ in range(60):
            half = 0.5 * (low + high)
            polynomial(start, stages, half, work)
            value = (work[a] if a >= 0 else 0.0) - (work[b] if b >= 0 else 0.0)
            if (value > level) == rising:
                high = half
            else:
                low = half
            if high - low < 1e-13:
                break
        earliest = min(earliest, high)
    return earliest


@compiled
def knee_ahead(tables, x, towards):
    """The share of the way from `x` at which the first knee has just been passed, 2.0 without one."""
    nearest = 2.0
    for use in range(len(tables.law)):
        if tables.law[use] != KNEE:
            continue
        level = tables.parameters[tables.parameter_at[use]]
        at = tables.control_at[use]
        a, b = tables.plus[at], tables.minus[at]
        before = (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)
        after = (towards[a] if a >= 0 else 0.0) - (towards[b] if b >= 0 else 0.0)
        if (before > level) != (after > level):
            share = (level - before) / (after - before)
            nearest = min(nearest, share + 1e-3 * (1.0 - share))
    return nearest


@compiled
def within(t, begin, end):
    """`t` kept off the corners at either end of a stretch."""
    off = NUDGE * (end - begin) + 4.0 * ULP * max(abs(begin), abs(end))
    return min(max(t, begin + off), max(end - off, begin + off))


@compiled
def march(
    tables,
    plan,
    state,
    x,
    given,
    before,
    peaks,
    corners,
    relative,
    least,
    longest,
    record_from,
    most_steps,
    rec_t,
    rec_h,
    rec_x,
):
    """Go on from `state` until the last corner, or until the records are full.

    `given` is the charge to start from, shape (n,), where state[GIVEN] is set; `before`, shape
    (4, n), the last step's start and stages; `corners` the ends of the smooth stretches, rising;
    `least`, shape (n,), the absolute tolerance. Records: rec_t the time a step ends, rec_h its length
    (0 marks a fresh start), rec_x, shape (records, 3, n), its stages.
    Returns (outcome, records written).
    """
    n = tables.n
    m = len(tables.rows)
    f_n, q_n, b_n = np.empty(n), np.empty(n), np.empty(n)
    f_i, b_i = np.empty(n), np.empty(n)
    charges = np.empty((3, n))
    residual = np.empty((3, n))
    points, drives, times = np.empty((3, n)), np.empty((3, n)), np.empty(3)
    x_i = np.empty(n)
    stages, start = np.empty((3, n)), np.empty(n)
    shifts = np.empty((3, n))
    w = np.empty((3, n))
    r_real, r_complex = np.empty(n), np.empty(n, np.complex128)
    error, scratch, scratch_c = np.empty(n), np.zeros(n), np.zeros(n, np.complex128)
    a_real, a_complex = np.empty(plan.size), np.empty(plan.size, np.complex128)
    exchanges, exchanges_c = np.empty(2 * n, np.int64), np.empty(2 * n, np.int64)
    places = np.empty((2, m))
    room = np.empty(ROOM)
    unused = np.empty((2, m))
    moved, weight, foretold = np.empty(n), np.empty(n), np.empty(n)
    stateful = np.zeros(n, np.bool_)
    zeros = np.zeros(n)
    written = 0
    stop = corners[len(corners) - 1]
    first_try = True
    steps_here = 0

    while state[TIME] < stop:
        stretch = int(state[STRETCH])
        begin = corners[stretch - 1] if stretch > 0 else state[TIME]
        end = corners[stretch]
        t = state[TIME]
        if written >= len(rec_t) - 2 or steps_here >= most_steps:
            return FULL, written

        if state[FRESH] > 0.0:
            # Charges stay, all else follows: two implicit Euler steps too short to matter.
            instant = SETTLING * (end - t)
            drive(tables, within(t, t, end), b_n)
            settled = False
            for _ in range(4):
                if state[GIVEN] > 0.0:
                    q_n[:] = given
                else:
                    evaluate(tables, x, t, False, False, f_n, q_n, places[0], places[1], room)
                x_i[:] = x
                settled = True
                for _ in range(2):
                    taken = newton(
                        tables,
                        plan,
                        x_i,
                        t,
                        b_n,
                        q_n,
                        1.0 / instant,
                        0.0,
                        zeros,
                        200,
                        moved,
                        unused,
                    )
                    if taken < 0:
                        settled = False
                        break
                    evaluate(tables, x_i, t, False, False, f_n, q_n, places[0], places[1], room)
                if settled:
                    break
                instant *= 1e-2
            if not settled:
                return NO_RESTART, written
            x[:] = x_i
            state[GIVEN] = 0.0
            state[FRESH] = 0.0
            state[FORETELLS] = 0.0
            state[STEP] = min(state[STEP], 0.01 * (end - t))
            rec_t[written] = t
            rec_h[written] = 0.0
            for i in range(3):
                rec_x[written, i] = x
            written += 1
            first_try = True

        evaluate(tables, x, t, False, True, f_n, q_n, places[0], places[1], room)
        drive(tables, within(t, begin, end), b_n)
        stateful[:] = False
        for k in range(m):
            if places[1, k] != 0.0:
                stateful[tables.columns[k]] = True
        highest_v, highest_i = 0.0, 0.0
        for k in range(n):
            peaks[k] = max(peaks[k], abs(x[k]))
            if tables.is_node[k]:
                highest_v = max(highest_v, peaks[k])
            else:
                highest_i = max(highest_i, peaks[k])
        for k in range(n):
            floor = PEAK_SHARE * (highest_v if tables.is_node[k] else highest_i)
            weight[k] = least[k] + relative * max(peaks[k], floor)

        rejected = False
        refreshed = False
        crawls = False
        factored_h = 0.0
        while True:
            h = min(state[STEP], longest)
            left = end - t
            if h > 0.999 * left:
                h = left
            elif h > 0.5 * left:
                h = 0.5 * left
            if h < 16.0 * ULP * max(abs(t), abs(end)) or h < 1e-13 * SETTLING * (end - begin):
                return STUCK, written

            if h != factored_h:
                a_real[:] = 0.0
                a_complex[:] = 0.0
                for k in range(m):
                    at = plan.slot[k]
                    a_real[at] += places[0, k] + GAMMA / h * places[1, k]
                    a_complex[at] += places[0, k] + complex(ALPHA / h, BETA / h) * places[1, k]
                row = factor(plan, n, a_real, exchanges, scratch)
                if row < 0:
                    row = factor(plan, n, a_complex, exchanges_c, scratch_c)
                if row >= 0:
                    if plan.dense and not rejected:
                        state[STEP] = 0.5 * h
                        rejected = True
                        continue
                    return SINGULAR, written
                factored_h = h
                state[FACTORED] += 1.0

            # Start the iteration where the last step's polynomial leads.
            foretells = state[FORETELLS] > 0.0
            if foretells:
                ratio = h / state[STEP_BEFORE]
                for i in range(3):
                    node = C1 if i == 0 else (C2 if i == 1 else 1.0)
                    polynomial(before[0], before[1:], 1.0 + node * ratio, x_i)
                    for k in range(n):
                        shifts[i, k] = x_i[k] - x[k]
                foretold[:] = x_i
            else:
                shifts[:, :] = 0.0
            for k in range(n):
                for i in range(3):
                    total = 0.0
                    for j in range(3):
                        total += FROM_STAGES[i, j] * shifts[j, k]
                    w[i, k] = total

            for i in range(3):
                node = C1 if i == 0 else (C2 if i == 1 else 1.0)
                times[i] = within(t + node * h, begin, end)
            drive_all(tables, times, drives)
            converged = False
            size_before = 0.0
            theta = 0.5
            iterations = 0
            for iteration in range(MOST_ITERATIONS):
                for i in range(3):
                    for k in range(n):
                        points[i, k] = x[k] + shifts[i, k]
                evaluate_all(
                    tables,
                    points,
                    times,
                    False,
                    False,
                    residual,
                    charges,
                    unused[0],
                    unused[1],
                    room,
                )
                for i in range(3):
                    for k in range(n):
                        residual[i, k] -= drives[i, k]
                for k in range(n):
                    d0, d1, d2 = (
                        charges[0, k] - q_n[k],
                        charges[1, k] - q_n[k],
                        charges[2, k] - q_n[k],
                    )
                    for i in range(3):
                        residual[i, k] += (
                            INVERSE[i, 0] * d0 + INVERSE[i, 1] * d1 + INVERSE[i, 2] * d2
                        ) / h
                for k in range(n):
                    v0, v1, v2 = residual[0, k], residual[1, k], residual[2, k]
                    r_real[k] = -(
                        FROM_STAGES[0, 0] * v0 + FROM_STAGES[0, 1] * v1 + FROM_STAGES[0, 2] * v2
                    )
                    re = FROM_STAGES[1, 0] * v0 + FROM_STAGES[1, 1] * v1 + FROM_STAGES[1, 2] * v2
                    im = FROM_STAGES[2, 0] * v0 + FROM_STAGES[2, 1] * v1 + FROM_STAGES[2, 2] * v2
                    r_complex[k] = complex(-re, -im)
                solve(plan, n, a_real, exchanges, r_real, scratch)
                solve(plan, n, a_complex, exchanges_c, r_complex, scratch_c)
                iterations += 1
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
                    break
                if iteration > 0:
                    theta = size / max(size_before, 1e-300)
                    if theta >= 0.99:
                        if size < ROUNDING:
                            converged = True
                        break
                    left_over = theta / (1.0 - theta) * size
                    if left_over <= NEWTON_SHARE:
                        converged = True
                        break
                    rest = MOST_ITERATIONS - 1 - iteration
                    if theta**rest / (1.0 - theta) * size > NEWTON_SHARE * 10.0:
                        break
                elif size <= 0.03 * NEWTON_SHARE:
                    converged = True
                    break
                size_before = size
            state[ITERATIONS] += iterations
            if not converged:
                # Where a knee lies ahead, once more with the slopes just beyond it.
                for k in range(n):
                    x_i[k] = x[k] + shifts[2, k]
                ahead = 2.0
                if not refreshed and np.isfinite(size):
                    ahead = knee_ahead(tables, x, x_i)
                if ahead <= 1.0:
                    refreshed = True
                    for k in range(n):
                        x_i[k] = x[k] + ahead * shifts[2, k]
                    evaluate(tables, x_i, t, False, True, f_i, b_i, places[0], places[1], room)
                else:
                    if refreshed:
                        refreshed = False
                        evaluate(tables, x, t, False, True, f_n, q_n, places[0], places[1], room)
                    state[STEP] = 0.3 * h
                    rejected = True
                state[REJECTED] += 1.0
                factored_h = 0.0
                if state[STEP] < CRAWL * (end - begin):
                    crawls = True
                    break
                continue

            for k in range(n):
                error[k] = (
                    E1 * (charges[0, k] - q_n[k])
                    + E2 * (charges[1, k] - q_n[k])
                    + E3 * (charges[2, k] - q_n[k])
                ) / h
                residual[0, k] = error[k]
                error[k] += b_n[k] - f_n[k]
            solve(plan, n, a_real, exchanges, error, scratch)
            norm = error_norm(error, weight, stateful)
            if norm >= 1.0 and (first_try or rejected):
                for k in range(n):
                    x_i[k] = x[k] + error[k]
                evaluate(tables, x_i, t, False, False, f_i, q_n, unused[0], unused[1], room)
                for k in range(n):
                    error[k] = residual[0, k] + b_n[k] - f_i[k]
                evaluate(tables, x, t, False, False, f_n, q_n, unused[0], unused[1], room)
                solve(plan, n, a_real, exchanges, error, scratch)
                norm = error_norm(error, weight, stateful)
            if foretells:
                for k in range(n):
                    if not stateful[k]:
                        off = abs(x[k] + shifts[2, k] - foretold[k]) / INTERPOLATION
                        norm = max(norm, off / (ALGEBRAIC * weight[k]))
            factor_of = (
                SAFETY * (2.0 * MOST_ITERATIONS + 1.0) / (2.0 * MOST_ITERATIONS + iterations)
            )
            change = min(GROWTH, max(SHRINK, factor_of * max(norm, 1e-12) ** -0.25))
            if norm >= 1.0:
                state[STEP] = h * min(change, 0.9)
                state[REJECTED] += 1.0
                rejected = True
                if state[STEP] < CRAWL * (end - begin):
                    crawls = True
                    break
                continue
            break

        if crawls:
            # A knee or a jump right ahead: one implicit Euler step, its slopes taken anew each time.
            h = min(CRAWL * (end - begin), end - t)
            settled = False
            for _ in range(3):
                drive(tables, within(t + h, begin, end), b_i)
                x_i[:] = x
                taken = newton(
                    tables, plan, x_i, t + h, b_i, q_n, 1.0 / h, 0.0, zeros, 200, moved, unused
                )
                if taken > 0:
                    settled = True
                    break
                h *= 10.0
            if not settled:
                return STUCK, written
            for k in range(n):
                shifts[0, k] = C1 * (x_i[k] - x[k])
                shifts[1, k] = C2 * (x_i[k] - x[k])
                shifts[2, k] = x_i[k] - x[k]
            change = 10.0
            first_try = True

        # Accepted: end the step where a switch or a knee is reached.
        for k in range(n):
            start[k] = x[k]
            for i in range(3):
                stages[i, k] = x[k] + shifts[i, k]
        x_i[:] = stages[2]
        share = 2.0 if crawls else crossing(tables, x_i, start, stages, f_i)
        if share < 1.0 - 1e-9 and share * h > 64.0 * ULP * max(abs(t), abs(end)):
            for i in range(3):
                node = C1 if i == 0 else (C2 if i == 1 else 1.0)
                polynomial(start, stages, node * share, residual[i])
            stages[:, :] = residual
            h = h * share
        x[:] = stages[2]
        before[0] = start
        before[1:] = stages
        reaches_end = h >= end - t
        state[TIME] = end if reaches_end else t + h
        state[STEP_BEFORE] = h
        state[FORETELLS] = 0.0 if crawls else 1.0
        state[STEPS] += 1.0
        steps_here += 1
        if (first_try or rejected) and not crawls:
            change = min(change, 4.0 if first_try else 1.0)
        state[STEP] = h * change if share >= 1.0 else max(h * change, 0.5 * state[STEP])
        first_try = crawls
        if state[TIME] < record_from and written > 0:
            written = 0  # only the newest step before the window is of use
        rec_t[written] = state[TIME]
        rec_h[written] = h
        rec_x[written] = stages
        written += 1
        if throw_switches(tables, x):
            state[FRESH] = 1.0
        if reaches_end:
            state[STRETCH] += 1.0
            state[FRESH] = 1.0
    return FINISHED, written


@compiled
def error_norm(error, weight, stateful):
    largest = 0.0
    for k in range(len(error)):
        if stateful[k]:
            largest = max(largest, abs(error[k]) / weight[k])
    return largest
