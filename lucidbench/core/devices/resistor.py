"""The resistor: i = (v_1 - v_2) / R."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lucidbench.core.devices.base import Description, Device, Parameter, Real, Stamps
from lucidbench.core.devices.symbol import TWO_PINS, Drawing, Symbol


class Resistor(Device):
    letter = "R"
    description = Description(
        kind="resistor",
        label="Resistor",
        purpose="Resistors",
        prefix="R",
        words=("r", "res", "resistor"),
        parameters=(
            Parameter(
                key="resistance",
                label="Resistance",
                unit="Ω",
                default="1k",
                meaning="Voltage across it for each ampere through it.",
                positive=True,
                likely=(0.1, 22e6),  # common practice, no published source
                preferred="E24",
            ),
            Parameter(
                key="tolerance",
                label="Tolerance",
                unit="%",
                default="5 %",
                meaning="How far a bought part may lie from its marked value.",
                minimum=0.0,
                maximum=0.5,
                tolerance_of="resistance",
                optional=True,
            ),
        ),
        symbol=Symbol(
            pins=TWO_PINS,
            body=(-1.6, -0.7, 1.6, 0.7),
            iec=Drawing(("M-3 0H-1.6M1.6 0H3", "M-1.6 -0.6H1.6V0.6H-1.6Z")),
            ieee=Drawing(
                (
                    "M-3 0H-1.65L-1.375 -0.7L-0.825 0.7L-0.275 -0.7L0.275 0.7L0.825 -0.7L1.375 0.7L1.65 0H3",
                )
            ),
        ),
    )

    def stamp(
        self, values: Mapping[str, float], nodes: Sequence[int], branch: int, into: Stamps
    ) -> None:
        conductance = 1.0 / values["resistance"]
        a, b = nodes
        into.conductance(a, a, conductance)
        into.conductance(b, b, conductance)
        into.conductance(a, b, -conductance)
        into.conductance(b, a, -conductance)

    def current(self, values: Mapping[str, float], volts: Sequence[Real], branch: Real) -> Real:
        return (volts[0] - volts[1]) / values["resistance"]
