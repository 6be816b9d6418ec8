"""Random resistive networks for properties, and short ways to write circuits down."""

from __future__ import annotations

from hypothesis import strategies as st

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.importing import Imported
from lucidbench.core.netlist import Circuit, Element, read_netlist
from lucidbench.core.schematic import Label, Part, Schematic
from lucidbench.core.schematic.geometry import pin_points

Resistances = st.floats(1.0, 1e6)
LATCH = ("VCC vcc 0 9", "RC1 vcc c1 1k", "RC2 vcc c2 1k", "RB1 c2 b1 10k", "RB2 c1 b2 10k",
         "Q1 c1 b1 0 q", "Q2 c2 b2 0 q", ".model q NPN(BF=100)")  # fmt: skip


def told(largest: float) -> st.SearchStrategy[float]:
    """What a source is set to: nothing, or more than the rounding of others beside it."""
    return st.floats(-largest, largest).map(lambda value: value if abs(value) > 1e-24 else 0.0)


def circuit(*lines: str) -> Circuit:
    return read_netlist("\n".join(("a test", *lines))).circuit


@st.composite
def resistive_networks(draw: st.DrawFn) -> Circuit:
    """Connected networks of up to eight nodes: a resistive tree to ground, then anything across it."""
    count = draw(st.integers(1, 8))
    elements = [
        Element(
            f"R{node}",
            "resistor",
            (str(node), str(draw(st.integers(0, node - 1)))),
            {"resistance": draw(Resistances)},
        )
        for node in range(1, count + 1)
    ]
    ends = st.integers(0, count)
    for i in range(draw(st.integers(0, 6))):
        a, b = draw(ends), draw(ends)
        if a != b:
            value = {"resistance": draw(Resistances)}
            elements.append(Element(f"RX{i}", "resistor", (str(a), str(b)), value))
    for i in range(draw(st.integers(0, 3))):
        a, b = draw(ends), draw(ends)
        if a != b:
            value = {"current": draw(told(1.0))}
            elements.append(Element(f"I{i}", "current_source", (str(a), str(b)), value))
    # Voltage sources from distinct nodes straight to ground never close a loop of their own.
    for node in draw(st.sets(st.integers(1, count), max_size=3)):
        value = {"voltage": draw(told(100.0))}
        elements.append(Element(f"V{node}", "voltage_source", (str(node), "0"), value))
    return Circuit("random", tuple(elements))


def drawn_from(imported: Imported) -> Exercise:
    """Imported parts side by side, joined by names at their pins."""
    assert imported.network is not None
    parts, labels = [], []
    for k, item in enumerate(imported.network):
        placed = item.part.model_copy(update={"at": (20 * k, 0)})
        parts.append(placed)
        for j, (node, at) in enumerate(zip(item.nodes, pin_points(placed), strict=True)):
            if node == "0":
                parts.append(Part(id=f"g{k}.{j}", kind="ground", name="GND", at=at))
            else:
                labels.append(Label(id=f"l{k}.{j}", name=node, at=at))
    return imported.document.model_copy(update={"schematic": Schematic(parts=parts, labels=labels)})
