"""One look at an exercise: everything the drawing, the working and the ledger mean, in one answer.

Stateless: the document goes in; nets, findings, operating point, worked lines and ledger come out,
all figures already written for people.
"""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Literal

from pydantic import BaseModel, Field

from lucidbench.core.analyses import operating_point, operating_point_uncertainty
from lucidbench.core.comparison import BenchEntry, Difference, Row, TakenReading, ledger
from lucidbench.core.devices import GROUND, Description
from lucidbench.core.errors import LucidError
from lucidbench.core.exercise import Exercise, TakenFigure
from lucidbench.core.formula import Known, WorkedLine, name_latex, work_out
from lucidbench.core.netlist import GROUND_NODE, Circuit, FaultKind, topology_faults
from lucidbench.core.readings import Quantity, quantities
from lucidbench.core.schematic import (
    Block,
    Finding,
    NamedValue,
    Net,
    Part,
    Reading,
    ReadValue,
    joints,
    nodes_of,
    read_drawing,
    values_by_name,
)
from lucidbench.core.schematic.document import Point
from lucidbench.core.schematic.kinds import (
    BLOCK,
    KindLook,
    Kinds,
    described,
    kind_look,
    kind_of_part,
)
from lucidbench.core.units import engineering

# A fault of this kind concerns an island that the rest can be solved without.
MOST_TOLERANCED = 120  # parts up to which every figure is told with its tolerance
_PARAMETER_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]*")
_SEPARABLE = FaultKind.FLOATING.value


class OfferLook(BaseModel):
    label: str
    text: str


class ValueLook(BaseModel):
    """One value of a part: `echo` as it was understood, `problem` or `question` where it was not."""

    key: str
    text: str
    number: float | None
    echo: str | None
    problem: str | None
    question: str | None
    offers: list[OfferLook]
    preferred: OfferLook | None


class PartLook(BaseModel):
    id: str
    caption: str  # the values written beside the part
    description: str  # spoken: "R1, 4.7 kΩ, from in to out"
    values: list[ValueLook]


class NamedLook(BaseModel):
    """A circuit parameter as understood, or what is wrong with it."""

    id: str
    echo: str | None
    latex: str | None
    problem: str | None


class NetLook(BaseModel):
    name: str
    ground: bool
    named: bool
    pins: list[tuple[str, int]]
    wires: list[str]


class QuantityLook(BaseModel):
    """A simulated figure. `flow` is the sign of `value`: its direction from the first pin."""

    name: str
    latex: str
    kind: str
    subject: str
    value: float
    text: str
    exact: str  # with all the digits that mean anything
    magnitude: str  # without sign, for where an arrow or a word tells the direction
    flow: Literal[-1, 0, 1]
    uncertainty: str | None
    meaning: str


class LineLook(BaseModel):
    id: str
    latex: str | None
    substituted: str | None
    result: str | None
    simulated: bool
    problem: str | None
    at: int
    length: int


class DifferenceLook(BaseModel):
    absolute: str
    relative: str | None
    state: Literal["agree", "near", "gap"]


class RowLook(BaseModel):
    quantity: str
    latex: str
    kind: str
    subject: str
    meaning: str
    hand: str | None
    hand_problem: str | None = None
    simulated: str | None
    simulated_uncertainty: str | None
    bench: str | None
    bench_uncertainty: str | None
    bench_problem: str | None
    simulated_less_hand: DifferenceLook | None
    bench_less_simulated: DifferenceLook | None
    bench_less_hand: DifferenceLook | None
    verdict: Literal["open", "agree", "near", "gap"]
    sentence: str | None
    taken: str | None = None  # the id of the figure taken from a run that the row is of
    conditions: str = ""
    stale: bool = False  # whether the circuit was changed since


class Look(BaseModel):
    parts: list[PartLook]
    parameters: list[NamedLook]
    blocks: list[KindLook] = Field(description="The document's own kinds of part.")
    nets: list[NetLook]
    joints: list[Point]
    findings: list[Finding]
    quantities: list[QuantityLook]
    unsolved: str | None = Field(
        description="Why there is no operating point; null where there is."
    )
    lines: list[LineLook]
    ledger: list[RowLook]


