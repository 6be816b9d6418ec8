"""What real parts have beside their value: one table, with typical sizes and where these come from.

Sizes are common practice, no published source, unless an entry names one.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucidbench.core.netlist import Element

PRACTICE = "common practice, no published source"
CONTACT = 0.02  # [Ω] in series with a part on the breadboard, both its contacts together
STRAY = 2e-12  # [F] of every node on the breadboard against ground
BIAS = 80e-9  # [A] into each input of an op-amp with a bipolar input stage
GENERATOR = 50.0  # [Ω]: a laboratory generator's output
SUPPLY = 0.05  # [Ω]: a battery or supply with its leads
WINDING = 1.0  # [Ω]: a small transformer, which a source of more volts than a generator has is
BROKEN = 1e9  # [Ω] of a part that is open
BRIDGED = 0.01  # [Ω] of one that is short
_MOST_OF_A_GENERATOR = 10.0  # [V], peak

# How a size is drawn: within a share of its typical one, by a factor up or down, or about zero.
Spread = Literal["share", "factor", "zero"]


@dataclass(frozen=True)
class Imperfection:
    """`typical` gives the size [SI] of a parameter `key` for an element; `width` how far it is spread."""

    kinds: tuple[str, ...]
    key: str
    typical: Callable[[Element], float]
    width: float
    spread: Spread = "share"
    source: str = PRACTICE

    def applies(self, element: Element) -> bool:
        """Not where the author gave the part this imperfection already."""
        given = element.values.get(self.key, 0.0)
        return element.kind in self.kinds and (self.is_of_the_model or not given)

    @property
    def is_of_the_model(self) -> bool:
        """Whether the drawn part has a value there that is meant as the typical one."""
        return self.key in _OF_THE_MODEL


_OF_THE_MODEL = {
    "beta", "saturation_current", "threshold", "pinch_off", "transconductance", "standoff",
    "interbase_resistance", "gain_bandwidth", "gain",
}  # fmt: skip


def _own(key: str) -> Callable[[Element], float]:
    """The value it is drawn with."""
    return lambda element: float(element.device.value(element, key))


def _winding(element: Element) -> float:
    """2 Ω at 1 mH, and as the turns, the root of the inductance."""
    return 2.0 * math.sqrt(element.values["inductance"] / 1e-3)


def _series(element: Element) -> float:
    """An electrolytic's from 1 µF on, 1 Ω at 10 µF; a film capacitor's below."""
    farads = float(element.values["capacitance"])
    return min(5.0, 1.0 * math.sqrt(10e-6 / farads)) if farads >= 1e-6 else 0.1


def _leakage(element: Element) -> float:
    """By its time constant: 500 s of an electrolytic, 5000 s of a film capacitor."""
    farads = float(element.values["capacitance"])
    return (500.0 if farads >= 1e-6 else 5000.0) / farads


def _inner(element: Element) -> float:
    if element.waveform is None:
        return SUPPLY
    volts = np.asarray(
        element.waveform.value(np.linspace(0.0, element.waveform.period or 1.0, 200))
    )
    return GENERATOR if np.max(np.abs(volts)) <= _MOST_OF_A_GENERATOR else WINDING


_TRANSISTORS, _AMPLIFIERS = ("npn", "pnp"), ("opamp", "powered_opamp")
IMPERFECTIONS = (
    Imperfection(("inductor",), "series_resistance", _winding, 0.2),
    Imperfection(("inductor",), "parallel_capacitance", lambda e: 20e-12, 0.3),
    Imperfection(("capacitor",), "series_resistance", _series, 0.3),
    Imperfection(("capacitor",), "leakage_resistance", _leakage, 0.5),
    Imperfection(("voltage_source",), "internal_resistance", _inner, 0.02),
    Imperfection(("current_source",), "internal_resistance", lambda e: 10e6, 0.2),
    Imperfection(("potentiometer",), "resistance", _own("resistance"), 0.1),
    Imperfection(_AMPLIFIERS, "gain_bandwidth", _own("gain_bandwidth"), 0.3),
    Imperfection(_AMPLIFIERS, "offset_voltage", lambda e: 2e-3, 1.0, "zero"),
    Imperfection(_TRANSISTORS, "beta", _own("beta"), 0.3),
    Imperfection(_TRANSISTORS, "saturation_current", _own("saturation_current"), 1.5, "factor"),
    Imperfection(("diode",), "saturation_current", _own("saturation_current"), 2.0, "factor"),
    Imperfection(("diode",), "series_resistance", lambda e: 0.5, 0.3),
    Imperfection(("nmos", "pmos"), "threshold", _own("threshold"), 0.1),
    Imperfection(("nmos", "pmos"), "transconductance", _own("transconductance"), 0.2),
    Imperfection(("njf", "pjf"), "pinch_off", _own("pinch_off"), 0.3),
    Imperfection(("njf", "pjf"), "transconductance", _own("transconductance"), 0.3),
    Imperfection(("unijunction",), "standoff", _own("standoff"), 0.05),
    Imperfection(("unijunction",), "interbase_resistance", _own("interbase_resistance"), 0.2),
)  # fmt: skip


def imperfections_of(element: Element) -> Iterator[Imperfection]:
    return (each for each in IMPERFECTIONS if each.applies(element))
