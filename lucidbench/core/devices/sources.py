"""Independent sources: a fixed voltage, a fixed current."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lucidbench.core.devices.base import Description, Device, Joins, Parameter, Real, Stamps
from lucidbench.core.devices.symbol import (
    CIRCLE,
    LEADS_TO_CIRCLE,
    SOURCE_PINS,
    TWO_PINS,
    Drawing,
    Sign,
    Symbol,
)


class VoltageSource(Device):
    """v_1 - v_2 = V, at whatever current that takes; the current is an unknown of its own."""

    letter = "V"
    branches = 1
    joins = Joins.BY_VOLTAGE
    description = Description(
        kind="voltage_source",
        label="Voltage source",
        purpose="Sources",
        prefix="V",
        words=("v", "voltage", "source", "battery", "supply"),
        rotation=90,
        parameters=(
            Parameter(
                key="voltage",
                label="Voltage",
                unit="V",
                default="5 V",
                meaning="Potential of its + pin above its \u2212 pin.",
                likely=(1e-6, 1e3),  # common practice, no published source
                zero_means="it acts as a plain wire",
            ),
        ),
        symbol=Symbol(
            pins=SOURCE_PINS,
            body=(-1.5, -1.5, 1.5, 1.5),
            iec=Drawing((CIRCLE, "M-3 0H3"), signs=(Sign("+", -2.15, -0.85),)),
            ieee=Drawing(
                (CIRCLE, LEADS_TO_CIRCLE), signs=(Sign("+", -0.75, 0), Sign("\u2212", 0.75, 0))
            ),
        ),
    )

    def stamp(
        self, values: Mapping[str, float], nodes: Sequence[int], branch: int, into: Stamps
    ) -> None:
        plus, minus = nodes
        into.conductance(plus, branch, 1.0)
        into.conductance(minus, branch, -1.0)
        into.conductance(branch, plus, 1.0)
        into.conductance(branch, minus, -1.0)
        into.drive(branch, values["voltage"])

    def current(self, values: Mapping[str, float], volts: Sequence[Real], branch: Real) -> Real:
        return branch


class CurrentSource(Device):
    """A fixed current in at pin 1, through the source, out at pin 2, at whatever voltage that takes."""

    letter = "I"
    joins = Joins.BY_CURRENT
    description = Description(
        kind="current_source",
        label="Current source",
        purpose="Sources",
        prefix="I",
        words=("i", "current"),
        rotation=270,
        parameters=(
            Parameter(
                key="current",
                label="Current",
                unit="A",
                default="1 mA",
                meaning="Current that its arrow carries.",
                likely=(1e-12, 100.0),  # common practice, no published source
                zero_means="it acts as a gap",
            ),
        ),
        symbol=Symbol(
            pins=TWO_PINS,
            body=(-1.5, -2.6, 1.5, 1.5),
            iec=Drawing(
                (CIRCLE, LEADS_TO_CIRCLE, "M0 -1.5V1.5", "M-1 -2.1H0.6"),
                filled=("M1.2 -2.1L0.4 -2.5V-1.7Z",),
            ),
            ieee=Drawing(
                (CIRCLE, LEADS_TO_CIRCLE, "M-0.9 0H0.4"), filled=("M1 0L0.2 -0.45V0.45Z",)
            ),
        ),
    )

    def stamp(
        self, values: Mapping[str, float], nodes: Sequence[int], branch: int, into: Stamps
    ) -> None:
        from_node, to_node = nodes
        into.drive(from_node, -values["current"])
        into.drive(to_node, values["current"])

    def current(self, values: Mapping[str, float], volts: Sequence[Real], branch: Real) -> Real:
        return volts[0] * 0.0 + values["current"]