def look(exercise: Exercise, inside: str | None = None) -> Look:
    """Everything that follows from the exercise as it stands. Never raises for what is drawn.

    With `inside`, the drawing looked at is that of the block with this id, and its figures are those
    of its first use on the sheet.
    """
    whole = read_drawing(exercise.schematic, exercise.title, exercise.parameters, exercise.blocks)
    block = next((b for b in exercise.blocks if b.id == inside), None)
    schematic = block.schematic if block else exercise.schematic
    drawing = _inside(exercise, block, whole) if block else whole
    results, unsolved = _solve(whole.circuit, whole.findings, _compared(exercise))
    shown = _of_first_use(exercise, block, whole, results) if block else _of_the_sheet(results)
    if block and not shown:
        unsolved = f"{block.name or 'The block'} is not used on the sheet yet."
    nodes = nodes_of(drawing.nets)
    meanings = _meanings(schematic.parts, nodes, drawing)
    worked = _work_out(exercise, whole, results)
    hand = {
        line.target: line.result
        for line in worked
        if line.target and line.result and not line.result.simulated
    }
    entries = [BenchEntry(note.quantity, note.text) for note in exercise.bench]
    taken = [_reading(figure) for figure in exercise.taken]
    return Look(
        parts=[
            _part(part, drawing.values[part.id], nodes.get(part.id, []), drawing.kinds)
            for part in schematic.parts
        ],
        parameters=[
            _named(named, drawing) for named in (block.parameters if block else exercise.parameters)
        ],
        blocks=[kind_look(f"{BLOCK} {b.id}", described(b)) for b in exercise.blocks],
        nets=[_net(net) for net in drawing.nets],
        joints=joints(schematic, drawing.kinds),
        findings=drawing.findings,
        quantities=[_quantity(q, meanings) for q in shown.values()],
        unsolved=unsolved,
        lines=[_line(note.id, line) for note, line in zip(exercise.hand, worked, strict=True)],
        ledger=_rows(exercise, whole.circuit, ledger(hand, results, entries, taken), meanings),
    )


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
    outside = nodes_of(whole.nets).get(use.id, [])
    for port, node in zip(block.ports, outside, strict=False):
        if f"V_{node}" in results:
            renamed = f"V_{port.name}"
            inner[renamed] = replace(results[f"V_{node}"], name=renamed, subject=port.name)
    for name, quantity in results.items():
        kind, _, subject = name.partition("_")
        own = subject.removeprefix(f"{use.name}.")
        if own != subject:
            renamed = f"{kind}_{own}"
            inner[renamed] = replace(quantity, name=renamed, subject=own)
    return _of_the_sheet(inner)


def _compared(exercise: Exercise) -> set[str] | None:
    """The quantities whose tolerance is asked for: in a large circuit only those compared."""
    if len(exercise.schematic.parts) <= MOST_TOLERANCED:
        return None
    hand = {line.text.partition("=")[0].strip() for line in exercise.hand}
    return {name for name in hand | {note.quantity for note in exercise.bench} if name}


def _solve(
    circuit: Circuit, findings: list[Finding], compared: set[str] | None
) -> tuple[dict[str, Quantity], str | None]:
    """The operating point of what can be solved, and why if nothing can."""
    if not circuit.elements:
        return {}, "Nothing is drawn yet that could carry a current."
    blocking = [f for f in findings if f.severity == "fault" and f.code != _SEPARABLE]
    if blocking:
        return {}, blocking[0].sentence
    grounded = _grounded(circuit)
    if not grounded.elements:
        return {}, "No part is connected to ground yet."
    try:
        point = operating_point(grounded)
        return quantities(point, operating_point_uncertainty(grounded, point, compared)), None
    except LucidError as error:
        return {}, str(error)


