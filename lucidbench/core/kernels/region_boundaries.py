"""Boundaries between the regions of parts of two straight pieces: ideal diodes, clamps, switches. A step
holds each in its region, so that it is straight throughout, and ends where the first would leave it.
"""

from __future__ import annotations

from lucidbench.core.devices.base import FREE
from lucidbench.core.devices.laws.compiler import kernel, within_callers
from lucidbench.core.devices.laws.dispatch import KNEE, SWITCH
from lucidbench.core.devices.laws.junction import KNEE_STATE
from lucidbench.core.devices.laws.switch import STATE, wanted_state
from lucidbench.core.kernels.polynomial import C1, C2, at_share, turns

_ROUNDING = 8 * 2.0**-52  # of the voltages beside it: a boundary passed by less is not passed
_NO_CURRENT = (
    1e-7  # of the largest current of a run: what rounding of charges makes over a short step
)
_BEYOND = 1e-6  # of the rest of the way: how far a step goes past the first boundary


@kernel
def control(tables, use, x):
    """What decides the region of a part or a switch [V]."""
    at = tables.control_at[use] + (1 if tables.law[use] == SWITCH else 0)
    a, b = tables.plus[at], tables.minus[at]
    return (x[a] if a >= 0 else 0.0) - (x[b] if b >= 0 else 0.0)


@kernel
def rounding(tables, use, level, x, amperes):
    """How exactly a part's control and its level can be told apart [V], in a run of such currents [A]."""
    a, b = tables.plus[tables.control_at[use]], tables.minus[tables.control_at[use]]
    size = abs(level) + (abs(x[a]) if a >= 0 else 0.0) + (abs(x[b]) if b >= 0 else 0.0)
    siemens = tables.parameters[tables.parameter_at[use] + 1]
    return _ROUNDING * size + _NO_CURRENT * amperes / siemens


@within_callers
def is_straight(tables):
    """Whether the equation is straight as long as nothing leaves its state."""
    bent = 0
    for law in tables.law:
        if law != KNEE and law != SWITCH:
            bent += 1
    return bent == 0


@kernel
def release(tables):
    """Let every part change its region where its control asks."""
    for use in range(len(tables.law)):
        if tables.law[use] == KNEE:
            tables.parameters[tables.parameter_at[use] + KNEE_STATE] = FREE


@kernel
def hold(tables, x, amperes):
    """Hold every part in the region it has at `x`; where rounding leaves that open, beyond, since an
    ideal diode that blocks makes volts of the rounding of a current, and one that conducts makes nothing.
    `amperes` is the largest current so far.
    """
    for use in range(len(tables.law)):
        if tables.law[use] == KNEE:
            at = tables.parameter_at[use]
            level = tables.parameters[at]
            beyond = control(tables, use, x) > level - rounding(tables, use, level, x, amperes)
            tables.parameters[at + KNEE_STATE] = 1.0 if beyond else 0.0


@kernel
def boundary_ahead(tables, x, step):
    """The share of `step` from `x` at which the first free boundary has just been passed, 2.0 without one."""
    nearest = 2.0
    for use in range(len(tables.law)):
        if tables.law[use] != KNEE:
            continue
        at = tables.parameter_at[use]
        if tables.parameters[at + KNEE_STATE] != FREE:
            continue
        level = tables.parameters[at]
        before, change = control(tables, use, x), control(tables, use, step)
        if (before > level) != (before + change > level):
            share = (level - before) / change
            nearest = min(nearest, share + _BEYOND * (1.0 - share))
    return nearest


@kernel
def leaves(tables, use, u, rounding):
    """Whether a held part, or a switch, wants another region where its control is `u` [V]."""
    p = tables.parameters[tables.parameter_at[use] : tables.parameter_at[use + 1]]
    if tables.law[use] == SWITCH:
        return wanted_state(p, u) != p[STATE]
    off = u - p[0] if p[KNEE_STATE] == 0.0 else p[0] - u
    return off > rounding


@kernel
def crossing(tables, start, stages, amperes):
    """The share of a step at which the first part or switch leaves its region, 2.0 where none does.

    `start`, shape (n,), and `stages`, (3, n), are the points its polynomial goes through; `amperes` is the
    largest current so far. A control is
    looked at there, and where it turns between them.
    """
    earliest = 2.0
    for use in range(len(tables.law)):
        law = tables.law[use]
        if law != SWITCH and law != KNEE:
            continue
        begin = tables.parameter_at[use]
        level = tables.parameters[begin]
        allowed = 0.0
        if law == KNEE:
            allowed = max(
                rounding(tables, use, level, start, amperes),
                rounding(tables, use, level, stages[2], amperes),
            )
        elif tables.parameters[begin + STATE] > 0.5:
            level = tables.parameters[begin + 1]
        u0, u1 = control(tables, use, start), control(tables, use, stages[0])
        u2, u3 = control(tables, use, stages[1]), control(tables, use, stages[2])
        turn, other = turns(u0, u1, u2, u3)
        low, high = 0.0, 2.0
        while low < 1.0:
            at = 1.0
            for node in (C1, C2, turn, other):
                if low < node < at:
                    at = node
            if leaves(tables, use, at_share(at, u0, u1, u2, u3), allowed):
                high = at
                break
            low = at
        if high > 1.0 or low >= earliest:
            continue
        rising = at_share(high, u0, u1, u2, u3) > level
        for _ in range(60):
            half = 0.5 * (low + high)
            if (at_share(half, u0, u1, u2, u3) > level) == rising:
                high = half
            else:
                low = half
            if high - low < 1e-15 + 1e-13 * high:
                break
        earliest = min(earliest, high)
    return earliest
