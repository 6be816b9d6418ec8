"""The solution within a step: the polynomial through its start and the three stages of Radau IIA."""

from __future__ import annotations

import math

from lucidbench.core.devices.laws.compiler import kernel

_ROOT6 = math.sqrt(6.0)
C1, C2 = (4.0 - _ROOT6) / 10.0, (4.0 + _ROOT6) / 10.0  # where its stages lie, the last one at 1


@kernel
def shares(theta):
    """What a step's start and its three stages count for at the share `theta` of it."""
    s0, s1, s2, s3 = theta, theta - C1, theta - C2, theta - 1.0
    at0 = s1 * s2 * s3 / (-C1 * C2)
    at1 = s0 * s2 * s3 / (C1 * (C1 - C2) * (C1 - 1.0))
    at2 = s0 * s1 * s3 / (C2 * (C2 - C1) * (C2 - 1.0))
    at3 = s0 * s1 * s2 / ((1.0 - C1) * (1.0 - C2))
    return at0, at1, at2, at3


@kernel
def at_share(theta, start, first, second, third):
    """One quantity there."""
    at0, at1, at2, at3 = shares(theta)
    return at0 * start + at1 * first + at2 * second + at3 * third


@kernel
def polynomial(start, stages, theta, out):
    """Every unknown there: `start` and `out` of shape (n,), `stages` (3, n)."""
    at0, at1, at2, at3 = shares(theta)
    for k in range(len(out)):
        out[k] = at0 * start[k] + at1 * stages[0, k] + at2 * stages[1, k] + at3 * stages[2, k]