def _grounded(circuit: Circuit) -> Circuit:
    """The circuit without the islands that have no path to ground."""
    floating = [f for f in topology_faults(circuit) if f.kind is FaultKind.FLOATING]
    return circuit.without({name for fault in floating for name in fault.elements})


def _work_out(
    exercise: Exercise, drawing: Reading, results: dict[str, Quantity]
) -> list[WorkedLine]:
    names = values_by_name(exercise.schematic, drawing)
    simulated = {q.name: Known(q.value, q.dimension, simulated=True) for q in results.values()}
    return work_out([line.text for line in exercise.hand], names, simulated)


def _meanings(parts: list[Part], nodes: dict[str, list[str]], drawing: Reading) -> dict[str, str]:
    """What each quantity is, in words, by its name."""
    meanings = {
        f"V_{net.name}": f"voltage of node {net.name} above ground"
        for net in drawing.nets
        if not net.is_ground
    }
    for part in parts:
        description = kind_of_part(part, drawing.kinds)
        if description is None or not description.element or len(nodes.get(part.id, [])) < 2:
            continue
        a, b = (_node_words(node) for node in nodes[part.id][:2])
        meanings[f"P_{part.name}"] = f"power taken by {part.name}; below zero it gives"
        for pin, _ in description.currents:
            if pin:
                meanings[f"I_{part.name}.{pin}"] = f"current into {pin} of {part.name}"
            else:
                meanings[f"I_{part.name}"] = f"current through {part.name}, from {a} to {b}"
    return meanings


def _node_words(node: str) -> str:
    return "ground" if node == GROUND_NODE else node


def _part(part: Part, values: list[ReadValue], nodes: list[str], kinds: Kinds) -> PartLook:
    description = kind_of_part(part, kinds)
    caption = _caption(part, description, values) if description else ""
    label = description.label if description else part.kind
    if part.kind == GROUND.kind:
        spoken = "Ground"
    else:
        between = f", from {' to '.join(_node_words(n) for n in nodes)}" if nodes else ""
        written = description.written_in(part.form) if description else ()
        valued = f", {caption or 'no value'}" if written else ""
        spoken = f"{part.name}, {label.lower()}{valued}{between}"
    return PartLook(
        id=part.id,
        caption=caption,
        description=spoken,
        values=[
            ValueLook(
                key=value.parameter.key,
                text=value.text,
                number=value.number,
                echo=value.echo,
                problem=value.problem,
                question=value.question,
                offers=[OfferLook(label=o.label, text=o.text) for o in value.offers],
                preferred=OfferLook(label=value.preferred.label, text=value.preferred.text)
                if value.preferred
                else None,
            )
            for value in values
        ],
    )


def _caption(part: Part, description: Description, values: list[ReadValue]) -> str:
    """What stands beside it: "4.7 kΩ", "β 180", "sine 2 V, 1 kHz"."""
    written = description.written_in(part.form)
    told = []
    for value in values:
        if value.parameter.key in written and value.text.strip():
            figure = value.echo or value.text.strip()
            told.append(f"{value.parameter.symbol} {figure}".strip())
    text = ", ".join(told)
    if description.kind in ("voltage_source", "current_source") and part.form not in (
        "",
        "constant",
    ):
        form = next((f.label.lower() for f in description.forms if f.key == part.form), part.form)
        text = f"{form} {text}".strip()
    return text


def _named(named: NamedValue, drawing: Reading) -> NamedLook:
    known = drawing.parameters.get(named.name)
    problem = drawing.wrong.get(named.name)
    if problem is None and not _PARAMETER_NAME.fullmatch(named.name):
        problem = "a name begins with a letter; letters, digits and _ may follow"
    echo = None
    if known is not None and problem is None:
        echo = engineering(complex(known.value).real, known.dimension.unit, digits=7)
    return NamedLook(id=named.id, echo=echo, latex=name_latex(named.name), problem=problem)


