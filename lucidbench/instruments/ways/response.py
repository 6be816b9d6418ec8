"""Response: the generator goes through the frequencies, and sines are fitted to input and output."""

from __future__ import annotations

import cmath
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.records.propagation import Array, propagated
from lucidbench.core.records.sine_fit import fit_sine
from lucidbench.core.runs.kinds import ANALYSES
from lucidbench.core.runs.kinds.rates import likely_output, likely_source
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.probe_points import Place, between
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting
from lucidbench.core.units import engineering
from lucidbench.core.units.uncertain import COVERAGE
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.models.generator import AMPLITUDES, FREQUENCIES
from lucidbench.instruments.ways.base import (
    Column,
    Lead,
    Taken,
    Way,
    as_drawn,
    generate,
    on_nodes,
)
from lucidbench.instruments.ways.scope import Scope

POINTS, MOST_POINTS = 50, 500
_PERIODS, _SAMPLES, _AVERAGES = 4, 400, 16
_PHASE = 0.1  # [°], the two channels against each other; common practice, no published source
_LOGARITHMIC, _LINEAR = "log", "lin"


def _propose(circuit: Circuit, typed: Mapping[str, str]) -> Mapping[str, Proposal]:
    source = likely_source(circuit)
    band = ANALYSES["frequency_sweep"].proposals(circuit)
    amplitude = 1.0
    if source is not None and source.waveform is not None:
        volts = source.waveform.value(np.linspace(0, source.waveform.period or 1e-3, 200))
        amplitude = float(np.ptp(volts)) / 2 or 1.0
    told = {
        "source": Proposal(None, "", source.name if source else ""),
        "at": Proposal(None, "", likely_output(circuit)),
        "points": Proposal(float(POINTS), "enough for a smooth curve"),
        "spacing": Proposal(None, "", _LOGARITHMIC),
        "amplitude": Proposal(min(max(amplitude, AMPLITUDES[0]), AMPLITUDES[1]),
                              "as the source is drawn"),
        "probe": Proposal(None, "", "10"),
    }  # fmt: skip
    for key in ("from", "to"):
        proposal = band.get(key, Proposal(1e2 if key == "from" else 1e5, ""))
        assert proposal.number is not None
        told[key] = Proposal(min(max(proposal.number, 0.1), 10e6), proposal.because)
    return told


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    low, high = FREQUENCIES
    for key in ("from", "to"):
        if not low <= numbers.get(key, low) <= high:
            yield (
                key,
                f"The generator goes from {engineering(low, 'Hz')} to {engineering(high, 'Hz')}",
            )
    if numbers.get("from", 1.0) >= numbers.get("to", 2.0):
        yield "to", "The last frequency must be above the first"
    if not 2 <= numbers.get("points", 2) <= MOST_POINTS:
        yield "points", f"From 2 to {MOST_POINTS} frequencies can be gone through"
    if not AMPLITUDES[0] <= numbers.get("amplitude", 1.0) <= AMPLITUDES[1]:
        yield "amplitude", f"The generator gives from {engineering(AMPLITUDES[0], 'V')} to {engineering(AMPLITUDES[1], 'V')}"  # fmt: skip


def _points(settings: ResolvedSettings) -> list[float]:
    low, high = settings.numbers["from"], settings.numbers["to"]
    spaced = np.linspace if settings.texts["spacing"] == _LINEAR else np.geomspace
    return [float(f"{f:.6g}") for f in spaced(low, high, round(settings.numbers["points"]))]


def _places(circuit: Circuit, settings: ResolvedSettings) -> tuple[Place, Place]:
    """(input, output). Raises CircuitError."""
    source = circuit.element(settings.texts["source"])
    if source.imposes != "V":
        raise CircuitError(f"{source.name} is no voltage source, which a generator could replace.")
    plus, minus = source.nodes
    across = Place(plus, "", (plus, minus))
    if plus == GROUND_NODE:
        across = Place(minus, "", (minus, plus))
    return across, between(circuit, settings.texts["at"])


