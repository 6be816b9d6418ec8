"""A small circuit drawn anew, as in a textbook: its nodes in one row, ground as a rail below them.

What lies between a node and ground stands upright, what lies between two neighbours lies in the row, and what
spans more, or lies beside, goes above.
"""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from typing import Literal, NamedTuple

from lucidbench.core.schematic.document import Label, Part, Point, Schematic, Wire

RAIL = "0"
MOST_NODES = 10
_MOST_ORDERED = 7  # nodes: of more, not every order is tried
_BESIDE = 12  # grid units between what stands upright at one node
_APART = 14  # between nodes
_HEIGHT = 14  # of the row above the rail
_ROW = 6  # between one level above and the next
_HALF = 3  # of a part, from pin to pin
_FOR_PINS = 5  # beside a controlled source, whose pins for what it senses stand out
_SIDE = 1  # by which a controlled source stands beside its own pins


class Laid(NamedTuple):
    """What is to be drawn between two `nodes`, pin 1 at the first."""

    kind: str
    name: str
    value: str
    nodes: tuple[str, str]


def laid_out(
    every: Sequence[Laid], places: Mapping[str, float], named: Collection[str]
) -> Schematic | None:
    """Nodes keep to the order of their `places` from left to right where no other makes shorter ways; those
    `named` are. None where there is nothing, or more than can be laid out so."""
    nodes = list(dict.fromkeys(n for each in every for n in each.nodes))
    if not nodes or len(nodes) > MOST_NODES:
        return None
    has_ground = RAIL in nodes
    rail = RAIL if has_ground else nodes[-1]
    row = _ordered([n for n in nodes if n != rail], every, places)
    if not row:
        return None
    drawing = _Drawing(row, every, rail)
    if not drawing.stands:
        return None
    if has_ground:
        drawing.ground()
    for node in row:
        if node in named:
            drawing.label(node)
    return Schematic(parts=drawing.parts, wires=drawing.wires, labels=drawing.labels)


def _ordered(
    nodes: list[str], every: Sequence[Laid], places: Mapping[str, float]
) -> tuple[str, ...]:
    hint = tuple(sorted(nodes, key=lambda n: places.get(n, 0.0)))
    if len(nodes) > _MOST_ORDERED:
        return hint
    pairs = [each.nodes for each in every if set(each.nodes) <= set(nodes)]

    def length(order: tuple[str, ...]) -> tuple[int, float]:
        at = {n: k for k, n in enumerate(order)}
        moved = sum(abs(at[n] - k) for k, n in enumerate(hint))
        return sum(abs(at[a] - at[b]) for a, b in pairs), moved

    return min(itertools.permutations(hint), key=length)


class _Drawing:
    def __init__(self, row: tuple[str, ...], every: Sequence[Laid], rail: str) -> None:
        self.parts: list[Part] = []
        self.wires: list[Wire] = []
        self.labels: list[Label] = []
        self.stands: list[int] = []  # where something stands on the rail
        self.left: dict[str, int] = {}
        self.right: dict[str, int] = {}
        at = {n: k for k, n in enumerate(row)}
        x = 0
        for node in row:
            upright = [each for each in every if set(each.nodes) == {node, rail}]
            self.left[node] = x
            for k, each in enumerate(upright):
                if k:
                    x += _BESIDE + (_FOR_PINS if each.kind == CONTROLLED else 0)
                self._upright(each, x, each.nodes[0] == node)
            self.right[node] = x
            self._wire((self.left[node], 0), (self.right[node], 0))
            x = self.right[node] + _APART
        across = [each for each in every if rail not in each.nodes]
        levels: list[list[tuple[int, int]]] = []
        for each in sorted(across, key=lambda e: abs(at[e.nodes[0]] - at[e.nodes[1]])):
            a, b = sorted(at[n] for n in each.nodes)
            level = 0 if b == a + 1 else 1
            while level < len(levels) and any(a < d and c < b for c, d in levels[level]):
                level += 1
            levels += [[] for _ in range(level + 1 - len(levels))]
            levels[level].append((a, b))
            self._lying(each, (row[a], row[b]), level)
        if self.stands:
            self._wire((min(self.stands), _HEIGHT), (max(self.stands), _HEIGHT))

    def ground(self) -> None:
        at = (min(self.stands), _HEIGHT)
        self.parts.append(Part(id="ground", kind="ground", name="GND", values={}, at=at))

    def label(self, node: str) -> None:
        self.labels.append(Label(id=f"name {node}", name=node, at=(self.left[node], 0)))

    def _upright(self, each: Laid, x: int, is_first_on_top: bool) -> None:
        middle = _HEIGHT // 2
        self._part(each, (x, middle), 90 if is_first_on_top else 270)
        self._wire((x, 0), (x, middle - _HALF))
        self._wire((x, middle + _HALF), (x, _HEIGHT))
        self.stands.append(x)

    def _lying(self, each: Laid, ends: tuple[str, str], level: int) -> None:
        start, end = self.right[ends[0]], self.left[ends[1]]
        y, middle = -_ROW * level, (start + end) // 2
        self._part(each, (middle, y), 0 if each.nodes[0] == ends[0] else 180)
        self._wire((start, 0), (start, y), (middle - _HALF, y))
        self._wire((middle + _HALF, y), (end, y), (end, 0))

    def _part(self, each: Laid, at: Point, turned: Literal[0, 90, 180, 270]) -> None:
        if each.kind == CONTROLLED:  # its own pins lie one above the other, beside its middle
            turned = _TURNED_BACK[turned]
            x, y = _BESIDE_MIDDLE[turned]
            at = (at[0] + x, at[1] + y)
        values = {"value": each.value} if each.value else {}
        own = f"part {len(self.parts)}"
        self.parts.append(
            Part(id=own, kind=each.kind, name=each.name, values=values, at=at, rotation=turned)
        )

    def _wire(self, *points: Point) -> None:
        corners = [p for k, p in enumerate(points) if not k or p != points[k - 1]]
        if len(corners) > 1:
            self.wires.append(Wire(id=f"wire {len(self.wires)}", points=corners))


CONTROLLED = "voltage_controlled_current"
_Turn = Literal[0, 90, 180, 270]
_TURNED_BACK: Mapping[int, _Turn] = {0: 270, 90: 0, 180: 90, 270: 180}
_BESIDE_MIDDLE: Mapping[int, Point] = {
    0: (-_SIDE, 0),
    90: (0, -_SIDE),
    180: (_SIDE, 0),
    270: (0, _SIDE),
}
