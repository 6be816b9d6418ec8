"""Record: what the oscilloscope sees at one place or two, over time."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from lucidbench.core.analyses import Watch
from lucidbench.core.errors import CircuitError, LucidError
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.runs.kinds import ANALYSES
from lucidbench.core.runs.kinds.rates import likely_output, likely_source, source_period
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.probe_points import Place, between
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting
from lucidbench.core.units import engineering
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.models.oscilloscope import MOST_POINTS, RANGES, SWEEPS
from lucidbench.instruments.steady import Steady, from_switch_on, steady
from lucidbench.instruments.ways.base import (
    Column,
    Lead,
    Taken,
    Way,
    as_drawn,
    generate,
    on_nodes,
)
from lucidbench.instruments.ways.scope import Scope, channels_of

RUNNING, SWITCH_ON = "running", "switch_on"
AS_DRAWN = "drawn"
_WAVES = {"sine": "SINusoid", "square": "SQUare", "triangle": "TRIangle"}
_PERIODS = 3
_PATIENCE = 2.0  # s that a proposal may take the engine
_LOOKED = 2048
HELD, FOUND = "held", "found"
_FILLED = 0.75  # of a range, by the signal
_FINEST = 50.0  # how many ranges a steady voltage may be away: finer, it drowns in its own ripple


@dataclass(frozen=True)
class _Signals:
    """What is to be seen of the circuit as it is drawn, as far as the engine can say it in short time."""

    circuit: Circuit
    long: float
    begins: str

    @cached_property
    def _state(self) -> Steady | None:
        known = from_switch_on if self.begins == SWITCH_ON else steady
        try:
            return known(self.circuit, self.long, Watch(_PATIENCE))
        except LucidError:
            return None

    def within(self, plus: str, minus: str) -> tuple[float, float] | None:
        """(lowest, highest) voltage between two nodes [V]."""
        state = self._state
        if state is None:
            return None
        window = min(state.period or self.long, state.span, self.long)
        volts = state.voltage(plus, minus, window * np.arange(_LOOKED) / _LOOKED)
        return float(np.min(volts)), float(np.max(volts))

    def at(self, key: str) -> tuple[float, float] | None:
        """The same at a place, where there is such a one."""
        try:
            place = between(self.circuit, key)
        except LucidError:
            return None
        return self.within(*place.nodes) if place.nodes else None


def _propose(circuit: Circuit, typed: Mapping[str, str]) -> Mapping[str, Proposal]:
    long, because, begins = _length(circuit)
    begins = typed.get("begins", "") or begins
    signals = _Signals(circuit, long, begins)
    places = dict(zip(("1", "2"), _likely(signals), strict=True))
    trigger = typed.get("trigger", "") or "1"
    watched = {k: typed.get(f"at_{k}", "") or place for k, place in places.items()}
    told = {
        "at_1": Proposal(None, "", places["1"]),
        "at_2": Proposal(None, "", places["2"]),
        "length": Proposal(long, because),
        "points": Proposal(1000.0, "as many as are seen"),
        "begins": Proposal(None, "", begins),
        "wave": Proposal(None, "", AS_DRAWN),
        "trigger": Proposal(None, "", "1"),
        "level": Proposal(*_level(signals.at(watched[trigger]))),
        "slope": Proposal(None, "", "rising"),
        "before": Proposal(10.0, "a tenth"),
        "probe": Proposal(None, "", "10"),
        "average": Proposal(1.0, ""),
    }
    is_set = any(typed.get(f"{what}_{k}", "") for what in ("range", "middle") for k in places)
    told["ranging"] = Proposal(None, "", HELD if is_set else FOUND)
    for k in places:
        span, middle = _screen(signals.at(watched[k]))
        told[f"range_{k}"] = Proposal(span, "")
        told[f"middle_{k}"] = Proposal(middle, "")
    return told


def _likely(signals: _Signals) -> tuple[str, str]:
    """Where the two probes are: on the source that moves and on the output; where none moves, on what moves
    most by itself."""
    circuit = signals.circuit
    source, out = likely_source(circuit), likely_output(circuit)
    if source is not None and source.waveform is not None and source.imposes == "V":
        first = next((n for n in source.nodes if n in circuit.nodes), out)
        return (first, out) if first != out else (out, "")
    if source is not None and source.waveform is not None:
        return out, ""
    seen = {node: signals.within(node, GROUND_NODE) or (0.0, 0.0) for node in circuit.nodes}
    size = {node: high - low for node, (low, high) in seen.items()}
    moving = sorted((n for n in circuit.nodes if size[n] > 0), key=lambda n: -size[n])
    return (*moving, out, "")[:2] if moving else (out, "")  # type: ignore[return-value]


def _length(circuit: Circuit) -> tuple[float, str, str]:
    """(how long [s], why, how it begins)"""
    period = source_period(circuit)
    if period:
        span = _PERIODS * period
        return span, f"{_PERIODS} periods of the source", RUNNING
    proposal = ANALYSES["transient"].proposals(circuit).get("stop")
    moving = any(e.waveform is not None for e in circuit)
    if proposal is None or not proposal.number:
        return 10e-3, "nothing in the circuit says how long", SWITCH_ON
    return proposal.number, proposal.because, SWITCH_ON if moving else RUNNING


def _level(seen: tuple[float, float] | None) -> tuple[float, str]:
    """The middle of what is watched."""
    if seen is None:
        return 0.0, "the simulated signal is not known"
    size = seen[1] - seen[0]
    step = 10.0 ** math.floor(math.log10(size)) / 20 if size > 0 else 1.0
    return round(sum(seen) / 2 / step) * step, "the middle of the simulated signal"


def _screen(seen: tuple[float, float] | None) -> tuple[float, float]:
    """(range, middle) [V] that show a signal with some room about it: 1, 2 or 5 and a power of ten."""
    low, high = seen or (-4.0, 4.0)
    wanted = max((high - low) / _FILLED, abs(high) / _FINEST, abs(low) / _FINEST, RANGES[0])
    decade = 10.0 ** math.floor(math.log10(wanted))
    span = next(k * decade for k in (1, 2, 5, 10) if k * decade >= wanted * (1 - 1e-9))
    return span, round((low + high) / 2 / span * 10) * span / 10


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    low, high = SWEEPS
    if not low <= numbers.get("length", low) <= high:
        yield (
            "length",
            f"The oscilloscope records from {engineering(low, 's')} to {engineering(high, 's')}",
        )
    if not 2 <= numbers.get("points", 2.0) <= MOST_POINTS:
        yield "points", f"The oscilloscope records from 2 to {MOST_POINTS:,} points"
    if not 0 <= numbers.get("before", 0.0) <= 100:
        yield "before", "The part before the trigger is a share, from 0 to 100 %"
    probe = float(looks["probe"].text or looks["probe"].proposed or "10")
    least, most = (limit * probe for limit in RANGES)
    for key in ("range_1", "range_2"):
        if looks[key].text and not least <= numbers.get(key, least) <= most:
            yield (
                key,
                f"With this probe a range goes from {engineering(least, 'V')} to {engineering(most, 'V')}",
            )
    if not 1 <= numbers.get("average", 1.0) <= 256:
        yield "average", "From 1 to 256 sweeps can be averaged"


def _places(circuit: Circuit, settings: ResolvedSettings) -> list[Place]:
    keys = [settings.texts["at_1"], settings.texts["at_2"]]
    return [between(circuit, key) for key in keys if key]


def _leads(circuit: Circuit, settings: ResolvedSettings) -> list[Lead]:
    found: list[Lead] = []
    for k, place in enumerate(_places(circuit, settings), 1):
        role = "channel 1" if k == 1 else "channel 2"
        found += on_nodes(place, role, None, f"Probe of channel {k}")  # type: ignore[arg-type]
    return found


@dataclass
class _Recording:
    scope: Scope
    length: float
    points: int
    before: float

    def take(self, at: float) -> Taken:
        delay = -self.before * self.length
        self.scope.sweep(self.length, self.points, delay)
        found = self.scope.acquire()
        interval = self.scope.client.number("oscilloscope", "interval")
        times = delay + interval * np.arange(len(found[1]))
        columns = [Column("t", "s", tuple(times.tolist()))]
        for channel, values in found.items():
            columns.append(
                Column(
                    self.scope.places[channel].voltage, "V", tuple(np.round(values, 9).tolist()),
                    (self.scope.off(channel),), self.scope.gain,
                )
            )  # fmt: skip
        return Taken(tuple(columns), trigger=0.0, note="; ".join(self.scope.remarks(found)))


def _drive(client: BenchClient, circuit: Circuit, shape: str) -> None:
    """The generator in the place of the source that moves, as fast and as large as that is drawn. Raises
    CircuitError where there is none."""
    source = likely_source(circuit)
    wave = source.waveform if source else None
    if source is None or source.imposes != "V" or wave is None or not wave.period:
        raise CircuitError("Another waveform takes the place of a voltage source that repeats.")
    volts = wave.value(wave.period * np.arange(_LOOKED) / _LOOKED)
    low, high = float(np.min(volts)), float(np.max(volts))
    size, middle = (high - low) / 2, (high + low) / 2
    generate(client, source.name, shape, size, 1 / wave.period, middle)


def _begin(client: BenchClient, circuit: Circuit, settings: ResolvedSettings) -> _Recording:
    texts, numbers = settings.texts, settings.numbers
    if texts.get("wave", "") in _WAVES:
        _drive(client, circuit, _WAVES[texts["wave"]])
    else:
        as_drawn(client)
    scope = Scope(client, channels_of(_places(circuit, settings)), float(texts["probe"] or "10"))
    scope.is_held = texts["ranging"] == HELD
    for channel in scope.places:
        scope.show(channel, numbers[f"range_{channel}"], numbers[f"middle_{channel}"])
    client.tell("oscilloscope", "average", value=round(numbers["average"]))
    is_single = (texts["begins"] or RUNNING) == SWITCH_ON
    client.tell("oscilloscope", "single" if is_single else "running")
    slope = "NEG" if texts["slope"] == "falling" else "POS"
    scope.trigger(int(texts["trigger"] or "1"), numbers["level"], slope)
    return _Recording(scope, numbers["length"], round(numbers["points"]), numbers["before"] / 100)


RECORD = Way(
    key="record",
    label="Record",
    answers="What does the signal look like over time?",
    needs=("oscilloscope",),
    settings=(
        Setting(key="at_1", label="Channel 1", reads="place", meaning="Where its probe is: a node, or a part."),
        Setting(key="at_2", label="Channel 2", reads="place", optional=True, meaning="The same; may be nowhere."),
        Setting(key="length", label="How long", unit="s", meaning="From the left edge to the right."),
        Setting(key="begins", label="Taken", reads="choice",
                choices=[(RUNNING, "while it runs"), (SWITCH_ON, "from switch-on, once")],
                meaning="Long after it was switched on; or a single shot as it is."),
        Setting(key="wave", label="Driven by", reads="choice",
                choices=[(AS_DRAWN, "the source as drawn"), ("sine", "a sine"), ("square", "a square"),
                         ("triangle", "a triangle")],
                meaning="Another waveform comes from the generator, as fast and as large."),
        Setting(key="trigger", label="Triggered by", reads="choice",
                choices=[("1", "channel 1"), ("2", "channel 2")], meaning="Which channel sets it off."),
        Setting(key="level", label="Level", unit="V", meaning="What it has to pass through."),
        Setting(key="slope", label="Edge", reads="choice",
                choices=[("rising", "rising"), ("falling", "falling")], meaning="In which direction."),
        Setting(key="before", aside=True, label="Before the trigger", unit="%", meaning="What part of it is shown from before."),
        Setting(key="points", aside=True, label="Points", meaning="Samples from edge to edge."),
        Setting(key="average", aside=True, label="Averaged", meaning="Over how many sweeps; noise falls with their root."),
        Setting(key="probe", aside=True, label="Probe", reads="choice", choices=[("10", "10x"), ("1", "1x")],
                meaning="10x loads less: 10 MΩ and 15 pF; 1x: 1 MΩ and 100 pF."),
        Setting(key="range_1", aside=True, label="Range 1", unit="V",
                meaning="Channel 1, from the lowest voltage it shows to the highest."),
        Setting(key="middle_1", aside=True, label="Middle 1", unit="V", meaning="The voltage in the middle of that range."),
        Setting(key="range_2", aside=True, label="Range 2", unit="V",
                meaning="Channel 2, from the lowest voltage it shows to the highest."),
        Setting(key="middle_2", aside=True, label="Middle 2", unit="V", meaning="The voltage in the middle of that range."),
        Setting(key="ranging", aside=True, label="Where a range does not fit", reads="choice",
                choices=[(FOUND, "find one that does"), (HELD, "leave it as set")],
                meaning="What is done where the signal goes beyond a range, or is lost in it."),
    ),
    propose=_propose,
    leads=_leads,
    points=lambda settings: [0.0],
    begin=_begin,
    check=_check,
)  # fmt: skip
