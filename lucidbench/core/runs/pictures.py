"""Phasors as arrows in the plane: all from the origin, or one Kirchhoff sum laid head to tail."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from lucidbench.core.analyses import Phasors
from lucidbench.core.document.mentions import AND, AT, ROUND
from lucidbench.core.graphs import tree_from, way_to
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.readings.reading import DEGREE
from lucidbench.core.runs.looks import ArrowLook, PhasorsLook
from lucidbench.core.units import engineering

MOST_SUMS = 24


def sums(circuit: Circuit) -> Iterator[tuple[str, str]]:
    """(key, words) of every Kirchhoff sum that can be drawn: currents at a node, voltages round a loop."""
    for node in circuit.nodes:
        if len(_pins_at(circuit, node)) > 1 and _all_told(circuit, node):
            yield AT + node, f"currents at {node}"
    for loop in _loops(circuit):
        names = AND.join(element.name for element, _ in loop)
        yield ROUND + names, f"voltages round {names}"


def from_origin(found: Phasors) -> Iterator[PhasorsLook]:
    """Every voltage of a node, and every current, from one origin."""
    voltages = {f"V_{n}": v for n, v in found.voltages.items() if n != GROUND_NODE and v}
    currents = {f"I_{n}": i for n, i in found.currents.items() if i}
    for title, unit, named in (("Voltages", "V", voltages), ("Currents", "A", currents)):
        if named:
            arrows = [_arrow(name, 0j, value, unit) for name, value in named.items()]
            yield PhasorsLook(title=title, unit=unit, arrows=arrows)


def summed(found: Phasors, key: str) -> PhasorsLook | None:
    """The sum of that key as a closed polygon; None where the circuit has none of that name."""
    circuit = found.circuit
    node = key.removeprefix(AT)
    if key.startswith(AT) and node in circuit.nodes:
        named = [
            (f"{'−' if sign < 0 else ''}I_{name}", sign * found.currents[name])
            for name, sign in _pins_at(circuit, node)
        ]
        return _closed(f"Currents leaving {node} add up to zero", "A", named)
    for loop in _loops(circuit):
        if key == ROUND + AND.join(element.name for element, _ in loop):
            named = []
            for element, sign in loop:
                a, b = (found.voltages.get(node, 0j) for node in element.nodes)
                named.append((f"{'−' if sign < 0 else ''}V_{element.name}", sign * (a - b)))
            return _closed("Voltages round the loop add up to zero", "V", named)
    return None


def _closed(title: str, unit: str, named: Sequence[tuple[str, complex]]) -> PhasorsLook:
    arrows, tip = [], 0j
    for name, value in named:
        arrows.append(_arrow(name, tip, value, unit))
        tip += value
    return PhasorsLook(title=title, unit=unit, arrows=arrows, closed=True)


def _arrow(name: str, start: complex, value: complex, unit: str) -> ArrowLook:
    end = start + value
    angle = engineering(float(np.degrees(np.angle(value))), DEGREE)
    return ArrowLook(
        name=name, start=(start.real, start.imag), end=(end.real, end.imag),
        text=f"{engineering(abs(value), unit)} ∠ {angle}",
    )  # fmt: skip


def _pins_at(circuit: Circuit, node: str) -> list[tuple[str, int]]:
    """(current, sign) of what leaves `node` through each part on it."""
    found = []
    for element in circuit:
        told = element.device.description.currents
        if len(element.nodes) == 2 and len(told) == 1 and element.nodes[0] != element.nodes[1]:
            if node in element.nodes:
                found.append((element.name, 1 if element.nodes[0] == node else -1))
        else:
            found += [
                (f"{element.name}.{name}" if name else element.name, 1)
                for name, pin in told
                if element.nodes[pin] == node
            ]
    return found


def _all_told(circuit: Circuit, node: str) -> bool:
    """Whether the current of every pin at the node is among the results."""
    for element in circuit:
        told = {pin for _, pin in element.device.description.currents}
        if len(element.nodes) > 2 and any(
            at == node and pin not in told for pin, at in enumerate(element.nodes)
        ):
            return False
    return True


def _loops(circuit: Circuit) -> list[list[tuple[Element, int]]]:
    """Independent loops of parts with two pins, each with the sense it is passed in.

    One for every part outside a tree that spans the circuit (Kirchhoff, 1847).
    """
    branches = [e for e in circuit if len(e.nodes) == 2 and e.nodes[0] != e.nodes[1]]

    def neighbours(node: str) -> Iterator[tuple[str, tuple[Element, int]]]:
        for element in branches:
            for near, far, sign in ((0, 1, 1), (1, 0, -1)):
                if element.nodes[near] == node:
                    yield element.nodes[far], (element, sign)

    tree: dict[str, tuple[str, tuple[Element, int]] | None] = {}
    for root in (GROUND_NODE, *circuit.nodes):
        if root not in tree:
            tree |= tree_from(root, neighbours)
    spanning = {step[1][0].name for step in tree.values() if step}
    loops = []
    for element in branches:
        if element.name in spanning:
            continue
        out, back = ([step for _, step in way_to(node, tree) or ()] for node in element.nodes)
        shared = sum(1 for a, b in zip(out, back, strict=False) if a[0] is b[0])
        loop = [*out[shared:], (element, 1), *((e, -sign) for e, sign in reversed(back[shared:]))]
        backwards = [(e, -sign) for e, sign in reversed(loop)]
        loops.append(loop if loop[0][1] > 0 else backwards)
        if len(loops) == MOST_SUMS:
            break
    return loops
