"""Diodes: the exponential junction with its charges and breakdown, and the textbook's simple forms."""

from __future__ import annotations

import math

from lucidbench.core.devices.base import (
    FREE,
    Description,
    Device,
    Form,
    Given,
    Handling,
    Law,
    Parameter,
    Preset,
    Setting,
    Stamps,
)
from lucidbench.core.devices.temperature import SILICON_GAP, saturation_current, thermal_voltage

EXPONENTIAL = "exponential"
CONSTANT_DROP = "constant_drop"
IDEAL = "ideal"

FORMS = (
    Form(EXPONENTIAL, "Exponential", "i = I_S·(exp(v/(n·V_T)) - 1), with charges and breakdown."),
    Form(CONSTANT_DROP, "Constant drop", "Blocks below its forward voltage, conducts at it."),
    Form(IDEAL, "Ideal switch", "Conducts without a drop, blocks altogether."),
)


def junction_parameters() -> tuple[Parameter, ...]:
    def own(
        key: str, label: str, unit: str, default: str, meaning: str, **more: object
    ) -> Parameter:
        return Parameter(key, label, unit, default, meaning, forms=(EXPONENTIAL,), **more)  # type: ignore[arg-type]

    return (
        own(
            "saturation_current", "Saturation current", "A", "1e-14", "I_S at 27 °C.", positive=True
        ),
        own(
            "emission",
            "Emission coefficient",
            "",
            "1",
            "n in the exponent.",
            minimum=0.1,
            maximum=20.0,
        ),
        own(
            "series_resistance",
            "Series resistance",
            "Ω",
            "0",
            "Of the leads and the bulk.",
            minimum=0.0,
        ),
        own(
            "junction_capacitance",
            "Junction capacitance",
            "F",
            "0",
            "Of the depletion layer at no voltage.",
            minimum=0.0,
        ),
        own(
            "junction_potential",
            "Junction potential",
            "V",
            "1",
            "Built-in voltage of the depletion layer.",
            positive=True,
        ),
        own(
            "grading",
            "Grading",
            "",
            "0.5",
            "Exponent of the depletion layer.",
            minimum=0.0,
            maximum=0.9,
        ),
        own(
            "transit_time",
            "Transit time",
            "s",
            "0",
            "Stored charge for each ampere forward.",
            minimum=0.0,
        ),
        own(
            "breakdown_voltage",
            "Breakdown voltage",
            "V",
            "",
            "Reverse voltage at the breakdown current; empty: none.",
            positive=True,
            optional=True,
        ),
        own(
            "breakdown_current",
            "Breakdown current",
            "A",
            "1 mA",
            "Reverse current at the breakdown voltage.",
            positive=True,
        ),
        own("gap", "Energy gap", "V", "1.11", "In electronvolts; sets the drift.", positive=True),
        own(
            "temperature_exponent",
            "Temperature exponent",
            "",
            "3",
            "Of the saturation current.",
            minimum=0.0,
        ),
    )


class Diode(Device):
    """Pin 1 is the anode, pin 2 the cathode."""

    letter = "D"
    description = Description(
        kind="diode",
        handling=Handling(
            fails=True, misplaced=True, turned=(1, 0), real_form="exponential", warms=True
        ),
        label="Diode",
        purpose="Semiconductors",
        prefix="D",
        words=("d", "diode", "led", "zener"),
        pins=("anode", "cathode"),
        forms=FORMS,
        parameters=(
            *junction_parameters(),
            Parameter(
                "forward_voltage",
                "Forward voltage",
                "V",
                "0.7",
                "Across it whenever it conducts.",  # 0.7 V: common practice, no published source
                minimum=0.0,
                forms=(CONSTANT_DROP,),
            ),
            Parameter(
                "on_resistance",
                "On resistance",
                "Ω",
                "1m",
                "Small, so that its current has one value.",
                positive=True,
                forms=(CONSTANT_DROP, IDEAL),
            ),
            Parameter(
                "off_resistance",
                "Off resistance",
                "Ω",
                "1G",
                "Large, so that its voltage has one value.",
                positive=True,
                forms=(CONSTANT_DROP, IDEAL),
            ),
        ),
        presets=(
            Preset(
                "Small-signal silicon",
                {
                    "saturation_current": "4 nA",
                    "emission": "1.9",
                    "series_resistance": "0.6",
                    "junction_capacitance": "2p",
                    "junction_potential": "0.75",
                    "grading": "0.33",
                    "transit_time": "6n",
                },
            ),
            Preset(
                "Red LED",
                {"saturation_current": "1e-18", "emission": "2", "series_resistance": "2"},
            ),
            Preset(
                "Blue LED",
                {"saturation_current": "1e-24", "emission": "2.2", "series_resistance": "5"},
            ),
            Preset(
                "Zener 5.1 V",
                {
                    "saturation_current": "1e-14",
                    "breakdown_voltage": "5.1",
                    "breakdown_current": "5 mA",
                },
            ),
        ),
    )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        bulk = given.form in ("", EXPONENTIAL) and self.value(given, "series_resistance") > 0
        return (("junction", "V"), ("bulk", "A")) if bulk else ()

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        if given.form in (CONSTANT_DROP, IDEAL):
            volts = self.value(given, "forward_voltage") if given.form == CONSTANT_DROP else 0.0
            knee = (volts, 1 / self.value(given, "on_resistance"))
            leak = 1 / self.value(given, "off_resistance")
            into.use(Law.KNEE, (*knee, leak, FREE, 1.0), ((0, 1),), ((0, 1),))
            return
        anode = 0
        if self.own(given):
            anode = 2
            into.series(0, anode, 3, self.value(given, "series_resistance"))
        into.use(Law.JUNCTION, self.junction(given, setting), ((anode, 1),), ((anode, 1),))

    def junction(self, given: Given, setting: Setting) -> tuple[float, ...]:
        """What the junction law takes."""
        n = self.value(given, "emission")
        scale = n * thermal_voltage(setting.temperature)
        return (
            saturation_current(
                self.value(given, "saturation_current"),
                setting.temperature,
                self.value(given, "gap"),
                self.value(given, "temperature_exponent"),
                n,
            ),
            scale,
            given.values.get("breakdown_voltage", math.inf),
            self.value(given, "breakdown_current"),
            self.value(given, "junction_capacitance"),
            self.value(given, "junction_potential"),
            self.value(given, "grading"),
            self.value(given, "transit_time"),
        )


def plain_junction(
    saturation: float,
    setting: Setting,
    capacitance: float = 0.0,
    potential: float = 1.0,
    grading: float = 0.5,
    emission: float = 1.0,
    transit_time: float = 0.0,
) -> tuple[float, ...]:
    """A junction inside another part, as the junction law takes it."""
    current = saturation_current(saturation, setting.temperature, SILICON_GAP, 3.0, emission)
    scale = emission * thermal_voltage(setting.temperature)
    return (current, scale, math.inf, 1e-3, capacitance, potential, grading, transit_time)
