"""The equation at one point: f(x, t), q(x), G, C and b(t)."""

from __future__ import annotations

import math

import numpy as np

from lucidbench.core.devices.base import FREE
from lucidbench.core.devices.laws.compiler import compiled, kernel, within_callers
from lucidbench.core.devices.laws.dispatch import (
    KNEE,
    MOST_BRANCHES,
    MOST_CONTROLS,
    ROOM,
    SWITCH,
    apply_law,
    limit_controls,
)
from lucidbench.core.devices.laws.junction import KNEE_STATE
from lucidbench.core.devices.laws.switch import STATE, wanted_state
from lucidbench.core.devices.waveforms import Shape

_SINE = int(Shape.SINE)
_EXPONENTIALS = int(Shape.EXPONENTIALS)


@kernel
def evaluate(tables, x, t, limiting, slopes, f, q, g, c, room):
    """Write f and q at the point `x`, all of shape (n,), at time `t` [s]; and, where `slopes`, G and C at
    the pattern's places, shape (m,).

    With `limiting`, controls are first brought within reach of those last used, and f, q are those of
    the tangent there. `room`, of shape ROOM, is scratch. Returns whether anything was limited.
    """
    rows, columns, linear_g, linear_c = tables.rows, tables.columns, tables.g, tables.c
    laws, parameters, parameter_at = tables.law, tables.parameters, tables.parameter_at
    control_at, plus, minus = tables.control_at, tables.plus, tables.minus
    branch_at, sources, targets = tables.branch_at, tables.source, tables.target
    slot_at, slots, held = tables.slot_at, tables.slots, tables.held
    u, wanted, i, charge = room[0], room[1], room[2], room[3]
    gi, cq = room[4 : 4 + MOST_BRANCHES], room[4 + MOST_BRANCHES : 4 + 2 * MOST_BRANCHES]
    stack = room[4 + 2 * MOST_BRANCHES :]
    any_limited = False
    f[:] = 0.0
    q[:] = 0.0
    for k in range(len(rows)):
        at = x[columns[k]]
        f[rows[k]] += linear_g[k] * at
        q[rows[k]] += linear_c[k] * at
        if slopes:
            g[k], c[k] = linear_g[k], linear_c[k]
    for use in range(len(laws)):
        first = control_at[use]
        controls = control_at[use + 1] - first
        for m in range(controls):
            a, b = plus[first + m], minus[first + m]
            u[m] = (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)
            wanted[m] = u[m]
        p = parameters[parameter_at[use] : parameter_at[use + 1]]
        was_limited = False
        if limiting:
            was_limited = limit_controls(laws[use], p, u, held[first : first + controls])
            for m in range(controls):
                held[first + m] = u[m]
            any_limited = any_limited or was_limited
        branch = branch_at[use]
        branches = branch_at[use + 1] - branch
        for k in range(branches):
            i[k], charge[k] = 0.0, 0.0
            for m in range(controls):
                gi[k, m], cq[k, m] = 0.0, 0.0
        apply_law(laws[use], p, u[:controls], t, i, charge, gi, cq, stack)
        if was_limited:
            for k in range(branches):
                for m in range(controls):
                    i[k] += gi[k, m] * (wanted[m] - u[m])
                    charge[k] += cq[k, m] * (wanted[m] - u[m])
        slot = slot_at[use]
        for k in range(branches):
            a, b = sources[branch + k], targets[branch + k]
            if a >= 0:
                f[a] += i[k]
                q[a] += charge[k]
            if b >= 0:
                f[b] -= i[k]
                q[b] -= charge[k]
            if slopes:
                for m in range(controls):
                    for corner in range(4):
                        place = slots[slot + corner]
                        if place >= 0:
                            sign = 1.0 if corner == 0 or corner == 3 else -1.0
                            g[place] += sign * gi[k, m]
                            c[place] += sign * cq[k, m]
                    slot += 4
    return any_limited


@within_callers
def drive(tables, t, b):
    """Write b(t), shape (n,)."""
    rows, shapes, begins = tables.wave_row, tables.wave_shape, tables.wave_at
    constant = tables.constant
    for k in range(len(b)):
        b[k] = constant[k]
    for w in range(len(rows)):
        p = tables.wave_data[begins[w] : begins[w + 1]]
        shape = shapes[w]
        if shape == _SINE:
            late = max(t - p[3], 0.0)
            value = p[0] + p[1] * math.exp(-p[4] * late) * math.sin(p[2] * late + p[5])
        elif shape == _EXPONENTIALS:
            up = -math.expm1(-max(t - p[2], 0.0) / p[3])
            down = -math.expm1(-max(t - p[4], 0.0) / p[5])
            value = p[0] + (p[1] - p[0]) * (up - down)
        else:
            value = pieces(p, t)
        b[rows[w]] += value


@kernel
def pieces(p, t):
    """Straight pieces: p is delay, repetition, count, times, values."""
    late = t - p[0]
    if late < 0.0:
        return p[3 + int(p[2])]
    if p[1] > 0.0:
        late = late - p[1] * math.floor(late / p[1])
    count = int(p[2])
    low, high = 0, count  # the first time above `late` is in (low, high]
    while low < high:
        half = (low + high) // 2
        if p[3 + half] <= late:
            low = half + 1
        else:
            high = half
    k = min(max(low, 1), count - 1)
    before, after = p[3 + k - 1], p[3 + k]
    start, end = p[3 + count + k - 1], p[3 + count + k]
    if after <= before or late >= after:
        return end
    return start + (late - before) / (after - before) * (end - start)


