"""Ground: no device but a mark, the node that all voltages are counted from."""

from __future__ import annotations

from lucidbench.core.devices.base import Description

GROUND = Description(
    kind="ground",
    label="Ground",
    purpose="Reference and names",
    prefix="GND",
    words=("gnd", "ground", "earth", "0"),
    pins=("ground",),
    currents=(),
)
