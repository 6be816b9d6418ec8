"""Analyses: each takes a circuit and gives a typed result. docs/core.md shows each at work."""

from lucidbench.core.analyses.dc_sweep import DcSweep, dc_sweep, steps
from lucidbench.core.analyses.frequency import (
    FrequencySweep,
    Phasors,
    decades,
    frequency_sweep,
    octaves,
    phasors,
)
from lucidbench.core.analyses.natural import NaturalFrequencies, natural_frequencies, zeros
from lucidbench.core.analyses.operating_point import OperatingPoint, operating_point
from lucidbench.core.analyses.run import RunRefused, Watch
from lucidbench.core.analyses.trajectory import Transient, TransientSettings
from lucidbench.core.analyses.transient import transient

__all__ = [
    "DcSweep",
    "FrequencySweep",
    "NaturalFrequencies",
    "OperatingPoint",
    "Phasors",
    "RunRefused",
    "Transient",
    "TransientSettings",
    "Watch",
    "dc_sweep",
    "decades",
    "frequency_sweep",
    "natural_frequencies",
    "octaves",
    "operating_point",
    "phasors",
    "steps",
    "transient",
    "zeros",
]
