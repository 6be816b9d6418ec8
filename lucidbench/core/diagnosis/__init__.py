"""Why two voices differ: causes fitted, ranked, told apart."""

from lucidbench.core.diagnosis.blocks import AtRest, OfParts, OverFrequency, OverSource, OverTime
from lucidbench.core.diagnosis.causes import KINDS, Cause, causes_of
from lucidbench.core.diagnosis.explanation import Explanation, Listed, explained
from lucidbench.core.diagnosis.observed import Block, Column, Observed, column_of

__all__ = [
    "KINDS",
    "AtRest",
    "Block",
    "Cause",
    "Column",
    "Explanation",
    "Listed",
    "Observed",
    "OfParts",
    "OverFrequency",
    "OverSource",
    "OverTime",
    "causes_of",
    "column_of",
    "explained",
]
