"""How junctions change with temperature. Temperatures are in kelvin.

k and q are exact (CODATA 2018). Saturation currents follow the usual form of a thermally activated
current (Sze and Ng, Physics of Semiconductor Devices, 3rd ed., 2007, section 2.3).
"""

from __future__ import annotations

import math

BOLTZMANN = 1.380649e-23  # [J/K]
ELEMENTARY_CHARGE = 1.602176634e-19  # [C]
CELSIUS_ZERO = 273.15  # [K]
NOMINAL_TEMPERATURE = 300.15  # [K], 27 °C: the one device values are stated at
LEAST, MOST = 1.0, 1000.0  # [K]: beyond, no law here means anything
SILICON_GAP = 1.11  # [eV]


def temperature_fault(temperature: float) -> str | None:
    """Why no circuit works at `temperature` [K]; None where one may."""
    if LEAST <= temperature <= MOST:
        return None
    return (
        f"{temperature - CELSIUS_ZERO:.6g} °C is no temperature a circuit works at; it lies between "
        f"{LEAST - CELSIUS_ZERO:g} and {MOST - CELSIUS_ZERO:g} °C"
    )


def thermal_voltage(temperature: float) -> float:
    """kT/q [V]."""
    return BOLTZMANN * temperature / ELEMENTARY_CHARGE


def saturation_current(
    nominal: float, temperature: float, gap: float, exponent: float, emission: float = 1.0
) -> float:
    """Of a junction with energy gap [eV] and temperature exponent, at `temperature` [A]."""
    ratio = temperature / NOMINAL_TEMPERATURE
    activation = (ratio - 1) * gap / (emission * thermal_voltage(temperature))
    return nominal * math.pow(ratio, exponent / emission) * math.exp(activation)
