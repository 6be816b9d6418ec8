"""Preferred numbers for resistors and capacitors: the E series of IEC 60063:2015."""

from __future__ import annotations

import math

# E24 and below are historical and do not follow the rounded powers of ten, so they are listed.
_E24 = (
    10,
    11,
    12,
    13,
    15,
    16,
    18,
    20,
    22,
    24,
    27,
    30,
    33,
    36,
    39,
    43,
    47,
    51,
    56,
    62,
    68,
    75,
    82,
    91,
)

SERIES: dict[str, tuple[float, ...]] = {
    "E6": tuple(n / 10 for n in _E24[::4]),
    "E12": tuple(n / 10 for n in _E24[::2]),
    "E24": tuple(n / 10 for n in _E24),
    "E48": tuple(round(10 ** (i / 48), 2) for i in range(48)),
    "E96": tuple(round(10 ** (i / 96), 2) for i in range(96)),
}


def neighbours(value: float, series: str) -> tuple[float, float]:
    """The numbers of `series` next to `value` (positive), the nearer one first."""
    nearest = nearest_preferred(value, series)
    decade = math.floor(math.log10(value))
    every = sorted(n * 10.0**d for d in (decade - 1, decade, decade + 1) for n in SERIES[series])
    other = [n for n in every if (n > value) != (nearest > value) and abs(n / nearest - 1) > 1e-6]
    second = min(other, key=lambda n: abs(math.log(n / value)))
    return nearest, float(f"{second:.3g}")


def pairs(value: float, series: str, adds: bool) -> tuple[float, float]:
    """The two numbers of `series` that come nearest to `value`: as a sum where it `adds`, else as a product
    over a sum. The larger is first."""
    span = range(math.floor(math.log10(value)) - 2, math.floor(math.log10(value)) + 3)
    every = [float(f"{n * 10.0**d:.3g}") for d in span for n in SERIES[series]]
    best, least = (every[0], every[0]), math.inf
    for a in every:
        rest = value - a if adds else (1 / (1 / value - 1 / a) if a > value else -1.0)
        if rest <= 0:
            continue
        b = nearest_preferred(rest, series)
        total = a + b if adds else a * b / (a + b)
        error = abs(math.log(total / value))
        if error < least - 1e-12:
            best, least = (max(a, b), min(a, b)), error
    return best


def nearest_preferred(value: float, series: str = "E24") -> float:
    """The number of `series` whose ratio to `value` (positive) is nearest to one."""
    decade = math.floor(math.log10(value))
    candidates = [n * 10.0**d for d in (decade - 1, decade, decade + 1) for n in SERIES[series]]
    nearest = min(candidates, key=lambda n: abs(math.log(n / value)))
    return float(f"{nearest:.3g}")
