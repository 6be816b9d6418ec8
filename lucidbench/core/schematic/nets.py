"""Net extraction: which pins, wires and names on the sheet are one node.

A wire's end, a pin and a name join every wire they lie on; pins at the same point join; wires that
only cross do not, unless a junction stands there. Grounds are all one node, and so are places that
bear the same name. A node nobody named is numbered, and keeps its number as the drawing is edited.
"""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections import Counter, defaultdict
from collections.abc import Hashable, Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import chain, pairwise
from typing import NamedTuple

from lucidbench.core.devices import CATALOGUE, GROUND, Description
from lucidbench.core.graphs import Groups
from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.schematic.document import Part, Point, Schematic
from lucidbench.core.schematic.geometry import on_segment, placed_pins
from lucidbench.core.schematic.kinds import Kinds, kind_of_part


class PinPlace(NamedTuple):
    """A pin by the id of its part and its place among the part's pins."""

    part: str
    number: int
    at: Point
    grounds: bool = False  # whether the part is a ground sign


class WirePlace(NamedTuple):
    id: str
    points: tuple[Point, ...]


class NamePlace(NamedTuple):
    id: str
    name: str
    at: Point
    style: str


class NumberPlace(NamedTuple):
    name: str
    pins: tuple[tuple[str, int], ...]


@dataclass
class Net:
    """One node. `names` are the names it was given, first one first; `islands` counts the separate
    places that a shared name or the ground sign ties together.

    Nets are shared by all who ask about the same drawing, and are not to be changed.
    """

    name: str = ""
    pins: list[PinPlace] = field(default_factory=list)
    wires: list[WirePlace] = field(default_factory=list)
    labels: list[NamePlace] = field(default_factory=list)
    islands: list[list[NamePlace]] = field(default_factory=list)

    @property
    def is_ground(self) -> bool:
        return self.name == GROUND_NODE

    @property
    def names(self) -> list[str]:
        return list(dict.fromkeys(label.name for label in self.labels))

    @property
    def points(self) -> list[Point]:
        """Every pin and wire corner of it."""
        return [pin.at for pin in self.pins] + [p for wire in self.wires for p in wire.points]


@dataclass(frozen=True, eq=False)  # compared by identity: the same drawing has the same wiring
class Wiring:
    """What is joined on a sheet: the nodes, ground first, then in reading order; the nodes at each
    part's pins, first pin first, by part id; and the joints, where three or more ends meet."""

    nets: list[Net]
    nodes: dict[str, tuple[str, ...]]
    joints: list[Point]


def wiring(schematic: Schematic, kinds: Kinds = CATALOGUE) -> Wiring:
    """What is joined on the drawing. It depends on places and names alone, not on values."""
    return _wiring(
        tuple([_pins(part, kind_of_part(part, kinds)) for part in schematic.parts]),
        tuple([WirePlace(wire.id, tuple(wire.points)) for wire in schematic.wires]),
        tuple(NamePlace(name.id, name.name, name.at, name.style) for name in schematic.labels),
        tuple(junction.at for junction in schematic.junctions),
        tuple(NumberPlace(node.name, tuple(node.pins)) for node in schematic.nodes),
    )


def _pins(part: Part, description: Description | None) -> tuple[PinPlace, ...]:
    if description is None:
        return ()
    return _placed_pins(part.id, description, part.at, part.rotation, part.mirror)


@lru_cache(maxsize=4096)
def _placed_pins(
    part: str, description: Description, at: Point, rotation: int, mirror: bool
) -> tuple[PinPlace, ...]:
    points = placed_pins(description, at, rotation, mirror)
    grounds = description.kind == GROUND.kind
    return tuple(PinPlace(part, k, point, grounds) for k, point in enumerate(points))


@lru_cache(maxsize=32)  # most edits change values, and a run follows the look at the same drawing
def _wiring(
    parts: tuple[tuple[PinPlace, ...], ...],
    wires: tuple[WirePlace, ...],
    labels: tuple[NamePlace, ...],
    junctions: tuple[Point, ...],
    numbered: tuple[NumberPlace, ...],
) -> Wiring:
    pins = [place for part in parts for place in part]
    meeting = _Meeting(pins, wires, labels, junctions)
    nets = _named(meeting.nets(), numbered)
    return Wiring(nets, _nodes_of(nets), meeting.joints())


def _nodes_of(nets: list[Net]) -> dict[str, tuple[str, ...]]:
    nodes: dict[str, dict[int, str]] = {}
    for net in nets:
        for pin in net.pins:
            nodes.setdefault(pin.part, {})[pin.number] = net.name
    return {part: tuple(pins[i] for i in sorted(pins)) for part, pins in nodes.items()}


