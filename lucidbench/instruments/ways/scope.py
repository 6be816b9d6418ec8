"""What ways with an oscilloscope share: ranges that fit the signal, and how well a channel reads."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

import numpy as np
import numpy.typing as npt

from lucidbench.core.runs.probe_points import Place
from lucidbench.core.units import engineering
from lucidbench.core.units.uncertain import COVERAGE, EXPANDED, STANDARD
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.models.oscilloscope import (
    BITS,
    DIVISIONS,
    GAIN_SHARE,
    NOISE,
    RANGES,
    ZERO_DIVISIONS,
)
from lucidbench.instruments.ways.base import clip, pair

Array = npt.NDArray[np.float64]
_TRIES = 8
_CLIPPED, _SMALL, _FULL = 0.98, 0.3, 0.75  # of the range: where it is left, and what it shall be


class Scope:
    """Its channels on places, by number; `ranges` and `offsets` [V] as they were told, or found to fit
    where they are not held."""

    def __init__(
        self, client: BenchClient, places: Mapping[int, Place], probe: float, is_ac: bool = False
    ) -> None:
        self.client = client
        self.places = dict(places)
        self.most = RANGES[1] * probe
        self.least = RANGES[0] * probe
        self.ranges = dict.fromkeys(places, min(10.0, self.most))
        self.offsets = dict.fromkeys(places, 0.0)
        self.is_held = False
        self._told = dict[int, float]()
        client.reset("oscilloscope")
        for channel, place in self.places.items():
            clip(client, "oscilloscope", pair(place), channel)
            client.tell("oscilloscope", "probe", channel=channel, value=f"{probe:g}")
            client.tell(
                "oscilloscope", "coupling", channel=channel, coupling="AC" if is_ac else "DC"
            )
            self._set_range(channel)
        client.tell("oscilloscope", "format")

    def show(self, channel: int, span: float, middle: float) -> None:
        """Set the range of a channel [V], from its lowest voltage to its highest, and its middle [V]."""
        self._told[channel] = self.ranges[channel] = min(max(span, self.least), self.most)
        self.offsets[channel] = middle
        self._set_range(channel)

    def sweep(self, seconds: float, points: int, delay: float = 0.0) -> None:
        self.client.tell("oscilloscope", "sweep", value=f"{seconds:.6E}")
        self.client.tell("oscilloscope", "points", value=points)
        self.client.tell("oscilloscope", "delay", value=f"{delay:.6E}")

    def trigger(self, channel: int, level: float, slope: str) -> None:
        self.client.tell("oscilloscope", "source", channel=channel)
        self.client.tell("oscilloscope", "level", value=f"{level:.6E}")
        self.client.tell("oscilloscope", "slope", slope=slope)

    def acquire(self) -> dict[int, Array]:
        """Every channel [V], again with other ranges until each fills its own, unless they are held."""
        for _ in range(_TRIES):
            self.client.tell("oscilloscope", "start")
            found = {
                channel: self.client.waveform("oscilloscope", "data", channel=channel)
                for channel in self.places
            }
            if self.is_held:
                break
            changed = [self._fit(channel, values) for channel, values in found.items()]
            if not any(changed):
                break
        return found

    def remarks(self, found: Mapping[int, Array]) -> Iterator[str]:
        """What is to be said of the ranges of what was `found`."""
        for channel, values in found.items():
            span, middle = self.ranges[channel], self.offsets[channel]
            beyond = int(np.sum(np.abs(values - middle) > span / 2 - 1.5 * self.step(channel)))
            if beyond:
                yield (
                    f"channel {channel} goes beyond its range at {beyond} of {len(values)} points: "
                    f"set a larger one"
                )
            elif abs(span - self._told.get(channel, span)) > 1e-9 * span:
                yield f"channel {channel} was read in a range of {engineering(span, 'V')}"

    def step(self, channel: int) -> float:
        """What one bit is worth [V]."""
        return self.ranges[channel] / float(2**BITS)

    def off(self, channel: int) -> float:
        """What a sample may be off [V], expanded: by half a step, the noise, and the channel's zero, even
        intervals but for the noise (JCGM 100:2008, 4.3.7)."""
        accuracy = self.client.dialect("oscilloscope").accuracy
        span = self.ranges[channel]
        zero = accuracy[1] * span if accuracy else ZERO_DIVISIONS * span / DIVISIONS
        step = self.step(channel)
        return COVERAGE * math.hypot(step / math.sqrt(12), NOISE * step, STANDARD * zero)

    @property
    def gain(self) -> float:
        """The share by which a channel may be off, expanded: its statement is an even interval."""
        accuracy = self.client.dialect("oscilloscope").accuracy
        return EXPANDED * (accuracy[0] if accuracy else GAIN_SHARE)

    def _fit(self, channel: int, values: Array) -> bool:
        """Choose another range where this one does not suit; whether it was changed."""
        span, offset = self.ranges[channel], self.offsets[channel]
        low, high = float(np.min(values)), float(np.max(values))
        if max(high - offset, offset - low) > _CLIPPED * span / 2:
            wanted = 4 * span
        elif high - low < _SMALL * span:
            wanted = max(high - low, 4 * self.step(channel)) / _FULL
        else:
            return False
        middle = 0.0 if wanted > span else (high + low) / 2
        # Where a large steady voltage is in the way of a small range, it stays as it is.
        wanted = min(max(wanted, self.least), self.most)
        if abs(wanted - span) < 1e-9 * span:
            return False
        self.ranges[channel], self.offsets[channel] = wanted, middle
        self._set_range(channel)
        return True

    def _set_range(self, channel: int) -> None:
        span, offset = self.ranges[channel], self.offsets[channel]
        self.client.tell("oscilloscope", "range", channel=channel, value=f"{span:.6E}")
        self.client.tell("oscilloscope", "offset", channel=channel, value=f"{offset:.6E}")


def channels_of(places: Sequence[Place]) -> dict[int, Place]:
    return dict(enumerate(places, 1))
