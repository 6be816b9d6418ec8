"""Integration over time: steps as long as the error allows, between breakpoints of the sources, each ended
where a switch or a diode leaves its region, and begun afresh after every event at which something
jumps.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np

from lucidbench.core.devices.laws.compiler import compiled, kernel, within_callers
from lucidbench.core.kernels.evaluate import drive, evaluate, throw_switches
from lucidbench.core.kernels.event import largest_current, settle_event
from lucidbench.core.kernels.newton import newton
from lucidbench.core.kernels.polynomial import polynomial
from lucidbench.core.kernels.radau import (
    MOST_ITERATIONS,
    error_of,
    factor_step,
    foretell,
    foretold_norm,
    node_of,
    solve_stages,
    weigh,
    work_for,
)
from lucidbench.core.kernels.region_boundaries import crossing, is_straight
from lucidbench.core.kernels.smooth_interval import within

SAFETY = 0.9
GROWTH, SHRINK = 8.0, 0.2
RESOLVED = 2e-11  # of the time: in a shorter step its rounding shows, and no error can be told
UNFOLLOWED = 1e-12  # of a smooth interval: a step this short that will not converge is given up
MICRO_STEP = 1e-8  # of a smooth interval: a step by implicit Euler, where none converges
SHORTEST = 1e-13  # of a smooth interval: the same for one that converges and is never exact enough
EDGE = 2e-10  # of the time it comes at: an interval shorter than this is a jump
ULP = 2.220446049250313e-16
HELD = (0.95, 1.3)  # a next step within these of this one is as long, to use its factors again
# Of a smooth interval: what is foretold no better in so short a step than in a longer one is rounding.
TINY = 1e-5
NEAR_END = 0.9  # of a step: where a crossing is told exactly enough
AIM = 1.02  # times the way to a crossing: a step taken again, to have it near its end
MOST_AIMS = 4
# The same where a control may bend within the step, which its polynomial does not follow.
NEAR_BENT, AIM_BENT, MOST_BENT = 0.999, 1.0005, 12
# A flux or charge is known to rounding, over a short step its rate hardly: where no step is exact enough,
# a much longer one is tried after the shortest, each time longer.
OUT_OF_ROUNDING, MOST_CRAWLS, CLEAR = 8.0, 14, 1e4
BEYOND_ALL = 1e60  # [V] or [A]: a run that has come to this grows without end
MOST_EVENTS = 2000  # on end, each within MICRO_STEP of an interval after the one before

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
    HELPED,  # whether nodes were given a capacitance, so that what jumps has a way to happen
    CRAWLED,  # how often on end no step was exact enough
    AMPERES,  # the largest current so far
) = range(24)
STATE_SIZE = 24

FINISHED, FULL, STUCK, SINGULAR, NO_RESTART, JUMPED, CHATTERS, GROWS, STEPPED, CRAWLS = range(10)


class Point(NamedTuple):
    """Where a run is: `x` the unknowns, shape (n,); `given` the charge to start from, where
    state[GIVEN] is set; `before`, (4, n), the last step's start and stages; `peaks` the largest each
    unknown has been. `jump`, (5, n), receives unknowns and charges before and after an event at
    which a coil's flux jumped."""

    x: Any
    given: Any
    before: Any
    peaks: Any
    jump: Any


class Bounds(NamedTuple):
    """`breakpoints` are the ends of the smooth intervals [s], rising; the error allowed is `relative` of
    an unknown's peak and `least`, shape (n,); no step is `longest`; what comes before `record_from`
    [s] is not recorded."""

    breakpoints: Any
    relative: float
    least: Any
    longest: float
    record_from: float


class Records(NamedTuple):
    """Steps taken: when each ends, its length (0 marks a fresh start), its stages, (records, 3, n)."""

    ends: Any
    lengths: Any
    stages: Any


@within_callers
def interval_of(state, breakpoints):
    """(begin, end) of the smooth interval the run is in [s]."""
    k = int(state[STRETCH])
    return (breakpoints[k - 1] if k > 0 else state[ORIGIN]), breakpoints[k]


