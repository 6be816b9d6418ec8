"""From the drawing to the flat circuit the analyses take: blocks unfolded, values in SI units."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

from lucidbench.core.devices import DEVICES, Description
from lucidbench.core.devices.waves import given_waveform
from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.formula import Known
from lucidbench.core.netlist import GROUND_NODE, Element
from lucidbench.core.netlist.circuit import MOST_ELEMENTS
from lucidbench.core.netlist.parameters import (
    ParameterError,
    parameter_value,
    resolve_parameters,
)
from lucidbench.core.schematic.document import Block, Part, Schematic
from lucidbench.core.schematic.formulas import program_of
from lucidbench.core.schematic.kinds import BLOCK, Kinds, described, kind_of_part
from lucidbench.core.schematic.nets import Wiring, wiring
from lucidbench.core.schematic.values import ReadValue, read_values

DEEPEST = 10  # blocks within blocks
_WIRE = "voltage_source"  # of 0 V
MOST_USES = 5_000  # of all blocks together


@dataclass(frozen=True)
class Sheet:
    """One sheet read: what is joined on it, and its values by part id."""

    schematic: Schematic
    wiring: Wiring
    values: dict[str, tuple[ReadValue, ...]]


@dataclass
class _Budget:
    """Uses of blocks that may still be unfolded; below zero nothing more is."""

    uses: int = MOST_USES


@dataclass
class Unfolded:
    """The elements of a drawing; by the part's id, which of them a part of the sheet itself is, and what
    kept it from being one."""

    elements: list[Element] = field(default_factory=list)
    places: dict[str, int] = field(default_factory=dict)
    problems: dict[str, str] = field(default_factory=dict)
    budget: _Budget = field(default_factory=_Budget)


def read_sheet(schematic: Schematic, kinds: Kinds, parameters: Mapping[str, Known]) -> Sheet:
    values = {part.id: read_values(part, kinds, parameters) for part in schematic.parts}
    return Sheet(schematic, wiring(schematic, kinds), values)


def unfold(
    sheet: Sheet, kinds: Kinds, blocks: Mapping[str, Block], parameters: Mapping[str, Known]
) -> Unfolded:
    """Every part of a known kind as an element; a value that was not understood is left out."""
    found = Unfolded()
    _unfold(sheet, kinds, blocks, parameters, _Scope("", {}, ()), found)
    return found


@dataclass(frozen=True)
class _Scope:
    """Where a sheet stands: the names before its own, its ports' nodes outside, the blocks around."""

    prefix: str
    ports: Mapping[str, str]
    around: tuple[str, ...]

    def node(self, name: str) -> str:
        if name == GROUND_NODE:
            return GROUND_NODE
        return self.ports.get(name) or self.prefix + name


def _unfold(
    sheet: Sheet,
    kinds: Kinds,
    blocks: Mapping[str, Block],
    parameters: Mapping[str, Known],
    scope: _Scope,
    found: Unfolded,
) -> None:
    for part in sheet.schematic.parts:
        description = kind_of_part(part, kinds)
        if found.budget.uses < 0:
            return
        if description is None or part.state == "open":
            continue
        try:
            if part.state == "short":
                found.places[part.id] = len(found.elements)
                found.elements.append(_bridge(part, sheet, scope))
            elif part.kind == BLOCK:
                _instance(part, sheet, kinds, blocks, parameters, scope, found)
            elif description.element:
                element = _element(part, description, sheet, scope, parameters)
                found.places[part.id] = len(found.elements)
                found.elements.append(element)
            if len(found.elements) > MOST_ELEMENTS:
                found.budget.uses = -1
                raise LucidError(f"the blocks unfold to more than {MOST_ELEMENTS:,} parts")
        except LucidError as error:
            found.problems.setdefault(part.id, str(error))


def _bridge(part: Part, sheet: Sheet, scope: _Scope) -> Element:
    """A wire in the place of a part, whose current is still told. Raises LucidError."""
    nodes = sheet.wiring.nodes.get(part.id, ())
    if len(nodes) != 2:
        raise LucidError(f"only what has two pins can be shorted, and {part.name} has {len(nodes)}")
    main = DEVICES[_WIRE].description.main
    assert main is not None
    return Element(scope.prefix + part.name, _WIRE, tuple(map(scope.node, nodes)), {main.key: 0.0})


