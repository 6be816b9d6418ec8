"""Meter: one reading, of a voltage at a node or across a part, of a current into one, of a resistance."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs.kinds.rates import likely_output
from lucidbench.core.runs.probe_points import Place, between, place_of
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting
from lucidbench.core.units import engineering
from lucidbench.core.units.uncertain import EXPANDED
from lucidbench.instruments.client import BenchClient, BenchTrouble
from lucidbench.instruments.models.meter import BURDEN, FUNCTIONS, INPUT_RESISTANCE, Function
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

VOLTS, VOLTS_AC, AMPS, AMPS_AC, OHMS = "volts", "volts_ac", "amps", "amps_ac", "ohms"
CHOICES = [
    (VOLTS, "voltage, DC"), (VOLTS_AC, "voltage, AC (RMS)"), (AMPS, "current, DC"),
    (AMPS_AC, "current, AC (RMS)"), (OHMS, "resistance"),
]  # fmt: skip
_WORDS = {
    VOLTS: "VOLT:DC", VOLTS_AC: "VOLT:AC", AMPS: "CURR:DC", AMPS_AC: "CURR:AC", OHMS: "RES",
}  # fmt: skip
_BEYOND = 1e37  # what SCPI tells for a reading beyond the range


def _propose(circuit: Circuit, typed: Mapping[str, str]) -> Mapping[str, Proposal]:
    at = likely_output(circuit)
    if typed.get("function", "") in (AMPS, AMPS_AC, OHMS):
        at = next((e.name for e in circuit if e.kind == "resistor"), "")
    return {
        "function": Proposal(None, "", VOLTS),
        "at": Proposal(None, "", at),
        "against": Proposal(None, "", ""),
    }


def _place(circuit: Circuit, settings: ResolvedSettings) -> Place:
    texts = settings.texts
    function = texts["function"] or VOLTS
    if function in (VOLTS, VOLTS_AC):
        return between(circuit, texts["at"], texts["against"])
    place = place_of(circuit, texts["at"])
    if not place.part:
        what = (
            "A current is read into a part"
            if function != OHMS
            else "A resistance is that of a part"
        )
        raise CircuitError(f"{what}, and {place.key} is a node; choose a part.")
    if function == OHMS and place.nodes is None:
        raise CircuitError(f"{place.part} has more than two pins; a part of two can be measured.")
    return place


def _leads(circuit: Circuit, settings: ResolvedSettings) -> list[Lead]:
    place = _place(circuit, settings)
    function = settings.texts["function"] or VOLTS
    if function in (VOLTS, VOLTS_AC):
        return list(on_nodes(place, "red", "black", "Meter"))
    if function == OHMS:
        words = f"Take {place.part} out of the circuit, and hold both leads to it"
        return [Lead("out", part=place.part, words=words)]
    words = (
        f"Open the circuit where the current flows into {place.key}, and put the meter in between"
    )
    return [Lead("red", part=place.part, pin=place.pin, words=words)]


@dataclass
class _Reading:
    client: BenchClient
    place: Place
    function: str

    def take(self, at: float) -> Taken:
        words = FUNCTIONS[_WORDS[self.function]]
        self.client.tell("meter", "function", function=words.words)
        clip(self.client, "meter", self._places)
        value = self.client.number("meter", "read")
        if abs(value) > _BEYOND:
            raise BenchTrouble(
                f"The multimeter shows an overload at {self.place.key}: it is beyond its largest range, "
                f"{engineering(words.statement.ranges[-1], words.unit)}."
            )
        common, rest = accuracy(self.client, words, value)
        whole = common * abs(value) + rest
        column = Column(self._quantity, words.unit, (value,), (whole,))
        note = dict(CHOICES)[self.function]
        if self.function in (VOLTS, VOLTS_AC):
            note += f", {engineering(INPUT_RESISTANCE, 'Ω')} across"
        if self.function in (AMPS, AMPS_AC):
            span = words.statement.range_for(value) or words.statement.ranges[-1]
            note += f", {engineering(BURDEN[span], 'Ω')} in series"
        return Taken((column,), note=note)

    @property
    def _places(self) -> str:
        if self.function in (VOLTS, VOLTS_AC):
            return pair(self.place)
        if self.function == OHMS:
            return self.place.part
        return f"{self.place.part},{self.place.pin + 1}"

    @property
    def _quantity(self) -> str:
        if self.function in (VOLTS, VOLTS_AC):
            return self.place.voltage
        return self.place.part if self.function == OHMS else self.place.current


def accuracy(client: BenchClient, function: Function, value: float) -> tuple[float, float]:
    """(share of the value by which all readings are off together, what may come to each), expanded.

    The maker's interval is taken as even: its standard uncertainty is its half over √3 (JCGM 100:2008,
    4.3.7), and twice that the expanded one.
    """
    statement = function.statement
    own = client.dialect("meter").accuracy
    share = statement.share
    rest = statement.uncertainty(value) - share * abs(value)
    if own is not None:
        share, rest = own[0], own[1] * (statement.range_for(value) or statement.ranges[-1])
    return EXPANDED * share, EXPANDED * rest


def _begin(client: BenchClient, circuit: Circuit, settings: ResolvedSettings) -> _Reading:
    as_drawn(client)
    client.reset("meter")
    return _Reading(client, _place(circuit, settings), settings.texts["function"] or VOLTS)


METER = Way(
    key="meter",
    label="Meter",
    answers="What is the voltage here, the current through this, the resistance of that?",
    needs=("meter",),
    settings=(
        Setting(key="function", label="Reads", reads="choice", choices=CHOICES,
                meaning="What the meter is set to."),
        Setting(key="at", label="At", reads="place", meaning="A node, or a part; point at it on the drawing."),
        Setting(key="against", label="Against", reads="against", optional=True,
                meaning="The node of the black lead; nothing: ground."),
    ),
    propose=_propose,
    leads=_leads,
    points=lambda settings: [0.0],
    begin=_begin,
    is_table=False,
)  # fmt: skip
