"""A physical build: the circuit as it comes out of a drawer of real parts, onto a breadboard."""

from __future__ import annotations

import random
from collections.abc import Iterator, Mapping
from dataclasses import replace

from lucidbench.core.devices.temperature import CELSIUS_ZERO
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Build, Exercise, Fault
from lucidbench.core.edits import (
    CircuitEdit,
    Exchange,
    MoveLead,
    Open,
    Scale,
    Short,
    Turn,
    applied,
)
from lucidbench.core.errors import CircuitError, ValueTextError
from lucidbench.core.imperfections import (
    BIAS,
    CONTACT,
    STRAY,
    Imperfection,
    imperfections_of,
)
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element, value_fault
from lucidbench.core.tolerance import place
from lucidbench.core.units import parse_value


def built(exercise: Exercise) -> Circuit:
    """The circuit of `exercise` as its build stands on the bench. Raises CircuitError, naming the part,
    where a fault or a fixed value is of nothing drawn."""
    drawing = drawing_of(exercise)
    elements = drawing.circuit.elements
    names = {part: elements[k].name for part, k in drawing.places.items()}
    return physical_build(drawing.circuit, exercise.build, names)


def physical_build(
    circuit: Circuit, build: Build, names: Mapping[str, str] | None = None
) -> Circuit:
    """`circuit` made of real parts. The same seed always picks the same ones.

    `names` gives the element of each part that `build` speaks of by id. Raises CircuitError.
    """
    names = names or {e.name: e.name for e in circuit}
    fixed = {(_named(each.part, names), each.key): each.text for each in build.fixed}
    elements: list[Element] = []
    for element in circuit:
        # Each part has draws of its own: another part beside it does not change what it is.
        drawer = _Drawer(build, element.name)
        real = _within_tolerance(element, drawer)
        if not build.ideal:
            real = _imperfect(real, drawer)
        own = {
            key: _fixed(element, key, text)
            for (name, key), text in fixed.items()
            if name == element.name
        }
        elements.append(replace(real, values={**real.values, **own}, spreads={}))
    if not build.ideal:
        elements += _of_the_board(circuit)
    kelvin = circuit.temperature if build.ideal else build.temperature + CELSIUS_ZERO
    found = Circuit(circuit.title, tuple(elements), kelvin, circuit.parameters)
    for fault in build.faults:
        found = applied(found, [_edit_of(fault, names, found)])
    return found


class _Drawer:
    """Draws for one part, in the order they are asked for."""

    def __init__(self, build: Build, name: str) -> None:
        self._random = random.Random(f"{build.seed} {name}")
        self._distribution = build.distribution

    def share(self) -> float:
        """Within -1 and 1."""
        return place(self._random, self._distribution)

    def size(self, imperfection: Imperfection, element: Element) -> float:
        typical, width = imperfection.typical(element), imperfection.width
        match imperfection.spread:
            case "share":
                return float(typical * (1 + width * self.share()))
            case "factor":
                return float(typical * width ** self.share())
            case _:
                return typical * width * self.share()


def _within_tolerance(element: Element, drawer: _Drawer) -> Element:
    values = dict(element.values)
    for key, half_width in element.spreads.items():
        values[key] *= 1 + half_width * drawer.share()
    return replace(element, values=values)


def _imperfect(element: Element, drawer: _Drawer) -> Element:
    real = replace(element, form=element.handling.real_form or element.form)
    values = dict(real.values)
    for imperfection in imperfections_of(real):
        values[imperfection.key] = drawer.size(imperfection, real)
    series = real.handling.series
    if series:
        values[series] = values.get(series, 0.0) + CONTACT
    return replace(real, values=values)


def _of_the_board(circuit: Circuit) -> Iterator[Element]:
    """What the breadboard and the amplifiers' inputs add."""
    for node in circuit.nodes:
        yield Element(f"stray {node}", "capacitor", (node, GROUND_NODE), {"capacitance": STRAY})
    for element in circuit:
        for pin in element.handling.inputs:
            ends = (element.nodes[pin], GROUND_NODE)
            yield Element(f"bias {element.name}.{pin}", "current_source", ends, {"current": BIAS})


def _fixed(element: Element, key: str, text: str) -> float:
    """A value that was not drawn. Raises CircuitError."""
    parameters = {p.key: p for p in element.device.description.parameters}
    if key not in parameters:
        raise CircuitError(f"{element.name} has no value that could be fixed as its {key}.")
    label = parameters[key].label.lower()
    try:
        number = parse_value(text, parameters[key].unit).number
    except ValueTextError as error:
        raise CircuitError(
            f"The {label} fixed for {element.name} cannot be read; {error}."
        ) from error
    fault = value_fault(element.kind, key, number)
    if fault:
        raise CircuitError(f"The build of {element.name} cannot be so: {fault}.")
    return number


def _named(part: str, names: Mapping[str, str]) -> str:
    if part not in names:
        raise CircuitError("A fault of the build is of a part that is not drawn any more.")
    return names[part]


def _edit_of(fault: Fault, names: Mapping[str, str], circuit: Circuit) -> CircuitEdit:
    """What a fault of the build is. Raises CircuitError where it cannot be."""
    part = _named(fault.part, names)
    element = circuit.element(part)
    if not element.nodes and fault.does not in ("factor", "exchange"):
        raise CircuitError(f"{part} has no leads that could be connected otherwise.")
    match fault.does:
        case "factor":
            if element.main_key not in {**element.device.defaults, **element.values}:
                raise CircuitError(f"{part} has no value that could be wrong by a factor.")
            return Scale(part, element.main_key, fault.factor)
        case "exchange":
            other = _named(fault.other, names)
            if circuit.element(other).kind != element.kind:
                raise CircuitError(
                    f"{part} and {other} are no parts of one kind and cannot be exchanged."
                )
            return Exchange(part, other)
        case "turn":
            return Turn(part)
        case "short":
            return Short(part)
        case "open":
            return Open(part)
        case _:
            if fault.pin >= len(element.nodes) or not fault.node:
                raise CircuitError(f"The misplaced wire of {part} has no pin or no node.")
            return MoveLead(part, fault.pin, fault.node)
