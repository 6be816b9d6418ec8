"""Symbols as data: pins, strokes and signs in grid units, x to the right, y down.

A part is drawn turned and mirrored about its origin; signs ("+", "-") keep upright. Shapes follow
IEC 60617 and, in the second drawing, IEEE Std 315.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Pin:
    name: str
    x: int
    y: int


@dataclass(frozen=True)
class Sign:
    text: str
    x: float
    y: float


@dataclass(frozen=True)
class Drawing:
    """Strokes as SVG path data; `filled` ones are solid (arrow heads)."""

    strokes: tuple[str, ...]
    filled: tuple[str, ...] = ()
    signs: tuple[Sign, ...] = ()


@dataclass(frozen=True)
class Symbol:
    pins: tuple[Pin, ...]
    body: tuple[float, float, float, float]  # left, top, right, bottom: what nothing may cover
    iec: Drawing
    ieee: Drawing


# Every two-pin part reaches from (-3, 0) to (3, 0), so that parts can be exchanged in place.
TWO_PINS = (Pin("1", -3, 0), Pin("2", 3, 0))
SOURCE_PINS = (Pin("+", -3, 0), Pin("\u2212", 3, 0))
CIRCLE = "M-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0 -3 0"
LEADS_TO_CIRCLE = "M-3 0H-1.5M1.5 0H3"
