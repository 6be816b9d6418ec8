"""Where pins come to lie when a part is mirrored, turned and placed."""

from __future__ import annotations

from lucidbench.core.devices import CATALOGUE, Description
from lucidbench.core.schematic.document import Part, Point
from lucidbench.core.schematic.kinds import Kinds, kind_of_part

_QUARTER_TURNS = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}  # (cos, sin), clockwise


def placed(part: Part, x: int, y: int) -> Point:
    """The sheet point of (x, y) in the part's own coordinates."""
    return _placed(x, y, part.at, part.rotation, part.mirror)


def _placed(x: int, y: int, at: Point, rotation: int, mirror: bool) -> Point:
    cosine, sine = _QUARTER_TURNS[rotation]
    if mirror:
        x = -x
    return at[0] + cosine * x - sine * y, at[1] + sine * x + cosine * y


def pin_points(part: Part, kinds: Kinds = CATALOGUE) -> list[Point]:
    """The sheet points of its pins, first pin first; none for a part of unknown kind."""
    description = kind_of_part(part, kinds)
    return placed_pins(description, part.at, part.rotation, part.mirror) if description else []


def placed_pins(description: Description, at: Point, rotation: int, mirror: bool) -> list[Point]:
    """The same of a part of a kind at a place."""
    return [_placed(pin.x, pin.y, at, rotation, mirror) for pin in description.symbol.pins]


def on_segment(point: Point, start: Point, end: Point) -> bool:
    """Whether `point` lies on the straight piece from `start` to `end`, ends included."""
    (x, y), (x1, y1), (x2, y2) = point, start, end
    if (x2 - x1) * (y - y1) != (y2 - y1) * (x - x1):
        return False
    return min(x1, x2) <= x <= max(x1, x2) and min(y1, y2) <= y <= max(y1, y2)
