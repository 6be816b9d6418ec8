"""The analyses a run may be of, a module each, in the order they are offered."""

from __future__ import annotations

from lucidbench.core.analyses import Watch
from lucidbench.core.netlist import Circuit
from lucidbench.core.netlist.requests import Request
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds import (
    dc_sweep,
    equivalent,
    fourier,
    frequency_sweep,
    largest_output,
    natural,
    operating_point,
    phasor,
    symbolic,
    transient,
)
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution

ANALYSES: dict[str, AnalysisKind] = {
    module.KIND.key: module.KIND
    for module in (
        transient, frequency_sweep, dc_sweep, operating_point, phasor, fourier, largest_output,
        equivalent, symbolic, natural,
    )
}  # fmt: skip

# How each setting of each analysis names things.
SETTING_READS = {
    kind.key: {setting.key: setting.reads for setting in kind.settings}
    for kind in ANALYSES.values()
}


def answer(circuit: Circuit, request: Request, watch: Watch) -> Answer:
    """Carry out what a circuit file asks for. Raises CircuitError, RunRefused."""
    for kind in ANALYSES.values():
        if kind.answer is not None and type(request) is kind.request:
            return kind.answer(circuit, request, watch)
    raise NotImplementedError(request)


__all__ = ["ANALYSES", "SETTING_READS", "AnalysisKind", "Solution", "answer"]
