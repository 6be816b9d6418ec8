"""Stepping d/dt q(x) + f(x, t) = b(t) through time by the three-stage Radau IIA method.

Order 5, L-stable, exact in its algebraic rows, and of order 3 even where a voltage or current is fixed
by a derivative. After Hairer and Wanner, Solving Ordinary Differential Equations II, 2nd ed., 1996,
sections IV.8 and VI.1, written for charges: the stages X_i solve
sum_j (A^-1)_ij (q(X_j) - q_n)/h + f(X_i) - b(t_i) = 0. Each accepted step is recorded as its three
stages, whose polynomial is the solution in between.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np

from lucidbench.core.devices.laws.compiler import compiled, kernel
from lucidbench.core.devices.laws.dispatch import ROOM
from lucidbench.core.kernels.evaluate import (
    drive,
    evaluate,
    sizes_of_terms,
    throw_switches,
)
from lucidbench.core.kernels.instant import at_instant
from lucidbench.core.kernels.knees import crossing, is_straight
from lucidbench.core.kernels.lu import factor, solve
from lucidbench.core.kernels.newton import is_rounding, newton
from lucidbench.core.kernels.polynomial import C1, C2, polynomial
from lucidbench.core.kernels.stretch import within

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

SAFETY = 0.9
MOST_ITERATIONS = 8
ROUNDING = 1e-9  # of the tolerance: an iteration that stalls below this has met rounding
NEWTON_SHARE = 0.03  # of the tolerance, left by the iteration
GROWTH, SHRINK = 8.0, 0.2
INTERPOLATION = 40.0  # how much larger the foretold value's error is than the one within a step
ALGEBRAIC = 10.0  # looser tolerance of unknowns that hold no charge: no error builds up in them
PEAK_SHARE = (
    1e-3  # of the largest voltage (current): unknowns are not resolved below this part of it
)
RESOLVED = 2e-11  # of the time: in a shorter step its rounding shows, and no error can be told
CRAWL = 1e-8  # of a stretch: a step this short that will not converge is done by implicit Euler
SHORTEST = 1e-13  # of a stretch: the same for one that converges and is never exact enough
EDGE = 2e-10  # of the time it comes at: a stretch shorter than this is a jump
ULP = 2.220446049250313e-16
HELD = 1.3  # a step that might grow by less stays where its factors can be used again
NEAR_END = 0.9  # of a step: where a crossing is told exactly enough
AIM = 1.02  # times the way to a crossing: a step taken again, to have it near its end
MOST_AIMS = 4
BEYOND_ALL = 1e60  # [V] or [A]: a run that has come to this grows without end
MOST_EVENTS = 2000  # on end, each within CRAWL of a stretch after the one before

# The state of a run between calls, in one array.
(
    TIME,
    STEP,
    STRETCH,
    FRESH,
    STEP_BEFORE,
    FORETELLS,
    STEPS,
    REJECTED,
    ITERATIONS,
    FACTORED,
    GIVEN,
    BEGUN,  # where the step to be recorded begins: after a jump a little before the solver's own
    EVENTS,
    ORIGIN,  # when the run begins
    FIRST,  # whether the next step is the first after a fresh start
    FACTORED_FOR,  # the length of step that the factors at hand are of, 0 without any
    LENGTH,  # of the step just tried
    CHANGE,  # times it, for the next one
    SHARE,  # of it, at which something leaves its state
    LONGEST,  # that was good but for such a crossing
    CAREFUL,  # no step is longer after a fresh start, since none before it foretells what sources do
) = range(21)
STATE_SIZE = 21

FINISHED, FULL, STUCK, SINGULAR, NO_RESTART, JUMPED, CHATTERS, GROWS, STEPPED, CRAWLS = range(10)


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


@kernel
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


@kernel
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


@kernel
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


@kernel
def charge_stages(tables, work):
    """The charges of the stages where they follow the unknowns along straight lines."""
    charges, q_0, shifts, stored = work.q, work.q_0, work.shifts, work.places[1]
    rows, columns = tables.rows, tables.columns
    for i in range(3):
        for k in range(len(q_0)):
            charges[i, k] = q_0[k]
        for k in range(len(rows)):
            charges[i, rows[k]] += stored[k] * shifts[i, columns[k]]


@kernel
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


@kernel
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


@kernel
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


@kernel
def foretold_norm(x, norm, work):
    """The same, or more where an unknown was foretold badly: between its stages a step is no more exact
    than that tells, also where a source or a capacitor fixes what it is there."""
    weight, last, foretold = work.weight, work.shifts[2], work.foretold
    for k in range(len(x)):
        off = abs(x[k] + last[k] - foretold[k]) / INTERPOLATION
        norm = max(norm, off / (ALGEBRAIC * weight[k]))
    return norm


@kernel
def stretch_of(state, corners):
    """(begin, end) of the smooth stretch the run is in [s]."""
    k = int(state[STRETCH])
    return (corners[k - 1] if k > 0 else state[ORIGIN]), corners[k]


@kernel
def keep_stages(tables, x, state, work):
    """Note the step's start and stages, and where something leaves its state."""
    start, stages, shifts = work.start, work.stages, work.shifts
    for k in range(len(x)):
        start[k] = x[k]
        for i in range(3):
            stages[i, k] = x[k] + shifts[i, k]
    state[SHARE] = crossing(tables, start, stages)


