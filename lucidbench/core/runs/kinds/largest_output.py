"""The largest output: how far a source can be turned up before it is distorted."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from lucidbench.core.analyses import Watch
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import tables
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution
from lucidbench.core.runs.kinds.rates import driving, likely_output
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.settings import FAMILY, Proposal, ResolvedSettings, Setting

UNDISTORTED = 1.0  # [%] of distortion; common practice, no published source


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    return {
        **driving(circuit),
        "trace": Proposal(None, "", f"V_{likely_output(circuit)}"),
        "limit": Proposal(UNDISTORTED, ""),
    }


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    if not 0 < numbers.get("limit", 1.0) <= 100:
        yield "limit", "The distortion lies between 0 and 100 %"


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    texts, limit = settings.texts, settings.numbers["limit"]
    return Solution(
        tables=(tables.largest(circuit, texts["source"], texts["trace"], limit, watch),)
    )


KIND = AnalysisKind(
    key="largest_output",
    label="Maximum undistorted output",
    answers="How large can the output be before it is distorted?",
    settings=(
        Setting(key="source", label="Source", reads="source"),
        Setting(key="trace", label="Output", reads="trace"),
        Setting(key="limit", label="Distortion limit", unit="%",
                meaning="Total harmonic distortion that still counts as undistorted."),
        *FAMILY,
    ),
    propose=_propose,
    check=_check,
    solve=_solve,
)  # fmt: skip
