"""Curve: the supply steps through voltages, and the meter reads a voltage or current at each."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs.kinds.rates import likely_output
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.probe_points import Place, between, place_of
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.models.meter import FUNCTIONS
from lucidbench.instruments.models.supply import VOLTS as SUPPLY_VOLTS
from lucidbench.instruments.ways.base import (
    Column,
    Lead,
    Taken,
    Way,
    as_drawn,
    clip,
    on_nodes,
    pair,
)
from lucidbench.instruments.ways.meter import accuracy

VOLTS, AMPS = "volts", "amps"
POINTS, MOST_POINTS = 25, 500


def _propose(circuit: Circuit, typed: Mapping[str, str]) -> Mapping[str, Proposal]:
    still = [e for e in circuit if e.imposes == "V" and e.waveform is None]
    source = circuit.by_name.get(typed.get("source", "")) or (still[0] if still else None)
    bent = next((e for e in circuit if e.kind == "diode"), None)
    resistors = [e for e in circuit if e.kind == "resistor"]
    # The current of what bends flows through what is in series with it, which a meter reads as well.
    at = bent.name if bent else resistors[0].name if resistors else likely_output(circuit)
    if typed.get("reads", "") == VOLTS:
        at = likely_output(circuit)
    top = float(source.values.get("voltage", 5.0)) if source else 5.0
    return {
        "source": Proposal(None, "", source.name if source else ""),
        "from": Proposal(0.0, ""),
        "to": Proposal(top or 5.0, "as the source is drawn"),
        "points": Proposal(float(POINTS), "enough for a smooth curve"),
        "reads": Proposal(None, "", AMPS),
        "at": Proposal(None, "", at),
        "limit": Proposal(0.5, "what most parts stand"),
    }


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    low, high = SUPPLY_VOLTS
    for key in ("from", "to"):
        if not low <= numbers.get(key, 0.0) <= high:
            yield key, f"The supply gives from {low:g} V to {high:g} V".replace("-", "\u2212")
    if numbers.get("from", 0.0) == numbers.get("to", 1.0):
        yield "to", "The curve ends where it begins"
    if not 2 <= numbers.get("points", 2) <= MOST_POINTS:
        yield "points", f"From 2 to {MOST_POINTS} steps can be taken"


def _points(settings: ResolvedSettings) -> list[float]:
    numbers = settings.numbers
    steps = np.linspace(numbers["from"], numbers["to"], round(numbers["points"]))
    return [float(f"{v:.6g}") for v in steps]


def _place(circuit: Circuit, settings: ResolvedSettings) -> Place:
    if (settings.texts["reads"] or AMPS) == VOLTS:
        return between(circuit, settings.texts["at"])
    place = place_of(circuit, settings.texts["at"])
    if not place.part:
        raise CircuitError(
            f"A current is read into a part, and {place.key} is a node; choose a part."
        )
    return place


def _leads(circuit: Circuit, settings: ResolvedSettings) -> list[Lead]:
    source = circuit.element(settings.texts["source"])
    if source.imposes != "V":
        raise CircuitError(f"{source.name} is no voltage source, which a supply could replace.")
    place = _place(circuit, settings)
    found = [Lead("supply", part=source.name, words=f"The supply in the place of {source.name}")]
    if (settings.texts["reads"] or AMPS) == VOLTS:
        return [*found, *on_nodes(place, "red", "black", "Meter")]
    words = (
        f"Open the circuit where the current flows into {place.key}, and put the meter in between"
    )
    return [*found, Lead("red", part=place.part, pin=place.pin, words=words)]


@dataclass
class _Stepping:
    client: BenchClient
    source: str
    quantity: str
    function: str

    def take(self, at: float) -> Taken:
        self.client.tell("supply", "volts", value=f"{at:.9E}")
        value = self.client.number("meter", "read")
        words = FUNCTIONS[self.function]
        common, rest = accuracy(self.client, words, value)
        return Taken(
            (
                Column(self.source, "V", (at,)),
                Column(self.quantity, words.unit, (value,), (rest,), common),
            )
        )


def _begin(client: BenchClient, circuit: Circuit, settings: ResolvedSettings) -> _Stepping:
    place = _place(circuit, settings)
    is_volts = (settings.texts["reads"] or AMPS) == VOLTS
    source = settings.texts["source"]
    as_drawn(client, "generator")
    client.reset("supply")
    clip(client, "supply", source)
    client.tell("supply", "limit", value=f"{settings.numbers['limit']:.6E}")
    client.tell("supply", "on")
    client.reset("meter")
    function = "VOLT:DC" if is_volts else "CURR:DC"
    client.tell("meter", "function", function=function)
    clip(client, "meter", pair(place) if is_volts else f"{place.part},{place.pin + 1}")
    return _Stepping(client, source, place.voltage if is_volts else place.current, function)


CURVE = Way(
    key="curve",
    label="Curve",
    answers="How does a current or voltage follow a source?",
    needs=("supply", "meter"),
    settings=(
        Setting(key="source", label="Supply for", reads="source", meaning="The source it stands in for."),
        Setting(key="from", label="From", unit="V", meaning="The first voltage."),
        Setting(key="to", label="To", unit="V", meaning="The last."),
        Setting(key="points", label="Steps", meaning="How many voltages, both ends among them."),
        Setting(key="reads", label="Reads", reads="choice",
                choices=[(AMPS, "a current"), (VOLTS, "a voltage")], meaning="What the meter is set to."),
        Setting(key="at", label="At", reads="place", meaning="The part whose current, or the place whose voltage."),
        Setting(key="limit", aside=True, label="Current limit", unit="A", meaning="Of the supply."),
    ),
    propose=_propose,
    leads=_leads,
    points=_points,
    begin=_begin,
    check=_check,
)  # fmt: skip
