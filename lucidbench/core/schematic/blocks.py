"""Turning part of a drawing into a block: what goes inside, where its ports are, what to join again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from itertools import pairwise

from pydantic import BaseModel

from lucidbench.core.devices import GROUND
from lucidbench.core.errors import DocumentError
from lucidbench.core.schematic.document import (
    Block,
    Label,
    NumberedNode,
    Part,
    Point,
    Port,
    Schematic,
    Wire,
)
from lucidbench.core.schematic.geometry import on_segment, pin_points, placed
from lucidbench.core.schematic.kinds import (
    BLOCK,
    LEAD,
    KindLook,
    Kinds,
    described,
    frame,
    kind_look,
    kind_of_part,
)
from lucidbench.core.schematic.nets import NamePlace, Net, WirePlace, wiring

FARTHEST = 60  # grid units a block may come to lie from the middle of what it was made of
PITCH = 2  # grid units between ports on one side
LEAST_HALF_WIDTH = 4
SIDES = ("left", "right", "top", "bottom")


class Rejoin(BaseModel):
    """A wire to be laid from a point outside to a pin of the new part."""

    start: Point
    pin: int


class NewBlock(BaseModel):
    """The sheet with a part in the place of what was chosen, its block, and the wires still to lay."""

    schematic: Schematic
    block: Block
    kind: KindLook
    part: str
    rejoin: list[Rejoin]
    loose: list[Point]  # ends of wires that led to nothing but ground inside


@dataclass(frozen=True)
class _Crossing:
    """A node that becomes a port: its pins inside, where wires outside met it, and the names that go
    with it, where nothing outside is on it."""

    name: str
    own: list[Point]
    meeting: list[Point]
    labels: list[NamePlace]


def make_block(
    schematic: Schematic, chosen: Collection[str], name: str, identity: str, kinds: Kinds
) -> NewBlock:
    """Take the chosen parts and wires into a block. Raises DocumentError where there are none."""
    parts = [part for part in schematic.parts if part.id in chosen]
    if not parts:
        raise DocumentError("Choose the parts that shall make the block first.")
    inside = {part.id for part in parts}
    crossing: list[_Crossing] = []
    gone: set[str] = set()  # wires that go inside
    grounded: list[Point] = []  # pins inside that are on ground
    loose: list[Point] = []  # ends outside that led to them
    for net in wiring(schematic, kinds).nets:
        own = [pin.at for pin in net.pins if pin.part in inside]
        if not own:
            continue
        foreign = [pin.at for pin in net.pins if pin.part not in inside]
        wires = _inner(net, own, foreign, chosen)
        gone |= {w.id for w in wires}
        outer = [w for w in net.wires if w.id not in gone]
        meeting = [p for p in own if p in foreign or any(_touches(w, [p]) for w in outer)]
        meeting += [
            end for w in outer for end in (w.points[0], w.points[-1])
            if end not in meeting and any(on_wire(end, i) for i in wires)
        ]  # fmt: skip
        if net.is_ground:
            if foreign:
                grounded += own
                loose += meeting
        elif foreign or net.labels:
            crossing.append(_Crossing(net.name, own, meeting, [] if foreign else net.labels))
    inner = Schematic(
        parts=parts,
        wires=[w for w in schematic.wires if w.id in gone],
        junctions=[j for j in schematic.junctions if j.id in chosen],
        notes=[n for n in schematic.notes if n.id in chosen],
    )
    islands = wiring(inner, kinds).nets
    for point in _one_each(grounded, islands):
        taken = (part.id for part in inner.parts)
        inner.parts.append(
            Part(id=_fresh("g", taken), kind=GROUND.kind, name=GROUND.prefix, at=point)
        )
    named = [
        (cross.name, point)
        for cross in crossing
        for point in [label.at for label in cross.labels] or _one_each(cross.own, islands)
    ]
    inner.labels.extend(
        Label(id=f"l{k}", name=name, at=point) for k, (name, point) in enumerate(named, 1)
    )
    box = _box(part.at for part in parts)
    ports = laid_out(_sides(crossing, box))
    others = [p for p in schematic.parts if p.id not in inside]
    wires_left = [w for w in schematic.wires if w.id not in gone]
    middle = ((box[0] + box[2]) // 2, (box[1] + box[3]) // 2)
    at = _free_place(middle, ports, others, wires_left, kinds)
    instance = Part(
        id=_fresh("p", (p.id for p in schematic.parts)),
        kind=BLOCK,
        block=identity,
        name=_fresh("X", (p.name for p in schematic.parts)),
        at=at,
    )
    moved_in = {label.id for cross in crossing for label in cross.labels}
    places = {port.name: (at[0] + port.at[0], at[1] + port.at[1]) for port in ports}
    rest = schematic.model_copy(
        update={
            "parts": [*others, instance],
            "wires": wires_left,
            "junctions": [j for j in schematic.junctions if j.id not in chosen],
            "labels": [
                label.model_copy(update={"at": places[label.name]})
                if label.id in moved_in
                else label
                for label in schematic.labels
            ],
            "notes": [n for n in schematic.notes if n.id not in chosen],
            "nodes": [_without(node, inside) for node in schematic.nodes],
        }
    )
    numbers = {port.name: k for k, port in enumerate(ports)}
    rejoin = [
        Rejoin(start=point, pin=numbers[cross.name])
        for cross in crossing
        for point in cross.meeting
    ]
    block = Block(id=identity, name=name, schematic=inner, ports=ports)
    kind = kind_look(f"{BLOCK} {identity}", described(block))
    return NewBlock(
        schematic=rest, block=block, kind=kind, part=instance.id, rejoin=rejoin, loose=loose
    )


def _without(node: NumberedNode, gone: Collection[str]) -> NumberedNode:
    return node.model_copy(update={"pins": [pin for pin in node.pins if pin[0] not in gone]})


def laid_out(sides: dict[str, list[str]]) -> list[Port]:
    """Ports by side, evenly spaced, on a frame large enough for them and their names."""
    longest = {side: max(map(len, names), default=0) for side, names in sides.items()}
    across = longest.get("left", 0) + longest.get("right", 0)
    rows = max(len(sides.get("left", [])), len(sides.get("right", [])), 1)
    columns = max(len(sides.get("top", [])), len(sides.get("bottom", [])))
    half_width = max(LEAST_HALF_WIDTH, 1 + across // 2, columns * PITCH // 2 + 1)
    half_height = max(2, rows * PITCH // 2 + 1)
    ports = []
    for side in SIDES:
        names = sides.get(side, [])
        for k, name in enumerate(names):
            along = PITCH * k - (PITCH * (len(names) - 1)) // 2
            at: Point = {
                "left": (-half_width - LEAD, along),
                "right": (half_width + LEAD, along),
                "top": (along, -half_height - LEAD),
                "bottom": (along, half_height + LEAD),
            }[side]
            ports.append(Port(name=name, at=at))
    return ports


def _sides(crossing: Iterable[_Crossing], box: tuple[int, int, int, int]) -> dict[str, list[str]]:
    """Each port on the side of the chosen parts that it lay nearest to, in the order it had there."""
    left, top, right, bottom = box
    placed: dict[str, list[tuple[int, str]]] = defaultdict(list)
    for cross in crossing:
        x, y = [*cross.meeting, *(label.at for label in cross.labels), *cross.own][0]
        distances = {"left": x - left, "right": right - x, "top": y - top, "bottom": bottom - y}
        # Signals run across the page: a corner counts to its left or right side.
        side = min(distances, key=lambda s: (distances[s], s in ("top", "bottom")))
        placed[side].append((y if side in ("left", "right") else x, cross.name))
    return {side: [name for _, name in sorted(items)] for side, items in placed.items()}


def _inner(
    net: Net, own: list[Point], foreign: list[Point], chosen: Collection[str]
) -> list[WirePlace]:
    """The wires of a node that go inside: all, where nothing outside is on it; else those chosen or
    laid between pins inside, as long as nothing outside hangs on them."""
    if not foreign:
        return net.wires
    wires = [w for w in net.wires if w.id in chosen or _joins(w, own)]
    while True:
        kept = {w.id for w in wires}
        hanging = [
            *foreign,
            *(p for w in net.wires if w.id not in kept for p in _ends(w) if p not in own),
        ]
        free = [w for w in wires if not any(on_wire(point, w) for point in hanging)]
        if len(free) == len(wires):
            return wires
        wires = free


def _free_place(
    middle: Point, ports: list[Port], parts: list[Part], wires: list[Wire], kinds: Kinds
) -> Point:
    """The place nearest to `middle` where a block with these ports touches nothing that is there."""
    left, top, right, bottom = frame(port.at for port in ports)
    reach = LEAD + 1
    pins = [point for part in parts for point in pin_points(part, kinds)]
    pieces = [piece for wire in wires for piece in pairwise(wire.points)]
    bodies = [_placed_body(part, kinds) for part in parts]

    def is_free(x: int, y: int) -> bool:
        x_1, y_1, x_2, y_2 = (
            x + left - reach,
            y + top - reach,
            x + right + reach,
            y + bottom + reach,
        )
        if any(x_1 <= px <= x_2 and y_1 <= py <= y_2 for px, py in pins):
            return False
        if any(
            x_1 < right_2 and left_2 < x_2 and y_1 < bottom_2 and top_2 < y_2
            for left_2, top_2, right_2, bottom_2 in bodies
        ):
            return False
        return not any(
            min(xs) <= x_2 and max(xs) >= x_1 and min(ys) <= y_2 and max(ys) >= y_1
            for xs, ys in (zip(*piece, strict=True) for piece in pieces)
        )

    for ring in range(0, FARTHEST, 2):
        for dx in range(-ring, ring + 1, 2):
            for dy in {ring - abs(dx), abs(dx) - ring}:
                if is_free(middle[0] + dx, middle[1] + dy):
                    return middle[0] + dx, middle[1] + dy
    rightmost = max([x for x, _ in pins] + [p[0] for w in wires for p in w.points] + [middle[0]])
    return rightmost + right + 2 * reach, middle[1]


def _placed_body(part: Part, kinds: Kinds) -> tuple[float, float, float, float]:
    description = kind_of_part(part, kinds)
    if description is None:
        return part.at[0] - 2, part.at[1] - 2, part.at[0] + 2, part.at[1] + 2
    left, top, right, bottom = description.symbol.body
    corners = [placed(part, round(x), round(y)) for x in (left, right) for y in (top, bottom)]
    return _box(corners)


def _one_each(points: Iterable[Point], islands: list[Net]) -> list[Point]:
    """One of the points for each separate place they reach."""
    found: dict[int, Point] = {}
    for point in points:
        where = next(
            (k for k, net in enumerate(islands) if any(pin.at == point for pin in net.pins)), -1
        )
        found.setdefault(where, point)
    return list(found.values())


def on_wire(point: Point, wire: WirePlace) -> bool:
    return any(on_segment(point, a, b) for a, b in pairwise(wire.points))


def _ends(wire: WirePlace) -> tuple[Point, Point]:
    return wire.points[0], wire.points[-1]


def _touches(wire: WirePlace, points: Iterable[Point]) -> bool:
    return any(point in _ends(wire) for point in points)


def _joins(wire: WirePlace, points: list[Point]) -> bool:
    return wire.points[0] in points and wire.points[-1] in points


def _box(points: Iterable[Point]) -> tuple[int, int, int, int]:
    xs, ys = zip(*points, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _fresh(prefix: str, taken: Iterable[str]) -> str:
    used = {name.lower() for name in taken}
    return next(
        f"{prefix}{k}" for k in range(1, len(used) + 2) if f"{prefix}{k}".lower() not in used
    )
