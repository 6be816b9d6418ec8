"""Engineering notation, prefixes, preferred numbers, dimensions."""

from lucidbench.core.units.dimensions import Dimension
from lucidbench.core.units.engineering import engineering
from lucidbench.core.units.preferred import nearest_preferred
from lucidbench.core.units.values import Value, parse_value

__all__ = ["Dimension", "Value", "engineering", "nearest_preferred", "parse_value"]
