"""Meters as parts: ideal by default, or with the resistance a real one has."""

from __future__ import annotations

from lucidbench.core.devices.base import (
    Description,
    Device,
    Given,
    Parameter,
    Setting,
    Stamps,
    Tie,
)


class VoltmeterPart(Device):
    """Reads v_1 - v_2; draws a current only through its input resistance."""

    description = Description(
        kind="voltmeter",
        label="Voltmeter",
        purpose="Meters",
        prefix="PV",
        words=("voltmeter",),
        pins=("+", "\u2212"),
        parameters=(
            Parameter("input_resistance", "Input resistance", "Ω", "", "Empty: ideal, draws nothing.", positive=True, optional=True),
        ),
    )  # fmt: skip

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        if "input_resistance" in given.values:
            into.admittance(0, 1, 1 / given.values["input_resistance"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        real = "input_resistance" in given.values
        return ((0, 1, Tie.BY_CONDUCTANCE if real else Tie.NOT_AT_ALL),)


class AmmeterPart(Device):
    """Reads the current from pin 1 through it to pin 2, across its burden."""

    description = Description(
        kind="ammeter",
        label="Ammeter",
        purpose="Meters",
        prefix="PA",
        words=("ammeter",),
        pins=("+", "\u2212"),
        parameters=(
            Parameter("burden", "Burden resistance", "Ω", "0", "Zero: ideal, no drop.", minimum=0.0, optional=True),
        ),
    )  # fmt: skip

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("", "A"),)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        into.branch(0, 1, 2)
        into.conductance(2, 2, -self.value(given, "burden"))

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        ideal = not self.value(given, "burden")
        return ((0, 1, Tie.BY_VOLTAGE if ideal else Tie.BY_CONDUCTANCE),)
