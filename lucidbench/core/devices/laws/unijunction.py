"""The unijunction transistor's emitter and lower bar."""

from __future__ import annotations

from lucidbench.core.devices.laws.compiler import kernel
from lucidbench.core.devices.laws.junction import LEAK, conduction


@kernel
def unijunction(p, u, i, q, gi, cq):
    """Controls emitter-bar, bar-base 1; branches the same. p: I_S, V_T, G_lower, k, i_0, τ."""
    current, slope = conduction(u[0], p[0], p[1])
    i[0] = current + LEAK * u[0]
    gi[0, 0] = slope + LEAK
    q[0] = p[5] * current
    cq[0, 0] = p[5] * slope
    modulated, d_modulated = 0.0, 0.0
    if current > 0.0:
        both = current + p[4]
        modulated = p[3] * current * current / both
        d_modulated = p[3] * current * (current + 2.0 * p[4]) / (both * both)
    i[1] = u[1] * (p[2] + modulated)
    gi[1, 0] = u[1] * d_modulated * slope
    gi[1, 1] = p[2] + modulated
