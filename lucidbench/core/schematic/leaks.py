"""A large resistance from a node to ground, drawn where there is room: what gives a node a DC path."""

from __future__ import annotations

import math
from collections.abc import Iterator

from lucidbench.core.devices import CATALOGUE, GROUND
from lucidbench.core.schematic.document import Part, Point, Schematic
from lucidbench.core.schematic.geometry import on_segment, pin_points, placed
from lucidbench.core.schematic.kinds import Kinds, kind_of_part
from lucidbench.core.schematic.nets import Net

RESISTANCE = "1 MΩ"
_DOWN, _RIGHT, _LEFT, _UP = (0, 1), (1, 0), (-1, 0), (0, -1)
_TURNED = {_RIGHT: 0, _DOWN: 90, _LEFT: 180, _UP: 270}
_FOOT = {_DOWN: 0, _LEFT: 90, _UP: 180, _RIGHT: 270}
_HALF = abs(CATALOGUE["resistor"].symbol.pins[0].x)
_LENGTH = 2 * _HALF + 2  # with the ground sign


def leak(
    net: Net, schematic: Schematic, kinds: Kinds, name: str, identities: tuple[str, str]
) -> list[Part]:
    """A resistor from the node and a ground at its other end; none where there is no room near by."""
    taken = set(_taken(schematic, kinds))
    for way in (_DOWN, _RIGHT, _LEFT, _UP):
        for start in sorted(set(net.points), key=lambda p: (-p[1], p[0])):
            if not taken & set(_room(start, way)):
                return _drawn(start, way, name, identities)
    return []


def _drawn(start: Point, way: Point, name: str, identities: tuple[str, str]) -> list[Part]:
    def along(steps: int) -> Point:
        return start[0] + steps * way[0], start[1] + steps * way[1]

    resistor = Part(
        id=identities[0], kind="resistor", name=name, at=along(_HALF), rotation=_TURNED[way],
        values={**CATALOGUE["resistor"].starting_values, "resistance": RESISTANCE},
    )  # fmt: skip
    ground = Part(
        id=identities[1], kind=GROUND.kind, name=GROUND.prefix, at=along(2 * _HALF),
        rotation=_FOOT[way],
    )  # fmt: skip
    return [resistor, ground]


def _room(start: Point, way: Point) -> Iterator[Point]:
    """What it would cover, but for the place it begins at."""
    for step in range(1, _LENGTH + 1):
        for aside in (-1, 0, 1) if step > 1 else (0,):
            yield (
                start[0] + step * way[0] + aside * way[1],
                start[1] + step * way[1] + aside * way[0],
            )


def _taken(schematic: Schematic, kinds: Kinds) -> Iterator[Point]:
    for part in schematic.parts:
        description = kind_of_part(part, kinds)
        yield from pin_points(part, kinds)
        if description is None:
            continue
        left, top, right, bottom = description.symbol.body
        for x in range(math.floor(left), math.ceil(right) + 1):
            for y in range(math.floor(top), math.ceil(bottom) + 1):
                yield placed(part, x, y)
    for wire in schematic.wires:
        for start, end in zip(wire.points, wire.points[1:], strict=False):
            xs = range(min(start[0], end[0]), max(start[0], end[0]) + 1)
            ys = range(min(start[1], end[1]), max(start[1], end[1]) + 1)
            if len(xs) > 1 and len(ys) > 1:  # aslant
                yield from ((x, y) for x in xs for y in ys if on_segment((x, y), start, end))
            else:
                yield from ((x, y) for x in xs for y in ys)