def _net(net: Net) -> NetLook:
    return NetLook(
        name=net.name,
        ground=net.is_ground,
        named=bool(net.labels),
        pins=[(pin.part.id, pin.index) for pin in net.pins],
        wires=[wire.id for wire in net.wires],
    )


def _quantity(quantity: Quantity, meanings: dict[str, str]) -> QuantityLook:
    flow: Literal[-1, 0, 1] = 0
    if quantity.value:
        flow = 1 if quantity.value > 0 else -1
    return QuantityLook(
        name=quantity.name,
        latex=name_latex(quantity.name),
        kind=quantity.kind,
        subject=quantity.subject,
        value=quantity.value,
        text=engineering(quantity.value, quantity.unit),
        exact=engineering(quantity.value, quantity.unit, digits=8),
        magnitude=engineering(abs(quantity.value), quantity.unit),
        flow=flow,
        uncertainty=_plus_minus(quantity.uncertainty, quantity.unit),
        meaning=meanings.get(quantity.name, ""),
    )


def _plus_minus(uncertainty: float, unit: str) -> str | None:
    return f"±\u00a0{engineering(uncertainty, unit, digits=2)}" if uncertainty else None


def _line(identifier: str, line: WorkedLine) -> LineLook:
    result = None
    if line.result:
        result = engineering(complex(line.result.value).real, line.result.dimension.unit)
    return LineLook(
        id=identifier,
        latex=line.latex,
        substituted=line.substituted,
        result=result,
        simulated=bool(line.result and line.result.simulated),
        problem=str(line.error) if line.error else None,
        at=line.error.at if line.error else 0,
        length=line.error.length if line.error else 0,
    )


def _reading(figure: TakenFigure) -> TakenReading:
    """Per cent are compared as plain numbers, which is what a formula gives."""
    value, unit = (figure.value / 100, "") if figure.unit == "%" else (figure.value, figure.unit)
    return TakenReading(figure.name, figure.label, value, unit)


def _rows(
    exercise: Exercise, circuit: Circuit, rows: list[Row], meanings: dict[str, str]
) -> list[RowLook]:
    looks = [_row(row, meanings) for row in rows]
    taken = {figure.name: figure for figure in exercise.taken}
    for look in looks:
        figure = taken.get(look.quantity)
        if figure:
            look.taken, look.conditions, look.meaning = figure.id, figure.conditions, figure.label
            look.stale = figure.circuit != circuit.mark
    return looks


def _row(row: Row, meanings: dict[str, str]) -> RowLook:
    simulated, bench = row.simulated, row.bench
    return RowLook(
        quantity=row.quantity,
        latex=name_latex(row.quantity),
        kind=row.kind,
        subject=row.subject,
        meaning=meanings.get(row.quantity, f"nothing on the drawing is called {row.subject}"),
        hand=None if row.hand is None else engineering(row.hand, row.unit),
        hand_problem=row.hand_problem,
        simulated=engineering(simulated.value, row.unit) if simulated else None,
        simulated_uncertainty=_plus_minus(simulated.uncertainty or 0.0, row.unit)
        if simulated
        else None,
        bench=bench.text if bench else None,
        bench_uncertainty=bench.uncertainty_text if bench else None,
        bench_problem=row.bench_problem,
        simulated_less_hand=_difference(row.simulated_less_hand, row.unit),
        bench_less_simulated=_difference(row.bench_less_simulated, row.unit),
        bench_less_hand=_difference(row.bench_less_hand, row.unit),
        verdict=row.state.value,
        sentence=row.sentence,
    )


def _difference(difference: Difference | None, unit: str) -> DifferenceLook | None:
    if difference is None:
        return None
    relative = None
    if difference.relative is not None:
        relative = _signed(100 * difference.relative, "%", digits=2)
    return DifferenceLook(
        absolute=_signed(difference.absolute, unit, digits=3),
        relative=relative,
        state=difference.state.value,
    )


def _signed(value: float, unit: str, digits: int) -> str:
    return ("+" if value > 0 else "") + engineering(value, unit, digits)