@compiled
def branches_over(tables, xs, times, i_all, q_all):
    """Currents [A] and charges [C] of every law's branches, for many points.

    `xs` are the unknowns, shape (points, n); results (points, branches). Switches and regions are as
    their controls ask: their own state has moved on since.
    """
    u = np.empty(MOST_CONTROLS)
    i = np.empty(MOST_BRANCHES)
    charge = np.empty(MOST_BRANCHES)
    gi = np.empty((MOST_BRANCHES, MOST_CONTROLS))
    cq = np.empty((MOST_BRANCHES, MOST_CONTROLS))
    stack = np.empty(ROOM)
    for point in range(len(times)):
        x = xs[point]
        for use in range(len(tables.law)):
            first = tables.control_at[use]
            controls = tables.control_at[use + 1] - first
            for m in range(controls):
                a, b = tables.plus[first + m], tables.minus[first + m]
                u[m] = (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)
            p = tables.parameters[tables.parameter_at[use] : tables.parameter_at[use + 1]]
            if tables.law[use] == SWITCH:
                p = p.copy()
                p[STATE] = wanted_state(p, u[1])
            elif tables.law[use] == KNEE:
                p = p.copy()
                p[KNEE_STATE] = FREE
            i[:] = 0.0
            charge[:] = 0.0
            apply_law(tables.law[use], p, u[:controls], times[point], i, charge, gi, cq, stack)
            branch = tables.branch_at[use]
            for k in range(tables.branch_at[use + 1] - branch):
                i_all[point, branch + k] = i[k]
                q_all[point, branch + k] = charge[k]


@kernel
def sizes_of_terms(tables, x, t, b, q_0, s, sizes, room):
    """Write, for each row of f(x) + s·(q(x) - q_0) - b, the sum of the sizes of its terms, shape (n,).

    `room`, of shape ROOM, is scratch.
    """
    u, i, charge = room[0], room[2], room[3]
    gi, cq = room[4 : 4 + MOST_BRANCHES], room[4 + MOST_BRANCHES : 4 + 2 * MOST_BRANCHES]
    stack = room[4 + 2 * MOST_BRANCHES :]
    for k in range(tables.n):
        sizes[k] = abs(b[k]) + s * abs(q_0[k])
    for k in range(len(tables.rows)):
        slope = abs(tables.g[k]) + s * abs(tables.c[k])
        sizes[tables.rows[k]] += slope * abs(x[tables.columns[k]])
    for use in range(len(tables.law)):
        first = tables.control_at[use]
        controls = tables.control_at[use + 1] - first
        for m in range(controls):
            a, c = tables.plus[first + m], tables.minus[first + m]
            u[m] = (x[a] if a >= 0 else 0.0) - (x[c] if c >= 0 else 0.0)
        p = tables.parameters[tables.parameter_at[use] : tables.parameter_at[use + 1]]
        i[:] = 0.0
        charge[:] = 0.0
        gi[:, :] = 0.0
        cq[:, :] = 0.0
        apply_law(tables.law[use], p, u[:controls], t, i, charge, gi, cq, stack)
        branch = tables.branch_at[use]
        for k in range(tables.branch_at[use + 1] - branch):
            size = abs(i[k]) + s * abs(charge[k])
            for m in range(controls):  # the voltages that decide it are known to rounding only
                a, c = tables.plus[first + m], tables.minus[first + m]
                beside = (abs(x[a]) if a >= 0 else 0.0) + (abs(x[c]) if c >= 0 else 0.0)
                size += (abs(gi[k, m]) + s * abs(cq[k, m])) * beside
            for end in (tables.source[branch + k], tables.target[branch + k]):
                if end >= 0:
                    sizes[end] += size


@compiled
def law_slopes(tables, x, t, by_current, by_charge):
    """Write di/du and dq/du of every branch and control, use by use, branch by branch."""
    u = np.empty(MOST_CONTROLS)
    i = np.empty(MOST_BRANCHES)
    charge = np.empty(MOST_BRANCHES)
    gi = np.empty((MOST_BRANCHES, MOST_CONTROLS))
    cq = np.empty((MOST_BRANCHES, MOST_CONTROLS))
    stack = np.empty(ROOM)
    at = 0
    for use in range(len(tables.law)):
        first = tables.control_at[use]
        controls = tables.control_at[use + 1] - first
        for m in range(controls):
            a, b = tables.plus[first + m], tables.minus[first + m]
            u[m] = (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)
        p = tables.parameters[tables.parameter_at[use] : tables.parameter_at[use + 1]]
        gi[:, :] = 0.0
        cq[:, :] = 0.0
        apply_law(tables.law[use], p, u[:controls], t, i, charge, gi, cq, stack)
        for k in range(tables.branch_at[use + 1] - tables.branch_at[use]):
            for m in range(controls):
                by_current[at] = gi[k, m]
                by_charge[at] = cq[k, m]
                at += 1


@kernel
def throw_switches(tables, x):
    """Let every switch take the state its command asks for. True where one changed."""
    changed = False
    for use in range(len(tables.law)):
        if tables.law[use] == SWITCH:
            at = tables.control_at[use] + 1
            a, b = tables.plus[at], tables.minus[at]
            command = (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)
            begin = tables.parameter_at[use]
            p = tables.parameters[begin : tables.parameter_at[use + 1]]
            state = wanted_state(p, command)
            if state != p[STATE]:
                tables.parameters[begin + STATE] = state
                changed = True
    return changed
