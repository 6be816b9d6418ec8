"""Workings: how a figure of a circuit comes about, step by step, as it is written down by hand."""

from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.step import Step
from lucidbench.core.working.workings import How, Told, workings

__all__ = ["How", "NoWorking", "Step", "Told", "workings"]