@kernel
def attempt(tables, plan, state, x, before, peaks, corners, relative, least, longest, work):
    """Try a step, shorter each time, until one is exact enough. Returns STEPPED with the step in `work`
    and `state`, CRAWLS where none is, or why the run ends."""
    begin, end = stretch_of(state, corners)
    t = state[TIME]
    straight = is_straight(tables)
    evaluate(
        tables, x, t, False, True, work.f_0, work.q_0, work.places[0], work.places[1], work.room
    )
    drive(tables, within(t, begin, end), work.b_0)
    if not weigh(tables, x, peaks, least, relative, work) < BEYOND_ALL:
        return GROWS
    if not straight:
        state[FACTORED_FOR] = 0.0
    rejected = False
    aims = 0
    state[LONGEST] = 0.0
    while True:
        h = min(state[STEP], longest)
        left = end - t
        if h > 0.999 * left:
            h = left
        elif h > 0.5 * left:
            h = 0.5 * left
        if h < 16.0 * ULP * abs(t) or h < 1e-22 * (end - begin):
            return STUCK
        if h != state[FACTORED_FOR]:
            if factor_step(tables, plan, h, work) >= 0:
                if plan.dense and not rejected:
                    state[STEP] = 0.5 * h
                    rejected = True
                    continue
                return SINGULAR
            state[FACTORED_FOR] = h
            state[FACTORED] += 1.0
        foretells = state[FORETELLS] > 0.0
        foretell(x, before, h / state[STEP_BEFORE] if foretells else 0.0, foretells, straight, work)
        for i in range(3):
            work.times[i] = within(t + node_of(i) * h, begin, end)
            drive(tables, work.times[i], work.b[i])
        converged, iterations = solve_stages(tables, plan, x, h, straight, work)
        state[ITERATIONS] += iterations
        if converged:
            norm = error_of(tables, plan, x, t, h, state[FIRST] > 0.0 or rejected, work)
            if foretells:
                norm = foretold_norm(x, norm, work)
            damped = SAFETY * (2.0 * MOST_ITERATIONS + 1.0) / (2.0 * MOST_ITERATIONS + iterations)
            change = min(GROWTH, max(SHRINK, damped * max(norm, 1e-12) ** -0.25))
            if norm < 1.0:
                keep_stages(tables, x, state, work)
                share = state[SHARE]
                near = share >= NEAR_END or h * share < 1e3 * ULP * abs(t)
                if not near and aims < MOST_AIMS:
                    # The step again, to end just beyond: between its stages it is less exact.
                    state[LONGEST] = max(state[LONGEST], h)
                    state[STEP] = h * share * AIM
                    aims += 1
                    continue
                if straight and 1.0 <= change < HELD:
                    change = 1.0
                if state[FIRST] > 0.0 or rejected:
                    change = min(change, 4.0 if state[FIRST] > 0.0 else 1.0)
                state[LENGTH] = h
                state[CHANGE] = change
                state[FIRST] = 0.0
                return STEPPED
            state[STEP] = h * min(change, 0.9)
        else:
            state[STEP] = 0.3 * h
            state[FACTORED_FOR] = 0.0
        rejected = True
        state[REJECTED] += 1.0
        shortest = (SHORTEST if converged else CRAWL) * (end - begin)
        if state[STEP] < max(shortest, RESOLVED * t):
            return CRAWLS


