"""Small circuits drawn anew: what is joined on the drawing is what was to be joined, and nothing lies on
another."""

from __future__ import annotations

import itertools

import numpy as np

from lucidbench.core.schematic.geometry import pin_points
from lucidbench.core.schematic.laid_out import CONTROLLED, Laid, laid_out
from lucidbench.core.schematic.nets import wiring

KINDS = ("resistor", "voltage_source", "current_source", CONTROLLED)
CLEAR = 4  # grid units between the middles of two parts


def test_200_random_circuits_are_joined_as_told_and_nothing_overlaps() -> None:
    random = np.random.default_rng(5)
    for _ in range(200):
        nodes = ["0", *"abcdef"[: random.integers(1, 7)]]
        every = [
            Laid(str(random.choice(KINDS)), f"X{k}", "1 kΩ", (str(a), str(b)))
            for k, (a, b) in enumerate(
                [(node, "0") if random.integers(2) else ("0", node) for node in nodes[1:3]]
                + [tuple(random.permutation(nodes)[:2]) for _ in range(random.integers(1, 9))]
            )
        ]
        drawn = laid_out(every, {node: float(random.integers(9)) for node in nodes}, nodes)
        assert drawn is not None
        at_pins = wiring(drawn).nodes
        parts = [part for part in drawn.parts if part.kind != "ground"]
        assert len(parts) == len(every)
        laid = {each.name: each.nodes for each in every}
        for part in parts:
            assert at_pins[part.id][:2] == laid[part.name]
        for one, other in itertools.combinations(parts, 2):
            apart = np.abs(np.subtract(one.at, other.at))
            assert max(apart) >= CLEAR, (one.name, other.name)
        assert {label.name for label in drawn.labels} == {n for e in every for n in e.nodes} - {"0"}


def test_what_has_no_ground_gets_none() -> None:
    drawn = laid_out([Laid("resistor", "R1", "", ("a", "b")), Laid("resistor", "R2", "", ("b", "a"))],
                     {"a": 0.0, "b": 1.0}, ())  # fmt: skip
    assert drawn is not None
    assert all(part.kind != "ground" for part in drawn.parts)
    one, other = drawn.parts
    assert pin_points(one)[0][1] < pin_points(one)[1][1]  # its first pin on top
    assert pin_points(other)[0][1] > pin_points(other)[1][1]
