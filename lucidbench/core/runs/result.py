"""A run carried out: the result is a value, which everything that shows or reads it goes by."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from hashlib import blake2b

from lucidbench.core.analyses import Watch
from lucidbench.core.analyses.unrest import unrest_to_say
from lucidbench.core.cases import BASE, in_case, name_of
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise, Record, Run
from lucidbench.core.errors import CircuitError, LucidError
from lucidbench.core.formula import Known
from lucidbench.core.formula.functions import RECORDED
from lucidbench.core.netlist import Circuit, FaultKind
from lucidbench.core.records.content import content_of
from lucidbench.core.records.curves import axis_of, bench_curves
from lucidbench.core.runs.by_hand import HandCurve, hand_curves
from lucidbench.core.runs.families import Role, Variant, variants
from lucidbench.core.runs.kinds import ANALYSES, AnalysisKind, Solution
from lucidbench.core.runs.settings import CASES, ResolvedSettings, resolved
from lucidbench.core.runs.store import Store
from lucidbench.core.schematic import Reading, values_by_name

BASE_KEY = "drawn"  # by which the circuit as drawn is known in a family of cases
SECONDS = 300.0  # a run asked of the page may take
# What stands in the way of a solution at rest need not be in that of others; each analysis says so.
_MATTER_OF_ANALYSES = {kind.value for kind in FaultKind} - {FaultKind.NO_GROUND.value}
_NOTHING_TOLD = ResolvedSettings((), {}, {})
_LEAST_SIZE = 50_000  # bytes: a circuit and its tables


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
    someone named; `fingerprint` changes with anything the result depends on; `case` is the variant of
    the circuit, and `remarks` what there is to say beside what the analyses say.
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
    case: str = ""
    remarks: tuple[str, ...] = ()
    by_hand: tuple[HandCurve, ...] = ()

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
        said = [*self.remarks, *(n for member in self.members for n in member.solution.notes)]
        return list(dict.fromkeys(said))


SOLVED = Store[Result]()


def is_of_all(run: Run) -> bool:
    """Whether a run is carried out in every case."""
    return run.settings.get("vary") == CASES


def case_of_run(run: Run, shown: str = BASE) -> str:
    """The case that a run is carried out in while `shown` is looked at."""
    return BASE if is_of_all(run) else run.case or shown


def fingerprint_of(circuit: Circuit, run: Run, exercise: Exercise) -> str:
    """A short text that changes with anything the result of `run` depends on, `circuit` being that of its
    case. On records only one does whose formulas speak of them, on cases one that is of them all."""
    recipe: tuple[object, ...] = (
        run.analysis, sorted(run.settings.items()), run.show, run.reads, run.case,
    )  # fmt: skip
    if any(f"{RECORDED}(" in text for text in run.show):
        recipe = (*recipe, *map(content_of, exercise.records))
    by_hand = hand_curves(exercise, run.case or BASE)
    if by_hand:
        recipe = (*recipe, *((curve.of, repr(curve.formula.body)) for curve in by_hand))
    if is_of_all(run):
        recipe = (*recipe, *(case.model_dump_json() for case in exercise.cases))
    return blake2b(repr((circuit.fingerprint, recipe)).encode(), digest_size=8).hexdigest()


def solve(exercise: Exercise, run: Run, watch: Watch | None = None, case: str = BASE) -> Result:
    """Carry out `run` in its own case, or where it has none in `case`; once for one state of the circuit.

    Never raises for what is drawn or typed: whatever is wrong is the problem. What was refused or took too
    long is no answer, and is tried again.
    """
    began = time.thread_time()  # its own work: a moment in which the machine is busy does not count
    base, case = exercise, case_of_run(run, case)
    exercise = in_case(base, case)
    drawing = drawing_of(exercise)
    circuit = drawing.circuit
    analysis = ANALYSES.get(run.analysis)
    mark = fingerprint_of(circuit, run, base)
    if analysis is None:
        known = ", ".join(kind.label.lower() for kind in ANALYSES.values())
        unknown = f"There is no analysis called {run.analysis}; there are {known}."
        return Result(run, None, circuit, _NOTHING_TOLD, mark, problem=unknown)
    labels = tuple(label.name for label in exercise.schematic.labels)
    by_hand = tuple(hand_curves(base, case))
    key = (mark, case, labels)
    kept = SOLVED.get(key)
    if kept is not None:
        return replace(kept, run=run, by_hand=by_hand, members=_with_records(kept, base))
    fault = _fault(drawing)
    units = {name: known.dimension.unit for name, known in drawing.parameters.items()}
    offered = None if fault else analysis.proposals(circuit)
    names = [each.name for each in base.cases]
    settings = resolved(circuit, analysis.settings, offered, run.settings, units, names)
    _check(analysis, settings)
    problem = fault or settings.problem
    values = dict[str, Known]()
    members: list[Member] = []
    remarks: list[str] = []
    if problem is None:
        values = values_by_name(exercise.schematic, drawing)
        try:
            family = variants(circuit, settings, units, lambda: _cases(base))
            watch = watch or Watch(SECONDS)
            for k, (name, label, role, here) in enumerate(family):
                try:
                    solution = analysis.solve(here, settings, watch.part(k, len(family)))
                except CircuitError as error:
                    # A case that cannot be solved leaves the others.
                    if not is_of_all(run):
                        raise
                    remarks.append(f"{label}: {error}")
                    continue
                members.append(Member(name, label, role, solution))
        except LucidError as error:
            problem, members = str(error), []
    unrest = unrest_to_say(circuit) if problem is None else None
    remarks += [unrest.sentence] if unrest else []
    seconds = time.thread_time() - began
    result = Result(
        run, analysis, circuit, settings, mark, values, labels, tuple(members), problem, seconds,
        case, tuple(remarks), by_hand,
    )  # fmt: skip
    if problem is None:
        SOLVED.keep(key, result, _size_of(result))
    return replace(result, members=_with_records(result, base))


def _size_of(result: Result) -> int:
    """About how many bytes it holds: a number for each name at each point of its grid."""
    traces = [member.solution.traces for member in result.members if member.solution.traces]
    return _LEAST_SIZE + sum(8 * len(each.grid) * len(each.dimensions) for each in traces)


def _with_records(result: Result, base: Exercise) -> tuple[Member, ...]:
    """Each member with what the bench says in its case."""
    found = []
    for member in result.members:
        case = member.key.replace(BASE_KEY, BASE) if is_of_all(result.run) else result.case
        records = [record for record in base.records if record.case == case]
        found.append(replace(member, solution=_beside(member.solution, records)))
    return tuple(found)


def _cases(exercise: Exercise) -> list[Variant]:
    """The circuit as drawn, then every case of it."""
    found = []
    for case in (BASE, *(each.id for each in exercise.cases)):
        here = in_case(exercise, case)
        drawing = drawing_of(here)
        found.append(Variant(case or BASE_KEY, name_of(exercise, case), "value", drawing.circuit))
    return found


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