@compiled
def crawl(tables, plan, state, x, corners, work):
    """One short implicit Euler step through what no polynomial follows, its slopes taken anew each time.

    Returns STEPPED, or STUCK where it does not settle; the stages lie on a straight line.
    """
    begin, end = stretch_of(state, corners)
    t = state[TIME]
    h = min(max(CRAWL * (end - begin), RESOLVED * t), end - t)
    zeros = np.zeros(tables.n)
    for _ in range(4):
        drive(tables, within(t + h, begin, end), work.b[0])
        work.trial[:] = x
        taken = newton(
            tables, plan, work.trial, t + h, work.b[0], work.q_0, 1.0 / h, 0.0, zeros, 200,
            work.moved, work.unused,
        )  # fmt: skip
        if taken > 0:
            for k in range(tables.n):
                for i in range(3):
                    work.shifts[i, k] = node_of(i) * (work.trial[k] - x[k])
            keep_stages(tables, x, state, work)
            state[LENGTH], state[CHANGE], state[FIRST] = h, 10.0, 1.0
            return STEPPED
        h *= 10.0
        if h > end - t:
            break
    return STUCK


@kernel
def advance(tables, state, x, before, corners, work):
    """Take the step just tried, up to where something leaves its state. Returns whether the run goes
    on: False where something changes state without end."""
    begin, end = stretch_of(state, corners)
    start, stages, points = work.start, work.stages, work.points
    n, t, h, share = len(x), state[TIME], state[LENGTH], state[SHARE]
    state[STEP] = max(h * state[CHANGE], 0.3 * state[LONGEST])
    if share < 1.0:
        for i in range(3):
            polynomial(start, stages, node_of(i) * share, points[i])
        for i in range(3):
            for k in range(n):
                stages[i, k] = points[i, k]
        h = h * share
    for k in range(n):
        x[k] = stages[2, k]
        before[0, k] = start[k]
        for i in range(3):
            before[1 + i, k] = stages[i, k]
    reaches_end = h >= end - t
    state[TIME] = end if reaches_end else t + h
    state[STEP_BEFORE] = h
    state[FORETELLS] = 1.0 - state[FIRST]
    state[STEPS] += 1.0
    if share <= 1.0:
        throw_switches(tables, x)
        state[FRESH] = 1.0
        state[EVENTS] = state[EVENTS] + 1.0 if h < CRAWL * (end - begin) else 0.0
        if state[EVENTS] > MOST_EVENTS:
            return False
    if reaches_end:
        state[STRETCH] += 1.0
        state[FRESH] = 1.0
    return True


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
    jump,
):
    """Go on from `state` until the last corner, or until the records are full.

    `given` is the charge to start from, shape (n,), where state[GIVEN] is set; `before`, shape
    (4, n), the last step's start and stages; `corners` the ends of the smooth stretches, rising;
    `least`, shape (n,), the absolute tolerance. Records: rec_t the time a step ends, rec_h its length
    (0 marks a fresh start), rec_x, shape (records, 3, n), its stages. `jump`, shape (5, n), receives
    unknowns and charges before and after an instant at which a coil's flux jumped.
    Returns (outcome, records written).
    """
    work = work_for(tables.n, len(tables.rows), plan.size)
    stages, room = work.stages, work.room
    written = 0
    last = state[STEPS] + most_steps
    state[FACTORED_FOR] = 0.0
    while state[TIME] < corners[-1]:
        if written >= len(rec_t) - 2 or state[STEPS] >= last:
            return FULL, written
        begin, end = stretch_of(state, corners)
        if end - begin < EDGE * end and state[TIME] <= begin:
            state[TIME] = end
            state[STRETCH] += 1.0
            state[FRESH] = 1.0
        elif state[FRESH] > 0.0:
            t = state[TIME]
            taken, jumped = at_instant(
                tables, plan, x, t, end, given, state[GIVEN] > 0.0, peaks, jump, room
            )
            if taken < 0.0:
                return NO_RESTART, written
            state[GIVEN] = state[FRESH] = state[FORETELLS] = state[FACTORED_FOR] = 0.0
            state[FIRST] = 1.0
            state[STEP] = min(state[STEP], 0.01 * (end - t), state[CAREFUL])
            state[BEGUN] = t
            state[TIME] = t + taken
            rec_t[written], rec_h[written] = t, 0.0
            for i in range(3):
                rec_x[written, i] = x
            written += 1
            if jumped:
                return JUMPED, written
        else:
            outcome = attempt(
                tables, plan, state, x, before, peaks, corners, relative, least, longest, work
            )
            if outcome == CRAWLS:
                outcome = crawl(tables, plan, state, x, corners, work)
            if outcome != STEPPED:
                return outcome, written
            goes_on = advance(tables, state, x, before, corners, work)
            if state[TIME] < record_from:
                written = 0  # only the newest step before the window is of use
            rec_t[written] = state[TIME]
            rec_h[written] = state[TIME] - state[BEGUN]
            rec_x[written] = stages
            written += 1
            state[BEGUN] = state[TIME]
            if not goes_on:
                return CHATTERS, written
    return FINISHED, written
