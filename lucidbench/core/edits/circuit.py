"""Changes of a circuit, as values: the language in which causes, faults of a build and trials say what is
otherwise. What one says of a part that is not there changes nothing."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import reduce

from lucidbench.core.devices.temperature import CELSIUS_ZERO
from lucidbench.core.imperfections import BRIDGED, BROKEN
from lucidbench.core.netlist import Circuit, Element


@dataclass(frozen=True)
class SetValues:
    """Other `values` [SI] of a part, and another `form` where one is named."""

    part: str
    values: Mapping[str, float]
    form: str = ""


@dataclass(frozen=True)
class Scale:
    """The value `key` of a part, `factor` times what it is."""

    part: str
    key: str
    factor: float


@dataclass(frozen=True)
class ScaleSource:
    """A source with its DC value, phasor and waveform scaled by `factor`."""

    part: str
    factor: float


@dataclass(frozen=True)
class Silence:
    """A source that gives nothing."""

    part: str


@dataclass(frozen=True)
class Insert:
    """A resistance [Ω] in series with a part, as one more of what it has there anyway."""

    part: str
    ohms: float


@dataclass(frozen=True)
class Open:
    """A part whose first lead makes no contact."""

    part: str


@dataclass(frozen=True)
class Short:
    """A part bridged from its first lead to its last."""

    part: str


@dataclass(frozen=True)
class Turn:
    """A part the other way round: its two leads, collector and emitter, the inputs of an amplifier."""

    part: str


@dataclass(frozen=True)
class Exchange:
    """Two parts in each other's place."""

    part: str
    other: str


@dataclass(frozen=True)
class MoveLead:
    """One lead of a part, by its number, on another node."""

    part: str
    pin: int
    node: str


@dataclass(frozen=True)
class Add:
    """An element more, if its first node is there."""

    element: Element


@dataclass(frozen=True)
class SetTemperature:
    celsius: float


OfPart = (
    SetValues | Scale | ScaleSource | Silence | Insert | Open | Short | Turn | Exchange | MoveLead
)
CircuitEdit = OfPart | Add | SetTemperature


def applied(circuit: Circuit, edits: Iterable[CircuitEdit]) -> Circuit:
    """The circuit with one change after the other."""
    return reduce(_applied, edits, circuit)


def _applied(circuit: Circuit, edit: CircuitEdit) -> Circuit:
    match edit:
        case SetTemperature(celsius):
            return replace(circuit, temperature=celsius + CELSIUS_ZERO)
        case Add(element):
            return circuit.with_element(element) if element.nodes[0] in circuit.nodes else circuit
    of = circuit.by_name.get(edit.part)
    if of is None:
        return circuit
    match edit:
        case Exchange(_, other):
            second = circuit.by_name.get(other)
            if second is None:
                return circuit
            return circuit.with_element(_as(of, second)).with_element(_as(second, of))
        case Open(part):
            inner = f"{part}.open"
            gap = Element(inner, "resistor", (of.nodes[0], inner), {"resistance": BROKEN})
            apart = replace(of, nodes=(inner, *of.nodes[1:]))
            return circuit.with_element(apart).with_element(gap)
        case _:
            return circuit.with_element(_other(of, edit))


def _as(one: Element, other: Element) -> Element:
    """`one` with all that makes `other` what it is."""
    return replace(one, values=other.values, form=other.form)


def _other(of: Element, edit: OfPart) -> Element:
    match edit:
        case SetValues(_, values, form):
            return replace(of, values={**of.values, **values}, form=form or of.form)
        case Scale(_, key, factor):
            return of.with_value(key, of.device.value(of, key) * factor)
        case ScaleSource(_, factor):
            keys = [key for key in ("magnitude", of.main_key) if key in of.values]
            wave = of.waveform.scaled(factor) if of.waveform is not None else None
            scaled = {key: of.values[key] * factor for key in keys}
            return replace(of, values={**of.values, **scaled}, waveform=wave)
        case Silence():
            return replace(of, values={of.main_key: 0.0}, waveform=None)
        case Insert(_, ohms):
            key = of.handling.series
            return of.with_value(key, of.values.get(key, 0.0) + ohms)
        case Short():
            ends = (of.nodes[0], of.nodes[-1])
            return Element(of.name, "resistor", ends, {"resistance": BRIDGED})
        case Turn():
            order = of.handling.turned or range(len(of.nodes))
            return replace(of, nodes=tuple(of.nodes[pin] for pin in order))
        case MoveLead(_, pin, node):
            return replace(of, nodes=(*of.nodes[:pin], node, *of.nodes[pin + 1 :]))
        case _:
            raise TypeError(edit)
