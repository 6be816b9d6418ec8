"""The parts: one module a family. `base` states the contract a new one keeps."""

from lucidbench.core.devices.base import (
    Description,
    Device,
    Drive,
    Law,
    Parameter,
    Setting,
    Stamps,
    Tie,
)
from lucidbench.core.devices.bipolar import bipolars
from lucidbench.core.devices.catalogue import catalogue
from lucidbench.core.devices.controlled import (
    CurrentControlledCurrent,
    CurrentControlledVoltage,
    FormulaCurrent,
    FormulaVoltage,
    VoltageControlledCurrent,
    VoltageControlledVoltage,
)
from lucidbench.core.devices.diode import Diode
from lucidbench.core.devices.field_effect import field_effects
from lucidbench.core.devices.ground import GROUND
from lucidbench.core.devices.meters import AmmeterPart, VoltmeterPart
from lucidbench.core.devices.opamp import OpAmp, PoweredOpAmp
from lucidbench.core.devices.resistor import Impedance, Potentiometer, Resistor
from lucidbench.core.devices.sources import CurrentSource, VoltageSource
from lucidbench.core.devices.storage import Capacitor, Coupling, Inductor, Transformer
from lucidbench.core.devices.switch import TimedSwitch, VoltageSwitch
from lucidbench.core.devices.unijunction import Unijunction

DEVICES: dict[str, Device] = {
    device.description.kind: device
    for device in (
        Resistor(),
        Potentiometer(),
        Impedance(),
        Capacitor(),
        Inductor(),
        Coupling(),
        Transformer(),
        VoltageSource(),
        CurrentSource(),
        VoltageControlledVoltage(),
        CurrentControlledCurrent(),
        VoltageControlledCurrent(),
        CurrentControlledVoltage(),
        FormulaVoltage(),
        FormulaCurrent(),
        OpAmp(),
        PoweredOpAmp(),
        Diode(),
        *bipolars(),
        *field_effects(),
        Unijunction(),
        VoltageSwitch(),
        TimedSwitch(),
        VoltmeterPart(),
        AmmeterPart(),
    )
}

# The parts as they are drawn, by drawn kind.
CATALOGUE: dict[str, Description] = catalogue(DEVICES)

__all__ = [
    "CATALOGUE",
    "DEVICES",
    "GROUND",
    "Description",
    "Device",
    "Drive",
    "Law",
    "Parameter",
    "Setting",
    "Stamps",
    "Tie",
]
