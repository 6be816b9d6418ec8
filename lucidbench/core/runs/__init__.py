"""Runs: kept recipes of analyses, what they propose, and their results as they are drawn."""

from lucidbench.core.runs.analyses import ANALYSES, Analysis, Setting
from lucidbench.core.runs.result import RunLook, carry_out

__all__ = ["ANALYSES", "Analysis", "RunLook", "Setting", "carry_out"]
