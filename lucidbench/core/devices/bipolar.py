"""Bipolar transistors: the Gummel-Poon model, and the textbook's fixed β and V_BE.

Gummel and Poon, An Integral Charge Control Model of Bipolar Transistors, Bell System Technical
Journal 49, 1970.
"""

from __future__ import annotations

import math
from typing import Any

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
    Tie,
)
from lucidbench.core.devices.temperature import (
    NOMINAL_TEMPERATURE,
    saturation_current,
    thermal_voltage,
)

GUMMEL_POON = "gummel_poon"
FIXED = "fixed"
FORMS = (
    Form(
        GUMMEL_POON, "Gummel-Poon", "Exponential junctions, Early effect, high injection, charges."
    ),
    Form(FIXED, "Fixed β and V_BE", "i_C = β·i_B at a constant V_BE, down to V_CE,sat."),
)
_FULL: dict[str, Any] = {"forms": (GUMMEL_POON,)}


def _parameters() -> tuple[Parameter, ...]:
    def full(key: str, label: str, unit: str, default: str, meaning: str, **more: Any) -> Parameter:
        return Parameter(key, label, unit, default, meaning, **_FULL, **more)

    none = {"optional": True, "positive": True}
    at_least_zero = {"minimum": 0.0}
    return (
        Parameter("beta", "Current gain β", "", "100", "i_C / i_B, forward.", positive=True, symbol="β"),
        full("saturation_current", "Saturation current", "A", "1e-14", "Transport current I_S.", positive=True),
        full("reverse_beta", "Reverse gain", "", "1", "i_E / i_B with the roles exchanged.", positive=True),
        full("forward_emission", "Forward emission", "", "1", "n_F in the exponent.", positive=True),
        full("reverse_emission", "Reverse emission", "", "1", "n_R in the exponent.", positive=True),
        full("early_voltage", "Early voltage", "V", "", "Empty: no Early effect.", **none),
        full("reverse_early_voltage", "Reverse Early voltage", "V", "", "Empty: none.", **none),
        full("knee_current", "Knee current", "A", "", "Where β begins to fall; empty: never.", **none),
        full("reverse_knee_current", "Reverse knee current", "A", "", "Empty: never.", **none),
        full("leakage_current", "Base-emitter leakage", "A", "0", "I_SE.", **at_least_zero),
        full("leakage_emission", "Its emission", "", "1.5", "n_E.", positive=True),
        full("collector_leakage_current", "Base-collector leakage", "A", "0", "I_SC.", **at_least_zero),
        full("collector_leakage_emission", "Its emission", "", "2", "n_C.", positive=True),
        full("base_resistance", "Base resistance", "Ω", "0", "In series.", **at_least_zero),
        full("emitter_resistance", "Emitter resistance", "Ω", "0", "In series.", **at_least_zero),
        full("collector_resistance", "Collector resistance", "Ω", "0", "In series.", **at_least_zero),
        full("emitter_capacitance", "Base-emitter capacitance", "F", "0", "At no voltage.", **at_least_zero),
        full("emitter_potential", "Its potential", "V", "0.75", "Built in.", positive=True),
        full("emitter_grading", "Its grading", "", "0.33", "Exponent.", minimum=0.0, maximum=0.9),
        full("collector_capacitance", "Base-collector capacitance", "F", "0", "At no voltage.", **at_least_zero),
        full("collector_potential", "Its potential", "V", "0.75", "Built in.", positive=True),
        full("collector_grading", "Its grading", "", "0.33", "Exponent.", minimum=0.0, maximum=0.9),
        full("transit_time", "Forward transit time", "s", "0", "Charge for each ampere.", **at_least_zero),
        full("reverse_transit_time", "Reverse transit time", "s", "0", "The same, reverse.", **at_least_zero),
        full("gap", "Energy gap", "V", "1.11", "In electronvolts.", positive=True),
        full("temperature_exponent", "Temperature exponent", "", "3", "Of I_S.", **at_least_zero),
        full("beta_exponent", "Exponent of β", "", "0", "Of β over temperature."),
        Parameter(
            "base_emitter_voltage",
            "V_BE",
            "V",
            "0.7",
            "Across the base and emitter whenever it conducts.",  # common practice, no published source
            minimum=0.0,
            forms=(FIXED,),
        ),
        Parameter(
            "saturation_voltage",
            "V_CE,sat",
            "V",
            "0.2",
            "Across collector and emitter in saturation.",  # common practice, no published source
            minimum=0.0,
            forms=(FIXED,),
        ),
    )  # fmt: skip


_SMALL_SIGNAL = {
    "beta": "180",
    "saturation_current": "1.2e-14",
    "early_voltage": "75",
    "knee_current": "0.25",
    "emitter_capacitance": "14p",
    "collector_capacitance": "5p",
    "transit_time": "0.45n",
    "reverse_transit_time": "60n",
}
_ON_CONDUCTANCE = 1e3  # [S]: 1 mΩ where the textbook draws a vertical line
_OFF_CONDUCTANCE = 1e-12  # [S]


