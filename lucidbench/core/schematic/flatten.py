"""From the drawing to the flat circuit the analyses take."""

from __future__ import annotations

from lucidbench.core.devices import DEVICES
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.schematic.document import Part, Schematic
from lucidbench.core.schematic.nets import Net
from lucidbench.core.schematic.values import ReadValue


def nodes_of(nets: list[Net]) -> dict[str, list[str]]:
    """The node names at each part's pins, first pin first, by part id."""
    nodes: dict[str, dict[int, str]] = {}
    for net in nets:
        for pin in net.pins:
            nodes.setdefault(pin.part.id, {})[pin.index] = net.name
    return {part: [pins[i] for i in sorted(pins)] for part, pins in nodes.items()}


def flatten(
    title: str, schematic: Schematic, nets: list[Net], values: dict[str, list[ReadValue]]
) -> Circuit:
    """The circuit of every part of a known kind; a value that was not understood is left out."""
    nodes = nodes_of(nets)
    elements = tuple(
        element(part, nodes[part.id], values[part.id])
        for part in schematic.parts
        if part.kind in DEVICES
    )
    return Circuit(title, elements)


def element(part: Part, nodes: list[str], values: list[ReadValue]) -> Element:
    numbers, spreads = {}, {}
    for value in values:
        if value.number is None:
            continue
        if value.parameter.tolerance_of:
            spreads[value.parameter.tolerance_of] = value.number
        else:
            numbers[value.parameter.key] = value.number
    return Element(part.name, part.kind, tuple(nodes), numbers, spreads)
