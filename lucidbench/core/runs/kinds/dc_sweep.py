"""The DC sweep: what follows when one value is moved."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from lucidbench.core.analyses import Watch, dc_sweep
from lucidbench.core.analyses.dc_sweep import steps
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.netlist.requests import DcSweepRequest, Request
from lucidbench.core.readings.registry import OVER_VALUE
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.settings import FAMILY, Proposal, ResolvedSettings, Setting
from lucidbench.core.runs.traces import over_value

POINTS = 500


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    sources = [e for e in circuit if e.imposes]
    if not sources:
        return {}

    def at_rest(source: Element) -> float:
        return float(source.device.value(source, source.main_key))

    source = next(filter(at_rest, sources), sources[0])
    value = at_rest(source) or 1.0
    because = f"from nothing to what {source.name} is now"
    which = "the first source that gives anything at DC" if at_rest(source) else "the first source"
    return {
        "subject": Proposal(None, which, source.name),
        "from": Proposal(0.0, because),
        "to": Proposal(value, because),
    }


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    if {"from", "to"} <= set(numbers) and numbers["from"] == numbers["to"]:
        yield "to", "The sweep ends where it begins"


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    points = np.linspace(settings.numbers["from"], settings.numbers["to"], POINTS + 1)
    return Solution(over_value(dc_sweep(circuit, settings.texts["subject"], points, None, watch)))


def _answer(circuit: Circuit, request: Request, watch: Watch) -> Answer:
    assert isinstance(request, DcSweepRequest)
    inner, *around = request.sweeps
    outer = [(s.subject, steps(s.start, s.stop, s.step)) for s in around]
    sweep = dc_sweep(
        circuit,
        inner.subject,
        steps(inner.start, inner.stop, inner.step),
        outer[0] if outer else None,
        watch,
    )
    return Answer("dc_sweep", axis=sweep.axis, outer=sweep.outer, traces=sweep.traces)


KIND = AnalysisKind(
    key="dc_sweep",
    label="DC sweep",
    answers="How do voltages and currents depend on one value?",
    settings=(
        Setting(key="subject", label="Sweep", reads="swept",
                meaning="A source, a circuit parameter, or temperature."),
        Setting(key="from", label="From", of="subject", meaning="Its first value."),
        Setting(key="to", label="To", of="subject", meaning="Its last value."),
        *FAMILY,
    ),
    propose=_propose,
    check=_check,
    solve=_solve,
    readings=OVER_VALUE,
    request=DcSweepRequest,
    answer=_answer,
)  # fmt: skip
