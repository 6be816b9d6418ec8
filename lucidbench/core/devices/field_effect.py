"""Field-effect transistors: insulated gate and junction gate, by the square law.

Shichman and Hodges, Modeling and simulation of insulated-gate field-effect transistor switching
circuits, IEEE Journal of Solid-State Circuits 3, 1968.
"""

from __future__ import annotations

from typing import Any

from lucidbench.core.devices.base import (
    Description,
    Device,
    Given,
    Law,
    Parameter,
    Preset,
    Setting,
    Stamps,
    Tie,
)
from lucidbench.core.devices.diode import plain_junction

_NOT_NEGATIVE: dict[str, Any] = {"minimum": 0.0}


class InsulatedGate(Device):
    """MOSFET. Pins drain, gate, source, bulk; the bulk acts through the body effect alone."""

    letter = "M"

    def __init__(self, kind: str, label: str, sign: int, words: tuple[str, ...]) -> None:
        self.sign = sign
        threshold = "1" if sign > 0 else "-1"
        self.description = Description(  # type: ignore[misc]  # one class, two kinds
            kind=kind,
            amplifies=True,
            label=label,
            purpose="Semiconductors",
            prefix="M",
            words=words,
            pins=("D", "G", "S", "B"),
            currents=(("D", 0), ("G", 1), ("S", 2)),
            parameters=(
                Parameter("threshold", "Threshold voltage", "V", threshold, "V_GS at which it begins to conduct.", symbol="V_t"),
                Parameter("transconductance", "Process transconductance", "A/V²", "20u", "K' in i_D = K'/2·W/L·(v_GS - V_t)².", positive=True),
                Parameter("width", "Channel width", "m", "100u", "W.", positive=True),
                Parameter("length", "Channel length", "m", "100u", "L.", positive=True),
                Parameter("modulation", "Channel-length modulation", "1/V", "0", "λ.", **_NOT_NEGATIVE),
                Parameter("body_effect", "Body effect", "√V", "0", "γ.", **_NOT_NEGATIVE),
                Parameter("surface_potential", "Surface potential", "V", "0.6", "2φ_F.", positive=True),
                Parameter("gate_source_capacitance", "Gate-source capacitance", "F", "0", "C_GS.", **_NOT_NEGATIVE),
                Parameter("gate_drain_capacitance", "Gate-drain capacitance", "F", "0", "C_GD.", **_NOT_NEGATIVE),
            ),
            presets=(
                Preset(
                    "Small switch",
                    {
                        "threshold": "1.8" if sign > 0 else "-1.8",
                        "transconductance": "0.12",
                        "modulation": "0.01",
                        "gate_source_capacitance": "40p",
                        "gate_drain_capacitance": "6p",
                    },
                ),
            ),
        )  # fmt: skip

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        drain, gate, source, bulk = range(4)
        shape = self.value(given, "width") / self.value(given, "length")
        into.use(
            Law.CHANNEL,
            (
                self.value(given, "transconductance") * shape,
                self.sign * self.value(given, "threshold"),
                self.value(given, "modulation"),
                self.value(given, "body_effect"),
                self.value(given, "surface_potential"),
            ),
            (self._pair(gate, source), self._pair(drain, source), self._pair(bulk, source)),
            (self._pair(drain, source),),
        )
        into.capacitance(gate, source, self.value(given, "gate_source_capacitance"))
        into.capacitance(gate, drain, self.value(given, "gate_drain_capacitance"))

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 2, Tie.BY_CONDUCTANCE), (1, 2, Tie.NOT_AT_ALL), (3, 2, Tie.NOT_AT_ALL))

    def _pair(self, a: int, b: int) -> tuple[int, int]:
        return (a, b) if self.sign > 0 else (b, a)


class JunctionGate(Device):
    """JFET. Pins drain, gate, source."""

    letter = "J"

    def __init__(self, kind: str, label: str, sign: int, words: tuple[str, ...]) -> None:
        self.sign = sign
        self.description = Description(  # type: ignore[misc]  # one class, two kinds
            kind=kind,
            amplifies=True,
            label=label,
            purpose="Semiconductors",
            prefix="J",
            words=words,
            pins=("D", "G", "S"),
            currents=(("D", 0), ("G", 1), ("S", 2)),
            parameters=(
                Parameter("pinch_off", "Pinch-off voltage", "V", "-2", "V_GS at which it stops conducting, written for the N channel (below zero).", symbol="V_P"),
                Parameter("transconductance", "Transconductance", "A/V²", "0.1m", "β in i_D = β·(v_GS - V_P)².", positive=True),
                Parameter("modulation", "Channel-length modulation", "1/V", "0", "λ.", **_NOT_NEGATIVE),
                Parameter("gate_current", "Gate saturation current", "A", "1e-14", "I_S of its gate junctions.", positive=True),
                Parameter("gate_source_capacitance", "Gate-source capacitance", "F", "0", "At no voltage.", **_NOT_NEGATIVE),
                Parameter("gate_drain_capacitance", "Gate-drain capacitance", "F", "0", "At no voltage.", **_NOT_NEGATIVE),
                Parameter("gate_potential", "Gate potential", "V", "1", "Built in.", positive=True),
            ),
        )  # fmt: skip

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        drain, gate, source = range(3)
        into.use(
            Law.CHANNEL,
            (
                2 * self.value(given, "transconductance"),
                self.value(given, "pinch_off"),
                self.value(given, "modulation"),
                0.0,
                1.0,
            ),
            (self._pair(gate, source), self._pair(drain, source), self._pair(source, source)),
            (self._pair(drain, source),),
        )
        for end, key in ((source, "gate_source_capacitance"), (drain, "gate_drain_capacitance")):
            junction = plain_junction(
                self.value(given, "gate_current"),
                setting,
                self.value(given, key),
                self.value(given, "gate_potential"),
            )
            into.use(Law.JUNCTION, junction, (self._pair(gate, end),), (self._pair(gate, end),))

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 2, Tie.BY_CONDUCTANCE), (1, 2, Tie.BY_CONDUCTANCE))

    def _pair(self, a: int, b: int) -> tuple[int, int]:
        return (a, b) if self.sign > 0 else (b, a)


def field_effects() -> tuple[Device, ...]:
    return (
        InsulatedGate("nmos", "N-channel MOSFET", 1, ("m", "nmos", "mosfet")),
        InsulatedGate("pmos", "P-channel MOSFET", -1, ("pmos",)),
        JunctionGate("njf", "N-channel JFET", 1, ("j", "njf", "jfet")),
        JunctionGate("pjf", "P-channel JFET", -1, ("pjf",)),
    )
