"""Which law, by number; and how its controls are limited on the way to a solution."""

from __future__ import annotations

from lucidbench.core.devices.base import Law
from lucidbench.core.devices.laws.bipolar import bipolar
from lucidbench.core.devices.laws.channel import channel
from lucidbench.core.devices.laws.compiler import kernel
from lucidbench.core.devices.laws.expression import CONTROLS, STACK, expression
from lucidbench.core.devices.laws.junction import (
    critical_voltage,
    junction,
    knee,
    limited,
    saturation,
)
from lucidbench.core.devices.laws.switch import switch
from lucidbench.core.devices.laws.unijunction import unijunction

JUNCTION = int(Law.JUNCTION)
KNEE = int(Law.KNEE)
SATURATION = int(Law.SATURATION)
BIPOLAR = int(Law.BIPOLAR)
CHANNEL = int(Law.CHANNEL)
UNIJUNCTION = int(Law.UNIJUNCTION)
SWITCH = int(Law.SWITCH)

MOST_CONTROLS = CONTROLS
MOST_BRANCHES = 4
ROOM = (4 + 2 * MOST_BRANCHES + STACK, CONTROLS + 1)  # scratch of one evaluation


@kernel
def apply_law(law, p, u, t, i, q, gi, cq, stack):
    """Write currents, charges and slopes of one use of a law; `stack` is an expression's scratch."""
    if law == JUNCTION:
        junction(p, u, i, q, gi, cq)
    elif law == KNEE:
        knee(p, u, i, q, gi, cq)
    elif law == SATURATION:
        saturation(p, u, i, q, gi, cq)
    elif law == BIPOLAR:
        bipolar(p, u, i, q, gi, cq)
    elif law == CHANNEL:
        channel(p, u, i, q, gi, cq)
    elif law == UNIJUNCTION:
        unijunction(p, u, i, q, gi, cq)
    elif law == SWITCH:
        switch(p, u, i, q, gi, cq)
    else:
        expression(p, u, t, i, gi, stack)


@kernel
def limit_controls(law, p, u, old):
    """Bring `u` within reach of `old`, the controls last used. True where anything was changed."""
    if law == JUNCTION:
        new = limited(u[0], old[0], p[1], critical_voltage(p[0], p[1]))
        if new == u[0] and u[0] < 0.0 and p[2] < 1e300:  # towards breakdown, the mirror image
            wanted = -p[2] - u[0]
            mirrored = limited(wanted, -p[2] - old[0], p[1], critical_voltage(p[3], p[1]))
            if mirrored != wanted:  # mirrored back unchanged it would differ by rounding
                new = -p[2] - mirrored
        changed = new != u[0]
        u[0] = new
        return changed
    if law == BIPOLAR:
        first = limited(u[0], old[0], p[1], critical_voltage(p[0], p[1]))
        second = limited(u[1], old[1], p[2], critical_voltage(p[0], p[2]))
        changed = first != u[0] or second != u[1]
        u[0], u[1] = first, second
        return changed
    if law == UNIJUNCTION:
        new = limited(u[0], old[0], p[1], critical_voltage(p[0], p[1]))
        changed = new != u[0]
        u[0] = new
        return changed
    return False
