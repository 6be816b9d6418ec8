"""Resistive parts: resistor, potentiometer, and an impedance given at one frequency."""

from __future__ import annotations

import math

from lucidbench.core.devices.base import (
    ROOM_TEMPERATURE,
    Description,
    Device,
    Given,
    Handling,
    Number,
    Parameter,
    Setting,
    Stamps,
    Tie,
)
from lucidbench.core.devices.temperature import CELSIUS_ZERO
from lucidbench.core.errors import CircuitError

SENSED = "sensed"  # the form of a resistor whose current another element needs: by its current


class Resistor(Device):
    """i = (v_1 - v_2) / R, with R = R_27 · (1 + α·(T - 27 °C))."""

    letter = "R"
    description = Description(
        kind="resistor",
        alike=True,
        handling=Handling(
            fails=True, mistaken=True, misplaced=True, series="resistance", bridge=True
        ),
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
            Parameter(
                key="temperature_coefficient",
                label="Temperature drift",
                unit="1/K",
                default="0",
                meaning="Relative change of the resistance for each kelvin above 27 °C.",
                minimum=-0.1,
                maximum=0.1,
                optional=True,
                aside=True,
                practical=True,
            ),
        ),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        return (("", "A"),) if given.form == SENSED else ()

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        ohms = self.resistance(given, setting.temperature)
        if given.form == SENSED:
            into.series(0, 1, 2, ohms)
        else:
            into.admittance(0, 1, 1 / ohms)

    def resistance(self, given: Given, temperature: float) -> Number:
        """[Ω] at `temperature` [K]. Raises CircuitError where its drift leaves none."""
        coefficient = given.values.get("temperature_coefficient", 0.0)
        share = 1 + coefficient * (temperature - ROOM_TEMPERATURE)
        if isinstance(share, float) and share <= 0:
            raise CircuitError(
                f"The temperature drift of {given.name} makes nothing of its resistance at "
                f"{temperature - CELSIUS_ZERO:.4g} °C; it holds near 27 °C only.",
                (given.name,),
            )
        return given.values["resistance"] * share


class Potentiometer(Device):
    """A resistance with a slider: pins end, slider, other end."""

    description = Description(
        kind="potentiometer",
        handling=Handling(bridge=True),
        label="Potentiometer",
        purpose="Resistors",
        prefix="RP",
        words=("pot", "potentiometer", "slider"),
        pins=("1", "slider", "2"),
        currents=(("", 0), ("slider", 1)),
        parameters=(
            Parameter(
                key="resistance",
                label="Resistance",
                unit="Ω",
                default="10k",
                meaning="Between its two ends.",
                positive=True,
                likely=(10.0, 10e6),  # common practice, no published source
            ),
            Parameter(
                key="setting",
                label="Setting",
                unit="%",
                default="50 %",
                meaning="Share of the resistance between pin 1 and the slider.",
                minimum=0.0,
                maximum=1.0,
            ),
        ),
    )
    END_RESISTANCE = 1e-6  # share of the whole that is left at either stop

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        whole, share = given.values["resistance"], self.value(given, "setting")
        into.admittance(0, 1, 1 / (whole * (share + self.END_RESISTANCE)))
        into.admittance(1, 2, 1 / (whole * (1 - share + self.END_RESISTANCE)))

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_CONDUCTANCE), (1, 2, Tie.BY_CONDUCTANCE))


class Impedance(Device):
    """v_1 - v_2 = (R + jX)·i, at every frequency asked for; or, where it is told at which frequency it
    has this reactance, R in series with the inductor or capacitor that has it there.
    """

    description = Description(
        kind="impedance",
        alike=True,
        stores="either",
        label="Impedance",
        purpose="Resistors",
        prefix="Z",
        words=("z", "impedance", "reactance"),
        plain_at_one_frequency=True,
        pair=("resistance", "reactance"),
        parameters=(
            Parameter(
                key="resistance",
                label="Resistance",
                unit="Ω",
                default="100",
                meaning="Real part of the impedance.",
                minimum=0.0,
            ),
            Parameter(
                key="reactance",
                label="Reactance",
                unit="Ω",
                default="100",
                meaning="Imaginary part: above zero inductive, below zero capacitive.",
                symbol="j",
            ),
            Parameter(
                key="frequency",
                label="Given at",
                unit="Hz",
                default="",
                meaning="Where it has this reactance: then it is a coil or a capacitor, in time and at "
                "other frequencies too. Empty: the same at every frequency.",
                positive=True,
                optional=True,
            ),
        ),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        current = ("", "A")
        return (current, ("plate", "V")) if self.storage(given) < 0 else (current,)

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        storage = self.storage(given)
        into.branch(0, 3 if storage < 0 else 1, 2)
        into.conductance(2, 2, -given.values["resistance"])
        if storage > 0:
            into.charge(2, 2, -storage)
        elif storage < 0:
            into.capacitance(3, 1, -storage)
        else:
            into.imaginary(2, 2, -given.values["reactance"])

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        storage = self.storage(given)
        if storage < 0:
            return ((0, 1, Tie.NOT_AT_ALL),)
        ideal = storage > 0 and not given.values.get("resistance")
        return ((0, 1, Tie.BY_VOLTAGE if ideal else Tie.BY_CONDUCTANCE),)

    @staticmethod
    def storage(given: Given) -> float:
        """The inductance [H] it stands for; or, below zero, the capacitance [F]; zero for neither."""
        reactance, frequency = (given.values.get(key, 0.0) for key in ("reactance", "frequency"))
        if not reactance or not frequency:
            return 0.0
        turning = 2 * math.pi * frequency
        return float(reactance / turning if reactance > 0 else 1 / (turning * reactance))
