"""Faults of the wiring: parts open, short or turned round, wires on the neighbouring node."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

from lucidbench.core.diagnosis.causes.base import Cause, Edit, Kind, exchanging
from lucidbench.core.diagnosis.observed import Observed
from lucidbench.core.imperfections import BRIDGED, BROKEN, PRACTICE
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

_OPEN = ("resistor", "capacitor", "inductor", "diode")
_TURNS = ("diode", "npn", "pnp", "voltage_source", "current_source", "opamp", "powered_opamp")
_MOST_WIRES = 120
_WIRED = ("resistor", "capacitor", "inductor", "diode", "npn", "pnp")


def _opened(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.kind in _OPEN:
            yield Cause(
                "open", name, 0.03, f"{name} makes no contact, or it was left out.", None, _opening(name),
                edit=Edit("open", name),
            )  # fmt: skip


def _opening(part: str) -> Callable[[Circuit, float], Circuit]:
    def change(circuit: Circuit, size: float) -> Circuit:
        of = circuit.by_name.get(part)
        if of is None:
            return circuit
        inner = f"{part}.open"
        broken = Element(inner, "resistor", (of.nodes[0], inner), {"resistance": BROKEN})
        circuit = circuit.with_element(replace(of, nodes=(inner, *of.nodes[1:])))
        return circuit.with_element(broken)

    return change


def _shorted(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.kind in _OPEN:
            yield Cause(
                "short", name, 0.02, f"{name} is short.", None, exchanging(name, _bridged),
                edit=Edit("short", name),
            )  # fmt: skip


def _bridged(element: Element) -> Element:
    return Element(element.name, "resistor", element.nodes, {"resistance": BRIDGED})


def _turned(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.kind not in _TURNS:
            continue
        sentence = f"{name} is turned round."
        if element.kind in ("opamp", "powered_opamp"):
            sentence = f"The inputs of {name} are exchanged."
        elif element.kind in ("npn", "pnp"):
            sentence = f"Collector and emitter of {name} are exchanged."
        yield Cause(
            "turned", name, 0.025, sentence, None, exchanging(name, _round), edit=Edit("turn", name)
        )


def _round(element: Element) -> Element:
    first, second, *rest = element.nodes
    if element.kind in ("npn", "pnp"):
        return replace(element, nodes=(rest[0], second, first))
    return replace(element, nodes=(second, first, *rest))


def _wires(observed: Observed) -> Iterator[Cause]:
    circuit = next(iter(observed.circuits.values()))
    neighbours: dict[str, set[str]] = {}
    for element in circuit:
        for node in element.nodes:
            neighbours.setdefault(node, set()).update(element.nodes)
    found = [
        (element, pin, node)
        for element in circuit
        if element.kind in _WIRED
        for pin, own in enumerate(element.nodes)
        for node in sorted(neighbours[own] - set(element.nodes))
    ]
    for element, pin, node in found[:_MOST_WIRES]:

        def moved(of: Element, pin: int = pin, node: str = node) -> Element:
            return replace(of, nodes=(*of.nodes[:pin], node, *of.nodes[pin + 1 :]))

        there = "ground" if node == GROUND_NODE else f"the node {node}"
        at = element.nodes[pin]
        own = "ground" if at == GROUND_NODE else f"the node {at}"
        yield Cause(
            "wire", element.name, 0.2 / max(8, len(found)),
            f"The lead of {element.name} that belongs to {own} is on {there}.", None,
            exchanging(element.name, moved), other=node,
            edit=Edit("none", element.name),
        )  # fmt: skip


KINDS = (
    Kind("open", "a part open or left out", _opened, PRACTICE),
    Kind("short", "a part short", _shorted, PRACTICE),
    Kind("turned", "a part turned round", _turned, PRACTICE),
    Kind("wire", "a wire on the neighbouring node", _wires, PRACTICE),
)
