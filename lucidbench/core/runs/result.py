"""A run carried out: the result is a value, which everything that shows or reads it goes by."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from hashlib import blake2b

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, Record, Run
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known
from lucidbench.core.formula.functions import RECORDED
from lucidbench.core.netlist import Circuit, FaultKind
from lucidbench.core.records.content import content_of
from lucidbench.core.records.curves import axis_of, bench_curves
from lucidbench.core.runs.families import Role, variants
from lucidbench.core.runs.kinds import ANALYSES, AnalysisKind, Solution
from lucidbench.core.runs.settings import ResolvedSettings, resolved
from lucidbench.core.schematic import Reading, read_drawing, values_by_name

SECONDS = 300.0  # a run asked of the page may take
# What stands in the way of a solution at rest need not be in that of others; each analysis says so.
_MATTER_OF_ANALYSES = {kind.value for kind in FaultKind} - {FaultKind.NO_GROUND.value}
_NOTHING_TOLD = ResolvedSettings((), {}, {})


@dataclass(frozen=True)
class Member:
    """One solved circuit of a run; of a family, by the value it was run with."""

    key: str
    label: str
    role: Role
    solution: Solution


@dataclass(frozen=True)
class Result:
    """What a run came to, of the `circuit` it was solved for; or the `problem` that kept it from that.

    `run` is the recipe, `values` what names stand for in formulas beside traces, `labels` the nodes
    someone named; `fingerprint` changes with anything the result depends on.
    """

    run: Run
    analysis: AnalysisKind | None
    circuit: Circuit
    settings: ResolvedSettings
    fingerprint: str
    values: Mapping[str, Known] = field(default_factory=dict)
    labels: tuple[str, ...] = ()
    members: tuple[Member, ...] = ()
    problem: str | None = None
    seconds: float = 0.0

    @property
    def conditions(self) -> str:
        """The analysis and its settings in a line, as one would note them beside a figure."""
        if self.analysis is None:
            return ""
        told = self.settings.words(self.analysis.settings)
        return ", ".join([self.analysis.label, *told]).replace("\u00a0", " ")

    @property
    def notes(self) -> list[str]:
        """What the analyses remarked, each once."""
        return list(dict.fromkeys(n for member in self.members for n in member.solution.notes))


def fingerprint_of(circuit: Circuit, run: Run, records: Sequence[Record] = ()) -> str:
    """A short text that changes with anything the result of `run` depends on; on `records` only one does
    whose formulas speak of them."""
    recipe: tuple[object, ...] = (
        run.analysis, sorted(run.settings.items()), run.show, run.reads, run.case,
    )  # fmt: skip
    if any(f"{RECORDED}(" in text for text in run.show):
        recipe = (*recipe, *map(content_of, records))
    return blake2b(repr((circuit.fingerprint, recipe)).encode(), digest_size=8).hexdigest()


def solve(exercise: Exercise, run: Run, watch: Watch | None = None) -> Result:
    """Carry out `run`. Never raises for what is drawn or typed: whatever is wrong is the problem."""
    began = time.thread_time()  # its own work: a moment in which the machine is busy does not count
    drawing = read_drawing(exercise.schematic, exercise.title, exercise.parameters, exercise.blocks)
    circuit = drawing.circuit
    analysis = ANALYSES.get(run.analysis)
    mark = fingerprint_of(circuit, run, exercise.records)
    if analysis is None:
        known = ", ".join(kind.label.lower() for kind in ANALYSES.values())
        unknown = f"There is no analysis called {run.analysis}; there are {known}."
        return Result(run, None, circuit, _NOTHING_TOLD, mark, problem=unknown)
    fault = _fault(drawing)
    units = {name: known.dimension.unit for name, known in drawing.parameters.items()}
    offered = None if fault else analysis.proposals(circuit)
    settings = resolved(circuit, analysis.settings, offered, run.settings, units)
    _check(analysis, settings)
    problem = fault or settings.problem
    values = dict[str, Known]()
    members: list[Member] = []
    if problem is None:
        values = values_by_name(exercise.schematic, drawing)
        try:
            family = variants(circuit, settings, units)
            watch = watch or Watch(SECONDS)
            for k, (key, label, role, here) in enumerate(family):
                solution = analysis.solve(here, settings, watch.part(k, len(family)))
                members.append(Member(key, label, role, _beside(solution, exercise.records)))
        except LucidError as error:
            problem, members = str(error), []
    labels = tuple(label.name for label in exercise.schematic.labels)
    seconds = time.thread_time() - began
    return Result(
        run, analysis, circuit, settings, mark, values, labels, tuple(members), problem, seconds
    )


def _beside(solution: Solution, records: Sequence[Record]) -> Solution:
    """With what the bench says over the same axis; the last record of a thing counts."""
    traces = solution.traces
    if traces is None or not records:
        return solution
    recorded = {}
    for record in records:
        if axis_of(record) == (traces.axis, traces.unit):
            with contextlib.suppress(LucidError):  # said where the record is looked at
                for curve in bench_curves(record):
                    recorded[curve.formula.replace(" ", "")] = curve
    return replace(solution, traces=replace(traces, recorded=recorded))


def _fault(drawing: Reading) -> str | None:
    """What in the drawing keeps every analysis from it."""
    if not drawing.circuit.elements:
        return "Nothing is drawn yet that could carry a current."
    return next(
        (
            finding.sentence
            for finding in drawing.findings
            if finding.severity == "fault" and finding.code not in _MATTER_OF_ANALYSES
        ),
        None,
    )


def _check(analysis: AnalysisKind, settings: ResolvedSettings) -> None:
    """What no run could use, said at the field."""
    by_key = {look.key: look for look in settings.looks}
    for key, sentence in analysis.check(settings.numbers, by_key):
        by_key[key].problem = by_key[key].problem or sentence
