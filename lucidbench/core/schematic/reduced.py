"""A drawing with some of its parts exchanged, made wires or taken out, as it stands then."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from lucidbench.core.devices import CATALOGUE
from lucidbench.core.schematic.document import Part, Point, Schematic, Wire
from lucidbench.core.schematic.geometry import on_segment, pin_points
from lucidbench.core.schematic.kinds import Kinds


class Instead(NamedTuple):
    """What stands in a part's place: of which kind, called what, and with which value written at it."""

    kind: str
    name: str
    value: str


def reduced(
    schematic: Schematic,
    instead: Mapping[str, Instead],
    wires: frozenset[str],
    kinds: Kinds = CATALOGUE,
) -> Schematic:
    """By the names of parts: those in `instead` are exchanged, those in `wires` bridged, the others gone, and
    what of the wires then leads nowhere. Grounds and what has more than two pins stay."""
    parts: list[Part] = []
    bridges: list[Wire] = []
    for part in schematic.parts:
        pins = pin_points(part, kinds)
        if part.name in instead:
            kind, name, value = instead[part.name]
            stays = len(pins) != 2 or kind == part.kind
            parts.append(
                part.model_copy(
                    update={
                        "kind": part.kind if stays else kind,
                        "name": name,
                        "values": {"value": value},
                        "state": None,
                    }
                )
            )
        elif part.name in wires and len(pins) == 2:
            bridges.append(Wire(id=f"bridge {part.id}", points=_bent(*pins)))
        elif part.kind == "ground":
            parts.append(part)
    kept = _without_ends([*schematic.wires, *bridges], parts, kinds)
    grounds = [
        p
        for p in parts
        if p.kind != "ground" or _touches(pin_points(p, kinds)[0], kept, parts, p, kinds)
    ]
    labels = [label for label in schematic.labels if any(_on(label.at, wire) for wire in kept)]
    return schematic.model_copy(
        update={"parts": grounds, "wires": kept, "labels": labels, "notes": []}
    )


def _bent(a: Point, b: Point) -> list[Point]:
    return [a, b] if a[0] == b[0] or a[1] == b[1] else [a, (b[0], a[1]), b]


def _without_ends(wires: list[Wire], parts: list[Part], kinds: Kinds) -> list[Wire]:
    """Without wires that lead nowhere."""
    pins = {point for part in parts for point in pin_points(part, kinds)}
    kept = list(wires)
    while True:
        ends = [
            wire
            for wire in kept
            if any(
                end not in pins and not any(other is not wire and _on(end, other) for other in kept)
                for end in (wire.points[0], wire.points[-1])
            )
        ]
        if not ends:
            return kept
        shortened = [
            w for wire in ends for w in _shortened(wire, pins, [o for o in kept if o is not wire])
        ]
        kept = [wire for wire in kept if wire not in ends] + shortened


def _shortened(wire: Wire, pins: set[Point], others: list[Wire]) -> list[Wire]:
    """The piece of a wire between the outermost places at which something else joins it."""
    joins = [
        p
        for a, b in zip(wire.points, wire.points[1:], strict=False)
        for p in _between(a, b)
        if p in pins
        or any(
            p in (o.points[0], o.points[-1])
            or (p in (wire.points[0], wire.points[-1]) and _on(p, o))
            for o in others
        )
    ]
    joins = list(dict.fromkeys(joins))
    if len(joins) < 2:
        return []
    every = list(dict.fromkeys(
        p for a, b in zip(wire.points, wire.points[1:], strict=False) for p in _between(a, b)
    ))  # fmt: skip
    first, last = every.index(joins[0]), every.index(joins[-1])
    corners = [p for p in wire.points if first < every.index(p) < last]
    return [wire.model_copy(update={"points": [joins[0], *corners, joins[-1]]})]


def _between(a: Point, b: Point) -> list[Point]:
    steps = max(abs(b[0] - a[0]), abs(b[1] - a[1]))
    if not steps:
        return [a]
    return [
        (a[0] + (b[0] - a[0]) * k // steps, a[1] + (b[1] - a[1]) * k // steps)
        for k in range(steps + 1)
    ]


def _on(point: Point, wire: Wire) -> bool:
    return any(on_segment(point, a, b) for a, b in zip(wire.points, wire.points[1:], strict=False))


def _touches(point: Point, wires: list[Wire], parts: list[Part], own: Part, kinds: Kinds) -> bool:
    return any(_on(point, wire) for wire in wires) or any(
        point in pin_points(other, kinds) for other in parts if other is not own
    )
