"""The square law of field-effect transistors (Shichman and Hodges, 1968)."""

from __future__ import annotations

import math

from lucidbench.core.devices.laws.compiler import kernel

LEAK = 1e-15  # [S] along the channel, so that a cut-off one still ties its ends together


@kernel
def forward_channel(p, v_gs, v_ds, v_bs):
    """(i, di/dv_gs, di/dv_ds, di/dv_bs) for v_ds >= 0."""
    threshold, d_threshold = p[1], 0.0
    if p[3] > 0.0:
        inside = p[4] - v_bs
        if inside > 1e-6 * p[4]:
            root = math.sqrt(inside)
            d_threshold = -0.5 * p[3] / root
        else:
            root = math.sqrt(1e-6 * p[4])
        threshold += p[3] * (root - math.sqrt(p[4]))
    drive = v_gs - threshold
    if drive <= 0.0:
        return 0.0, 0.0, 0.0, 0.0
    lengthen = 1.0 + p[2] * v_ds
    if v_ds < drive:
        bare = p[0] * (drive - 0.5 * v_ds) * v_ds
        g_m = p[0] * v_ds * lengthen
        g_ds = p[0] * (drive - v_ds) * lengthen + p[2] * bare
    else:
        bare = 0.5 * p[0] * drive * drive
        g_m = p[0] * drive * lengthen
        g_ds = p[2] * bare
    return bare * lengthen, g_m, g_ds, -g_m * d_threshold


@kernel
def channel(p, u, i, q, gi, cq):
    """Controls v_gs, v_ds, v_bs; one branch, drain to source. p: K, V_t, λ, γ, 2φ_F."""
    if u[1] >= 0.0:
        current, g_m, g_ds, g_mb = forward_channel(p, u[0], u[1], u[2])
        i[0] = current
        gi[0, 0], gi[0, 1], gi[0, 2] = g_m, g_ds, g_mb
    else:  # drain and source exchange their roles
        current, g_m, g_ds, g_mb = forward_channel(p, u[0] - u[1], -u[1], u[2] - u[1])
        i[0] = -current
        gi[0, 0], gi[0, 1], gi[0, 2] = -g_m, g_m + g_ds + g_mb, -g_mb
    i[0] += LEAK * u[1]
    gi[0, 1] += LEAK