@within_callers
def keep_stages(tables, x, state, work):
    """Note the step's start and stages, and where something leaves its state."""
    start, stages, shifts = work.start, work.stages, work.shifts
    for k in range(len(x)):
        start[k] = x[k]
        for i in range(3):
            stages[i, k] = x[k] + shifts[i, k]
    state[SHARE] = crossing(tables, start, stages, state[AMPERES])


@within_callers
def try_step(tables, plan, state, point, bounds, work):
    """Try a step, shorter each time, until one is exact enough. Returns STEPPED with the step in `work`
    and `state`, CRAWLS where none is, or why the run ends."""
    x, before = point.x, point.before
    begin, end = interval_of(state, bounds.breakpoints)
    t = state[TIME]
    straight = is_straight(tables)
    evaluate(
        tables, x, t, False, True, work.f_0, work.q_0, work.places[0], work.places[1], work.room
    )
    drive(tables, within(t, begin, end), work.b_0)
    if not weigh(tables, x, point.peaks, bounds.least, bounds.relative, work) < BEYOND_ALL:
        return GROWS
    state[AMPERES] = largest_current(tables, point.peaks)
    if not straight:
        state[FACTORED_FOR] = 0.0
    rejected = False
    off_before = np.inf
    aims = 0
    state[LONGEST] = 0.0
    while True:
        h = min(state[STEP], bounds.longest)
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
                off = foretold_norm(x, norm, work)
                is_rounding = h < TINY * (end - begin) and off >= 0.9 * off_before
                if norm >= 1.0 or not is_rounding:
                    norm = off
                off_before = off
            damped = SAFETY * (2.0 * MOST_ITERATIONS + 1.0) / (2.0 * MOST_ITERATIONS + iterations)
            change = min(GROWTH, max(SHRINK, damped * max(norm, 1e-12) ** -0.25))
            if norm < 1.0:
                keep_stages(tables, x, state, work)
                share = state[SHARE]
                near = h * share < 1e3 * ULP * abs(t) or share >= (
                    NEAR_END if straight else NEAR_BENT
                )
                if not near and aims < (MOST_AIMS if straight else MOST_BENT):
                    # The step again, to end just beyond: between its stages it is less exact.
                    state[LONGEST] = max(state[LONGEST], h)
                    state[STEP] = h * share * (AIM if straight else AIM_BENT)
                    aims += 1
                    continue
                if straight and HELD[0] <= change < HELD[1]:
                    change = 1.0
                if state[FIRST] > 0.0 or rejected:
                    change = min(change, 4.0 if state[FIRST] > 0.0 else 1.0)
                state[LENGTH] = h
                state[CHANGE] = change
                state[FIRST] = 0.0
                if h > CLEAR * RESOLVED * t:
                    state[CRAWLED] = 0.0
                return STEPPED
            state[STEP] = h * min(change, 0.9)
        else:
            state[STEP] = 0.3 * h
            state[FACTORED_FOR] = 0.0
        rejected = True
        state[REJECTED] += 1.0
        shortest = (SHORTEST if converged else UNFOLLOWED) * (end - begin)
        if state[STEP] < max(shortest, RESOLVED * t):
            return CRAWLS


@compiled
def micro_step(tables, plan, state, x, breakpoints, work):
    """One short implicit Euler step through what no polynomial follows, its slopes taken anew each time.

    Returns STEPPED, or STUCK where it does not settle; the stages lie on a straight line.
    """
    begin, end = interval_of(state, breakpoints)
    t = state[TIME]
    usual = min(max(MICRO_STEP * (end - begin), RESOLVED * t), end - t)
    zeros = np.zeros(tables.n)
    for k in range(8 if state[HELPED] > 0.0 else 4):
        # Longer ones, past what happens; then shorter ones, into it, where it takes time at all.
        h = usual * (10.0**k if k < 4 else 10.0 ** (3 - k))
        if h > end - t or h < 16.0 * ULP * abs(t):
            continue
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
            state[LENGTH], state[FIRST] = h, 1.0
            state[CHANGE] = 10.0 * OUT_OF_ROUNDING ** state[CRAWLED]
            return STEPPED
    return STUCK


