"""One look at an exercise: everything the drawing, the working and the ledger mean, in one answer.

Stateless: the document goes in; nets, findings, operating point, worked lines and ledger come out,
all figures already written for people.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import replace

from lucidbench.core.analyses import (
    OperatingPoint,
    operating_point,
)
from lucidbench.core.analyses.equilibria import balance_sentence, resting_points
from lucidbench.core.analyses.operating_point import faults_at_rest
from lucidbench.core.analyses.unrest import unrest_to_say
from lucidbench.core.cases import BASE, in_case
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import NAME, NAME_RULE, Exercise
from lucidbench.core.document.spoken import spoken_numbers
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.figures import (
    meanings_of,
    quantity_look,
    row_looks,
)
from lucidbench.core.evaluate.hand_page import HandPage, hand_page
from lucidbench.core.evaluate.ledger_inputs import AtRest, Compared, named_at_rest
from lucidbench.core.evaluate.ledger_inputs import compared as compared_in
from lucidbench.core.evaluate.parts import net_looks, part_look
from lucidbench.core.evaluate.run_figures import WHILE_EDITED, Limits
from lucidbench.core.evaluate.shapes import Evaluation, LineLook, NamedLook, RowLook, RunMark
from lucidbench.core.formula import Known, WorkedLine, name_latex
from lucidbench.core.netlist import Circuit, FaultKind
from lucidbench.core.readings import Quantity, quantities
from lucidbench.core.runs import SETTING_READS, case_of_run, fingerprint_of
from lucidbench.core.schematic import (
    Block,
    Finding,
    NamedValue,
    Place,
    Reading,
    read_drawing,
)
from lucidbench.core.schematic.kinds import BLOCK, described, kind_look
from lucidbench.core.tolerance import Effects, operating_point_effects
from lucidbench.core.units.dimensions import FREQUENCY
from lucidbench.core.units.engineering import (
    SIGNIFICANT_DIGITS,
    engineering,
    phasor,
    rectangular,
    typed,
)
from lucidbench.core.working.about import About
from lucidbench.core.working.meant import meant_by, nearest

MOST_TOLERANCED = 120  # parts up to which every figure is told with its tolerance
# A fault of this kind concerns an island that the rest can be solved without.
_MOST_BALANCED = 60  # unknowns: in a larger circuit the question would cost an edit too much
_SEPARABLE = FaultKind.FLOATING.value


def evaluation_of(
    exercise: Exercise,
    inside: str | None = None,
    compared: bool = True,
    limits: Limits | None = WHILE_EDITED,
    case: str = BASE,
) -> Evaluation:
    """Everything that follows from the exercise as it stands. Never raises for what is drawn.

    With `inside`, the drawing looked at is that of the block with this id, and its figures are those
    of its first use on the sheet. Unless `compared`, it goes without tolerances and ledger; without
    `limits`, the ledger's figures of runs are as they were taken. All is as it is in the `case`. Raises
    LucidError where there is no such case.
    """
    base, exercise = exercise, in_case(exercise, case)
    whole = drawing_of(exercise)
    block = next((b for b in exercise.blocks if b.id == inside), None)
    schematic = block.schematic if block else exercise.schematic
    drawing = _inside(exercise, block, whole) if block else whole
    toleranced = _toleranced(exercise) if compared else set()
    point, at_rest, unsolved = _solve(whole.circuit, whole.findings, toleranced)
    results = dict(at_rest.results)
    shown = _of_first_use(exercise, block, whole, results) if block else _of_the_sheet(results)
    if block and not shown:
        unsolved = f"{block.name or 'The block'} is not used on the sheet yet."
    wiring, nodes = drawing.wiring, drawing.wiring.nodes
    meanings = meanings_of(schematic.parts, wiring, drawing.kinds)
    page = hand_page(exercise, case, whole, results)
    asides = dict(_asides(exercise, page, results))
    rows: list[RowLook] = []
    if compared:
        told = compared_in(base, exercise, case, whole, at_rest, page, limits)
        rows = row_looks(exercise, whole.circuit, told, meanings)
    return Evaluation(
        parts=[
            part_look(part, drawing.values[part.id], nodes.get(part.id, ()), drawing.kinds)
            for part in schematic.parts
        ],
        parameters=[
            _named(named, drawing) for named in (block.parameters if block else exercise.parameters)
        ],
        blocks=[kind_look(f"{BLOCK} {b.id}", described(b)) for b in exercise.blocks],
        nets=net_looks(wiring),
        joints=wiring.joints,
        findings=[*drawing.findings, *_balancing(point, whole)],
        quantities=[quantity_look(q, meanings.get(name, "")) for name, q in shown.items()],
        unsolved=unsolved,
        lines=[
            _line(note.id, line, about, page, exercise.digits, asides.get(note.id, ""))
            for note, line, about in zip(exercise.hand, page.lines, page.abouts, strict=True)
        ],
        compared=compared,
        ledger=rows,
        runs=list(_run_marks(base, case, whole.circuit)),
        spoken=spoken_numbers(exercise, SETTING_READS, block.id if block else ""),
    )


def ledger_of(exercise: Exercise, limits: Limits, turned: frozenset[str] | None = None) -> Compared:
    """The ledger alone, of an exercise of one case: what is asked at many values of its parts. Which figures
    are `turned` does not depend on values; without it, that is found out."""
    whole = drawing_of(exercise)
    _, at_rest, _ = _solve(whole.circuit, whole.findings, _toleranced(exercise))
    page = hand_page(exercise, BASE, whole, dict(at_rest.results))
    return compared_in(exercise, exercise, BASE, whole, at_rest, page, limits, turned)


def _run_marks(base: Exercise, case: str, circuit: Circuit) -> Iterator[RunMark]:
    """Each run's, of the circuit of its own case."""
    circuits = {case: circuit}
    for run in base.runs:
        own = case_of_run(run, case)
        if own not in circuits:
            try:
                here = in_case(base, own)
            except LucidError:  # the case is gone; the run says so itself
                continue
            drawing = drawing_of(here)
            circuits[own] = drawing.circuit
        yield RunMark(run.id, fingerprint_of(circuits[own], run, base))


