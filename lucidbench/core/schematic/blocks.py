"""Turning part of a drawing into a block: what goes inside, where its ports are, what to join again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable

from pydantic import BaseModel

from lucidbench.core.errors import DocumentError
from lucidbench.core.schematic.document import (
    Block,
    Label,
    Part,
    Point,
    Port,
    Schematic,
    Wire,
)
from lucidbench.core.schematic.kinds import BLOCK, LEAD, KindLook, Kinds, described, kind_look
from lucidbench.core.schematic.nets import Net, extract_nets

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


def make_block(
    schematic: Schematic, chosen: Collection[str], name: str, identity: str, kinds: Kinds
) -> NewBlock:
    """Take the chosen parts and wires into a block. Raises DocumentError where there are none."""
    parts = [part for part in schematic.parts if part.id in chosen]
    if not parts:
        raise DocumentError("Choose the parts that shall make the block first.")
    inside = {part.id for part in parts}
    nets = extract_nets(schematic, kinds)
    inner_wires: list[Wire] = []
    inner_labels: list[Label] = []
    crossing: list[tuple[str, list[Point], list[Point]]] = []  # name, pins inside, points outside
    for net in nets:
        own = [pin.at for pin in net.pins if pin.part.id in inside]
        if not own:
            continue
        foreign = [pin.at for pin in net.pins if pin.part.id not in inside]
        if net.is_ground:
            inner_wires += [w for w in net.wires if w.id in chosen and not _touches(w, foreign)]
            continue
        is_port = bool(foreign or net.labels)
        wires = [w for w in net.wires if not is_port or w.id in chosen or _joins(w, own)]
        if foreign:
            wires = [w for w in wires if not _touches(w, foreign)]
        inner_wires += wires
        kept = {w.id for w in wires}
        outer = [w for w in net.wires if w.id not in kept]
        meeting = [p for p in own if p in foreign or any(_touches(w, [p]) for w in outer)]
        meeting += [
            end for w in outer for end in (w.points[0], w.points[-1])
            if any(_touches(i, [end]) for i in wires) and end not in meeting
        ]  # fmt: skip
        if is_port:
            crossing.append((net.name, own, meeting))
    inner = Schematic(
        parts=parts,
        wires=inner_wires,
        junctions=[j for j in schematic.junctions if j.id in chosen],
        labels=[],
        notes=[n for n in schematic.notes if n.id in chosen],
    )
    inner_labels = _named_ports(inner, crossing, kinds)
    inner.labels = inner_labels
    box = _box(point for part in parts for point in [part.at])
    ports = laid_out(_sides(crossing, box))
    taken = {w.id for w in inner_wires}
    at: Point = ((box[0] + box[2]) // 2, (box[1] + box[3]) // 2)
    instance = Part(
        id=_fresh("p", (p.id for p in schematic.parts)),
        kind=BLOCK,
        block=identity,
        name=_fresh("X", (p.name for p in schematic.parts)),
        at=at,
    )
    gone_labels = {
        label.id for net in nets for label in net.labels
        if all(pin.part.id in inside for pin in net.pins) and all(w.id in taken for w in net.wires)
    }  # fmt: skip
    rest = schematic.model_copy(
        update={
            "parts": [p for p in schematic.parts if p.id not in inside] + [instance],
            "wires": [w for w in schematic.wires if w.id not in taken],
            "junctions": [j for j in schematic.junctions if j.id not in chosen],
            "labels": [lb for lb in schematic.labels if lb.id not in gone_labels],
            "notes": [n for n in schematic.notes if n.id not in chosen],
        }
    )
    numbers = {port.name: k for k, port in enumerate(ports)}
    rejoin = [
        Rejoin(start=point, pin=numbers[node]) for node, _, meeting in crossing for point in meeting
    ]
    block = Block(id=identity, name=name, schematic=inner, ports=ports)
    kind = kind_look(f"{BLOCK} {identity}", described(block))
    return NewBlock(schematic=rest, block=block, kind=kind, part=instance.id, rejoin=rejoin)


def laid_out(sides: dict[str, list[str]]) -> list[Port]:
    """Ports by side, evenly spaced, on a frame large enough for them and their names."""
    longest = max((len(name) for names in sides.values() for name in names), default=0)
    rows = max(len(sides.get("left", [])), len(sides.get("right", [])), 1)
    columns = max(len(sides.get("top", [])), len(sides.get("bottom", [])))
    half_width = max(LEAST_HALF_WIDTH, 2 + longest // 2, columns * PITCH // 2 + 1)
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


def _sides(
    crossing: Iterable[tuple[str, list[Point], list[Point]]], box: tuple[int, int, int, int]
) -> dict[str, list[str]]:
    """Each port on the side of the chosen parts that it lay nearest to, in the order it had there."""
    left, top, right, bottom = box
    placed: dict[str, list[tuple[int, str]]] = defaultdict(list)
    for name, own, meeting in crossing:
        x, y = (meeting or own)[0]
        distances = {"left": x - left, "right": right - x, "top": y - top, "bottom": bottom - y}
        # Signals run across the page: a corner counts to its left or right side.
        side = min(distances, key=lambda s: (distances[s], s in ("top", "bottom")))
        placed[side].append((y if side in ("left", "right") else x, name))
    return {side: [name for _, name in sorted(items)] for side, items in placed.items()}


def _named_ports(
    inner: Schematic, crossing: Iterable[tuple[str, list[Point], list[Point]]], kinds: Kinds
) -> list[Label]:
    """A name at each separate place inside that a port reaches, so that the name joins them."""
    islands: list[Net] = extract_nets(inner, kinds)
    labels: list[Label] = []
    for name, own, _ in crossing:
        seen: list[Net] = []
        for point in own:
            net = next((n for n in islands if any(pin.at == point for pin in n.pins)), None)
            if net is not None and not any(net is other for other in seen):
                seen.append(net)
                labels.append(Label(id=f"l{len(labels) + 1}", name=name, at=point))
    return labels


def _touches(wire: Wire, points: Iterable[Point]) -> bool:
    ends = (wire.points[0], wire.points[-1])
    return any(point in ends for point in points)


def _joins(wire: Wire, points: list[Point]) -> bool:
    return wire.points[0] in points and wire.points[-1] in points


def _box(points: Iterable[Point]) -> tuple[int, int, int, int]:
    xs, ys = zip(*points, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _fresh(prefix: str, taken: Iterable[str]) -> str:
    used = {name.lower() for name in taken}
    return next(
        f"{prefix}{k}" for k in range(1, len(used) + 2) if f"{prefix}{k}".lower() not in used
    )