@within_callers
def accept(tables, state, x, before, breakpoints, work):
    """Take the step just tried, up to where something leaves its state. Returns whether the run goes
    on: False where something changes state without end."""
    begin, end = interval_of(state, breakpoints)
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
        state[EVENTS] = state[EVENTS] + 1.0 if h < MICRO_STEP * (end - begin) else 0.0
        if state[EVENTS] > MOST_EVENTS:
            return False
    if reaches_end:
        state[STRETCH] += 1.0
        state[FRESH] = 1.0
    return True


@within_callers
def begin_again(state, t, taken, end):
    """Note that an event was settled at `t`, and the next step begins `taken` later."""
    state[GIVEN] = state[FRESH] = state[FORETELLS] = state[FACTORED_FOR] = 0.0
    state[FIRST] = 1.0
    state[STEP] = min(state[STEP], 0.01 * (end - t), state[CAREFUL])
    state[BEGUN] = t
    state[TIME] = t + taken


@within_callers
def record(state, bounds, records, written, stages):
    """Record the step just taken. Returns how many records are written."""
    if state[TIME] < bounds.record_from:
        written = 0  # only the newest step before the window is of use
    records.ends[written] = state[TIME]
    records.lengths[written] = state[TIME] - state[BEGUN]
    for i in range(3):
        for k in range(stages.shape[1]):
            records.stages[written, i, k] = stages[i, k]
    state[BEGUN] = state[TIME]
    return written + 1


@kernel
def stride(tables, plan, state, point, bounds, records, written, last, work):
    """Take steps until an event has to be settled, where it returns STEPPED, or one cannot be taken.
    Returns (outcome, records written)."""
    while state[FRESH] == 0.0:
        if written >= len(records.ends) - 2 or state[STEPS] >= last:
            return FULL, written
        outcome = try_step(tables, plan, state, point, bounds, work)
        if outcome != STEPPED:
            return outcome, written
        goes_on = accept(tables, state, point.x, point.before, bounds.breakpoints, work)
        written = record(state, bounds, records, written, work.stages)
        if not goes_on:
            return CHATTERS, written
    return STEPPED, written


@compiled
def integrate(tables, plan, state, point, bounds, records):
    """Go on from `state` until the last breakpoint, or until the records are full.

    Returns (outcome, records written).
    """
    work = work_for(tables.n, len(tables.rows), plan.size)
    breakpoints = bounds.breakpoints
    written = 0
    last = state[STEPS] + len(records.ends)
    state[FACTORED_FOR] = 0.0
    while state[TIME] < breakpoints[-1]:
        if written >= len(records.ends) - 2 or state[STEPS] >= last:
            return FULL, written
        begin, end = interval_of(state, breakpoints)
        if end - begin < EDGE * end and state[TIME] <= begin:
            state[TIME] = end
            state[STRETCH] += 1.0
            state[FRESH] = 1.0
        elif state[FRESH] > 0.0:
            t = state[TIME]
            taken, jumped = settle_event(
                tables, plan, point.x, t, end, point.given, state[GIVEN] > 0.0, point.peaks,
                point.jump, work.room,
            )  # fmt: skip
            if taken < 0.0:
                return NO_RESTART, written
            begin_again(state, t, taken, end)
            records.ends[written], records.lengths[written] = t, 0.0
            for i in range(3):
                records.stages[written, i] = point.x
            written += 1
            if jumped:
                return JUMPED, written
        else:
            outcome, written = stride(
                tables, plan, state, point, bounds, records, written, last, work
            )
            if outcome == CRAWLS:
                state[CRAWLED] = min(state[CRAWLED] + 1.0, MOST_CRAWLS)
                outcome = micro_step(tables, plan, state, point.x, breakpoints, work)
                if outcome == STUCK and state[CRAWLED] < MOST_CRAWLS:
                    state[STEP] *= OUT_OF_ROUNDING ** state[CRAWLED]
                    state[FACTORED_FOR] = 0.0
                    state[FIRST] = 1.0
                    outcome = STEPPED
                elif outcome == STEPPED:
                    if not accept(tables, state, point.x, point.before, breakpoints, work):
                        outcome = CHATTERS
                    written = record(state, bounds, records, written, work.stages)
            if outcome != STEPPED:
                return outcome, written
    return FINISHED, written
