"""Ground: no device but a mark, the node that all voltages are counted from."""

from __future__ import annotations

from lucidbench.core.devices.base import Description
from lucidbench.core.devices.symbol import Drawing, Pin, Symbol

_DRAWING = Drawing(("M0 0V1", "M-1 1H1", "M-0.65 1.45H0.65", "M-0.3 1.9H0.3"))

GROUND = Description(
    kind="ground",
    label="Ground",
    purpose="Reference",
    prefix="GND",
    words=("gnd", "ground", "earth", "0"),
    drawn=Symbol(
        pins=(Pin("ground", 0, 0),), body=(-1.0, 0.9, 1.0, 1.95), iec=_DRAWING, ieee=_DRAWING
    ),
)