def _inside(exercise: Exercise, block: Block, whole: Reading) -> Reading:
    """The drawing of a block by itself; what only its surroundings decide is not found fault with."""
    reading = read_drawing(
        block.schematic, block.name, block.parameters, exercise.blocks, whole.parameters
    )
    ports = {port.name for port in block.ports}
    open_to_outside = {label.id for label in block.schematic.labels if label.name in ports}
    decided_outside = {kind.value for kind in FaultKind} | ({"open_pin"} if ports else set())
    kept = [
        finding
        for finding in reading.findings
        if finding.code not in decided_outside and not set(finding.place.labels) & open_to_outside
    ]
    return replace(reading, findings=kept)


def _of_the_sheet(results: dict[str, Quantity]) -> dict[str, Quantity]:
    """Those of the sheet itself, not of what blocks hold; a pin's current ("Q1.C") is its own."""
    return {
        name: q
        for name, q in results.items()
        if "." not in q.subject
        or (
            q.kind == "current"
            and q.subject.count(".") == 1
            and f"P_{q.subject.partition('.')[0]}" in results
        )
    }


def _of_first_use(
    exercise: Exercise, block: Block, whole: Reading, results: dict[str, Quantity]
) -> dict[str, Quantity]:
    use = next((p for p in exercise.schematic.parts if p.block == block.id), None)
    if use is None:
        return {}
    inner = {}
    outside = whole.wiring.nodes.get(use.id, ())
    for port, node in zip(block.ports, outside, strict=False):
        if f"V_{node}" in results:
            renamed = f"V_{port.name}"
            inner[renamed] = results[f"V_{node}"]._replace(name=renamed, subject=port.name)
    for name, quantity in results.items():
        kind, _, subject = name.partition("_")
        own = subject.removeprefix(f"{use.name}.")
        if own != subject:
            renamed = f"{kind}_{own}"
            inner[renamed] = quantity._replace(name=renamed, subject=own)
    return _of_the_sheet(inner)


def _toleranced(exercise: Exercise) -> set[str] | None:
    """The quantities whose tolerance is asked for: in a large circuit only those compared."""
    if len(exercise.schematic.parts) <= MOST_TOLERANCED:
        return None
    return named_at_rest(exercise)


_NOWHERE = AtRest(None, {}, Effects())


