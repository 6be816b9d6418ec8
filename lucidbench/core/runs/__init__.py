"""Runs: kept recipes of analyses, what they propose, and their results as they are drawn."""

from lucidbench.core.runs.analyses import ANALYSES, Analysis, Setting
from lucidbench.core.runs.csv import as_csv
from lucidbench.core.runs.looks import RunLook
from lucidbench.core.runs.result import carry_out

__all__ = ["ANALYSES", "Analysis", "RunLook", "Setting", "as_csv", "carry_out"]
