"""Analyses: each takes a circuit and gives a typed result."""

from lucidbench.core.analyses.operating_point import OperatingPoint, operating_point
from lucidbench.core.analyses.tolerance import operating_point_uncertainty

__all__ = ["OperatingPoint", "operating_point", "operating_point_uncertainty"]
