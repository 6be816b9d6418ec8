"""What an analysis is to a page: its settings, proposals and checks, its solving, and what it gives."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from lucidbench.core.analyses import RunRefused, Watch
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.netlist.requests import Request
from lucidbench.core.readings.registry import ReadingKind
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds.rates import likely_source
from lucidbench.core.runs.looks import (
    BarLook,
    FormulaLook,
    PhasorsLook,
    RootLook,
    SettingLook,
    TableLook,
)
from lucidbench.core.runs.settings import Proposal, ResolvedSettings, Setting, voltages_in
from lucidbench.core.runs.traces import Traces


@dataclass(frozen=True)
class Solution:
    """What an analysis gives for one circuit: `traces` to draw formulas of, or tables and pictures.

    `figures` can stand on the drawing, phasors by name at one frequency, a power the mean one; `figures_at`
    says at which.
    """

    traces: Traces | None = None
    tables: tuple[TableLook, ...] = ()
    bars: tuple[BarLook, ...] = ()
    phasors: tuple[PhasorsLook, ...] = ()
    roots: tuple[RootLook, ...] = ()
    formulas: tuple[FormulaLook, ...] = ()
    notes: tuple[str, ...] = ()
    figures: Mapping[str, complex] = field(default_factory=dict)
    figures_at: str = ""


Solve = Callable[[Circuit, ResolvedSettings, Watch], Solution]
Propose = Callable[[Circuit], Mapping[str, Proposal]]
# (setting, sentence) of what no run could use. The looks say how a setting was typed.
Check = Callable[[Mapping[str, float], Mapping[str, SettingLook]], Iterator[tuple[str, str]]]


def _nothing_proposed(circuit: Circuit) -> Mapping[str, Proposal]:
    return {}


def _nothing_wrong(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    return iter(())


@dataclass(frozen=True)
class AnalysisKind:
    """One analysis. `answers` is the question it is for. Where it has `readings` it gives curves, and
    these are what can be read off them; `marks` what can be marked on their plot.

    `answer` carries out the `request` of a circuit file, where one can ask for it.
    """

    key: str
    label: str
    answers: str
    solve: Solve
    settings: tuple[Setting, ...] = ()
    propose: Propose = _nothing_proposed
    check: Check = _nothing_wrong
    readings: tuple[ReadingKind, ...] = ()
    marks: tuple[tuple[str, str], ...] = ()
    request: type[Request] | None = None
    answer: Callable[[Circuit, Request, Watch], Answer] | None = None

    def __reduce__(self) -> tuple[Callable[[str], AnalysisKind], tuple[str]]:
        return _of_key, (self.key,)  # there is one of each, in whatever process

    @property
    def has_curves(self) -> bool:
        return bool(self.readings)

    def proposals(self, circuit: Circuit) -> Mapping[str, Proposal]:
        """What stands in for settings left empty; nothing where the circuit cannot be asked."""
        try:
            return self.propose(circuit)
        except LucidError:
            return {}


def _of_key(key: str) -> AnalysisKind:
    from lucidbench.core.runs.kinds import ANALYSES

    return ANALYSES[key]


def beginning_near(circuit: Circuit, settings: ResolvedSettings) -> Circuit:
    """The circuit, told which of the states it may rest in is meant."""
    text = settings.texts.get("near")
    return replace(circuit, near=voltages_in(text, circuit)) if text else circuit


def driven(circuit: Circuit) -> tuple[Circuit, tuple[str, ...]]:
    """The circuit with a source that drives it: where none has a phasor, the likeliest is given one, and
    a note says so. Raises RunRefused where there is no source."""
    if any(e.imposes and e.device.value(e, "magnitude") for e in circuit):
        return circuit, ()
    source = likely_source(circuit)
    if source is None:
        raise RunRefused("There is no source to drive the circuit with; place one first.")
    note = (
        f"No source has a phasor, so {source.name} is taken as 1\u00a0{source.imposes} (peak) at every "
        f"frequency; its own stands under “More values” in its card."
    )
    return circuit.with_value(source.name, "magnitude", 1.0), (note,)


def frequency_fault(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    """What is wrong with settings that are frequencies."""
    for key in ("from", "to", "frequency", "at"):
        if numbers.get(key, 1.0) <= 0:
            yield key, "A frequency is above zero; on a logarithmic axis there is no other"
