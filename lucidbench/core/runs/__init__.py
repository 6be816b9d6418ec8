"""Runs: kept recipes of analyses, what they propose, and their results as they are drawn."""

from lucidbench.core.runs.analyses import ANALYSES, Analysis, Setting
from lucidbench.core.runs.files import as_csv, as_xlsx
from lucidbench.core.runs.looks import RunLook
from lucidbench.core.runs.result import SECONDS, carry_out

__all__ = [
    "ANALYSES",
    "SECONDS",
    "Analysis",
    "RunLook",
    "Setting",
    "as_csv",
    "as_xlsx",
    "carry_out",
]
