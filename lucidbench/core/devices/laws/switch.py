"""A switch: a conductance that depends on a remembered state."""

from __future__ import annotations

from lucidbench.core.devices.laws.compiler import kernel

STATE = 4  # where among its parameters the state stands: 1 closed, 0 open


@kernel
def switch(p, u, i, q, gi, cq):
    """Controls: across it, and its command. p: closes above, opens below, g closed, g open, state."""
    g = p[2] if p[4] > 0.5 else p[3]
    i[0] = g * u[0]
    gi[0, 0] = g


@kernel
def wanted_state(p, command):
    """The state its command asks for, given the one it is in."""
    if p[4] > 0.5:
        return 0.0 if command < p[1] else 1.0
    return 1.0 if command > p[0] else 0.0
