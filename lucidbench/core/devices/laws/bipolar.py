"""The bipolar transistor's equations (Gummel and Poon, 1970)."""

from __future__ import annotations

import math

from lucidbench.core.devices.laws.compiler import kernel
from lucidbench.core.devices.laws.junction import LEAK, conduction, depletion

_LEAST_SHARE = 0.02  # of 1 - v_bc/V_A - v_be/V_B: where the Early effect is cut off


@kernel
def bipolar(p, u, i, q, gi, cq):
    """Controls v_be, v_bc; branches base-emitter, base-collector, collector-emitter.

    p: I_S, n_F·V_T, n_R·V_T, β_F, β_R, 1/V_A, 1/V_B, 1/I_KF, 1/I_KR, I_SE, n_E·V_T, I_SC, n_C·V_T,
    C_JE, V_JE, M_JE, C_JC, V_JC, M_JC, τ_F, τ_R.
    """
    forward, g_forward = conduction(u[0], p[0], p[1])
    reverse, g_reverse = conduction(u[1], p[0], p[2])
    leak_e, g_leak_e = conduction(u[0], p[9], p[10])
    leak_c, g_leak_c = conduction(u[1], p[11], p[12])

    # The base charge q_b, and its slopes over v_be and v_bc.
    share = 1.0 - u[1] * p[5] - u[0] * p[6]
    if share > _LEAST_SHARE:
        early = 1.0 / share
        early_be, early_bc = p[6] * early * early, p[5] * early * early
    else:
        early = 1.0 / _LEAST_SHARE
        early_be, early_bc = 0.0, 0.0
    injection = forward * p[7] + reverse * p[8]
    root = math.sqrt(max(1.0 + 4.0 * injection, 1e-12)) if injection != 0.0 else 1.0
    half = 0.5 * (1.0 + root)
    base = early * half
    base_be = early_be * half + early * g_forward * p[7] / root
    base_bc = early_bc * half + early * g_reverse * p[8] / root

    per_forward, per_reverse = 1.0 / p[3], 1.0 / p[4]
    i[0] = forward * per_forward + leak_e + LEAK * u[0]
    gi[0, 0] = g_forward * per_forward + g_leak_e + LEAK
    i[1] = reverse * per_reverse + leak_c + LEAK * u[1]
    gi[1, 1] = g_reverse * per_reverse + g_leak_c + LEAK
    per_base = 1.0 / base
    transport = (forward - reverse) * per_base
    i[2] = transport
    gi[2, 0] = (g_forward - transport * base_be) * per_base
    gi[2, 1] = (-g_reverse - transport * base_bc) * per_base

    q_e, c_e = depletion(u[0], p[13], p[14], p[15])
    q_c, c_c = depletion(u[1], p[16], p[17], p[18])
    stored = p[19] * forward * per_base
    q[0] = q_e + stored
    cq[0, 0] = c_e + (p[19] * g_forward - stored * base_be) * per_base
    cq[0, 1] = -stored * base_bc * per_base
    q[1] = q_c + p[20] * reverse
    cq[1, 1] = c_c + p[20] * g_reverse
