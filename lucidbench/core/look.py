"""One look at an exercise: everything the drawing, the working and the ledger mean, in one answer.

Stateless: the document goes in; nets, findings, operating point, worked lines and ledger come out,
all figures already written for people.
"""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from lucidbench.core.analyses import operating_point, operating_point_uncertainty
from lucidbench.core.comparison import BenchEntry, Difference, Row, ledger
from lucidbench.core.devices import CATALOGUE, DEVICES, GROUND
from lucidbench.core.errors import CircuitError
from lucidbench.core.exercise import Exercise
from lucidbench.core.formula import Known, WorkedLine, name_latex, work_out
from lucidbench.core.netlist import GROUND_NODE, Circuit, FaultKind, topology_faults
from lucidbench.core.readings import Quantity, quantities
from lucidbench.core.schematic import (
    Finding,
    Net,
    Part,
    ReadValue,
    joints,
    nodes_of,
    read_drawing,
)
from lucidbench.core.schematic.document import Point
from lucidbench.core.units import engineering
from lucidbench.core.units.dimensions import UNITS

# A fault of this kind concerns an island that the rest can be solved without.
_SEPARABLE = FaultKind.FLOATING.value


class OfferLook(BaseModel):
    label: str
    text: str


class ValueLook(BaseModel):
    """One value of a part: `echo` as it was understood, `problem` or `question` where it was not."""

    key: str
    text: str
    echo: str | None
    problem: str | None
    question: str | None
    offers: list[OfferLook]
    preferred: OfferLook | None


class PartLook(BaseModel):
    id: str
    caption: str  # the main value, written beside the part
    description: str  # spoken: "R1, 4.7 kΩ, from in to out"
    values: list[ValueLook]


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


class Look(BaseModel):
    parts: list[PartLook]
    nets: list[NetLook]
    joints: list[Point]
    findings: list[Finding]
    quantities: list[QuantityLook]
    unsolved: str | None = Field(
        description="Why there is no operating point; null where there is."
    )
    lines: list[LineLook]
    ledger: list[RowLook]


def look(exercise: Exercise) -> Look:
    """Everything that follows from the exercise as it stands. Never raises for what is drawn."""
    schematic = exercise.schematic
    drawing = read_drawing(schematic, exercise.title)
    nets, values = drawing.nets, drawing.values
    results, unsolved = _solve(drawing.circuit, drawing.findings)
    nodes = nodes_of(nets)
    meanings = _meanings(schematic.parts, nodes, nets)
    worked = _work_out(exercise, values, results)
    hand = {
        line.target: line.result
        for line in worked
        if line.target and line.result and not line.result.simulated
    }
    entries = [BenchEntry(note.quantity, note.text) for note in exercise.bench]
    return Look(
        parts=[_part(part, values[part.id], nodes.get(part.id, [])) for part in schematic.parts],
        nets=[_net(net) for net in nets],
        joints=joints(schematic),
        findings=drawing.findings,
        quantities=[_quantity(q, meanings) for q in results.values()],
        unsolved=unsolved,
        lines=[_line(note.id, line) for note, line in zip(exercise.hand, worked, strict=True)],
        ledger=[_row(row, meanings) for row in ledger(hand, results, entries)],
    )


def _solve(circuit: Circuit, findings: list[Finding]) -> tuple[dict[str, Quantity], str | None]:
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
        return quantities(point, operating_point_uncertainty(grounded)), None
    except CircuitError as error:
        return {}, str(error)


def _grounded(circuit: Circuit) -> Circuit:
    """The circuit without the islands that have no path to ground."""
    floating = [f for f in topology_faults(circuit) if f.kind is FaultKind.FLOATING]
    return circuit.without({name for fault in floating for name in fault.elements})


def _work_out(
    exercise: Exercise, values: dict[str, list[ReadValue]], results: dict[str, Quantity]
) -> list[WorkedLine]:
    parts: dict[str, Known] = {}
    for part in exercise.schematic.parts:
        main = values[part.id][0] if values[part.id] else None
        if main and main.number is not None and part.kind in DEVICES:
            parts[part.name] = Known(main.number, UNITS[main.parameter.unit])
    simulated = {q.name: Known(q.value, q.dimension, simulated=True) for q in results.values()}
    return work_out([line.text for line in exercise.hand], parts, simulated)


def _meanings(parts: list[Part], nodes: dict[str, list[str]], nets: list[Net]) -> dict[str, str]:
    """What each quantity is, in words, by its name."""
    meanings = {
        f"V_{net.name}": f"voltage of node {net.name} above ground"
        for net in nets
        if not net.is_ground
    }
    for part in parts:
        if part.kind not in DEVICES or len(nodes.get(part.id, [])) < 2:
            continue
        a, b = (_node_words(node) for node in nodes[part.id][:2])
        meanings[f"I_{part.name}"] = f"current through {part.name}, from {a} to {b}"
        meanings[f"P_{part.name}"] = f"power taken by {part.name}; below zero it gives"
    return meanings


def _node_words(node: str) -> str:
    return "ground" if node == GROUND_NODE else node


def _part(part: Part, values: list[ReadValue], nodes: list[str]) -> PartLook:
    main = values[0] if values else None
    caption = (main.echo or main.text) if main else ""
    label = CATALOGUE[part.kind].label if part.kind in CATALOGUE else part.kind
    if part.kind == GROUND.kind:
        spoken = "Ground"
    else:
        between = f", from {' to '.join(_node_words(n) for n in nodes)}" if nodes else ""
        spoken = f"{part.name}, {label.lower()}, {caption or 'no value'}{between}"
    return PartLook(
        id=part.id,
        caption=caption,
        description=spoken,
        values=[
            ValueLook(
                key=value.parameter.key,
                text=value.text,
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


def _row(row: Row, meanings: dict[str, str]) -> RowLook:
    simulated, bench = row.simulated, row.bench
    return RowLook(
        quantity=row.quantity,
        latex=name_latex(row.quantity),
        kind=row.kind,
        subject=row.subject,
        meaning=meanings.get(row.quantity, f"nothing on the drawing is called {row.subject}"),
        hand=None if row.hand is None else engineering(row.hand, row.unit),
        simulated=engineering(simulated.value, simulated.unit) if simulated else None,
        simulated_uncertainty=_plus_minus(simulated.uncertainty, simulated.unit)
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
