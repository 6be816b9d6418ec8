"""A drawing read through: its nodes, its values, the circuit it means, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from lucidbench.core.errors import CircuitError
from lucidbench.core.formula import Known
from lucidbench.core.netlist import Circuit
from lucidbench.core.schematic.document import Block, NamedValue, Schematic
from lucidbench.core.schematic.findings import Finding, find
from lucidbench.core.schematic.flatten import (
    named_values,
    read_sheet,
    unfold,
)
from lucidbench.core.schematic.kinds import Kinds, kind_of_part, kinds_with
from lucidbench.core.schematic.nets import Wiring
from lucidbench.core.schematic.values import ReadValue
from lucidbench.core.units.dimensions import NUMBER, UNITS


@dataclass(frozen=True)
class Reading:
    """`wiring` is what is joined, `values` holds each part's parameters by part id; `circuit` every
    part of a known kind, those of the sheet itself at their `places`; `parameters` the named values,
    and `wrong` what is wrong with the others."""

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
    kinds = kinds_with(blocks)
    by_id = {block.id: block for block in blocks}
    texts = {named.name: named.text for named in parameters}
    known, wrong = named_values(texts)
    known = {**(scope or {}), **known}
    sheet = read_sheet(schematic, kinds, known)
    unfolded = unfold(sheet, kinds, by_id, known)
    rebuild = _Rebuild(title, schematic, kinds, by_id, texts, known)
    circuit = Circuit(title, tuple(unfolded.elements), parameters=_numbers(known), rebuild=rebuild)
    findings = find(sheet, kinds, circuit, unfolded.problems)
    return Reading(
        sheet.wiring,
        sheet.values,
        circuit,
        findings,
        kinds,
        known,
        wrong,
        unfolded.places,
    )


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
