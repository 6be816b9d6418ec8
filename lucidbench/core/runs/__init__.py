"""Runs: kept recipes of analyses, what they propose, their results, and those as they are drawn."""

from lucidbench.core.runs.files import as_csv, as_xlsx
from lucidbench.core.runs.kinds import ANALYSES, SETTING_READS, AnalysisKind
from lucidbench.core.runs.looks import RunLook
from lucidbench.core.runs.offered import Analysis, offered
from lucidbench.core.runs.present import carry_out, present
from lucidbench.core.runs.result import SECONDS, Result, case_of_run, fingerprint_of, solve

__all__ = [
    "ANALYSES",
    "SECONDS",
    "SETTING_READS",
    "Analysis",
    "AnalysisKind",
    "Result",
    "RunLook",
    "as_csv",
    "as_xlsx",
    "carry_out",
    "case_of_run",
    "fingerprint_of",
    "offered",
    "present",
    "solve",
]