def _instance(
    part: Part,
    sheet: Sheet,
    kinds: Kinds,
    blocks: Mapping[str, Block],
    outer: Mapping[str, Known],
    scope: _Scope,
    found: Unfolded,
) -> None:
    block = blocks[part.block]
    if part.block in scope.around:
        raise LucidError(f"the block {block.name} holds itself; take it out of its own drawing")
    if len(scope.around) >= DEEPEST:
        raise LucidError(f"blocks go deeper than {DEEPEST}")
    found.budget.uses -= 1
    if found.budget.uses < 0:
        raise LucidError(f"the blocks are used more than {MOST_USES:,} times, one within another")
    parameters = block_parameters(block, part.values, outer)
    inner = read_sheet(block.schematic, kinds, parameters)
    ports = {
        port.name: scope.node(node)
        for port, node in zip(block.ports, sheet.wiring.nodes.get(part.id, ()), strict=False)
    }
    inside = _Scope(f"{scope.prefix}{part.name}.", ports, (*scope.around, part.block))
    problems = Unfolded(found.elements, budget=found.budget)
    _unfold(inner, kinds, blocks, parameters, inside, problems)
    broken = next(iter(problems.problems.values()), None) or next(
        (v.problem for values in inner.values.values() for v in values if v.problem), None
    )
    if broken:
        raise LucidError(f"inside the block {block.name}: {broken}")


def block_parameters(
    block: Block, values: Mapping[str, str], outer: Mapping[str, Known]
) -> dict[str, Known]:
    """The named values inside one use of a block. Raises LucidError."""
    own = {named.name: named.text for named in block.parameters}
    units = {parameter.key: parameter.unit for parameter in described(block).parameters}
    given = {
        name: parameter_value(name, text, units[name], outer)
        for name, text in values.items()
        if name in own and text.strip()
    }
    visible = {name: known for name, known in outer.items() if name not in own}
    return {**visible, **resolve_parameters(own, {**visible, **given})}


def _element(
    part: Part,
    description: Description,
    sheet: Sheet,
    scope: _Scope,
    parameters: Mapping[str, Known],
) -> Element:
    """Raises LucidError where something of it is missing that no number can stand for."""
    values = sheet.values[part.id]
    pins = sheet.wiring.nodes.get(part.id, ())
    if description.joins:
        pins = tuple(pins[k] for k in description.joins)
    nodes = tuple(map(scope.node, pins))
    plain = _plain_element(scope.prefix + part.name, description, part.form, values, nodes)
    formula = description.formula
    if formula is None and not plain.device.references:
        return plain
    texts = _texts(values)
    if formula:
        sensed, currents, program = program_of(texts[formula.key], parameters)
        there = {net.name for net in sheet.wiring.nets}
        for node in sensed:
            if node not in there:
                raise FormulaError(
                    f"there is no node called {node}; name one so, or mend the formula", 0
                )
        nodes += tuple(map(scope.node, sensed))
        refers = tuple(_referred(name, sheet, scope) for name in currents)
        return replace(plain, nodes=nodes, refers=refers, program=program)
    keys = [p.key for p in description.parameters if p.reads == "part"]
    return replace(plain, refers=tuple(_referred(texts.get(key, ""), sheet, scope) for key in keys))


@lru_cache(maxsize=4096)  # most parts are as they were when the drawing was read before
def _plain_element(
    name: str,
    description: Description,
    form: str,
    values: tuple[ReadValue, ...],
    nodes: tuple[str, ...],
) -> Element:
    """The element by its own values alone, which stand for no other part and no formula."""
    numbers: dict[str, float] = {}
    spreads: dict[str, float] = {}
    for value in values:
        if value.parameter.reads != "quantity" or value.number is None:
            continue
        if value.parameter.tolerance_of:
            spreads[value.parameter.tolerance_of] = value.number
        else:
            numbers[value.parameter.key] = value.number
    kind = description.element
    waveform = None
    if description.imposes:
        numbers, waveform = given_waveform(form, numbers, _texts(values))
        if "dc" in numbers:
            main = DEVICES[kind].description.main
            assert main is not None
            numbers[main.key] = numbers.pop("dc")
        form = ""
    return Element(name, kind, nodes, numbers, spreads, form, waveform)


def _texts(values: tuple[ReadValue, ...]) -> dict[str, str]:
    return {v.parameter.key: v.text.strip() for v in values if v.parameter.reads != "quantity"}


def _referred(name: str, sheet: Sheet, scope: _Scope) -> str:
    for part in sheet.schematic.parts:
        if part.name.lower() == name.lower():
            return scope.prefix + part.name
    if not name:
        raise LucidError("the part it refers to is not named yet")
    raise LucidError(f"there is no part called {name} that it could refer to")


def named_values(
    texts: Mapping[str, str], given: Mapping[str, Known] | None = None
) -> tuple[dict[str, Known], dict[str, str]]:
    """(parameters understood, what is wrong with the others, by name); `given` stand as they are."""
    known: dict[str, Known] = dict(given or {})
    wrong: dict[str, str] = {}
    for name in texts:
        try:
            known |= resolve_parameters(texts, known, (name,))
        except ParameterError as error:
            wrong[name] = str(error).removeprefix(f"{name}: ")
    return known, wrong
