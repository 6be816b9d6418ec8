"""Component: one part taken out and measured by the bridge, as R, L or C with its loss."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting
from lucidbench.core.units import engineering
from lucidbench.core.units.uncertain import EXPANDED
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.models.bridge import FREQUENCIES, SHARE
from lucidbench.instruments.ways.base import Column, Lead, Taken, Way, clip

_FIRST = ("flux", "charge", "")  # coils first, as they differ most from what is drawn
_DECADES = (100.0, 1e3, 10e3, 100e3)  # [Hz]
_USUAL = 1e3  # [Ω] at which reactance a part is best measured


def _propose(circuit: Circuit, typed: Mapping[str, str]) -> Mapping[str, Proposal]:
    parts = sorted(
        (e for e in circuit if e.handling.bridge),
        key=lambda e: (_FIRST.index(e.device.description.stores), not e.handling.mistaken),
    )
    name = typed.get("part", "") or (parts[0].name if parts else "")
    frequency, because = 1e3, "as is usual"
    part = circuit.by_name.get(name)
    if part is not None and part.kind in ("inductor", "capacitor"):
        frequency = min(_DECADES, key=lambda f: abs(math.log(_reactance(part, f) / _USUAL)))
        because = f"where {name} has some {engineering(_reactance(part, frequency), 'Ω', 1)}"
    return {"part": Proposal(None, "", name), "frequency": Proposal(frequency, because)}


def _reactance(part: Element, frequency: float) -> float:
    omega = 2 * math.pi * frequency
    if part.kind == "inductor":
        return float(omega * part.values["inductance"])
    return float(1 / (omega * part.values["capacitance"]))


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    low, high = FREQUENCIES
    if not low <= numbers.get("frequency", low) <= high:
        yield (
            "frequency",
            f"The bridge measures from {engineering(low, 'Hz')} to {engineering(high, 'Hz')}",
        )


def _leads(circuit: Circuit, settings: ResolvedSettings) -> list[Lead]:
    part = circuit.element(settings.texts["part"]).name
    words = f"Take {part} out of the circuit and put it into the clamps of the bridge"
    return [Lead("out", part=part, words=words)]


@dataclass
class _Measured:
    client: BenchClient
    part: Element
    frequency: float

    def take(self, at: float) -> Taken:
        self.client.tell("bridge", "frequency", value=self.frequency)
        clip(self.client, "bridge", self.part.name)
        r, x = self.client.numbers("bridge", "read")[:2]
        omega = 2 * math.pi * self.frequency
        # The statement is an even interval in every direction of the plane.
        off = EXPANDED * SHARE * math.hypot(r, x)
        name, loss = self.part.name, engineering(r, "Ω")
        loss = f"{loss} ± {engineering(off, 'Ω', 2)}".replace("\u00a0", " ")
        at_frequency = engineering(self.frequency, "Hz").replace("\u00a0", " ")
        if self.part.kind == "inductor":
            column = Column(name, "H", (x / omega,), (off / omega,))
            return Taken((column,), note=f"with {loss} in series, at {at_frequency}")
        if self.part.kind == "capacitor":
            farads = -1 / (omega * x)
            column = Column(name, "F", (farads,), (farads * off / abs(x),))
            return Taken((column,), note=f"with {loss} in series, at {at_frequency}")
        return Taken((Column(name, "Ω", (r,), (off,)),), note=f"at {at_frequency}")


def _begin(client: BenchClient, circuit: Circuit, settings: ResolvedSettings) -> _Measured:
    client.reset("bridge")
    part = circuit.element(settings.texts["part"])
    return _Measured(client, part, settings.numbers["frequency"])


COMPONENT = Way(
    key="component",
    label="Component",
    answers="What is this part really: its value, and its loss?",
    needs=("bridge",),
    settings=(
        Setting(key="part", label="Part", reads="part", meaning="Taken out of the circuit and measured alone."),
        Setting(key="frequency", label="At", unit="Hz", meaning="The frequency it is measured at."),
    ),
    propose=_propose,
    leads=_leads,
    points=lambda settings: [0.0],
    begin=_begin,
    is_table=False,
    check=_check,
)  # fmt: skip
