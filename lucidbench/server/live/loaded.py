"""Imported before processes are forked, so that each begins with the engine loaded and compiled."""

from __future__ import annotations

from lucidbench.core.analyses.symbolic import dc_voltages
from lucidbench.core.analyses.warm import warm
from lucidbench.core.netlist import Circuit, Element
from lucidbench.server.live import methods

warm()
# Algebra is loaded as it is first used.
dc_voltages(
    Circuit(
        "",
        (
            Element("V1", "voltage_source", ("a", "0"), {"voltage": 1.0}),
            Element("R1", "resistor", ("a", "b"), {"resistance": 1.0}),
            Element("R2", "resistor", ("b", "0"), {"resistance": 1.0}),
        ),
    )
)
__all__ = ["methods"]