def _solve(
    circuit: Circuit, findings: list[Finding], toleranced: set[str] | None
) -> tuple[OperatingPoint | None, AtRest, str | None]:
    """The operating point of what can be solved, and why if nothing can."""
    if not circuit.elements:
        return None, _NOWHERE, "Nothing is drawn yet that could carry a current."
    blocking = [f for f in findings if f.severity == "fault" and f.code != _SEPARABLE]
    if blocking:
        return None, _NOWHERE, blocking[0].sentence
    grounded = _grounded(circuit)
    if not grounded.elements:
        return None, _NOWHERE, "No part is connected to ground yet."
    try:
        point = operating_point(grounded)
        effects = operating_point_effects(grounded, point, toleranced)
        spread = effects.uncertainty(point.values) if effects.names else {}
        return point, AtRest(point, quantities(point, spread), effects), None
    except LucidError as error:
        return None, _NOWHERE, str(error)


def _balancing(point: OperatingPoint | None, whole: Reading) -> Iterator[Finding]:
    """That the drawn figures are of a point on which the circuit only balances, or would not stay."""
    if point is None or point.system.size > _MOST_BALANCED:
        return
    others = resting_points(point)
    elements = whole.circuit.elements
    if others:
        code, concerned = "balances", {s.element.name for s in point.system.shares if s.stamps.laws}
        sentence = balance_sentence(point, others, "“Initial guess” in a run chooses")
    else:
        unrest = unrest_to_say(point.circuit)
        if unrest is None:
            return
        code, sentence, concerned = "unrest", unrest.sentence, set(unrest.parts)
    parts = [part for part, at in whole.places.items() if elements[at].name in concerned]
    yield Finding(code=code, severity="doubt", sentence=sentence, place=Place(parts=parts))


def _grounded(circuit: Circuit) -> Circuit:
    """The circuit without the islands that have no path to ground."""
    floating = [f for f in faults_at_rest(circuit) if f.kind is FaultKind.FLOATING]
    return circuit.without({name for fault in floating for name in fault.elements})


def _named(named: NamedValue, drawing: Reading) -> NamedLook:
    known = drawing.parameters.get(named.name)
    problem = drawing.wrong.get(named.name)
    if problem is None and not NAME.fullmatch(named.name):
        problem = NAME_RULE
    echo = None
    if known is not None and problem is None:
        echo = engineering(complex(known.value).real, known.dimension.unit, digits=7)
    unit = known.dimension.unit if known else ""
    return NamedLook(
        id=named.id, unit=unit, echo=echo, latex=name_latex(named.name), problem=problem
    )


_ANGULAR = re.compile(r"(w|ω|omega)(_|$)")


def shown_value(known: Known, digits: int = SIGNIFICANT_DIGITS, name: str = "") -> str:
    """With its unit; a complex one in both forms. What is called ω is not told in hertz."""
    value, unit = complex(known.value), known.dimension.unit
    if known.dimension == FREQUENCY and _ANGULAR.match(name):
        unit = "rad/s"
    if not value.imag:
        return engineering(value.real, unit, digits)
    return f"{rectangular(value, unit, digits)} = {phasor(value, unit, digits)}"


_LIKE_A_FIGURE = re.compile(r"[VUIP]_\w+")


def _asides(
    exercise: Exercise, page: HandPage, results: Mapping[str, Quantity]
) -> Iterator[tuple[str, str]]:
    """(id of a line, sentence) of what is called like a figure, and is none of the circuit."""
    own = {row.name for row in exercise.ledger}
    for note, line in zip(exercise.hand, page.lines, strict=True):
        name = line.target or ""
        if (
            not results
            or line.role != "formula"
            or not _LIKE_A_FIGURE.fullmatch(name)
            or name in own
        ):
            continue
        if name not in results and meant_by(name, page.circuit) is None:
            near = nearest(name, page.circuit, results)
            hint = f"; the nearest name is {near}" if near else ""
            yield (
                note.id,
                f"There is no {name} in this circuit, so this line is not checked{hint}.",
            )


def _line(
    identifier: str, line: WorkedLine, about: About, page: HandPage, digits: int, aside: str
) -> LineLook:
    result, as_typed = None, None
    if line.result:
        result = shown_value(line.result, digits, line.target or "")
        value = complex(line.result.value)
        as_typed = None if value.imag else typed(value.real, line.result.dimension.unit)
    return LineLook(
        id=identifier,
        target=line.target,
        latex=line.latex,
        substituted=line.substituted,
        result=result,
        typed=as_typed,
        simulated=bool(line.result and line.result.simulated),
        problem=str(line.error) if line.error else None,
        at=line.error.at if line.error else 0,
        length=line.error.length if line.error else 0,
        role=line.role,
        holds=line.holds,
        about=about,
        at_frequency=engineering(page.frequency, "Hz") if about == "phasor" else "",
        aside=aside,
    )
