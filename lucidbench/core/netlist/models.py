"""`.model` lines: the trade's names for parameters, there and as keyed element values."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from lucidbench.core.errors import NetlistError
from lucidbench.core.netlist.circuit import value_fault
from lucidbench.core.netlist.deck import Statement, keyed


@dataclass(frozen=True)
class ModelType:
    """One kind of model: what it makes, its parameter names, and what differs from our defaults."""

    kind: str
    letter: str
    names: dict[str, str]
    defaults: dict[str, float] = field(default_factory=dict)


# Parameters that many published models carry and that no analysis here uses: named in a note.
WITHOUT_EFFECT = {
    "kf": "noise",
    "af": "noise",
    "ptf": "excess phase",
    "xtf": "bias dependence of the transit time",
    "vtf": "bias dependence of the transit time",
    "itf": "bias dependence of the transit time",
    "irb": "bias dependence of the base resistance",
    "rbm": "bias dependence of the base resistance",
    "xcjc": "a split of the base-collector capacitance",
    "cjs": "the substrate",
    "vjs": "the substrate",
    "mjs": "the substrate",
    "fc": "the point where depletion goes over to a line, 0.5 here",
    "tnom": "the temperature its values are stated at, 27 °C here",
}

_JUNCTION = {
    "is": "saturation_current",
    "n": "emission",
    "rs": "series_resistance",
    "cjo": "junction_capacitance",
    "cj0": "junction_capacitance",
    "vj": "junction_potential",
    "m": "grading",
    "tt": "transit_time",
    "bv": "breakdown_voltage",
    "ibv": "breakdown_current",
    "eg": "gap",
    "xti": "temperature_exponent",
}
_BIPOLAR = {
    "is": "saturation_current",
    "bf": "beta",
    "nf": "forward_emission",
    "vaf": "early_voltage",
    "va": "early_voltage",
    "ikf": "knee_current",
    "ise": "leakage_current",
    "ne": "leakage_emission",
    "br": "reverse_beta",
    "nr": "reverse_emission",
    "var": "reverse_early_voltage",
    "ikr": "reverse_knee_current",
    "isc": "collector_leakage_current",
    "nc": "collector_leakage_emission",
    "rb": "base_resistance",
    "re": "emitter_resistance",
    "rc": "collector_resistance",
    "cje": "emitter_capacitance",
    "vje": "emitter_potential",
    "mje": "emitter_grading",
    "cjc": "collector_capacitance",
    "vjc": "collector_potential",
    "mjc": "collector_grading",
    "tf": "transit_time",
    "tr": "reverse_transit_time",
    "eg": "gap",
    "xti": "temperature_exponent",
    "xtb": "beta_exponent",
}
_MOS = {
    "vto": "threshold",
    "kp": "transconductance",
    "lambda": "modulation",
    "gamma": "body_effect",
    "phi": "surface_potential",
    "w": "width",
    "l": "length",
    "cgs": "gate_source_capacitance",
    "cgd": "gate_drain_capacitance",
}
_JFET = {
    "vto": "pinch_off",
    "beta": "transconductance",
    "lambda": "modulation",
    "is": "gate_current",
    "cgs": "gate_source_capacitance",
    "cgd": "gate_drain_capacitance",
    "pb": "gate_potential",
}
_SWITCH = {
    "vt": "threshold",
    "vh": "hysteresis",
    "ron": "on_resistance",
    "roff": "off_resistance",
}

# Defaults are the trade's: common practice, no published source.
MODEL_TYPES: dict[str, ModelType] = {
    "d": ModelType("diode", "D", _JUNCTION),
    "npn": ModelType("npn", "Q", _BIPOLAR, {"saturation_current": 1e-16}),
    "pnp": ModelType("pnp", "Q", _BIPOLAR, {"saturation_current": 1e-16}),
    "nmos": ModelType("nmos", "M", _MOS, {"threshold": 0.0}),
    "pmos": ModelType("pmos", "M", _MOS, {"threshold": 0.0}),
    "njf": ModelType("njf", "J", _JFET),
    "pjf": ModelType("pjf", "J", _JFET),
    "sw": ModelType("voltage_switch", "S", _SWITCH, {"on_resistance": 1.0, "off_resistance": 1e12}),
}

# Keyed values on element lines, and what each means there.
ELEMENT_KEYS: dict[str, dict[str, str]] = {
    "R": {"r": "resistance", "tc": "temperature_coefficient", "tc1": "temperature_coefficient"},
    "C": {"c": "capacitance", "ic": "initial_voltage", "esr": "series_resistance"},
    "L": {"l": "inductance", "ic": "initial_current", "rser": "series_resistance"},
    "M": {"w": "width", "l": "length"},
}

# Zero is how the trade leaves these out.
_NONE_AT_ZERO = {
    "early_voltage",
    "reverse_early_voltage",
    "knee_current",
    "reverse_knee_current",
    "breakdown_voltage",
}


def read_model(
    statement: Statement, definition: Statement, letter: str, number: Callable[[str], float]
) -> tuple[str, dict[str, float], list[str]]:
    """(kind, values, notes) of the model that an element's `statement` names. Raises NetlistError."""
    line, words = definition.line, definition.words
    model = MODEL_TYPES.get(words[2].lower())
    if model is None:
        types = ", ".join(t.upper() for t in MODEL_TYPES)
        raise NetlistError(line, f"“{words[2]}” is no type of model known here: {types}")
    if model.letter != letter:
        raise NetlistError(
            statement.line,
            f"{statement.words[0]}: the model {words[1]} in line {line} is a {words[2].upper()}, "
            f"which belongs to {model.letter}",
        )
    values = dict(model.defaults)
    notes = []
    for key, text in keyed(line, [w for w in words[3:] if w not in "()"]).items():
        if key == "level" and letter == "M":
            if number(text) != 1:
                raise NetlistError(line, "the only MOSFET level known here is 1, the square law")
        elif key in model.names:
            value = number(text)
            if model.names[key] in _NONE_AT_ZERO and value == 0:
                continue
            fault = value_fault(model.kind, model.names[key], value)
            if fault:
                raise NetlistError(line, f"the model {words[1]}: {key.upper()}: {fault}")
            values[model.names[key]] = value
        elif key in WITHOUT_EFFECT:
            notes.append(
                f"line {line}: {key.upper()} of the model {words[1]} has no effect here "
                f"({WITHOUT_EFFECT[key]})"
            )
        else:
            raise NetlistError(
                line,
                f"“{key.upper()}” is no parameter of {words[2].upper()} known here; known are "
                f"{', '.join(k.upper() for k in model.names)}",
            )
    return model.kind, values, notes
