"""Record: what the oscilloscope sees at one place or two, over time."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from lucidbench.core.analyses import Watch
from lucidbench.core.errors import CircuitError, LucidError
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.runs.kinds import ANALYSES
from lucidbench.core.runs.kinds.rates import likely_output, likely_source, source_period
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.places import Place, between
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting
from lucidbench.core.units import engineering
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.models.oscilloscope import MOST_POINTS, SWEEPS
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


def _propose(circuit: Circuit, typed: Mapping[str, str]) -> Mapping[str, Proposal]:
    long, because, begins = _length(circuit)
    begins = typed.get("begins", "") or begins
    first, second = _likely(circuit, long)
    trigger = typed.get("trigger", "") or "1"
    watched = typed.get(f"at_{trigger}", "") or (first if trigger == "1" else second)
    return {
        "at_1": Proposal(None, "", first),
        "at_2": Proposal(None, "", second),
        "length": Proposal(long, because),
        "points": Proposal(1000.0, "as many as are seen"),
        "begins": Proposal(None, "", begins),
        "wave": Proposal(None, "", AS_DRAWN),
        "trigger": Proposal(None, "", "1"),
        "level": Proposal(*_level(circuit, watched, long, begins)),
        "slope": Proposal(None, "", "rising"),
        "before": Proposal(10.0, "a tenth"),
        "probe": Proposal(None, "", "10"),
        "average": Proposal(1.0, ""),
    }


def _likely(circuit: Circuit, long: float) -> tuple[str, str]:
    """Where the two probes are: on the source that moves and on the output; where none moves, on what moves
    most by itself."""
    source, out = likely_source(circuit), likely_output(circuit)
    if source is not None and source.waveform is not None and source.imposes == "V":
        first = next((n for n in source.nodes if n in circuit.nodes), out)
        return (first, out) if first != out else (out, "")
    if source is not None and source.waveform is not None:
        return out, ""
    try:
        state = steady(circuit, long, Watch(_PATIENCE))
    except LucidError:
        return out, ""
    times = min(state.period or long, state.span, long) * np.arange(_LOOKED) / _LOOKED
    size = {n: float(np.ptp(state.voltage(n, GROUND_NODE, times))) for n in circuit.nodes}
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


def _level(circuit: Circuit, key: str, long: float, begins: str) -> tuple[float, str]:
    """The middle of what is watched, where the engine can say it at once."""
    try:
        place = between(circuit, key)
        assert place.nodes is not None
        state: Steady
        if begins == SWITCH_ON:
            state = from_switch_on(circuit, long, Watch(_PATIENCE))
        else:
            state = steady(circuit, long, Watch(_PATIENCE))
        times = min(state.period or long, state.span) * np.arange(_LOOKED) / _LOOKED
        volts = state.voltage(*place.nodes, times)
    except LucidError:
        return 0.0, "the simulated signal is not known"
    middle = float(np.max(volts) + np.min(volts)) / 2
    size = float(np.ptp(volts))
    step = 10.0 ** math.floor(math.log10(size)) / 20 if size > 0 else 1.0
    return round(middle / step) * step, "the middle of the simulated signal"


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
        return Taken(tuple(columns), trigger=0.0)


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
    ),
    propose=_propose,
    leads=_leads,
    points=lambda settings: [0.0],
    begin=_begin,
    check=_check,
)  # fmt: skip
