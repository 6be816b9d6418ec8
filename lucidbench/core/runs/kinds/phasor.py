"""Phasors: how large, and how far turned, at one frequency."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.analyses import Watch, phasors
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import tables
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution, driven, frequency_fault
from lucidbench.core.runs.kinds.rates import modes_of, waves_of
from lucidbench.core.runs.pictures import from_origin, summed
from lucidbench.core.runs.settings import FAMILY, Proposal, ResolvedSettings, Setting
from lucidbench.core.units import engineering

TOLD = [("peak", "peak values"), ("RMS", "RMS values")]


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    number, because = _frequency(circuit)
    return {"frequency": Proposal(number, because)}


def _frequency(circuit: Circuit) -> tuple[float, str]:
    """What says at which frequency [Hz] phasors are, and why: a source, a part that is given at one."""
    for name, wave in waves_of(circuit):
        if wave.period:
            return 1 / wave.period, f"the frequency of {name}"
    for element in circuit:
        given = element.values.get("frequency")
        if element.device.description.plain_at_one_frequency and given:
            return given, f"where {element.name} is given"
    modes = modes_of(circuit)
    rates = [m.frequency for m in modes.modes if m.s != 0] if modes else []
    if rates:
        return rates[0], "the slowest natural frequency"
    return 1e3, "nothing in the circuit says which"


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    circuit, notes = driven(circuit)
    told_as = settings.texts.get("told") or TOLD[0][0]
    at_peak = phasors(circuit, settings.numbers["frequency"])
    here = at_peak.rms if told_as == "RMS" else at_peak
    key = settings.texts.get("sum")
    one = summed(here, key) if key else None
    at = engineering(settings.numbers["frequency"], "Hz")
    return Solution(
        tables=tuple(tables.at_one_frequency(here, told_as)),
        phasors=(one,) if one else tuple(from_origin(here)),
        notes=notes,
        figures={
            **{name: v for name, v in here.values.items() if name[:2] != "S_"},
            **{f"P_{name}": s.real for name, s in here.powers.items()},
        },
        figures_at=f"{at}, RMS" if told_as == "RMS" else at,
    )


KIND = AnalysisKind(
    key="phasor",
    label="Phasors",
    answers="What are magnitude and phase at one frequency?",
    settings=(
        Setting(key="frequency", label="Frequency", unit="Hz", meaning="That of all phasors."),
        Setting(key="told", label="Show as", reads="choice", choices=TOLD),
        Setting(key="sum", label="Arrows", reads="sum", optional=True,
                meaning="All from one origin, or one Kirchhoff sum drawn head to tail."),
        *FAMILY,
    ),
    propose=_propose,
    check=frequency_fault,
    solve=_solve,
)  # fmt: skip
