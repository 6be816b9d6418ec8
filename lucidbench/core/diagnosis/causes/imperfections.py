"""What real parts have beside their value: losses, inner resistances, what the drawing leaves out."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial

from lucidbench.core.diagnosis.causes.base import (
    BESIDE,
    Cause,
    Edit,
    Edits,
    Kind,
    Size,
    is_dynamic,
    setting,
    value_of,
)
from lucidbench.core.diagnosis.observed import Observed
from lucidbench.core.edits import Add, CircuitEdit, Insert, SetValues
from lucidbench.core.imperfections import BIAS, CONTACT, GENERATOR, IMPERFECTIONS, PRACTICE
from lucidbench.core.netlist import GROUND_NODE, Element

# Of the logarithm of a size whose kind of part alone is known: a factor of four.
_UNSURE = 1.4
_HIGH = 10e3  # [Ω]: a node with less than that has nothing to fear from stray capacitance
_STRAY = 20e-12  # [F] of a node with a lead at it
_LOW = 100.0  # [Ω]: above it the resistance of a contact is nothing


@dataclass(frozen=True)
class _OfPart:
    """A parameter of some kinds of parts that the drawing leaves out or has at its textbook value. `usual` is
    its size where the table of imperfections has none."""

    cause: str
    label: str
    kinds: tuple[str, ...]
    key: str
    weight: float
    sentence: str
    form: str = ""
    spread: float = _UNSURE
    usual: float | None = None
    moves_only: bool = False
    practice: str = PRACTICE

    def at(self, observed: Observed) -> Iterator[Cause]:
        if self.moves_only and not any(is_dynamic(block) for block in observed.blocks):
            return
        for name, element in observed.elements.items():
            if element.kind not in self.kinds or not self.fits(element):
                continue
            unit = element.device.description.parameter(self.key).unit
            size = self.size(element, unit)
            form = self.form if self.form and element.form != "limited" else ""
            edits = setting(name, self.key, form)
            if element.kind in _AMPLIFIERS:
                edits = _alone(element, self.key, form)
            yield Cause(
                self.cause, name, self.weight, self.sentence.format(part=name, value="{value}"),
                size, edits, told=value_of(name, self.key), unit=unit,
                edit=Edit("set", name, self.key, form),
            )  # fmt: skip

    def fits(self, element: Element) -> bool:
        textbook = element.form in ("fixed", "constant_drop", "ideal") and not self.form
        return not textbook or self.key in ("series_resistance", "beta")

    def size(self, element: Element, unit: str) -> Size:
        given = float(element.values.get(self.key, 0.0) or 0.0)
        usual = abs(given) or self.usual or self._typical(element)
        if given:
            return Size(usual, self.spread, unit, scan=BESIDE)
        return Size(usual, self.spread, unit)

    def _typical(self, element: Element) -> float:
        if element.kind == "voltage_source" and element.values.get("magnitude"):
            return GENERATOR  # what has a phasor is no battery
        for each in IMPERFECTIONS:
            if element.kind in each.kinds and each.key == self.key:
                return each.typical(element)
        return float(element.device.value(element, self.key)) or 1.0

    @property
    def kind(self) -> Kind:
        return Kind(self.cause, self.label, self.at, self.practice)


_BIPOLAR, _AMPLIFIERS = ("npn", "pnp"), ("opamp", "powered_opamp")
# An amplifier that is drawn ideal has one imperfection at a time; these values are as good as none.
_NEARLY_IDEAL = {
    "gain": 1e8, "gain_bandwidth": 1e11, "input_resistance": 1e12, "output_resistance": 1e-3,
    "offset_voltage": 0.0, "slew_rate": 1e12, "highest": 1e4, "lowest": -1e4,
}  # fmt: skip


def _alone(drawn: Element, key: str, form: str) -> Edits:
    """An amplifier with one imperfection, whose form for that is `form`."""
    is_ideal = (drawn.form or drawn.device.description.forms[0].key) == "ideal"
    known = {p.key for p in drawn.device.description.parameters} if is_ideal else set()
    others = {k: v for k, v in _NEARLY_IDEAL.items() if k in known}
    return lambda size: (SetValues(drawn.name, {**others, key: size}, form),)


_OF_PARTS = (
    _OfPart("winding_resistance", "winding resistance", ("inductor",), "series_resistance", 0.25,
            "The winding of {part} has {value}."),
    _OfPart("parallel_capacitance", "winding capacitance", ("inductor",), "parallel_capacitance", 0.03,
            "The winding of {part} has a capacitance of {value}.", moves_only=True),
    _OfPart("series_resistance", "series resistance", ("capacitor",), "series_resistance", 0.06,
            "{part} has {value} in series with it (ESR).", spread=2.0),
    _OfPart("leakage", "leakage", ("capacitor",), "leakage_resistance", 0.03,
            "{part} leaks through {value}."),
    _OfPart("internal_resistance", "internal resistance", ("voltage_source", "current_source"),
            "internal_resistance", 0.12, "{part} has an internal resistance of {value}."),
    _OfPart("gain_bandwidth", "gain-bandwidth", _AMPLIFIERS, "gain_bandwidth", 0.12,
            "The gain-bandwidth of {part} is {value}.", form="one_pole", moves_only=True),
    _OfPart("gain", "open-loop gain", _AMPLIFIERS, "gain", 0.03, "The open-loop gain of {part} is {value}.",
            form="one_pole", spread=2.0),
    _OfPart("slew_rate", "slew rate", _AMPLIFIERS, "slew_rate", 0.05, "{part} follows at {value} at most.",
            form="limited", moves_only=True),
    _OfPart("beta", "current gain", _BIPOLAR, "beta", 0.25, "The current gain β of {part} is {value}.",
            spread=0.6),
    _OfPart("saturation_current", "saturation current", (*_BIPOLAR, "diode"), "saturation_current", 0.08,
            "The saturation current of {part} is {value}.", spread=1.5),
    _OfPart("early_voltage", "Early voltage", _BIPOLAR, "early_voltage", 0.05,
            "The Early voltage of {part} is {value}.", usual=80.0, spread=0.8),
    _OfPart("junction_resistance", "series resistance of a junction", ("diode",), "series_resistance", 0.05,
            "{part} has {value} in series with its junction."),
    _OfPart("junction_capacitance", "junction capacitance", ("diode",), "junction_capacitance", 0.03,
            "The junction of {part} has a capacitance of {value}.", usual=10e-12, moves_only=True),
    _OfPart("emission", "emission coefficient", ("diode",), "emission", 0.03,
            "The emission coefficient of {part} is {value}.", spread=0.3),
    _OfPart("threshold", "threshold", ("nmos",), "threshold", 0.15, "The threshold of {part} is {value}.",
            spread=0.4),
    _OfPart("transconductance", "transconductance", ("nmos", "pmos", "njf", "pjf"), "transconductance", 0.15,
            "The transconductance parameter of {part} is {value}.", spread=0.6),
    _OfPart("standoff", "intrinsic standoff ratio", ("unijunction",), "standoff", 0.2,
            "The standoff ratio of {part} is {value}.", spread=0.15),
    _OfPart("interbase_resistance", "interbase resistance", ("unijunction",), "interbase_resistance", 0.1,
            "The interbase resistance of {part} is {value}.", spread=0.4),
    _OfPart("valley_voltage", "valley voltage", ("unijunction",), "valley_voltage", 0.05,
            "The valley voltage of {part} is {value}.", spread=0.4),
)  # fmt: skip


def _offset(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.kind in _AMPLIFIERS:
            form = "" if element.form == "limited" else "limited"
            yield Cause(
                "offset_voltage", name, 0.06, f"{name} has an offset voltage of {{value}}.",
                Size(0.0, 3e-3, "V", is_signed=True, scan=(-2.0, -0.3, 0.3, 2.0)),
                _alone(element, "offset_voltage", form), unit="V",
                edit=Edit("set", name, "offset_voltage", form),
            )  # fmt: skip


def _bias(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        sinks = [
            (f"bias.{name}.{k}", node)
            for k, node in ((k, element.nodes[k]) for k in element.handling.inputs)
            if node != GROUND_NODE
        ]
        if sinks:
            yield Cause(
                "bias_current", name, 0.05, f"Each input of {name} draws {{value}}.",
                Size(BIAS, 1.5, "A"), partial(_to_ground, sinks, "current_source", "current"), unit="A",
            )  # fmt: skip


def _limit(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.kind != "opamp":
            continue
        alone = _alone(element, "highest", "limited")

        def either_way(
            size: float, name: str = name, alone: Edits = alone
        ) -> Sequence[CircuitEdit]:
            return (*alone(size), SetValues(name, {"lowest": -size}))

        highest = float(element.device.value(element, "highest"))
        yield Cause(
            "output_limit", name, 0.06, f"The output of {name} reaches {{value}} either way.",
            Size(highest, 0.4, "V"), either_way, unit="V",
        )  # fmt: skip


def _stray(observed: Observed) -> Iterator[Cause]:
    if not any(is_dynamic(block) for block in observed.blocks):
        return
    for circuit in list(observed.circuits.values())[:1]:
        for node in circuit.nodes:
            at = [e for e in circuit if node in e.nodes]
            ohms = [float(e.values["resistance"]) for e in at if e.kind == "resistor"]
            is_held = any(e.kind in ("voltage_source", "capacitor") for e in at)
            if is_held or not ohms or min(ohms) < _HIGH:
                continue
            stray = [(f"stray.{node}", node)]
            yield Cause(
                "stray_capacitance", node, 0.04,
                f"There is a stray capacitance of {{value}} at the node {node}.",
                Size(_STRAY, _UNSURE, "F"), partial(_to_ground, stray, "capacitor", "capacitance"), unit="F",
                edit=Edit("stray", nodes=(node, GROUND_NODE)),
            )  # fmt: skip


def _in_series(part: str) -> Edits:
    return lambda size: (Insert(part, size),)


def _contact(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.kind != "resistor" or float(element.values["resistance"]) > _LOW:
            continue
        yield Cause(
            "contact_resistance", name, 0.04, f"Contacts and wires add {{value}} to {name}.",
            Size(5 * CONTACT, 1.5, "Ω"), _in_series(name), unit="Ω",
        )  # fmt: skip


def _to_ground(
    places: Sequence[tuple[str, str]], kind: str, key: str, size: float
) -> Sequence[CircuitEdit]:
    """An element of this `size` from each node to ground, by its name."""
    return [Add(Element(name, kind, (node, GROUND_NODE), {key: size})) for name, node in places]


KINDS = (
    *(each.kind for each in _OF_PARTS),
    Kind("offset_voltage", "offset voltage", _offset, PRACTICE),
    Kind("bias_current", "bias current", _bias, PRACTICE),
    Kind("output_limit", "output limit", _limit, PRACTICE),
    Kind("stray_capacitance", "stray capacitance", _stray, PRACTICE),
    Kind("contact_resistance", "contact resistance", _contact, PRACTICE),
)
