"""What is wrong with a drawing, where, and how it could be mended.

A finding is a sentence for the person drawing. A *fault* keeps the circuit, or a part of it, from
being solved; a *doubt* does not, but is rarely meant. A mend is an edit ready to be applied.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from typing import Literal

from pydantic import BaseModel

from lucidbench.core.analyses.operating_point import faults_at_rest, is_driven
from lucidbench.core.devices import CATALOGUE, GROUND
from lucidbench.core.netlist import Circuit, Fault, FaultKind, listed, topology_faults, unheld
from lucidbench.core.schematic.document import Label, Part, Point, Schematic, Wire
from lucidbench.core.schematic.flatten import Sheet
from lucidbench.core.schematic.geometry import pin_points
from lucidbench.core.schematic.kinds import BLOCK, Kinds, kind_of_part
from lucidbench.core.schematic.leaks import RESISTANCE, leak
from lucidbench.core.schematic.nets import Net
from lucidbench.core.schematic.values import ReadValue

_PART_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]*")
_NODE_NAME = re.compile(r"[A-Za-z0-9_]+")
_GROUND_NAMES = ("0", "gnd")
_GROUND_APART = (
    "Nothing is connected to the ground symbol yet, the reference for all voltages; "
    "draw a wire to it."
)


class Place(BaseModel):
    """Where on the sheet: identifiers of what is concerned, or bare points."""

    parts: list[str] = []
    wires: list[str] = []
    labels: list[str] = []
    points: list[Point] = []


class Mend(BaseModel):
    """An edit: take away `remove`, then put each given thing, replacing the one of the same id."""

    label: str
    remove: list[str] = []
    parts: list[Part] = []
    wires: list[Wire] = []
    labels: list[Label] = []


class Finding(BaseModel):
    code: str
    severity: Literal["fault", "doubt"]
    sentence: str
    place: Place
    mends: list[Mend] = []


def find(sheet: Sheet, kinds: Kinds, circuit: Circuit, problems: dict[str, str]) -> list[Finding]:
    """All findings, faults before doubts, each kind in the order of the drawing.

    `problems` says, by part id, what kept a part out of the circuit.
    """
    schematic, nets, nodes = sheet.schematic, sheet.wiring.nets, sheet.wiring.nodes
    all_read = not problems and not any(v.problem for read in sheet.values.values() for v in read)
    found = [
        *_parts(schematic, kinds),
        *_values(schematic, sheet.values),
        *_problems(sheet, problems),
        *_wiring(schematic, nets, circuit, all_read, kinds),
        *_labels(schematic, nets),
        *_open_pins(schematic, nets, kinds),
        *_shorted(schematic, nets, nodes),
    ]
    return sorted(found, key=lambda finding: finding.severity == "doubt")


def _problems(sheet: Sheet, problems: dict[str, str]) -> Iterator[Finding]:
    for part in sheet.schematic.parts:
        already = any(value.problem for value in sheet.values[part.id])
        if part.id in problems and not already:
            yield Finding(
                code="part",
                severity="fault",
                sentence=f"{part.name}: {problems[part.id].rstrip('.')}.",
                place=Place(parts=[part.id]),
            )


def _parts(schematic: Schematic, kinds: Kinds) -> Iterator[Finding]:
    if _all_apart(schematic, kinds):
        return
    by_name: dict[str, list[Part]] = defaultdict(list)
    by_place: dict[tuple[object, ...], list[Part]] = defaultdict(list)
    for part in schematic.parts:
        description = kind_of_part(part, kinds)
        if description is None:
            yield Finding(
                code="unknown_kind",
                severity="fault",
                sentence=f"{part.name} is of a kind not known here, “{part.kind}”.",
                place=Place(parts=[part.id]),
                mends=[Mend(label=f"Remove {part.name}", remove=[part.id])],
            )
            continue
        by_place[part.at, part.rotation % 180].append(part)
        if part.kind == GROUND.kind:
            continue
        by_name[part.name.lower()].append(part)
        if not _PART_NAME.fullmatch(part.name):
            clean = _free_name(description.prefix, schematic)
            yield Finding(
                code="part_name",
                severity="fault",
                sentence=f"“{part.name}” cannot be a part's name: it begins with a letter, and "
                f"letters, digits and _ may follow.",
                place=Place(parts=[part.id]),
                mends=[_renamed_part(part, clean)],
            )
    for parts in by_name.values():
        for part in parts[1:]:
            description = kind_of_part(part, kinds)
            fresh = _free_name(description.prefix if description else "X", schematic)
            yield Finding(
                code="duplicate_name",
                severity="fault",
                sentence=f"Two parts are called {part.name}.",
                place=Place(parts=[p.id for p in parts]),
                mends=[_renamed_part(part, fresh)],
            )
    for parts in by_place.values():
        if len(parts) > 1:
            yield Finding(
                code="on_top",
                severity="doubt",
                sentence=f"{listed(p.name for p in parts)} lie on top of one another.",
                place=Place(parts=[p.id for p in parts]),
                mends=[Mend(label=f"Remove {parts[-1].name}", remove=[parts[-1].id])],
            )


def _all_apart(schematic: Schematic, kinds: Kinds) -> bool:
    """Whether every part is known, well named and by itself, as in most drawings: seen at a glance."""
    parts = schematic.parts
    named = [part.name for part in parts if part.kind != GROUND.kind]
    return (
        len({name.lower() for name in named}) == len(named)
        and len({(part.at, part.rotation % 180) for part in parts}) == len(parts)
        and all(map(_PART_NAME.fullmatch, named))
        and all(kind_of_part(part, kinds) for part in parts)
    )


def _values(schematic: Schematic, values: dict[str, tuple[ReadValue, ...]]) -> Iterator[Finding]:
    for part in schematic.parts:
        for value in values[part.id]:
            complaint = value.problem or value.question
            if complaint is None:
                continue
            quoted = f" (“{value.text}”)" if value.problem and value.text.strip() else ""
            mends = [
                Mend(label=offer.label, parts=[_with_value(part, value.parameter.key, offer.text)])
                for offer in value.offers
            ]
            if value.problem and value.echo and part.kind == "resistor" and _is_zero(value.echo):
                mends.insert(0, _wire_instead(part, schematic))
            yield Finding(
                code="value" if value.problem else "unlikely_value",
                severity="fault" if value.problem else "doubt",
                sentence=f"{part.name}{quoted}: {complaint}.",
                place=Place(parts=[part.id]),
                mends=mends,
            )


def _wiring(
    schematic: Schematic, nets: list[Net], circuit: Circuit, all_read: bool, kinds: Kinds
) -> Iterator[Finding]:
    """Unless `all_read`, some values are missing, and only the wires can be judged."""
    ids = {part.name: part.id for part in schematic.parts if part.kind != GROUND.kind}
    by_name = {net.name: net for net in nets}
    for fault in faults_at_rest(circuit) if all_read else topology_faults(circuit):
        if fault.kind is FaultKind.FLOATING and _is_lone_part(fault, by_name):
            continue  # said as an unconnected part
        if fault.kind is FaultKind.VOLTAGE_LOOP and len(fault.elements) == 1:
            continue  # said as a shorted part
        mends = [
            *_ground_mends(fault, nets, by_name, schematic),
            *_leak_mends(fault, by_name, schematic, kinds),
        ]
        place = _fault_place(fault, ids, by_name)
        sentence = fault.sentence
        if fault.kind is FaultKind.NO_GROUND:  # nowhere, so it points at where one would go
            place.points = [ground.at for mend in mends for ground in mend.parts]
            if any(part.kind == GROUND.kind for part in schematic.parts):
                sentence = _GROUND_APART
        yield Finding(
            code=fault.kind.value,
            severity="doubt" if _is_only_at_rest(fault, circuit) else "fault",
            sentence=sentence,
            place=place,
            mends=mends,
        )

    if all_read and is_driven(circuit):
        yield from _undetermined(schematic, circuit, by_name, kinds)


def _undetermined(
    schematic: Schematic, circuit: Circuit, by_name: dict[str, Net], kinds: Kinds
) -> Iterator[Finding]:
    """Nodes that no direct current reaches: solved, but for their own voltage at rest."""
    for nodes in unheld(circuit):
        blocking = [
            e.name for e in circuit if set(e.nodes) & set(nodes) and not set(e.nodes) <= set(nodes)
        ]
        where, has = (
            (f"node {nodes[0]}", "its DC voltage is")
            if len(nodes) == 1
            else (f"nodes {listed(nodes)}", "their DC voltages are")
        )
        yield Finding(
            code="undetermined",
            severity="doubt",
            sentence=f"No direct current reaches {where}, so {has} undetermined: {listed(blocking)} "
            f"{'blocks' if len(blocking) == 1 else 'block'} it. All else is solved.",
            place=Place(
                wires=[w.id for name in nodes if name in by_name for w in by_name[name].wires]
            ),
            mends=_leaks(nodes, by_name, schematic, kinds),
        )


def _leak_mends(
    fault: Fault, by_name: dict[str, Net], schematic: Schematic, kinds: Kinds
) -> list[Mend]:
    if fault.kind not in (FaultKind.UNHELD, FaultKind.CURRENT_CUT):
        return []
    return _leaks(fault.nodes, by_name, schematic, kinds)


def _leaks(
    nodes: Sequence[str], by_name: dict[str, Net], schematic: Schematic, kinds: Kinds
) -> list[Mend]:
    """A large resistance to ground at one of the nodes."""
    for node in nodes:
        if node not in by_name:
            continue
        identities = _free_id("p", schematic), _free_id("g", schematic)
        name = _free_name("R", schematic)
        parts = leak(by_name[node], schematic, kinds, name, identities)
        if parts:
            return [Mend(label=f"Connect {RESISTANCE} to ground", parts=parts)]
    return []


def _is_only_at_rest(fault: Fault, circuit: Circuit) -> bool:
    """Whether the circuit can be solved all the same where its sources do not stand still: in phasors."""
    moves = any(e.waveform is not None or e.values.get("magnitude") for e in circuit)
    return moves and not any(
        other.kind is fault.kind
        and (set(other.nodes) & set(fault.nodes) or set(other.elements) & set(fault.elements))
        for other in topology_faults(circuit, moving=True)
    )


def _fault_place(fault: Fault, ids: dict[str, str], by_name: dict[str, Net]) -> Place:
    wires = [w.id for name in fault.nodes if name in by_name for w in by_name[name].wires]
    parts = [ids[name] for name in fault.elements if name in ids]
    return Place(parts=parts, wires=wires if fault.kind is not FaultKind.VOLTAGE_LOOP else [])


def _is_lone_part(fault: Fault, by_name: dict[str, Net]) -> bool:
    return len(fault.elements) == 1 and all(len(by_name[n].pins) == 1 for n in fault.nodes)


def _ground_mends(
    fault: Fault, nets: list[Net], by_name: dict[str, Net], schematic: Schematic
) -> list[Mend]:
    """A ground where one would usually be put: at the minus pin of a source, else at the lowest point."""
    if fault.kind is FaultKind.NO_GROUND:
        candidates = [net for net in nets if not net.is_ground]
    elif fault.kind is FaultKind.FLOATING:
        candidates = [by_name[name] for name in fault.nodes]
    else:
        return []

    sources = {part.id for part in schematic.parts if _imposes_voltage(part)}

    def suitability(net: Net) -> tuple[bool, bool, int, int]:
        at_minus = any(p.part in sources and p.number == 1 for p in net.pins)
        return at_minus, len(net.pins) > 1, max(p[1] for p in net.points), len(net.pins)

    if not candidates:
        return []
    net = max(candidates, key=suitability)
    lowest = max(net.points, key=lambda p: (p[1], -p[0]))
    return [Mend(label=f"Put a ground at node {net.name}", parts=[_ground(schematic, lowest)])]


def _labels(schematic: Schematic, nets: list[Net]) -> Iterator[Finding]:
    attached = {label.id for net in nets for label in net.labels}
    taken = {label.name for label in schematic.labels}
    for label in schematic.labels:
        place = Place(labels=[label.id])
        if label.id not in attached:
            yield Finding(
                code="label_nowhere",
                severity="doubt",
                sentence=f"The name {label.name} is on no wire and no pin.",
                place=place,
                mends=[Mend(label=f"Remove {label.name}", remove=[label.id])],
            )
        if label.name.lower() in _GROUND_NAMES:
            ground = Mend(
                label="Put a ground there",
                remove=[label.id],
                parts=[_ground(schematic, label.at)],
            )
            yield Finding(
                code="ground_name",
                severity="fault",
                sentence=f"The name {label.name} is kept for ground.",
                place=place,
                mends=[ground],
            )
        elif not _NODE_NAME.fullmatch(label.name):
            clean = re.sub(r"[^A-Za-z0-9_]+", "_", label.name).strip("_") or "node"
            yield Finding(
                code="node_name",
                severity="fault",
                sentence=f"“{label.name}” cannot be a node's name: only letters, digits and _ may "
                f"stand in it.",
                place=place,
                mends=[_renamed_label(label, clean)],
            )
    for net in nets:
        if len(net.labels) > 1:
            yield from _several_names(net)
            yield from _shared_names(net, schematic, taken)


def _several_names(net: Net) -> Iterator[Finding]:
    if len(net.names) < 2:
        return
    mends = []
    for kept in net.names[:3]:
        others = [label for label in net.labels if label.name != kept]
        mends.append(Mend(label=f"Keep {kept}", remove=[label.id for label in others]))
    yield Finding(
        code="several_names",
        severity="doubt",
        sentence=f"One node has several names: {listed(net.names)}. {net.name} is used.",
        place=Place(labels=[label.id for label in net.labels]),
        mends=mends,
    )


def _shared_names(net: Net, schematic: Schematic, taken: set[str]) -> Iterator[Finding]:
    islands = Counter(
        name
        for island in net.islands
        for name in {label.name for label in island if label.style == "name"}
    )
    for name, count in islands.items():
        if count < 2:
            continue
        bearers = [label for label in net.labels if label.name == name]
        fresh = next(f"{name}_{i}" for i in range(2, 10_000) if f"{name}_{i}" not in taken)
        island = next(i for i in reversed(net.islands) if any(label.name == name for label in i))
        there = {label.id for label in island if label.name == name}
        renamed = [
            label.model_copy(update={"name": fresh})
            for label in schematic.labels
            if label.id in there
        ]
        yield Finding(
            code="shared_name",
            severity="doubt",
            sentence=f"The name {name} joins {count} separate places into one node.",
            place=Place(labels=[label.id for label in bearers]),
            mends=[Mend(label=f"Separate them: call one {fresh}", labels=renamed)],
        )


def _open_pins(schematic: Schematic, nets: list[Net], kinds: Kinds) -> Iterator[Finding]:
    parts = {part.id: part for part in schematic.parts}
    lonely: dict[str, list[tuple[int, Point]]] = defaultdict(list)
    for net in nets:
        if len(net.pins) == 1 and len(net.islands) == 1:
            pin = net.pins[0]
            part = parts[pin.part]
            description = kind_of_part(part, kinds)
            many = description is not None and len(description.symbol.pins) > 2
            if net.labels and (many or part.kind == BLOCK):
                continue  # a named output need not lead on
            lonely[pin.part].append((pin.number, pin.at))
    for part in schematic.parts:
        open_pins = sorted(lonely[part.id])
        if not open_pins:
            continue
        description = kind_of_part(part, kinds)
        pins = description.symbol.pins if description else ()
        everywhere = len(open_pins) == len(pins)
        if everywhere:
            what = "The ground" if part.kind == GROUND.kind else part.name
            sentence = f"{what} is not connected to anything."
        else:
            ends = listed(_pin_words(pins[index].name, len(pins)) for index, _ in open_pins)
            sentence = f"{ends[0].upper()}{ends[1:]} of {part.name} is not connected."
        yield Finding(
            code="open_pin",
            severity="doubt",
            sentence=sentence,
            place=Place(
                parts=[part.id] if everywhere else [], points=[point for _, point in open_pins]
            ),
            mends=[Mend(label="Remove it", remove=[part.id])] if everywhere else [],
        )


def _pin_words(name: str, pins: int) -> str:
    if pins > 2:
        return f"pin {name}"
    return "one end" if name.isdigit() else f"the {name} end"


def _shorted(
    schematic: Schematic, nets: list[Net], nodes: dict[str, tuple[str, ...]]
) -> Iterator[Finding]:
    for part in schematic.parts:
        own = nodes.get(part.id, ())
        if len(own) < 2 or own.count(own[0]) < len(own):
            continue
        net = next(net for net in nets if net.name == own[0])
        ends = {pin.at for pin in net.pins if pin.part == part.id}
        bridges = [w for w in net.wires if {w.points[0], w.points[-1]} == ends]
        mends = [Mend(label="Remove the wire", remove=[w.id]) for w in bridges[:1]]
        mends.append(Mend(label=f"Remove {part.name}", remove=[part.id]))
        is_voltage_source = _imposes_voltage(part)
        consequence = "its voltage cannot stand" if is_voltage_source else "nothing happens in it"
        yield Finding(
            code="shorted",
            severity="fault" if is_voltage_source else "doubt",
            sentence=f"{part.name} is shorted by a wire: both its ends are one node, so "
            f"{consequence}.",
            place=Place(parts=[part.id], wires=[w.id for w in bridges]),
            mends=mends,
        )


def _is_zero(echo: str) -> bool:
    return echo.startswith("0\u00a0")


def _with_value(part: Part, key: str, text: str) -> Part:
    return part.model_copy(update={"values": {**part.values, key: text}})


def _renamed_part(part: Part, name: str) -> Mend:
    return Mend(label=f"Call it {name}", parts=[part.model_copy(update={"name": name})])


def _renamed_label(label: Label, name: str) -> Mend:
    return Mend(label=f"Call it {name}", labels=[label.model_copy(update={"name": name})])


def _wire_instead(part: Part, schematic: Schematic) -> Mend:
    wire = Wire(id=_free_id("w", schematic), points=pin_points(part))
    return Mend(label="Put a wire instead", remove=[part.id], wires=[wire])


def _ground(schematic: Schematic, at: Point) -> Part:
    return Part(id=_free_id("g", schematic), kind=GROUND.kind, name=GROUND.prefix, at=at)


def _free_id(prefix: str, schematic: Schematic) -> str:
    taken = {
        item.id
        for group in (schematic.parts, schematic.wires, schematic.junctions, schematic.labels)
        for item in group
    }
    return next(f"{prefix}{i}" for i in range(1, len(taken) + 2) if f"{prefix}{i}" not in taken)


def _free_name(prefix: str, schematic: Schematic) -> str:
    taken = {part.name.lower() for part in schematic.parts}
    return next(
        f"{prefix}{i}" for i in range(1, len(taken) + 2) if f"{prefix}{i}".lower() not in taken
    )


def _imposes_voltage(part: Part) -> bool:
    kind = CATALOGUE.get(part.kind)
    return kind is not None and kind.imposes == "V"
