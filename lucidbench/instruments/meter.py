"""A stand-in multimeter: it loads the circuit it reads, and knows how well it reads."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from lucidbench.core.analyses import operating_point
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

_METER = "Meter_input"


@dataclass(frozen=True)
class Voltmeter:
    """A hand-held digital meter; figures are common practice, no published source.

    Its statement of accuracy is a share of the reading plus counts of the last digit shown.
    """

    input_resistance: float = 10e6  # [Ω]
    share: float = 0.005
    counts: int = 2
    full_scale_counts: int = 6000

    def read(self, circuit: Circuit, node: str) -> str:
        """What it shows between `node` and ground, as written into a ledger: "2.61 V ± 0.02 V"."""
        loaded = replace(
            circuit,
            elements=(
                *circuit.elements,
                Element(
                    _METER, "resistor", (node, GROUND_NODE), {"resistance": self.input_resistance}
                ),
            ),
        )
        volts = operating_point(loaded).voltages[node]
        decimals = self._decimals(abs(volts))
        accuracy = self.share * abs(volts) + self.counts * 10.0**-decimals
        return f"{volts:.{decimals}f} V ± {accuracy:.{decimals}f} V"

    def _decimals(self, magnitude: float) -> int:
        """Decimals shown on the most sensitive range that holds `magnitude` [V]."""
        ranges = (6.0, 60.0, 600.0)
        span = next((r for r in ranges if magnitude <= r), ranges[-1])
        return round(math.log10(self.full_scale_counts / span))
