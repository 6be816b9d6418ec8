"""Net extraction: which pins, wires and names on the sheet are one node.

A wire's end, a pin and a name join every wire they lie on; pins at the same point join; wires that
only cross do not, unless a junction stands there. Grounds are all one node, and so are places that
bear the same name.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterable
from dataclasses import dataclass, field

from lucidbench.core.devices import CATALOGUE, GROUND
from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.schematic.document import Label, Part, Point, Schematic, Wire
from lucidbench.core.schematic.geometry import on_segment, pin_points
from lucidbench.core.schematic.kinds import Kinds


@dataclass(frozen=True)
class PinPlace:
    part: Part
    index: int
    at: Point


@dataclass
class Net:
    """One node. `names` are the names it was given, first one first; `islands` counts the separate
    places that a shared name or the ground sign ties together."""

    name: str = ""
    pins: list[PinPlace] = field(default_factory=list)
    wires: list[Wire] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)
    islands: list[list[Label]] = field(default_factory=list)

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


class _Sets:
    """Disjoint sets with path halving (Tarjan and van Leeuwen, 1984)."""

    def __init__(self) -> None:
        self.parent: dict[Hashable, Hashable] = {}

    def find(self, item: Hashable) -> Hashable:
        self.parent.setdefault(item, item)
        while self.parent[item] != item:
            self.parent[item] = self.parent[self.parent[item]]
            item = self.parent[item]
        return item

    def join(self, a: Hashable, b: Hashable) -> None:
        self.parent[self.find(a)] = self.find(b)


class _Lanes:
    """Wires by the row or column their pieces run in, so that a point meets few of them."""

    def __init__(self, wires: Iterable[Wire]) -> None:
        self.rows: dict[int, list[tuple[int, int, Wire]]] = defaultdict(list)
        self.columns: dict[int, list[tuple[int, int, Wire]]] = defaultdict(list)
        self.slanted: list[tuple[Point, Point, Wire]] = []
        for wire in wires:
            for (x1, y1), (x2, y2) in zip(wire.points, wire.points[1:], strict=False):
                if y1 == y2:
                    self.rows[y1].append((min(x1, x2), max(x1, x2), wire))
                elif x1 == x2:
                    self.columns[x1].append((min(y1, y2), max(y1, y2), wire))
                else:
                    self.slanted.append(((x1, y1), (x2, y2), wire))

    def at(self, point: Point) -> list[Wire]:
        """The wires that pass through or end at `point`; one that turns there comes twice."""
        x, y = point
        found = [wire for low, high, wire in self.rows.get(y, ()) if low <= x <= high]
        found += [wire for low, high, wire in self.columns.get(x, ()) if low <= y <= high]
        if self.slanted:
            found += [wire for a, b, wire in self.slanted if on_segment(point, a, b)]
        return found


def extract_nets(schematic: Schematic, kinds: Kinds = CATALOGUE) -> list[Net]:
    """The nodes of the drawing, ground first, then in reading order."""
    sets, lanes = _Sets(), _Lanes(schematic.wires)
    pins = [
        PinPlace(part, index, point)
        for part in schematic.parts
        for index, point in enumerate(pin_points(part, kinds))
    ]
    for wire in schematic.wires:
        for end in (wire.points[0], wire.points[-1]):
            for other in lanes.at(end):
                sets.join(("wire", wire.id), ("wire", other.id))
    for point in (
        {p.at for p in pins}
        | {p.at for p in schematic.labels}
        | {p.at for p in schematic.junctions}
    ):
        for wire in lanes.at(point):
            sets.join(("point", point), ("wire", wire.id))

    drawn: dict[Hashable, Net] = defaultdict(Net)
    for pin in pins:
        drawn[sets.find(("point", pin.at))].pins.append(pin)
    for wire in schematic.wires:
        drawn[sets.find(("wire", wire.id))].wires.append(wire)
    for label in schematic.labels:
        drawn[sets.find(("point", label.at))].labels.append(label)

    return _named(_merged(list(drawn.values())))


def _merged(drawn: list[Net]) -> list[Net]:
    """Nets that bear the same name, or a ground sign, made one."""
    sets = _Sets()
    for index, net in enumerate(drawn):
        sets.find(index)
        for name in net.names:
            sets.join(index, ("name", name))
        if any(pin.part.kind == GROUND.kind for pin in net.pins):
            sets.join(index, "ground")
    merged: dict[Hashable, Net] = defaultdict(Net)
    for index, net in enumerate(drawn):
        whole = merged[sets.find(index)]
        whole.pins += net.pins
        whole.wires += net.wires
        whole.labels += net.labels
        whole.islands.append(net.labels)
    return list(merged.values())


def _named(nets: list[Net]) -> list[Net]:
    nets = [net for net in nets if net.pins or net.wires]
    nets.sort(key=lambda net: min((p[0], p[1]) for p in net.points))
    taken = {name for net in nets for name in net.names}
    fresh = (f"n{i}" for i in range(1, len(nets) + len(taken) + 1) if f"n{i}" not in taken)
    for net in nets:
        if any(pin.part.kind == GROUND.kind for pin in net.pins):
            net.name = GROUND_NODE
        elif net.names:
            net.name = net.names[0]
        else:
            net.name = next(fresh)
    return sorted(nets, key=lambda net: not net.is_ground)


def joints(schematic: Schematic, kinds: Kinds = CATALOGUE) -> list[Point]:
    """The points where three or more ends meet, which are drawn as dots."""
    lanes = _Lanes(schematic.wires)
    ends: dict[Point, int] = defaultdict(int)
    for part in schematic.parts:
        for point in pin_points(part, kinds):
            ends[point] += 1
    for wire in schematic.wires:
        ends[wire.points[0]] += 1
        ends[wire.points[-1]] += 1
    for junction in schematic.junctions:
        ends[junction.at] += 0
    found = []
    for point, count in ends.items():
        through = {w.id for w in lanes.at(point) if point not in (w.points[0], w.points[-1])}
        if count + 2 * len(through) >= 3:
            found.append(point)
    return sorted(found)
