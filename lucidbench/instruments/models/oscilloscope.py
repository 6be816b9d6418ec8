"""The oscilloscope: two channels of eight bits, triggered, averaged, each with a probe.

The commands are those of a digitizer (SCPI-1999, volume 4): SENSe, INPut, TRIGger, INITiate, TRACe.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lucidbench.instruments.bench import Attach, Bench, between, node_of
from lucidbench.instruments.scpi.errors import ScpiError
from lucidbench.instruments.scpi.instrument import Answer, Instrument, command
from lucidbench.instruments.scpi.syntax import Data, block, decimal, limits
from lucidbench.instruments.steady import Array, Steady

CHANNELS = 2
INPUT_RESISTANCE, INPUT_CAPACITANCE = 1e6, 15e-12  # [Ω], [F]
CABLE = 85e-12  # [F] of a probe that is straight through, beside the input's own
BITS = 8
DIVISIONS = 8  # of a channel's range
BANDWIDTH = 20e6  # [Hz], -3 dB
FASTEST = 100e6  # samples a second
MOST_POINTS, POINTS = 20_000, 1000
RANGES = (16e-3, 160.0)  # [V] from the bottom to the top, at the input
SWEEPS = (100e-9, 100.0)  # [s]
GAIN_SHARE = 0.02  # how far a channel's gain may be off
ZERO_DIVISIONS = 0.1  # and its zero
NOISE = 0.3  # of a step, one standard deviation
_COUPLING = 3.5  # [Hz], -3 dB of AC coupling
_LOOKED = 8192  # points looked at for the trigger
_LONGEST_SEARCH = 20  # sweeps, where nothing repeats


@dataclass
class Channel:
    """`range` is the span of the input [V] with the probe reckoned in."""

    range: float = 8.0
    offset: float = 0.0
    probe: float = 10.0
    is_ac: bool = False
    leads: tuple[str, ...] = ()


class Oscilloscope(Instrument):
    """Channels are counted 1 and 2. What was recorded stays until the next INITiate."""

    name, kind = "Oscilloscope", "oscilloscope"

    def __init__(self, bench: Bench) -> None:
        self.channels: list[Channel] = []
        super().__init__(bench)

    def reset(self) -> None:
        self.channels = [Channel() for _ in range(CHANNELS)]
        self.sweep, self.points, self.delay = 1e-3, POINTS, 0.0
        self.trigger, self.level, self.slope = 1, 0.0, 1  # channel (0: none), [V], sign
        self.averages = 1
        self.is_continuous = True
        self.format = "ASC"
        self.traces: list[Array] | None = None
        for k in range(CHANNELS):
            self.bench.attach(f"{self.kind} {k + 1}", None)

    @property
    def interval(self) -> float:
        """Between two samples [s]."""
        return max(self.sweep / self.points, 1 / FASTEST)

    # --- what it records -------------------------------------------------------------------------

    def record(self) -> None:
        """Both channels at once: of the settled circuit where it runs on, from switch-on for a single
        shot. Raises ScpiError where nothing triggers it."""
        if not any(channel.leads for channel in self.channels):
            raise ScpiError(-221, "no probe is anywhere; ROUTe1:CLOSe (@out,gnd) puts one")
        before = max(0.0, -self.delay)
        long = self.sweep + abs(self.delay)
        if self.is_continuous:
            state = self.bench.steady(_LONGEST_SEARCH * long)
        else:
            state = self.bench.from_switch_on(_LONGEST_SEARCH * long)
        start = self._trigger(state, before) + self.delay
        times = np.asarray(start + self.interval * np.arange(self.points), np.float64)
        chance = self.bench.noise(self.kind, self.drawn())
        self.traces = [
            self._seen(k, self._signal(channel, state, times), chance)
            if channel.leads
            else np.zeros(0)
            for k, channel in enumerate(self.channels)
        ]

    def _signal(self, channel: Channel, state: Steady, times: Array) -> Array:
        """At the tip of a probe [V]."""
        volts = state.voltage(*self._pair(channel), times) - self._left_behind(channel, state)
        if self.interval < 10 / BANDWIDTH:
            from scipy.signal import lfilter

            decay = np.exp(-2 * np.pi * BANDWIDTH * self.interval)
            volts = lfilter([1 - decay], [1, -decay], volts, zi=[volts[0] * decay])[0]
        return volts

    def _left_behind(self, channel: Channel, state: Steady) -> float:
        """By AC coupling: what is slower than a few hertz charges its capacitor, the mean first of all."""
        if not channel.is_ac:
            return 0.0
        window = state.period or min(state.span, 1 / _COUPLING)
        times = window * (np.arange(_LOOKED) + 0.5) / _LOOKED
        return float(np.mean(state.voltage(*self._pair(channel), times)))

    def _pair(self, channel: Channel) -> tuple[str, str]:
        plus, minus = (*channel.leads, "gnd")[:2]
        return node_of(self.bench.circuit, plus), node_of(self.bench.circuit, minus)

    def _trigger(self, state: Steady, before: float) -> float:
        """When it is triggered [s]. Raises ScpiError where the level is never crossed."""
        if not self.trigger:
            return before
        channel = self.channels[self.trigger - 1]
        if not channel.leads:
            raise ScpiError(-221, f"channel {self.trigger}, which triggers, is nowhere")
        window = state.period or min(state.span - self.sweep, _LONGEST_SEARCH * self.sweep)
        first = before if self.is_continuous and state.period is None else 0.0
        if state.period is None and np.isinf(state.span):
            return before  # at rest: it sweeps by itself
        times = first + window * np.arange(_LOOKED + 1) / _LOOKED
        pair, level = self._pair(channel), self.level + self._left_behind(channel, state)
        above = self.slope * (state.voltage(*pair, times) - level)
        rises = np.flatnonzero((above[:-1] < 0) & (above[1:] >= 0))
        if not len(rises):
            if self.is_continuous:
                return before  # as a sweep that waits no longer
            raise ScpiError(-213, "the level of the trigger was not crossed")
        low, high = times[rises[0]], times[rises[0] + 1]
        for _ in range(50):  # halved to the last digit
            middle = (low + high) / 2
            is_above = self.slope * (state.voltage(*pair, np.array([middle]))[0] - level)
            low, high = (low, middle) if is_above >= 0 else (middle, high)
        return float(high)

    def _seen(self, k: int, volts: Array, chance: np.random.Generator) -> Array:
        """Through gain, zero, noise and eight bits; the mean of so many sweeps."""
        channel = self.channels[k]
        gain, zero = self.bench.noise(f"{self.kind} {k}", 0).uniform(-0.8, 0.8, 2)
        off = volts * (1 + GAIN_SHARE * gain)
        off = off + ZERO_DIVISIONS * zero * channel.range / DIVISIONS
        step = channel.range / 2**BITS
        most = 2 ** (BITS - 1)
        total = np.zeros(len(volts))
        for _ in range(self.averages):
            codes = (off - channel.offset) / step + NOISE * chance.standard_normal(len(volts))
            total += np.clip(np.round(codes), -most, most - 1)
        return np.asarray(channel.offset + step * total / self.averages, np.float64)

    def _clip(self, k: int, leads: tuple[str, ...]) -> None:
        channel = self.channels[k]
        channel.leads = leads
        self.traces = None
        self.bench.attach(f"{self.kind} {k + 1}", self._probe(k) if leads else None)

    def _probe(self, k: int) -> Attach:
        """What a probe adds: ten times the input's resistance, and its capacitance; or all of a cable."""
        channel = self.channels[k]
        plus, minus = self._pair(channel)
        ohms = INPUT_RESISTANCE * channel.probe
        farads = INPUT_CAPACITANCE + (CABLE if channel.probe == 1 else 0.0)
        return between(f"Channel {k + 1}", plus, minus, ohms, farads)

    # --- its commands ----------------------------------------------------------------------------

    def _which(self, data: Data) -> int:
        number = data.suffixes[0]
        if not 1 <= number <= CHANNELS:
            raise ScpiError(-114, f"there are {CHANNELS} channels")
        return number - 1

    @command("ROUTe#:CLOSe")
    def _close(self, data: Data) -> Answer:
        leads = data.channels()
        if not 1 <= len(leads) <= 2:
            raise ScpiError(-224, "one place or two: (@out,gnd)")
        self._clip(self._which(data), leads)
        return None

    @command("ROUTe#:CLOSe:STATe?")
    def _closed(self, data: Data) -> Answer:
        return f"(@{','.join(self.channels[self._which(data)].leads)})"

    @command("ROUTe#:OPEN:ALL")
    def _open(self, data: Data) -> Answer:
        self._clip(self._which(data), ())
        return None

    @command("INPut#:ATTenuation")
    def _attenuation(self, data: Data) -> Answer:
        k = self._which(data)
        ratio = data.number("", 1, 10, 10)
        if ratio not in (1, 10):
            raise ScpiError(-224, "a probe is 1 or 10")
        self.channels[k].probe = ratio
        self._clip(k, self.channels[k].leads)
        return None

    @command("INPut#:ATTenuation?")
    def _told_attenuation(self, data: Data) -> Answer:
        return decimal(self.channels[self._which(data)].probe)

    @command("INPut#:COUPling")
    def _couple(self, data: Data) -> Answer:
        self.channels[self._which(data)].is_ac = data.choice("AC", "DC") == "AC"
        return None

    @command("INPut#:COUPling?")
    def _coupled(self, data: Data) -> Answer:
        return "AC" if self.channels[self._which(data)].is_ac else "DC"

    @command("[SENSe]:VOLTage#[:DC]:RANGe[:PTPeak]")
    def _range(self, data: Data) -> Answer:
        channel = self.channels[self._which(data)]
        channel.range = data.number("V", RANGES[0], RANGES[1] * channel.probe, 8.0)
        return None

    @command("[SENSe]:VOLTage#[:DC]:RANGe[:PTPeak]?")
    def _told_range(self, data: Data) -> Answer:
        channel = self.channels[self._which(data)]
        return decimal(limits(data, RANGES[0], RANGES[1] * channel.probe, 8.0) or channel.range)

    @command("[SENSe]:VOLTage#[:DC]:RANGe:OFFSet")
    def _offset(self, data: Data) -> Answer:
        channel = self.channels[self._which(data)]
        channel.offset = data.number("V", -RANGES[1] * 10, RANGES[1] * 10, 0.0)
        return None

    @command("[SENSe]:VOLTage#[:DC]:RANGe:OFFSet?")
    def _told_offset(self, data: Data) -> Answer:
        return decimal(self.channels[self._which(data)].offset)

    @command("[SENSe]:SWEep:TIME")
    def _time(self, data: Data) -> Answer:
        self.sweep = data.number("S", *SWEEPS, 1e-3)
        return None

    @command("[SENSe]:SWEep:TIME?")
    def _told_time(self, data: Data) -> Answer:
        return decimal(limits(data, *SWEEPS, 1e-3) or self.sweep)

    @command("[SENSe]:SWEep:POINts")
    def _points(self, data: Data) -> Answer:
        self.points = data.whole(2, MOST_POINTS, POINTS)
        return None

    @command("[SENSe]:SWEep:POINts?")
    def _told_points(self, data: Data) -> Answer:
        return str(self.points)

    @command("[SENSe]:SWEep:TINTerval?")
    def _interval(self, data: Data) -> Answer:
        return decimal(self.interval)

    @command("[SENSe]:SWEep:OFFSet:TIME")
    def _delay(self, data: Data) -> Answer:
        self.delay = data.number("S", -SWEEPS[1], SWEEPS[1], 0.0)
        return None

    @command("[SENSe]:SWEep:OFFSet:TIME?")
    def _told_delay(self, data: Data) -> Answer:
        return decimal(self.delay)

    @command("[SENSe]:AVERage:COUNt")
    def _average(self, data: Data) -> Answer:
        self.averages = data.whole(1, 256, 1)
        return None

    @command("[SENSe]:AVERage:COUNt?")
    def _averaged(self, data: Data) -> Answer:
        return str(self.averages)

    @command("TRIGger[:SEQuence]:SOURce")
    def _source(self, data: Data) -> Answer:
        word = data.choice("IMMediate", "INTernal1", "INTernal2")
        self.trigger = {"IMM": 0, "INT1": 1, "INT2": 2}[word]
        return None

    @command("TRIGger[:SEQuence]:SOURce?")
    def _told_source(self, data: Data) -> Answer:
        return ("IMM", "INT1", "INT2")[self.trigger]

    @command("TRIGger[:SEQuence]:LEVel")
    def _level(self, data: Data) -> Answer:
        self.level = data.number("V", -RANGES[1] * 10, RANGES[1] * 10, 0.0)
        return None

    @command("TRIGger[:SEQuence]:LEVel?")
    def _told_level(self, data: Data) -> Answer:
        return decimal(self.level)

    @command("TRIGger[:SEQuence]:SLOPe")
    def _slope(self, data: Data) -> Answer:
        self.slope = 1 if data.choice("POSitive", "NEGative") == "POS" else -1
        return None

    @command("TRIGger[:SEQuence]:SLOPe?")
    def _told_slope(self, data: Data) -> Answer:
        return "POS" if self.slope > 0 else "NEG"

    @command("INITiate:CONTinuous")
    def _continuous(self, data: Data) -> Answer:
        self.is_continuous = data.boolean()
        return None

    @command("INITiate:CONTinuous?")
    def _is_continuous(self, data: Data) -> Answer:
        return str(int(self.is_continuous))

    @command("INITiate[:IMMediate]")
    def _initiate(self, data: Data) -> Answer:
        self.record()
        return None

    @command("FORMat[:DATA]")
    def _format(self, data: Data) -> Answer:
        self.format = data.choice("ASCii", "REAL")
        if not data.is_over:
            data.number("", 32, 32) if self.format == "REAL" else data.number("", 0, 12)
        return None

    @command("FORMat[:DATA]?")
    def _told_format(self, data: Data) -> Answer:
        return "REAL,32" if self.format == "REAL" else "ASC,10"

    @command("TRACe[:DATA]?", "DATA?")
    def _trace(self, data: Data) -> Answer:
        which = int(data.choice("CH1", "CH2")[2:]) - 1
        if self.traces is None:
            raise ScpiError(-230, "nothing was recorded yet")
        values = self.traces[which]
        if not len(values):
            raise ScpiError(-221, f"channel {which + 1} is nowhere")
        if self.format == "REAL":
            return block(values.astype(">f4").tobytes())
        return ",".join(f"{v:.9E}" for v in values)
