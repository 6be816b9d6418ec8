"""Where leads and probes can be clipped: to a node, across a part, or into a pin of one."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit


@dataclass(frozen=True)
class Place:
    """`key` is a node, a part, or a pin as in "Q1.C". `nodes` are those a voltage is read between;
    `part` and `pin` where a current flows in, counted from 0."""

    key: str
    label: str
    nodes: tuple[str, str] | None
    part: str = ""
    pin: int = 0

    @property
    def voltage(self) -> str:
        """The formula of the voltage there."""
        assert self.nodes is not None
        plus, minus = self.nodes
        if minus == GROUND_NODE:
            return f"V_{plus}"
        return f"V_{plus} - V_{minus}" if plus != GROUND_NODE else f"-V_{minus}"

    @property
    def current(self) -> str:
        return f"I_{self.key}"


def places_of(circuit: Circuit) -> Iterator[Place]:
    """Nodes first, then parts, as they were drawn."""
    for node in circuit.nodes:
        yield Place(node, f"node {node}", (node, GROUND_NODE))
    for element in circuit:
        if element.name in circuit.nodes:
            continue
        for name, pin in element.device.description.currents:
            if name:
                key = f"{element.name}.{name}"
                yield Place(key, f"{key}, its pin", None, element.name, pin)
        if len(element.nodes) == 2:
            a, b = element.nodes
            yield Place(element.name, element.name, (a, b), element.name)


def place_of(circuit: Circuit, key: str) -> Place:
    """Raises CircuitError where there is no such place."""
    for place in places_of(circuit):
        if place.key == key:
            return place
    raise CircuitError(f"There is no node and no part called {key}.")


def between(circuit: Circuit, key: str, against: str = "") -> Place:
    """Where a voltage is read: at `key`, from `against` (a node, or nothing for ground) where `key` is a
    node. Raises CircuitError."""
    place = place_of(circuit, key)
    if place.nodes is None:
        raise CircuitError(f"A voltage is read at a node or across a part, and {key} is a pin.")
    if not against or place.part:
        return place
    other = place_of(circuit, against)
    return Place(key, place.label, (place.nodes[0], other.nodes[0] if other.nodes else GROUND_NODE))
