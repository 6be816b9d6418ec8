"""What people read off results."""

from lucidbench.core.readings.quantities import Quantity, kind_of, quantities

__all__ = ["Quantity", "kind_of", "quantities"]
