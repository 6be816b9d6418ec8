"""A drawing read through: its nodes, its values, the circuit it means, and what is wrong with it."""

from __future__ import annotations

from dataclasses import dataclass

from lucidbench.core.netlist import Circuit
from lucidbench.core.schematic.document import Schematic
from lucidbench.core.schematic.findings import Finding, find
from lucidbench.core.schematic.flatten import flatten
from lucidbench.core.schematic.nets import Net, extract_nets
from lucidbench.core.schematic.values import ReadValue, read_values


@dataclass(frozen=True)
class Reading:
    """`values` holds each part's parameters by part id; `circuit` every part of a known kind."""

    nets: list[Net]
    values: dict[str, list[ReadValue]]
    circuit: Circuit
    findings: list[Finding]


def read_drawing(schematic: Schematic, title: str = "") -> Reading:
    """Read `schematic`. Never raises for what is drawn: whatever is wrong is a finding."""
    nets = extract_nets(schematic)
    values = {part.id: read_values(part) for part in schematic.parts}
    circuit = flatten(title, schematic, nets, values)
    return Reading(nets, values, circuit, find(schematic, nets, values, circuit))
