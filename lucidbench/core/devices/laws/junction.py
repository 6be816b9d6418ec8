"""The pn junction: exponential current, breakdown, depletion and diffusion charge."""

from __future__ import annotations

import math

from lucidbench.core.devices.base import FREE
from lucidbench.core.devices.laws.compiler import kernel

LARGEST_EXPONENT = (
    80.0  # beyond it the exponential goes on as a straight line, so nothing overflows
)
_FORWARD_SHARE = 0.5  # of the junction potential, above which the depletion capacitance is a line
KNEE_STATE = 3  # where among a knee's parameters its state stands
LEAK = 1e-18  # [S] across each junction, so that a node between two blocking ones has one voltage


@kernel
def exponential(x):
    """(exp(x), its slope), straight beyond LARGEST_EXPONENT."""
    if x < LARGEST_EXPONENT:
        e = math.exp(x)
        return e, e
    e = math.exp(LARGEST_EXPONENT)
    return e * (1.0 + x - LARGEST_EXPONENT), e


@kernel
def conduction(u, saturation, scale):
    """(current, conductance) of saturation·(exp(u/scale) - 1)."""
    if saturation == 0.0:
        return 0.0, 0.0
    per_scale = 1.0 / scale
    e, slope = exponential(u * per_scale)
    return saturation * (e - 1.0), saturation * slope * per_scale


@kernel
def depletion(u, capacitance, potential, grading):
    """(charge, capacitance) of a depletion layer, linear above half its potential."""
    if capacitance == 0.0:
        return 0.0, 0.0
    edge = _FORWARD_SHARE * potential
    if u < edge:
        share = 1.0 - u / potential
        c = capacitance * share**-grading
        return capacitance * potential * (1.0 - share ** (1.0 - grading)) / (1.0 - grading), c
    c_edge = capacitance * (1.0 - _FORWARD_SHARE) ** -grading
    q_edge = (
        capacitance
        * potential
        * (1.0 - (1.0 - _FORWARD_SHARE) ** (1.0 - grading))
        / (1.0 - grading)
    )
    slope = grading * c_edge / (potential * (1.0 - _FORWARD_SHARE))
    beyond = u - edge
    return q_edge + c_edge * beyond + 0.5 * slope * beyond * beyond, c_edge + slope * beyond


@kernel
def junction(p, u, i, q, gi, cq):
    """p: I_S, n·V_T, breakdown voltage and current, C_j, V_j, grading, transit time."""
    current, conductance = conduction(u[0], p[0], p[1])
    q[0], cq[0, 0] = depletion(u[0], p[4], p[5], p[6])
    q[0] += p[7] * current
    cq[0, 0] += p[7] * conductance
    i[0] = current + LEAK * u[0]
    gi[0, 0] = conductance + LEAK
    if p[2] < math.inf:
        reverse, slope = exponential(-(u[0] + p[2]) / p[1])
        i[0] -= p[3] * reverse
        gi[0, 0] += p[3] * slope / p[1]


@kernel
def knee(p, u, i, q, gi, cq):
    """p: where it begins, conductance beyond, conductance before, state, and the weight of each branch.

    A state of 1 holds it beyond, 0 before, wherever its control lies: a straight line either way.
    """
    current, conductance = p[2] * u[0], p[2]
    if p[KNEE_STATE] == 1.0 or (p[KNEE_STATE] == FREE and u[0] > p[0]):
        current += (p[1] - p[2]) * (u[0] - p[0])
        conductance = p[1]
    for k in range(len(p) - 4):
        i[k] = p[4 + k] * current
        gi[k, 0] = p[4 + k] * conductance


@kernel
def saturation(p, u, i, q, gi, cq):
    """p: largest current, conductance at the origin, offset: I·tanh(g·(u + offset)/I)."""
    t = math.tanh(p[1] * (u[0] + p[2]) / p[0])
    i[0] = p[0] * t
    gi[0, 0] = p[1] * (1.0 - t * t)


@kernel
def limited(new, old, scale, critical):
    """A junction voltage on the way to `new` that keeps the exponential within reach.

    Above the critical voltage, the step is the one that changes the current as much as the straight
    line at `old` foretells: scale·ln(1 + step/scale).
    """
    if new <= critical or abs(new - old) <= 2.0 * scale:
        return new
    if old > 0.0:
        step = (new - old) / scale
        return old + scale * math.log1p(step) if step > -1.0 else critical
    return scale * math.log(max(new / scale, 1.0))


@kernel
def critical_voltage(saturation_current, scale):
    """Where the exponential bends most [V]."""
    return scale * math.log(scale / (1.4142135623730951 * saturation_current))