def _leads(circuit: Circuit, settings: ResolvedSettings) -> list[Lead]:
    source = settings.texts["source"]
    first, second = _places(circuit, settings)
    words = f"The generator in the place of {source}"
    return [
        Lead("generator", part=source, words=words),
        *on_nodes(first, "channel 1", None, "Probe of channel 1"),
        *on_nodes(second, "channel 2", None, "Probe of channel 2"),
    ]


@dataclass
class _Sweeping:
    client: BenchClient
    scope: Scope
    ratio: str

    def take(self, at: float) -> Taken:
        self.client.tell("generator", "frequency", value=f"{at:.9E}")
        self.scope.sweep(_PERIODS / at, _SAMPLES)
        found = self.scope.acquire()
        interval = self.client.number("oscilloscope", "interval")
        times = np.asarray(interval * np.arange(len(found[1])), np.float64)
        first, second = (fit_sine(times, found[k], at) for k in (1, 2))
        parts = [part for fit in (first, second) for part in (fit.phasor.real, fit.phasor.imag)]
        spread = np.repeat([first.uncertainty, second.uncertainty], 2)
        (size, degrees), covariance = propagated(_ratio, np.array(parts), np.diag(spread**2))
        random, turned = COVERAGE * np.sqrt(np.diag(covariance))
        off = math.hypot(turned, COVERAGE * _PHASE)
        common = math.sqrt(2) * self.scope.gain
        return Taken(
            (
                Column("f", "Hz", (at,)),
                Column(f"abs({self.ratio})", "", (float(size),), (float(random),), common),
                Column(f"arg({self.ratio})", "°", (float(degrees),), (off,)),
            )
        )


def _ratio(parts: Array) -> tuple[float, float]:
    """(magnitude, phase [°]) of the second phasor over the first, by their real and imaginary parts."""
    ratio = complex(*parts[2:]) / complex(*parts[:2])
    return abs(ratio), math.degrees(cmath.phase(ratio))


def _begin(client: BenchClient, circuit: Circuit, settings: ResolvedSettings) -> _Sweeping:
    first, second = _places(circuit, settings)
    scope = Scope(client, {1: first, 2: second}, float(settings.texts["probe"] or "10"), is_ac=True)
    client.tell("oscilloscope", "average", value=_AVERAGES)
    client.tell("oscilloscope", "untriggered")
    as_drawn(client, "supply")
    generate(client, settings.texts["source"], "SINusoid", settings.numbers["amplitude"])
    above, below = second.voltage, first.voltage
    ratio = "/".join(text if " " not in text else f"({text})" for text in (above, below))
    return _Sweeping(client, scope, ratio)


RESPONSE = Way(
    key="response",
    label="Response",
    answers="How do gain and phase depend on frequency?",
    needs=("generator", "oscilloscope"),
    settings=(
        Setting(key="source", label="Generator for", reads="source", meaning="The source it stands in for."),
        Setting(key="at", label="Output", reads="place", meaning="Where channel 2 is; channel 1 is on the generator."),
        Setting(key="from", label="From", unit="Hz", meaning="The first frequency."),
        Setting(key="to", label="To", unit="Hz", meaning="The last."),
        Setting(key="points", label="Frequencies", meaning="How many."),
        Setting(key="spacing", aside=True, label="Spaced", reads="choice",
                choices=[(_LOGARITHMIC, "evenly by decades"), (_LINEAR, "evenly")], meaning="How they follow."),
        Setting(key="amplitude", aside=True, label="Amplitude", unit="V", meaning="Peak value into an open circuit."),
        Setting(key="probe", aside=True, label="Probes", reads="choice", choices=[("10", "10x"), ("1", "1x")],
                meaning="10x loads less: 10 MΩ and 15 pF; 1x: 1 MΩ and 100 pF."),
    ),
    propose=_propose,
    leads=_leads,
    points=_points,
    begin=_begin,
    check=_check,
)  # fmt: skip
