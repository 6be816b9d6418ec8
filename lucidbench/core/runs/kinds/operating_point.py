"""The operating point: where a circuit rests."""

from __future__ import annotations

from lucidbench.core.analyses import Watch, operating_point
from lucidbench.core.analyses.equilibria import balance_sentence, resting_points
from lucidbench.core.netlist import Circuit
from lucidbench.core.netlist.requests import OperatingPointRequest, Request
from lucidbench.core.runs import tables
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution, beginning_near
from lucidbench.core.runs.settings import FAMILY, NEAR, ResolvedSettings


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    point = operating_point(beginning_near(circuit, settings))
    others = resting_points(point)
    notes = (balance_sentence(point, others, "“Initial guess” in a run chooses"),) if others else ()
    return Solution(tables=tuple(tables.resting(point)), notes=notes)


def _answer(circuit: Circuit, request: Request, watch: Watch) -> Answer:
    point = operating_point(circuit)
    others = resting_points(point)
    notes = (balance_sentence(point, others, ".nodeset chooses"),) if others else ()
    return Answer("operating_point", values=point.values, notes=notes)


KIND = AnalysisKind(
    key="operating_point",
    label="Operating point",
    answers="What are the DC voltages and currents?",
    settings=(NEAR, *FAMILY),
    solve=_solve,
    request=OperatingPointRequest,
    answer=_answer,
)
