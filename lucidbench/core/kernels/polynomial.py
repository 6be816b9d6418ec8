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
def turns(start, first, second, third):
    """The two shares at which one quantity turns, by divided differences; 2.0 for one it has not."""
    a = (first - start) / C1
    b = (second - first) / (C2 - C1)
    c = (third - second) / (1.0 - C2)
    bend = (b - a) / C2
    twist = (c - b) / (1.0 - C1) - bend
    # The slope is a + bend·(2θ - C1) + twist·(3θ² - 2(C1 + C2)θ + C1·C2).
    square, linear = 3.0 * twist, 2.0 * (bend - twist * (C1 + C2))
    constant = a - bend * C1 + twist * C1 * C2
    if square == 0.0:
        return (-constant / linear if linear != 0.0 else 2.0), 2.0
    inside = linear * linear - 4.0 * square * constant
    if inside < 0.0:
        return 2.0, 2.0
    larger = -0.5 * (linear + math.copysign(math.sqrt(inside), linear))
    return larger / square, (constant / larger if larger != 0.0 else 2.0)


@kernel
def polynomial(start, stages, theta, out):
    """Every unknown there: `start` and `out` of shape (n,), `stages` (3, n)."""
    at0, at1, at2, at3 = shares(theta)
    for k in range(len(out)):
        out[k] = at0 * start[k] + at1 * stages[0, k] + at2 * stages[1, k] + at3 * stages[2, k]
