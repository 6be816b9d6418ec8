"""The formula: how the answer follows from the parts, in letters."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.analyses import Watch
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import tables
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution
from lucidbench.core.runs.kinds.rates import driving, likely_output
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    return {**driving(circuit), "node": Proposal(None, "", likely_output(circuit))}


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    texts = settings.texts
    formulas, notes = tables.in_letters(circuit, texts["source"], texts["node"])
    return Solution(formulas=tuple(formulas), notes=tuple(notes))


KIND = AnalysisKind(
    key="symbolic",
    label="Transfer function",
    answers="What is the transfer function, in letters?",
    settings=(
        Setting(key="source", label="Input", reads="source"),
        Setting(key="node", label="Output node", reads="node"),
    ),
    propose=_propose,
    solve=_solve,
)
