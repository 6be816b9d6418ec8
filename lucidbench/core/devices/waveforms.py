"""What a source does in time: each shape's value, its breakpoints, and the row the stepping kernel reads.

Three shapes suffice for the kernel: a damped sine, two exponentials, and straight pieces that may
repeat. Pulse, square, triangle, sawtooth, piecewise linear and a table of samples are straight pieces.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from enum import IntEnum
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from lucidbench.core.errors import LucidError

Array = npt.NDArray[np.float64]
MOST_CORNERS = 1_000_000
_TYPED = 1e-5  # of a pulse's period: what times that were typed rounded may exceed it by
JUST_BEFORE = -1e-300  # [s]: what jumps at zero has not jumped yet


class Shape(IntEnum):
    """As the kernel tells them apart."""

    SINE = 0
    EXPONENTIALS = 1
    PIECES = 2


class Waveform(ABC):
    """A source's value over time t [s], in the source's own unit."""

    @abstractmethod
    def value(self, t: Array) -> Array:
        """At each of `t`; at a jump, the value after it."""

    @abstractmethod
    def row(self) -> tuple[Shape, tuple[float, ...]]:
        """Shape and numbers for the kernel (kernels/evaluate.py reads them)."""

    @abstractmethod
    def breakpoints(self, start: float, stop: float) -> Array:
        """The times in (start, stop) at which it is not smooth."""

    @abstractmethod
    def scaled(self, factor: float) -> Waveform:
        """The same, so many times as large."""

    @property
    def at_rest(self) -> float:
        """Its value at the operating point, from which a run begins: before it jumps at zero."""
        return float(self.value(np.array([JUST_BEFORE]))[0])

    @property
    def period(self) -> float | None:
        """Its repetition [s]; None where it does not repeat for ever, or is constant."""
        return None


@dataclass(frozen=True)
class Sine(Waveform):
    """offset + amplitude · exp(-damping·(t - delay)) · sin(2π·frequency·(t - delay) + phase)."""

    offset: float
    amplitude: float
    frequency: float  # [Hz]
    delay: float = 0.0  # [s]; before it, the value at its start
    damping: float = 0.0  # [1/s]
    phase: float = 0.0  # [rad]

    def value(self, t: Array) -> Array:
        late = np.maximum(t - self.delay, 0.0)
        angle = 2 * np.pi * self.frequency * late + self.phase
        return np.asarray(
            self.offset + self.amplitude * np.exp(-self.damping * late) * np.sin(angle)
        )

    def row(self) -> tuple[Shape, tuple[float, ...]]:
        angular = 2 * math.pi * self.frequency
        return Shape.SINE, (
            self.offset,
            self.amplitude,
            angular,
            self.delay,
            self.damping,
            self.phase,
        )

    def scaled(self, factor: float) -> Sine:
        return replace(self, offset=factor * self.offset, amplitude=factor * self.amplitude)

    def breakpoints(self, start: float, stop: float) -> Array:
        return np.array([self.delay]) if start < self.delay < stop else np.zeros(0)

    @property
    def at_rest(self) -> float:
        """What it swings about: the operating point is the bias, at whatever phase it begins."""
        return self.offset

    @property
    def period(self) -> float | None:
        steady = self.damping == 0 and self.frequency > 0 and self.amplitude != 0
        return 1 / self.frequency if steady else None


@dataclass(frozen=True)
class Exponential(Waveform):
    """From `first` towards `second` after `rise_delay`, and back after `fall_delay`."""

    first: float
    second: float
    rise_delay: float
    rise_constant: float
    fall_delay: float
    fall_constant: float

    def value(self, t: Array) -> Array:
        up = -np.expm1(-np.maximum(t - self.rise_delay, 0.0) / self.rise_constant)
        down = -np.expm1(-np.maximum(t - self.fall_delay, 0.0) / self.fall_constant)
        return np.asarray(self.first + (self.second - self.first) * (up - down))

    def row(self) -> tuple[Shape, tuple[float, ...]]:
        return Shape.EXPONENTIALS, (
            self.first,
            self.second,
            self.rise_delay,
            self.rise_constant,
            self.fall_delay,
            self.fall_constant,
        )

    def scaled(self, factor: float) -> Exponential:
        return replace(self, first=factor * self.first, second=factor * self.second)

    def breakpoints(self, start: float, stop: float) -> Array:
        both = np.array([self.rise_delay, self.fall_delay])
        return np.unique(both[(both > start) & (both < stop)])


@dataclass(frozen=True)
class Pieces(Waveform):
    """Straight lines between points; `repeats` [s] starts them over, for ever, after `delay`.

    `times` rise (two equal ones make a jump) from 0; before `delay` the first value holds.
    """

    times: tuple[float, ...]
    values: tuple[float, ...]
    delay: float = 0.0
    repeats: float = 0.0

    def value(self, t: Array) -> Array:
        late = np.maximum(t - self.delay, 0.0)
        if self.repeats > 0:
            late = np.mod(late, self.repeats)
        times, values = np.array(self.times), np.array(self.values)
        k = np.clip(np.searchsorted(times, late, side="right"), 1, len(times) - 1)
        width = times[k] - times[k - 1]
        share = np.where(width > 0, (late - times[k - 1]) / np.where(width > 0, width, 1.0), 1.0)
        after = values[k - 1] + np.clip(share, 0.0, 1.0) * (values[k] - values[k - 1])
        return np.asarray(np.where(t < self.delay, values[0], after))

    def row(self) -> tuple[Shape, tuple[float, ...]]:
        head = (self.delay, self.repeats, float(len(self.times)))
        return Shape.PIECES, (*head, *self.times, *self.values)

    def scaled(self, factor: float) -> Pieces:
        return replace(self, values=tuple(factor * v for v in self.values))

    def breakpoints(self, start: float, stop: float) -> Array:
        one = np.unique(np.array(self.times)) + self.delay
        if self.repeats <= 0:
            return one[(one > start) & (one < stop)]
        first = max(0, math.floor((start - self.delay) / self.repeats))
        last = max(0, math.ceil((stop - self.delay) / self.repeats))
        if (last - first + 1) * len(one) > MOST_CORNERS:
            raise LucidError(
                f"A source repeats {last - first + 1:,} times within the run; "
                f"at most {MOST_CORNERS:,} corners are followed. Shorten the run."
            )
        all_of_them = (one[None, :] + self.repeats * np.arange(first, last + 1)[:, None]).ravel()
        inside = all_of_them[(all_of_them > start) & (all_of_them < stop)]
        return np.unique(inside)

    @property
    def period(self) -> float | None:
        return self.repeats if self.repeats > 0 and len(set(self.values)) > 1 else None


def pulse(
    low: float,
    high: float,
    delay: float = 0.0,
    rise: float = 0.0,
    fall: float = 0.0,
    width: float = math.inf,
    period: float = math.inf,
) -> Pieces:
    """`low`, then after `delay` up in `rise`, `high` for `width`, down in `fall`; again each `period`.

    Raises LucidError where the pieces do not fit into the period.
    """
    if min(delay, rise, fall, width) < 0 or period <= 0:
        raise LucidError("A pulse's times are not negative, and its period is above zero.")
    if math.isinf(width):
        return Pieces((0.0, rise), (low, high), delay)
    busy = rise + width + fall
    if busy > period * (1 + _TYPED):
        raise LucidError(
            f"A pulse's rise, width and fall take {busy:g} s together, longer than its period of "
            f"{period:g} s."
        )
    times, values = (0.0, rise, rise + width, busy), (low, high, high, low)
    if math.isinf(period):
        return Pieces(times, values, delay)
    return Pieces((*times, max(period, busy)), (*values, low), delay, period)


def square(
    low: float, high: float, frequency: float, duty: float = 0.5, delay: float = 0.0
) -> Pieces:
    """A square wave, `high` for the share `duty` of each period; before the first it is `low`."""
    return pulse(low, high, delay, width=duty / frequency, period=1 / frequency)


def triangle(low: float, high: float, frequency: float, delay: float = 0.0) -> Pieces:
    """Up for half a period, down for the other."""
    period = 1 / frequency
    return Pieces((0.0, period / 2, period), (low, high, low), delay, period)


def sawtooth(low: float, high: float, frequency: float, delay: float = 0.0) -> Pieces:
    """Up over the whole period, then back at once."""
    period = 1 / frequency
    return Pieces((0.0, period), (low, high), delay, period)


def piecewise_linear(points: list[tuple[float, float]], repeats: float = 0.0) -> Pieces:
    """Straight lines between (time, value) points. Raises LucidError where the times run back."""
    times = [t for t, _ in points]
    if not points:
        raise LucidError("A piecewise linear source needs at least one point (time, value).")
    for earlier, later in pairwise(times):
        if later < earlier:
            raise LucidError(
                f"The times of a piecewise linear source must not run back: {later:g} s follows "
                f"{earlier:g} s."
            )
    if times[0] < 0:
        raise LucidError("The times of a piecewise linear source start at 0 or later.")
    if times[0] > 0:
        points = [(0.0, points[0][1]), *points]
    if len(points) == 1:
        points = [*points, points[0]]
    return Pieces(tuple(t for t, _ in points), tuple(v for _, v in points), 0.0, repeats)


def samples(values: list[float], interval: float, repeats: bool = False) -> Pieces:
    """A table of samples, one each `interval` [s], joined by straight lines."""
    if len(values) < 2 or interval <= 0:
        raise LucidError("A table of samples needs two values or more, and an interval above zero.")
    times = tuple(interval * k for k in range(len(values)))
    return Pieces(times, tuple(values), 0.0, times[-1] if repeats else 0.0)
