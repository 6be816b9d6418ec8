"""What people read off results. `time` and `frequency` hold the readings of curves."""

from lucidbench.core.readings import frequency, time
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.curves_of import frequency_curve, time_curve
from lucidbench.core.readings.quantities import Quantity, kind_of, quantities
from lucidbench.core.readings.reading import Reading
from lucidbench.core.readings.sensitivity import curve_sensitivities

__all__ = [
    "Curve",
    "NoReading",
    "Quantity",
    "Reading",
    "curve_sensitivities",
    "frequency",
    "frequency_curve",
    "kind_of",
    "quantities",
    "time",
    "time_curve",
]
