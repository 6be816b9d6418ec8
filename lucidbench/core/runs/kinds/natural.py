"""Natural frequencies: how fast a circuit moves, and rings how much, by itself."""

from __future__ import annotations

from lucidbench.core.analyses import RunRefused, Watch, natural_frequencies
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import tables
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution
from lucidbench.core.runs.settings import FAMILY, ResolvedSettings, Setting


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    found = natural_frequencies(circuit)
    if not found.modes:
        raise RunRefused("Nothing in the circuit stores energy, so it has no natural frequencies.")
    return Solution(
        tables=(tables.modes(found),),
        roots=tuple(tables.roots_of(found, settings.texts.get("output", ""))),
    )


KIND = AnalysisKind(
    key="natural",
    label="Natural frequencies",
    answers="How fast does it settle by itself, and does it ring?",
    settings=(
        Setting(key="output", label="Zeros of the transfer to", reads="output", optional=True,
                meaning="The output node, where a zero of the transfer function lets nothing through."),
        *FAMILY,
    ),
    solve=_solve,
)  # fmt: skip
