"""The parts: one module a family. `base` states the contract a new one keeps."""

from lucidbench.core.devices.base import Description, Device, Joins, Parameter, Stamps
from lucidbench.core.devices.ground import GROUND
from lucidbench.core.devices.resistor import Resistor
from lucidbench.core.devices.sources import CurrentSource, VoltageSource

DEVICES: dict[str, Device] = {
    device.description.kind: device for device in (Resistor(), VoltageSource(), CurrentSource())
}

CATALOGUE: dict[str, Description] = {
    **{kind: device.description for kind, device in DEVICES.items()},
    GROUND.kind: GROUND,
}

BY_LETTER: dict[str, Device] = {device.letter: device for device in DEVICES.values()}

__all__ = [
    "BY_LETTER",
    "CATALOGUE",
    "DEVICES",
    "GROUND",
    "Description",
    "Device",
    "Joins",
    "Parameter",
    "Stamps",
]