class Bipolar(Device):
    """Pins collector, base, emitter; inner nodes where a terminal has a resistance."""

    letter = "Q"

    def __init__(self, kind: str, label: str, sign: int, words: tuple[str, ...]) -> None:
        self.sign = sign  # 1 for NPN, -1 for PNP
        self.description = Description(  # type: ignore[misc]  # one class, two kinds
            kind=kind,
            handling=Handling(
                misplaced=True, turned=(2, 1, 0), real_form="gummel_poon", warms=True
            ),
            amplifies=True,
            label=label,
            purpose="Semiconductors",
            prefix="Q",
            words=words,
            pins=("C", "B", "E"),
            currents=(("C", 0), ("B", 1), ("E", 2)),
            forms=FORMS,
            parameters=_parameters(),
            presets=(Preset(f"Small-signal {kind.upper()}, β 180", _SMALL_SIGNAL),),
        )

    def own(self, given: Given) -> tuple[tuple[str, str], ...]:
        if given.form == FIXED:
            return ()
        return tuple(
            own
            for pin in ("collector", "base", "emitter")
            if self.value(given, f"{pin}_resistance") > 0
            for own in ((pin, "V"), (f"{pin} lead", "A"))
        )

    def stamp(self, given: Given, setting: Setting, into: Stamps) -> None:
        if given.form == FIXED:
            self._fixed(given, into)
            return
        inner = [0, 1, 2]
        names = [name for name, _ in self.own(given)]
        for pin, name in enumerate(("collector", "base", "emitter")):
            if name in names:
                inner[pin] = 3 + names.index(name)
                ohms = self.value(given, f"{name}_resistance")
                into.series(pin, inner[pin], inner[pin] + 1, ohms)
        collector, base, emitter = inner
        into.use(
            Law.BIPOLAR,
            self._law(given, setting),
            (self._pair(base, emitter), self._pair(base, collector)),
            (
                self._pair(base, emitter),
                self._pair(base, collector),
                self._pair(collector, emitter),
            ),
        )

    def ties(self, given: Given) -> tuple[tuple[int, int, Tie], ...]:
        return ((0, 1, Tie.BY_CONDUCTANCE), (1, 2, Tie.BY_CONDUCTANCE))

    def _pair(self, a: int, b: int) -> tuple[int, int]:
        return (a, b) if self.sign > 0 else (b, a)

    def _fixed(self, given: Given, into: Stamps) -> None:
        forward = self.value(given, "base_emitter_voltage")
        reverse = forward - self.value(given, "saturation_voltage")
        base_emitter, base_collector = self._pair(1, 2), self._pair(1, 0)
        head = (_ON_CONDUCTANCE, _OFF_CONDUCTANCE)
        into.use(
            Law.KNEE,
            (forward, *head, FREE, 1.0, self.value(given, "beta")),
            (base_emitter,),
            (base_emitter, self._pair(0, 2)),
        )
        into.use(Law.KNEE, (reverse, *head, FREE, 1.0), (base_collector,), (base_collector,))

    def _law(self, given: Given, setting: Setting) -> tuple[float, ...]:
        """Parameters of the bipolar law, at temperature."""
        kelvin = setting.temperature
        values = {**self.defaults, **given.values}
        gap, exponent = values["gap"], values["temperature_exponent"]
        warm = (kelvin / NOMINAL_TEMPERATURE) ** values["beta_exponent"]
        volts = thermal_voltage(kelvin)

        def leakage(current: str, emission: str) -> float:
            nominal, n = values[current], values[emission]
            return saturation_current(nominal, kelvin, gap, exponent, n) / float(warm)

        return (
            saturation_current(values["saturation_current"], kelvin, gap, exponent),
            values["forward_emission"] * volts,
            values["reverse_emission"] * volts,
            values["beta"] * warm,
            values["reverse_beta"] * warm,
            1 / given.values.get("early_voltage", math.inf),
            1 / given.values.get("reverse_early_voltage", math.inf),
            1 / given.values.get("knee_current", math.inf),
            1 / given.values.get("reverse_knee_current", math.inf),
            leakage("leakage_current", "leakage_emission"),
            values["leakage_emission"] * volts,
            leakage("collector_leakage_current", "collector_leakage_emission"),
            values["collector_leakage_emission"] * volts,
            values["emitter_capacitance"],
            values["emitter_potential"],
            values["emitter_grading"],
            values["collector_capacitance"],
            values["collector_potential"],
            values["collector_grading"],
            values["transit_time"],
            values["reverse_transit_time"],
        )


def bipolars() -> tuple[Bipolar, Bipolar]:
    return (
        Bipolar("npn", "NPN transistor", 1, ("q", "npn", "transistor", "bjt")),
        Bipolar("pnp", "PNP transistor", -1, ("pnp",)),
    )
