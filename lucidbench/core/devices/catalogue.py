"""The parts as they are offered for drawing: which stand in the tray, how, and what is asked of each.

A drawn kind is an element kind with a symbol. Some element kinds are drawn in several ways (diode, LED,
Zener diode), some have fewer pins than the element (a MOSFET's bulk is tied to its source), and drawn
sources have forms for what they do in time.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from lucidbench.core.devices import drawings
from lucidbench.core.devices.base import Description, Device, Form, Parameter, Preset
from lucidbench.core.devices.ground import GROUND
from lucidbench.core.devices.symbol import Symbol
from lucidbench.core.devices.waves import WAVE_FORMS, wave_parameters

_SENSES = Parameter(
    "senses", "Senses the current of", "", "", "A voltage source, inductor or ammeter, by its name.",
    reads="part",
)  # fmt: skip
_COILS = tuple(
    Parameter(key, label, "", "", "An inductor, by its name.", reads="part")
    for key, label in (("first_coil", "First coil"), ("second_coil", "Second coil"))
)
_FORMULA = Parameter(
    "formula", "Formula", "", "", "Of node voltages, sensed currents and time: 2*V_in, V_a*I_V1, sin(t).",
    reads="formula",
)  # fmt: skip


def catalogue(devices: Mapping[str, Device]) -> dict[str, Description]:
    """Every drawn kind, in the order of the tray."""

    def drawn(
        kind: str,
        symbol: Symbol,
        *,
        as_kind: str = "",
        shown: tuple[str, ...] | None = None,
        more: tuple[Parameter, ...] = (),
        standard: Mapping[str, str] | None = None,
        **changes: Any,
    ) -> Description:
        """`shown` parameters are asked for at once, others under "more values"; None: as described."""
        base = devices[kind].description
        parameters = [*more, *base.parameters]
        if shown is not None:
            parameters = [replace(p, aside=p.key not in shown) for p in parameters]
        if standard:
            parameters = [replace(p, default=standard.get(p.key, p.default)) for p in parameters]
        return replace(
            base,
            kind=as_kind or kind,
            element=kind,
            drawn=symbol,
            parameters=tuple(parameters),
            **changes,
        )

    def source(kind: str, symbol: Symbol, main: str, unit: str) -> Description:
        base = devices[kind].description
        constant = replace(base.parameter(main), forms=("constant",))
        others = tuple(p for p in base.parameters if p.key != main)
        return replace(
            base,
            element=kind,
            drawn=symbol,
            by_value=True,
            practical="internal resistance",
            parameters=(constant, *wave_parameters(unit), *others),
            forms=(Form("constant", "Constant", "The same at all times.", (main,)), *WAVE_FORMS),
        )

    diode_forms = _written(devices["diode"].description, {"constant_drop": ("forward_voltage",)})
    diode: dict[str, Any] = {"shown": ("forward_voltage",), "written": (), "forms": diode_forms}
    presets = devices["diode"].description.presets

    def of(*labels: str) -> tuple[Preset, ...]:
        return tuple(p for p in presets if p.label in labels)

    red, zener = of("Red LED")[0], of("Zener 5.1 V")[0]
    bipolar_forms = _written(
        devices["npn"].description, {"gummel_poon": ("beta",), "fixed": ("beta",)}
    )
    bipolar: dict[str, Any] = {
        "shown": ("beta", "base_emitter_voltage", "saturation_voltage"),
        "forms": bipolar_forms,
        "standard": {"beta": "180", "saturation_current": "1.2e-14", "early_voltage": "75"},
    }
    mosfet: dict[str, Any] = {
        "shown": ("threshold", "transconductance"),
        "written": ("threshold",),
        "joins": (0, 1, 2, 2),
    }
    mosfet_standard = {"transconductance": "4m"}
    jfet: dict[str, Any] = {"shown": ("pinch_off", "transconductance"), "written": ("pinch_off",)}
    amplifier: dict[str, Any] = {
        "written": (),
        "shown": ("gain", "gain_bandwidth", "slew_rate", "highest", "lowest", "headroom"),
    }
    switch: dict[str, Any] = {"shown": ("threshold", "hysteresis"), "written": ("threshold",)}
    controlled: dict[str, Any] = {"purpose": SOURCES}
    kinds = (
        source("voltage_source", drawings.VOLTAGE_SOURCE, "voltage", "V"),
        source("current_source", drawings.CURRENT_SOURCE, "current", "A"),
        drawn("voltage_controlled_voltage", drawings.SENSED_VOLTAGE, **controlled),
        drawn("voltage_controlled_current", drawings.SENSED_CURRENT, **controlled),
        drawn("current_controlled_voltage", drawings.DEPENDENT_VOLTAGE, more=(_SENSES,), rotation=90,
              written=("gain", "senses"), main_key="gain", **controlled),
        drawn("current_controlled_current", drawings.DEPENDENT_CURRENT, more=(_SENSES,), rotation=90,
              written=("gain", "senses"), main_key="gain", **controlled),
        drawn("formula_voltage", drawings.DEPENDENT_VOLTAGE, more=(_FORMULA,), rotation=90,
              written=("formula",), **controlled),
        drawn("formula_current", drawings.DEPENDENT_CURRENT, more=(_FORMULA,), rotation=90,
              written=("formula",), **controlled),
        drawn("resistor", drawings.RESISTOR, purpose=PASSIVE, by_value=True, practical="drift with temperature"),
        drawn("potentiometer", drawings.POTENTIOMETER, purpose=PASSIVE, written=("resistance", "setting")),
        drawn("capacitor", drawings.CAPACITOR, purpose=PASSIVE, by_value=True, practical="series resistance, leakage"),
        drawn("inductor", drawings.INDUCTOR, purpose=PASSIVE, by_value=True, practical="winding resistance and capacitance"),
        drawn("coupling", drawings.COUPLING, more=_COILS, purpose=PASSIVE, main_key="coupling",
              written=("coupling",)),
        drawn("transformer", drawings.TRANSFORMER, purpose=PASSIVE),
        drawn("impedance", drawings.IMPEDANCE, purpose=PASSIVE, written=("resistance", "reactance")),
        drawn("diode", drawings.DIODE, **diode, words=("d", "diode", "rectifier"),
              presets=of("Small-signal silicon")),
        drawn("diode", drawings.LED, **diode, as_kind="led", label="Light-emitting diode",
              words=("led", "light-emitting"), standard={**red.values, "forward_voltage": "1.8"},
              presets=of("Red LED", "Blue LED")),
        drawn("diode", drawings.ZENER, as_kind="zener", label="Zener diode", words=("zener", "z-diode"),
              shown=("breakdown_voltage", "breakdown_current"), written=("breakdown_voltage",),
              main_key="breakdown_voltage", forms=diode_forms[:1], standard=zener.values, presets=()),
        drawn("npn", drawings.NPN, **bipolar),
        drawn("pnp", drawings.PNP, **bipolar),
        drawn("nmos", drawings.NMOS, **mosfet, standard={**mosfet_standard, "threshold": "1.8"}),
        drawn("pmos", drawings.PMOS, **mosfet, standard={**mosfet_standard, "threshold": "-1.8"}),
        drawn("njf", drawings.NJF, **jfet, standard={"transconductance": "1m"}),
        drawn("pjf", drawings.PJF, **jfet, standard={"transconductance": "1m"}),
        drawn("unijunction", drawings.UNIJUNCTION, written=("standoff",),
              shown=("standoff", "interbase_resistance", "valley_current", "valley_voltage")),
        drawn("opamp", drawings.OPAMP, **amplifier),
        drawn("powered_opamp", drawings.POWERED_OPAMP, **amplifier),
        drawn("voltage_switch", drawings.VOLTAGE_SWITCH, **switch),
        drawn("timed_switch", drawings.TIMED_SWITCH, shown=("closes_at", "opens_at"),
              written=("closes_at", "opens_at")),
        drawn("voltmeter", drawings.VOLTMETER, written=()),
        drawn("ammeter", drawings.AMMETER, written=()),
        replace(GROUND, drawn=drawings.GROUND),
    )  # fmt: skip
    return {d.kind: d for d in kinds}


SOURCES = "Sources"
PASSIVE = "Resistors, coils, capacitors"


def _written(base: Description, written: Mapping[str, tuple[str, ...]]) -> tuple[Form, ...]:
    """Its forms, each with what stands beside the part then."""
    return tuple(replace(form, written=written.get(form.key, ())) for form in base.forms)
