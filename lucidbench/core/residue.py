"""What is told as nothing: a figure smaller than the error of what it was worked out by.

Of a solution at rest that error is worked out (equations/refined.py), of phasors it is tried out
(analyses/frequency.py). Here are the shares that hold for what follows from them.
"""

from __future__ import annotations

import math

ROUNDING = 2.0**-52  # of a number, by itself
OF_STEPS = 32 * ROUNDING  # of the largest voltage of a run in time, for a node that never moves
OF_ARITHMETIC = 1e-12  # of what a few operations are done with
OF_INTEGRALS = 1e-9  # of what swings, for its mean
OF_TOLERANCES = 1e-9  # of a value, for what a tolerance does to it: far below any that is sold
OF_RUNS = 1e-6  # of a reading, for what a tolerance does to it: runs differ by that
LEAST_LEVEL = 1e-9  # dB, ° or %


def is_residue(figure: complex, beside: complex, share: float = OF_ARITHMETIC) -> bool:
    """Whether it is nothing beside another, of which it may be off by a `share`."""
    return abs(figure) <= share * abs(beside)


def cleared(figure: float, beside: complex, share: float = OF_ARITHMETIC) -> float:
    """A figure, or zero where it is nothing beside another."""
    return 0.0 if is_residue(figure, beside, share) else figure


def cleared_parts(z: complex, least: float = 0.0) -> complex:
    """A phasor without a real or imaginary part that is nothing: beside the other, or below `least`."""
    below = max(OF_ARITHMETIC * abs(z), least)
    return complex(*(0.0 if abs(part) <= below else part for part in (z.real, z.imag)))


def cleared_level(level: float) -> float:
    """Decibels, degrees or per cent; zero where they are nothing."""
    return 0.0 if math.isfinite(level) and abs(level) <= LEAST_LEVEL else level
