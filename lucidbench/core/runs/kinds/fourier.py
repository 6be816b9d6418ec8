"""Fourier: which sines make up the settled waveform."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.analyses import Watch
from lucidbench.core.analyses.settled import settled
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import tables
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution
from lucidbench.core.runs.kinds.rates import likely_output
from lucidbench.core.runs.settings import FAMILY, Proposal, ResolvedSettings, Setting
from lucidbench.core.runs.traces import dimensions_of
from lucidbench.core.units.dimensions import NUMBER


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    return {"trace": Proposal(None, "", f"V_{likely_output(circuit)}")}


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    state = settled(circuit, watch=watch)
    trace = settings.texts["trace"]
    told, bars = tables.harmonics_of(state, trace, dimensions_of(circuit).get(trace, NUMBER).unit)
    return Solution(tables=tuple(told), bars=tuple(bars))


KIND = AnalysisKind(
    key="fourier",
    label="Fourier",
    answers="Which harmonics does a waveform have?",
    settings=(Setting(key="trace", label="Waveform", reads="trace"), *FAMILY),
    propose=_propose,
    solve=_solve,
)
