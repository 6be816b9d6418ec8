"""The instruments of the stand-in bench, one module each: what they show, and how well.

How well is common practice for a student's bench, no published source, where a module names none.
"""

from lucidbench.instruments.models.bridge import Bridge
from lucidbench.instruments.models.generator import Generator
from lucidbench.instruments.models.meter import Meter
from lucidbench.instruments.models.oscilloscope import Oscilloscope
from lucidbench.instruments.models.supply import Supply

# In the order in which their ports are told.
INSTRUMENTS = (Meter, Generator, Oscilloscope, Supply, Bridge)

__all__ = ["INSTRUMENTS", "Bridge", "Generator", "Meter", "Oscilloscope", "Supply"]
