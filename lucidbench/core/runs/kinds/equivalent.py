"""Equivalents: what a circuit looks like from two terminals."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.analyses import Watch
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import tables
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution, frequency_fault
from lucidbench.core.runs.kinds.rates import likely_output
from lucidbench.core.runs.settings import FAMILY, Proposal, ResolvedSettings, Setting


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    return {"node": Proposal(None, "", likely_output(circuit))}


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    told = tables.equivalents(circuit, settings.texts["node"], settings.numbers.get("at"))
    return Solution(tables=tuple(told))


KIND = AnalysisKind(
    key="equivalent",
    label="Thévenin and Norton",
    answers="Which source and resistance replace it at two terminals?",
    settings=(
        Setting(key="node", label="Terminals", reads="terminals"),
        Setting(
            key="at", label="Frequency", unit="Hz", optional=True, meaning="Leave empty for DC."
        ),
        *FAMILY,
    ),
    propose=_propose,
    check=frequency_fault,
    solve=_solve,
)
