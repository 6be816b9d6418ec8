"""A drawing read through: its nodes, its values, the circuit it means, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

from lucidbench.core.errors import CircuitError
from lucidbench.core.formula import Known
from lucidbench.core.netlist import Circuit, topology_faults
from lucidbench.core.schematic.document import Block, NamedValue, Part, Schematic
from lucidbench.core.schematic.findings import Finding, find
from lucidbench.core.schematic.flatten import (
    element_again,
    named_values,
    read_sheet,
    unfold,
)
from lucidbench.core.schematic.kinds import Kinds, kind_of_part, kinds_with
from lucidbench.core.schematic.nets import Wiring
from lucidbench.core.schematic.values import ReadValue, read_values
from lucidbench.core.units.dimensions import NUMBER, UNITS


class Drawn(NamedTuple):
    """What a drawing is read from."""

    schematic: Schematic
    title: str
    parameters: Sequence[NamedValue]
    blocks: Sequence[Block]
    scope: Mapping[str, Known] | None


@dataclass(frozen=True)
class Reading:
    """`wiring` is what is joined, `values` holds each part's parameters by part id; `circuit` every
    part of a known kind, those of the sheet itself at their `places`; `parameters` the named values,
    and `wrong` what is wrong with the others."""

    drawn: Drawn
    wiring: Wiring
    values: dict[str, tuple[ReadValue, ...]]
    circuit: Circuit
    findings: list[Finding]
    kinds: Kinds
    parameters: dict[str, Known] = field(default_factory=dict)
    wrong: dict[str, str] = field(default_factory=dict)
    places: dict[str, int] = field(default_factory=dict)


def read_drawing(
    schematic: Schematic,
    title: str = "",
    parameters: Sequence[NamedValue] = (),
    blocks: Sequence[Block] = (),
    scope: Mapping[str, Known] | None = None,
) -> Reading:
    """Read `schematic`. Never raises for what is drawn: whatever is wrong is a finding.

    `scope` are named values from outside, where the sheet is a block's.
    """
    drawn = Drawn(schematic, title, parameters, blocks, scope)
    kinds = kinds_with(blocks)
    by_id = {block.id: block for block in blocks}
    texts = {named.name: named.text for named in parameters}
    known, wrong = named_values(texts)
    known = {**(scope or {}), **known}
    sheet = read_sheet(schematic, kinds, known)
    unfolded = unfold(sheet, kinds, by_id, known)
    rebuild = _rebuild(drawn, kinds, known)
    circuit = Circuit(title, tuple(unfolded.elements), parameters=_numbers(known), rebuild=rebuild)
    findings = find(sheet, kinds, circuit, unfolded.problems)
    return Reading(
        drawn,
        sheet.wiring,
        sheet.values,
        circuit,
        findings,
        kinds,
        known,
        wrong,
        unfolded.places,
    )


def revalued(before: Reading, drawn: Drawn) -> tuple[Reading, list[int]] | None:
    """`drawn` read by what was read before, and which of its parts, by their places, have other values.

    None where anything else has changed, or what is wrong with the drawing may have.
    """
    changed = _other_values(before.drawn, drawn)
    # Whether what is wired so is in the way depends on what drives it.
    if changed is None or topology_faults(before.circuit):
        return None
    values, elements = dict(before.values), {}
    mended = {part.id for f in before.findings for mend in f.mends for part in mend.parts}
    for place in changed:
        part = drawn.schematic.parts[place]
        values[part.id] = read = read_values(part, before.kinds, before.parameters)
        at = before.places.get(part.id)
        if at is None or part.id in mended or any(map(_is_told, (*read, *before.values[part.id]))):
            return None
        element = element_again(part, read, before.circuit.elements[at], before.kinds)
        if element is None:
            return None
        elements[at] = element
    circuit = before.circuit.revalued(elements, _rebuild(drawn, before.kinds, before.parameters))
    return replace(before, drawn=drawn, values=values, circuit=circuit), changed


def _other_values(before: Drawn, now: Drawn) -> list[int] | None:
    """The places of parts that differ in their values; None where anything else differs."""
    old, new = before.schematic, now.schematic
    same = (
        before[1:] == now[1:]
        and (old.wires, old.junctions, old.labels) == (new.wires, new.junctions, new.labels)
        and len(old.parts) == len(new.parts)
    )
    if not same:
        return None
    changed = []
    for place, (part, other) in enumerate(zip(old.parts, new.parts, strict=True)):
        if part is not other:
            if _but_for_values(part) != _but_for_values(other):
                return None
            changed.append(place)
    return changed


def _but_for_values(part: Part) -> tuple[object, ...]:
    """What a circuit is read from beside values."""
    turned = (part.at, part.rotation, part.mirror)
    return (part.id, part.kind, part.name, part.form, part.textbook, part.block, turned)


def _is_told(value: ReadValue) -> bool:
    return value.problem is not None or value.question is not None


def _rebuild(drawn: Drawn, kinds: Kinds, known: Mapping[str, Known]) -> _Rebuild:
    blocks = {block.id: block for block in drawn.blocks}
    texts = {named.name: named.text for named in drawn.parameters}
    return _Rebuild(drawn.title, drawn.schematic, kinds, blocks, texts, known)


@dataclass(frozen=True)
class _Rebuild:
    """Makes the circuit again with some parameters changed, each in the unit it has.

    It knows the drawing and not the circuit, which so goes with the last that holds it.
    """

    title: str
    schematic: Schematic
    kinds: Kinds
    blocks: Mapping[str, Block]
    texts: Mapping[str, str]
    known: Mapping[str, Known]
    changed: Mapping[str, float] = field(default_factory=dict)

    def __call__(self, more: Mapping[str, float]) -> Circuit:
        changed = {**self.changed, **more}
        given = {name: Known(value, self.known[name].dimension) for name, value in changed.items()}
        known = {**self.known, **named_values(self.texts, given)[0]}
        sheet = read_sheet(self.schematic, self.kinds, known)
        for part in self.schematic.parts:
            for value in sheet.values[part.id]:
                if value.problem:
                    raise CircuitError(f"{part.name}: {value.problem}.", (part.name,))
        elements = tuple(unfold(sheet, self.kinds, self.blocks, known).elements)
        rebuild = replace(self, changed=changed)
        return Circuit(self.title, elements, parameters=_numbers(known), rebuild=rebuild)


def values_by_name(schematic: Schematic, reading: Reading) -> dict[str, Known]:
    """What names stand for in formulas: circuit parameters, and parts for their main values."""
    names = dict(reading.parameters)
    for part in schematic.parts:
        description = kind_of_part(part, reading.kinds)
        main = description.main if description else None
        for value in reading.values[part.id]:
            if main and value.parameter.key == main.key and value.number is not None:
                names[part.name] = Known(value.number, UNITS.get(main.unit, NUMBER))
    return names


def _numbers(known: Mapping[str, Known]) -> dict[str, float]:
    return {n: float(k.value) for n, k in known.items() if not isinstance(k.value, complex)}
