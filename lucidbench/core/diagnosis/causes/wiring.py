"""Faults of the wiring: parts open, short or turned round, wires on the neighbouring node."""

from __future__ import annotations

from collections.abc import Iterator

from lucidbench.core.diagnosis.causes.base import Cause, Kind, always
from lucidbench.core.diagnosis.observed import Observed
from lucidbench.core.edits import MoveLead, Open, Short, Turn
from lucidbench.core.imperfections import PRACTICE
from lucidbench.core.netlist import GROUND_NODE

_MOST_WIRES = 120


def _opened(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.handling.fails:
            sentence = f"{name} makes no contact, or it was left out."
            yield Cause("open", name, 0.03, sentence, edits=always(Open(name)))


def _shorted(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.handling.fails:
            yield Cause("short", name, 0.02, f"{name} is short.", edits=always(Short(name)))


def _turned(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if not element.handling.turned:
            continue
        sentence = f"{name} is turned round."
        if element.handling.inputs:
            sentence = f"The inputs of {name} are exchanged."
        elif element.kind in ("npn", "pnp"):
            sentence = f"Collector and emitter of {name} are exchanged."
        yield Cause("turned", name, 0.025, sentence, edits=always(Turn(name)))


def _wires(observed: Observed) -> Iterator[Cause]:
    circuit = next(iter(observed.circuits.values()))
    neighbours: dict[str, set[str]] = {}
    for element in circuit:
        for node in element.nodes:
            neighbours.setdefault(node, set()).update(element.nodes)
    found = [
        (element, pin, node)
        for element in circuit
        if element.handling.misplaced
        for pin, own in enumerate(element.nodes)
        for node in sorted(neighbours[own] - set(element.nodes))
    ]
    for element, pin, node in found[:_MOST_WIRES]:
        there = "ground" if node == GROUND_NODE else f"the node {node}"
        at = element.nodes[pin]
        own = "ground" if at == GROUND_NODE else f"the node {at}"
        yield Cause(
            "wire",
            element.name,
            0.2 / max(8, len(found)),
            f"The lead of {element.name} that belongs to {own} is on {there}.",
            edits=always(MoveLead(element.name, pin, node)),
            other=node,
        )


KINDS = (
    Kind("open", "a part open or left out", _opened, PRACTICE),
    Kind("short", "a part short", _shorted, PRACTICE),
    Kind("turned", "a part turned round", _turned, PRACTICE),
    Kind("wire", "a wire on the neighbouring node", _wires, PRACTICE),
)
