"""The computation: circuits, analyses, readings, comparison. Knows no web and no database.

What scripts and notebooks use stands here; docs/core.md shows each at work.
"""

from lucidbench.core.analyses import (
    DcSweep,
    FrequencySweep,
    NaturalFrequencies,
    OperatingPoint,
    Phasors,
    RunRefused,
    Transient,
    TransientSettings,
    Watch,
    dc_sweep,
    decades,
    frequency_sweep,
    natural_frequencies,
    octaves,
    operating_point,
    phasors,
    steps,
    transient,
    zeros,
)
from lucidbench.core.analyses.device_regions import device_states
from lucidbench.core.analyses.equivalents import equivalent, two_port
from lucidbench.core.analyses.factored import factored_transfer
from lucidbench.core.analyses.families import family
from lucidbench.core.analyses.fourier import harmonics, largest_output
from lucidbench.core.analyses.sensitivity import (
    phasor_sensitivities,
    reading_sensitivities,
    sensitivities,
)
from lucidbench.core.analyses.settled import oscillation, settled
from lucidbench.core.analyses.symbolic import compare, dc_quantity, nodal_equations, transfer
from lucidbench.core.errors import CircuitError, LucidError, NetlistError
from lucidbench.core.netlist import Circuit, Element, read_netlist, write_netlist
from lucidbench.core.tolerance import (
    builds,
    monte_carlo,
    worst_case,
    worst_case_of,
)

__all__ = [
    "Circuit",
    "CircuitError",
    "DcSweep",
    "Element",
    "FrequencySweep",
    "LucidError",
    "NaturalFrequencies",
    "NetlistError",
    "OperatingPoint",
    "Phasors",
    "RunRefused",
    "Transient",
    "TransientSettings",
    "Watch",
    "builds",
    "compare",
    "dc_quantity",
    "dc_sweep",
    "decades",
    "device_states",
    "equivalent",
    "factored_transfer",
    "family",
    "frequency_sweep",
    "harmonics",
    "largest_output",
    "monte_carlo",
    "natural_frequencies",
    "nodal_equations",
    "octaves",
    "operating_point",
    "oscillation",
    "phasor_sensitivities",
    "phasors",
    "read_netlist",
    "reading_sensitivities",
    "sensitivities",
    "settled",
    "steps",
    "transfer",
    "transient",
    "two_port",
    "worst_case",
    "worst_case_of",
    "write_netlist",
    "zeros",
]