class _Meeting:
    """Which wires each joining point lies on: pins, wire ends, names and junctions, all that lies on
    one of which is one node."""

    def __init__(
        self,
        pins: list[PinPlace],
        wires: tuple[WirePlace, ...],
        labels: tuple[NamePlace, ...],
        junctions: tuple[Point, ...],
    ) -> None:
        self.pins, self.wires, self.labels = pins, wires, labels
        ends = (end for wire in wires for end in (wire.points[0], wire.points[-1]))
        self.joining: dict[Point, None] = dict.fromkeys(
            chain(ends, (pin.at for pin in pins), (label.at for label in labels), junctions)
        )
        corners = (point for wire in wires for point in wire.points[1:-1])
        # At corners wires are not joined, but where they are joined elsewhere they may part there.
        self.wires_at: dict[Point, list[int]] = {p: [] for p in chain(self.joining, corners)}
        self._meet()
        self.groups = Groups[Hashable]()
        for point in self.joining:
            for index in self.wires_at[point]:
                self.groups.join(point, index)

    def _meet(self) -> None:
        """Find the wires at each point, by their index; one that turns there comes twice."""
        rows: dict[int, list[int]] = defaultdict(list)
        columns: dict[int, list[int]] = defaultdict(list)
        for x, y in sorted(self.wires_at):
            rows[y].append(x)
            columns[x].append(y)
        for index, wire in enumerate(self.wires):
            for start, end in pairwise(wire.points):
                (x1, y1), (x2, y2) = start, end
                if y1 == y2:
                    for x in _between(rows[y1], x1, x2):
                        self.wires_at[x, y1].append(index)
                elif x1 == x2:
                    for y in _between(columns[x1], y1, y2):
                        self.wires_at[x1, y].append(index)
                else:
                    for point, wires in self.wires_at.items():
                        if on_segment(point, start, end):
                            wires.append(index)

    def nets(self) -> list[Net]:
        sets = self.groups
        drawn: dict[Hashable, Net] = defaultdict(Net)
        for pin in self.pins:
            drawn[sets.head(pin.at)].pins.append(pin)
        for index, wire in enumerate(self.wires):
            drawn[sets.head(index)].wires.append(wire)
        for label in self.labels:
            drawn[sets.head(label.at)].labels.append(label)
        return _merged(list(drawn.values()))

    def joints(self) -> list[Point]:
        """Where three ways or more lead on from a point: wires laid over one another go one way."""
        at_pin = Counter(pin.at for pin in self.pins)
        found = []
        for point, there in self.wires_at.items():
            wires = set(there)
            if len(wires) + at_pin[point] < 2:
                continue
            if len({self.groups.head(index) for index in wires}) > 1:
                continue  # a corner that lies on a wire of another node
            ways = {way for index in wires for way in _ways(self.wires[index], point)}
            if len(ways) + at_pin[point] >= 3:
                found.append(point)
        return sorted(found)


def _ways(wire: WirePlace, point: Point) -> Iterator[tuple[float, float]]:
    """The directions in which a wire leads on from a point on it."""
    for start, end in pairwise(wire.points):
        if on_segment(point, start, end):
            for x, y in (start, end):
                length = math.hypot(x - point[0], y - point[1])
                if length:
                    yield round((x - point[0]) / length, 6), round((y - point[1]) / length, 6)


def _between(sorted_places: list[int], a: int, b: int) -> list[int]:
    """Those of the places that lie from a to b or from b to a, ends included."""
    low, high = (a, b) if a <= b else (b, a)
    return sorted_places[bisect_left(sorted_places, low) : bisect_right(sorted_places, high)]


def _merged(drawn: list[Net]) -> list[Net]:
    """Nets that bear the same name, or a ground sign, made one."""
    sets = Groups[Hashable]()
    for index, net in enumerate(drawn):
        sets.head(index)
        for name in net.names:
            sets.join(index, ("name", name))
        if any(pin.grounds for pin in net.pins):
            sets.join(index, "ground")
    merged: dict[Hashable, Net] = defaultdict(Net)
    for index, net in enumerate(drawn):
        whole = merged[sets.head(index)]
        whole.pins += net.pins
        whole.wires += net.wires
        whole.labels += net.labels
        whole.islands.append(net.labels)
    return list(merged.values())


def _named(nets: list[Net], numbered: tuple[NumberPlace, ...]) -> list[Net]:
    """The nets that are nodes, each with its name, ground first, then in reading order."""
    nets = [net for net in nets if net.pins or net.wires]
    nets.sort(key=lambda net: min((p[0], p[1]) for p in net.points))
    labelled = {name for net in nets for name in net.names}
    for net in nets:
        if any(pin.grounds for pin in net.pins):
            net.name = GROUND_NODE
        elif net.names:
            net.name = net.names[0]
    standing = [node for node in numbered if node.name not in labelled]
    _keep_numbers([net for net in nets if not net.name], standing)
    taken = labelled | {node.name for node in standing}
    fresh = (f"n{i}" for i in range(1, len(nets) + len(taken) + 1) if f"n{i}" not in taken)
    # A loose end will soon be part of another node: it takes no number from one that stands.
    for net in sorted((net for net in nets if not net.name), key=lambda net: len(net.pins) < 2):
        net.name = next(fresh)
    return sorted(nets, key=lambda net: not net.is_ground)


def _keep_numbers(nets: list[Net], numbered: list[NumberPlace]) -> None:
    """Give each node the number that most of its pins had; of two that were one, the larger has it."""
    known = {pin: node.name for node in numbered for pin in node.pins}
    pins = ((place, pin) for place, net in enumerate(nets) for pin in net.pins)
    had = ((known.get((pin.part, pin.number)), place) for place, pin in pins)
    given = set()
    for (name, place), _ in Counter(had).most_common():
        if name and name not in given and not nets[place].name:
            nets[place].name = name
            given.add(name)
