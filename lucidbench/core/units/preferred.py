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


def nearest_preferred(value: float, series: str = "E24") -> float:
    """The number of `series` whose ratio to `value` (positive) is nearest to one."""
    decade = math.floor(math.log10(value))
    candidates = [n * 10.0**d for d in (decade - 1, decade, decade + 1) for n in SERIES[series]]
    nearest = min(candidates, key=lambda n: abs(math.log(n / value)))
    return float(f"{nearest:.3g}")
