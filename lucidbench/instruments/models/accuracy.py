"""What an instrument's maker states: ranges, and a share of the reading plus counts of the last digit."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

_OF_THE_SHARE, _OF_THE_COUNTS = 0.8, 0.4  # how far within its statement an instrument is off
_NOISE = 0.2  # counts, one standard deviation


@dataclass(frozen=True)
class Statement:
    """Accuracy ± (share · reading + counts · resolution) on ranges of so many `digits` (counts of full
    scale)."""

    share: float
    counts: float
    ranges: tuple[float, ...]
    digits: int = 6000

    def range_for(self, size: float) -> float | None:
        """The most sensitive range that holds it; None beyond the largest."""
        return next((r for r in self.ranges if abs(size) <= r), None)

    def resolution(self, full_scale: float) -> float:
        return full_scale / self.digits

    def uncertainty(self, reading: float, full_scale: float | None = None) -> float:
        """Half the width of the stated interval [unit of the reading]."""
        span = full_scale or self.range_for(reading) or self.ranges[-1]
        return self.share * abs(reading) + self.counts * self.resolution(span)

    def shown(self, value: float, full_scale: float, own: np.random.Generator,
              chance: np.random.Generator) -> float:  # fmt: skip
        """What it shows of `value`: off by its `own` error, noisy by `chance`, rounded; infinite where
        the range does not hold it."""
        gain, zero = own.uniform(-1.0, 1.0, 2)
        step = self.resolution(full_scale)
        off = value * (1 + _OF_THE_SHARE * self.share * gain)
        off += step * (_OF_THE_COUNTS * self.counts * zero + _NOISE * chance.standard_normal())
        return math.copysign(math.inf, value) if abs(off) > full_scale else step * round(off / step)
