"""Netlist text, the trade's common line-per-element form: R C L K V I E G F H B D Q M J S X lines.

The first line is the title; `*` begins a comment line and `;` the rest of one; `+` continues a line;
case is not told apart; 0 and gnd are ground. `Y` lines are ours: a part that the trade gives no letter
is written as `Yname node node … kind key=value …`. docs/netlist.md lists all of it.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from difflib import get_close_matches
from types import MappingProxyType

from lucidbench.core.devices import DEVICES, Device
from lucidbench.core.devices.base import GROUND_NODE
from lucidbench.core.devices.resistor import SENSED
from lucidbench.core.errors import CircuitError, NetlistError
from lucidbench.core.netlist.circuit import (
    MOST_ELEMENTS,
    Circuit,
    Element,
    value_fault,
)
from lucidbench.core.netlist.deck import Block, Statement, keyed, read_deck
from lucidbench.core.netlist.directives import read_directives
from lucidbench.core.netlist.expressions import (
    VALUE,
    ExpressionError,
    compile_expression,
    evaluate_expression,
    parse_expression,
    resolver,
    scaled,
)
from lucidbench.core.netlist.models import ELEMENT_KEYS, read_model
from lucidbench.core.netlist.requests import OperatingPointRequest, Request
from lucidbench.core.netlist.sources import read_source

DEEPEST_INSTANCES = 30
TOLERANCE = "tol"
_SHARE = re.compile(r"(\d+\.?\d*(?:[eE][+-]?\d+)?|\.\d+)(%?)")
_BY_FORMULA = ("formula_voltage", "formula_current")
_NODE = re.compile(r"[A-Za-z0-9_.+\-/#$]{1,64}")
_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,63}")
BY_LETTER: dict[str, Device] = {d.letter: d for d in DEVICES.values() if d.letter}
LETTERS = {
    **{letter: d.description.label.lower() for letter, d in BY_LETTER.items()},
    "B": "source by a formula",
    "D": "diode",
    "Q": "bipolar transistor",
    "M": "MOSFET",
    "J": "JFET",
    "X": "subcircuit",
    "Y": "any other part, by its kind",
}
Lookup = Callable[[str], float]


@dataclass
class Netlist:
    """What a netlist text says. `lines` gives the line of each element, for messages."""

    circuit: Circuit
    requests: tuple[Request, ...]
    lines: dict[str, int]
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Scope:
    """Where a statement stands: its instance's prefix, its ports' nodes, its names and definitions."""

    prefix: str
    nodes: Mapping[str, str]
    lookup: Lookup
    blocks: tuple[Block, ...]  # innermost first


@dataclass
class _Reader:
    elements: dict[str, Element] = field(default_factory=dict)
    lines: dict[str, int] = field(default_factory=dict)
    taken: dict[str, str] = field(default_factory=dict)  # lower-case name: as first written
    spellings: dict[str, str] = field(default_factory=dict)
    notes: dict[str, None] = field(default_factory=dict)

    # --- the whole ---------------------------------------------------------------------------------

    def join_up(self) -> None:
        """What formulas speak of: a node that is only sensed must be there, and a resistor whose current
        is sensed tells it. Raises NetlistError."""
        formulas = [e for e in self.elements.values() if e.kind in _BY_FORMULA]
        joined = {GROUND_NODE}
        for element in self.elements.values() if formulas else ():
            joined.update(element.nodes[:2] if element.kind in _BY_FORMULA else element.nodes)
        for element in formulas:
            for node in element.nodes[2:]:
                if node not in joined:
                    raise NetlistError(
                        self.lines[element.name],
                        f"{element.name} senses the node {node}, and nothing is joined to a node of that "
                        f"name{_near(node, {n.lower(): None for n in joined})}",
                    )
            for other in element.refers:
                found = self.elements.get(self.taken.get(other.lower(), ""))
                if found is not None and found.kind == "resistor":
                    self.elements[found.name] = replace(found, form=SENSED)

    # --- elements ---------------------------------------------------------------------------------

    def block(self, block: Block, scope: _Scope, depth: int = 0) -> None:
        for statement in block.statements:
            try:
                self.statement(statement, scope, depth)
            except (ExpressionError, CircuitError) as error:
                raise NetlistError(statement.line, f"{statement.words[0]}: {error}") from error

    def statement(self, statement: Statement, scope: _Scope, depth: int) -> None:
        name, line = statement.words[0], statement.line
        letter = name[0].upper()
        if letter not in LETTERS:
            known = ", ".join(f"{k} ({label})" for k, label in LETTERS.items())
            raise NetlistError(line, f"“{name}” begins with no letter of a known element: {known}")
        if not _NAME.fullmatch(name):
            raise NetlistError(
                line, f"“{name}” is no element name: letters, digits and _ may stand in one"
            )
        full = scope.prefix + name
        earlier = self.taken.get(full.lower())
        if earlier:
            raise NetlistError(
                line, f"{name} is already defined in line {self.lines[earlier]}; rename one of them"
            )
        self.taken[full.lower()] = full
        self.lines[full] = line
        if letter == "X":
            self.instance(statement, scope, depth)
            return
        element = {
            "K": self.coupling,
            "V": self.source,
            "I": self.source,
            "E": self.controlled,
            "G": self.controlled,
            "F": self.sensing,
            "H": self.sensing,
            "B": self.formula,
            "D": self.modelled,
            "Q": self.modelled,
            "M": self.modelled,
            "J": self.modelled,
            "S": self.modelled,
            "Y": self.any_kind,
        }.get(letter, self.two_pins)(statement, scope, full)
        for key, value in element.values.items():
            fault = value_fault(element.kind, key, value)
            if fault:
                raise NetlistError(line, f"{name}: {fault}, but {value:g} is given")
        if len(self.elements) >= MOST_ELEMENTS:
            raise NetlistError(line, f"more than {MOST_ELEMENTS:,} elements are too many")
        self.elements[full] = element

    def two_pins(self, statement: Statement, scope: _Scope, full: str) -> Element:
        """R, C and L: two nodes, a value, then keyed values."""
        name, *words = statement.words
        letter = name[0].upper()
        device = BY_LETTER[letter]
        if len(words) < 3:
            raise NetlistError(
                statement.line,
                f"{name} needs two nodes and a value; “{' '.join(statement.words)}” has too few words",
            )
        rest = words[2:]
        values: dict[str, float] = {}
        if len(rest) == 1 or rest[1] != "=":
            values[device.description.parameters[0].key] = self.number(rest[0], scope, statement)
            self.notes |= dict.fromkeys(_of_a_likely_slip(letter, name, rest[0]))
            rest = rest[1:]
        rest, spreads = self.spreads(statement, rest, device)
        values |= self.keyed_values(statement, rest, ELEMENT_KEYS[letter], scope)
        if device.description.parameters[0].key not in values:
            raise NetlistError(statement.line, f"{name} needs a value")
        kind = device.description.kind
        return Element(full, kind, self.nodes(statement, words[:2], scope), values, spreads)

    def spreads(
        self, statement: Statement, words: list[str], device: Device
    ) -> tuple[list[str], dict[str, float]]:
        """(the words without it, the tolerance told as tol=5%) of the device's value."""
        lowered = [word.lower() for word in words]
        of = next((p for p in device.description.parameters if p.tolerance_of), None)
        if of is None or of.tolerance_of is None or TOLERANCE not in lowered:
            return words, {}
        at = lowered.index(TOLERANCE)
        told = words[at + 2] if words[at + 1 : at + 2] == ["="] and len(words) > at + 2 else ""
        match = _SHARE.fullmatch(told)
        if not match or (at > 0 and words[at - 1] == "="):
            raise NetlistError(
                statement.line, f"{statement.words[0]}: a tolerance is told as tol=5%"
            )
        share = float(match[1]) / (100 if match[2] else 1)
        fault = value_fault(device.description.kind, of.key, share)
        if fault:
            raise NetlistError(statement.line, f"{statement.words[0]}: {fault}")
        return [*words[:at], *words[at + 3 :]], {of.tolerance_of: share} if share else {}

    def keyed_values(
        self, statement: Statement, words: list[str], names: Mapping[str, str], scope: _Scope
    ) -> dict[str, float]:
        if words and "=" not in words:
            raise NetlistError(
                statement.line,
                f"{statement.words[0]}: “{words[0]}” after the value is not understood",
            )
        values = {}
        for key, text in keyed(statement.line, words).items():
            if key not in names:
                raise NetlistError(
                    statement.line,
                    f"{statement.words[0]}: “{key}” is no parameter here; known are "
                    f"{', '.join(names)}{_near(key, names)}",
                )
            values[names[key]] = self.number(text, scope, statement)
        return values

    def coupling(self, statement: Statement, scope: _Scope, full: str) -> Element:
        name, *words = statement.words
        if len(words) != 3:
            raise NetlistError(statement.line, f"{name} needs two inductors and a coupling factor")
        refers = tuple(scope.prefix + word for word in words[:2])
        value = self.number(words[2], scope, statement)
        return Element(full, "coupling", (), {"coupling": value}, refers=refers)

    def source(self, statement: Statement, scope: _Scope, full: str) -> Element:
        name, *words = statement.words
        if len(words) < 2:
            raise NetlistError(statement.line, f"{name} needs two nodes and a value")
        nodes = self.nodes(statement, words[:2], scope)
        if len(words) == 2:
            raise NetlistError(
                statement.line,
                f"{name} needs two nodes and a value; “{' '.join(statement.words)}” has too few words",
            )
        device = BY_LETTER[name[0].upper()]
        values, waveform = read_source(
            statement, words[2:], lambda word: self.number(word, scope, statement)
        )
        values[device.description.parameters[0].key] = values.pop("dc")
        return Element(full, device.description.kind, nodes, values, waveform=waveform)

    def controlled(self, statement: Statement, scope: _Scope, full: str) -> Element:
        name, *words = statement.words
        if (len(words) >= 3 and words[2].lower() in ("value", "vol", "cur")) or (
            len(words) == 3 and words[2].startswith("{")
        ):
            return self.by_formula(
                statement, scope, full, words[:2], words[-1], voltage=name[0] in "Ee"
            )
        words = [word for word in words if word not in "()"]
        if len(words) != 5:
            raise NetlistError(
                statement.line,
                f"{name} needs two nodes, two control nodes and a gain; "
                f"“{' '.join(statement.words)}” has {len(words)} words after the name",
            )
        kind = BY_LETTER[name[0].upper()].description.kind
        gain = self.number(words[4], scope, statement)
        return Element(full, kind, self.nodes(statement, words[:4], scope), {"gain": gain})

    def sensing(self, statement: Statement, scope: _Scope, full: str) -> Element:
        name, *words = statement.words
        if len(words) != 4:
            raise NetlistError(
                statement.line,
                f"{name} needs two nodes, the source whose current it senses, and a gain",
            )
        kind = BY_LETTER[name[0].upper()].description.kind
        return Element(
            full,
            kind,
            self.nodes(statement, words[:2], scope),
            {"gain": self.number(words[3], scope, statement)},
            refers=(scope.prefix + words[2],),
        )

    def formula(self, statement: Statement, scope: _Scope, full: str) -> Element:
        name, *words = statement.words
        if len(words) != 5 or words[3] != "=" or words[2].lower() not in ("v", "i"):
            raise NetlistError(
                statement.line, f"{name} needs two nodes and V={{formula}} or I={{formula}}"
            )
        voltage = words[2].lower() == "v"
        return self.by_formula(statement, scope, full, words[:2], words[4], voltage)

    def by_formula(
        self,
        statement: Statement,
        scope: _Scope,
        full: str,
        ends: list[str],
        text: str,
        voltage: bool,
    ) -> Element:
        ops = [
            replace(op, names=tuple(self.node(statement, n, scope) for n in op.names))
            if op.code == "voltage"
            else op
            for op in parse_expression(text.strip("{}"))
        ]
        nodes, currents, program = compile_expression(ops, scope.lookup)
        return Element(
            full,
            "formula_voltage" if voltage else "formula_current",
            (*self.nodes(statement, ends, scope), *nodes),
            {},
            refers=tuple(scope.prefix + name for name in currents),
            program=program,
        )

    def modelled(self, statement: Statement, scope: _Scope, full: str) -> Element:
        """D, Q, M, J and S: nodes, then the name of a model, then keyed values."""
        name, *words = statement.words
        letter = name[0].upper()
        pins = {"D": 2, "Q": 3, "M": 4, "J": 3, "S": 4}[letter]
        plain = words[: words.index("=") - 1] if "=" in words else words
        keys = words[len(plain) :]
        begins: dict[str, float] = {}
        if letter == "S" and plain and plain[-1].lower() in ("on", "off") and len(plain) > pins + 1:
            begins = {"begins_closed": 1.0} if plain[-1].lower() == "on" else {}
            plain = plain[:-1]
        extra = 1 if letter == "Q" and len(plain) == pins + 2 else 0  # a substrate node
        if len(plain) != pins + extra + 1:
            raise NetlistError(
                statement.line,
                f"{name} needs {pins} nodes and the name of a model; "
                f"“{' '.join(plain)}” has {len(plain)} words",
            )
        kind, values = self.model(statement, plain[-1], letter, scope)
        if keys:
            values |= self.keyed_values(statement, keys, ELEMENT_KEYS.get(letter, {}), scope)
        return Element(full, kind, self.nodes(statement, plain[:pins], scope), {**values, **begins})

    def model(
        self, statement: Statement, name: str, letter: str, scope: _Scope
    ) -> tuple[str, dict[str, float]]:
        """(kind, values) of a model, found in the scope. Raises NetlistError."""
        known = {m: b.models[m] for b in reversed(scope.blocks) for m in b.models}
        definition = known.get(name.lower())
        if definition is None:
            have = f"known are {', '.join(known)}" if known else "the text defines none"
            raise NetlistError(
                statement.line,
                f"{statement.words[0]}: there is no model {name}; {have}{_near(name, known)}",
            )
        kind, values, notes = read_model(
            statement, definition, letter, lambda word: self.number(word, scope, definition)
        )
        self.notes |= dict.fromkeys(notes)
        return kind, values

    def any_kind(self, statement: Statement, scope: _Scope, full: str) -> Element:
        """Our own line for parts without a letter: nodes, the kind, keyed values, form=…"""
        name, *words = statement.words
        plain = words[: words.index("=") - 1] if "=" in words else words
        kind = plain[-1].lower() if plain else ""
        device = DEVICES.get(kind)
        if device is None:
            raise NetlistError(
                statement.line,
                f"{name}: “{kind}” is no kind of part; known are {', '.join(DEVICES)}"
                f"{_near(kind, DEVICES)}",
            )
        description = device.description
        pins = len(description.pins)
        if len(plain) - 1 != pins or device.references or kind.startswith("formula"):
            raise NetlistError(
                statement.line,
                f"{name} needs {pins} nodes before its kind ({', '.join(description.pins)}); "
                f"{len(plain) - 1} are given",
            )
        rest, spreads = self.spreads(statement, words[len(plain) :], device)
        texts = keyed(statement.line, rest)
        form = texts.pop("form", "").lower()
        forms = [f.key for f in description.forms]
        if form and form not in forms:
            raise NetlistError(
                statement.line, f"{name}: “{form}” is no form of it; known are {', '.join(forms)}"
            )
        known = {p.key: p.key for p in description.parameters if not p.tolerance_of}
        flat = [w for key, text in texts.items() for w in (key, "=", text)]
        values = self.keyed_values(statement, flat, known, scope)
        for parameter in description.of_form(form):
            if parameter.default and not parameter.optional and not parameter.tolerance_of:
                values.setdefault(parameter.key, device.defaults[parameter.key])
        nodes = self.nodes(statement, plain[:-1], scope)
        return Element(full, kind, nodes, values, spreads, form)

    # --- subcircuits ------------------------------------------------------------------------------

    def instance(self, statement: Statement, scope: _Scope, depth: int) -> None:
        name, *words = statement.words
        words = [w for w in words if w.lower() not in ("params:", "param:")]
        plain = words[: words.index("=") - 1] if "=" in words else words
        overrides = keyed(statement.line, words[len(plain) :])
        if not plain:
            raise NetlistError(statement.line, f"{name} needs nodes and the name of a subcircuit")
        *nodes, wanted = plain
        found = next(
            (
                (at, block.blocks[wanted.lower()])
                for at, block in enumerate(scope.blocks)
                if wanted.lower() in block.blocks
            ),
            None,
        )
        if found is None:
            known = {b: None for block in scope.blocks for b in block.blocks}
            have = f"known are {', '.join(known)}" if known else "the text defines none"
            raise NetlistError(
                statement.line,
                f"{name}: there is no subcircuit {wanted}; {have}{_near(wanted, known)}",
            )
        at, block = found
        if len(nodes) != len(block.ports):
            raise NetlistError(
                statement.line,
                f"{name}: the subcircuit {wanted} takes a node for each of its ports, "
                f"{len(block.ports)} in all ({', '.join(block.ports)}); here are {len(nodes)}",
            )
        if depth >= DEEPEST_INSTANCES:
            raise NetlistError(
                statement.line,
                f"{name}: subcircuits go deeper than {DEEPEST_INSTANCES}; does {wanted} hold itself?",
            )
        for key in overrides:
            if key not in block.defaults and key not in block.parameters:
                raise NetlistError(
                    statement.line,
                    f"{name}: {wanted} has no parameter {key}{_near(key, block.defaults)}",
                )
        given = {key: self.number(text, scope, statement) for key, text in overrides.items()}
        texts = {**block.defaults, **block.parameters}
        inner = resolver({k: v.strip("{}") for k, v in texts.items()}, scope.lookup, given)
        ports = dict(zip(block.ports, self.nodes(statement, nodes, scope), strict=True))
        self.block(
            block,
            _Scope(
                f"{scope.prefix}{name}.",
                MappingProxyType(ports),
                inner,
                (block, *scope.blocks[at:]),
            ),
            depth + 1,
        )

    # --- words ------------------------------------------------------------------------------------

    def nodes(self, statement: Statement, words: list[str], scope: _Scope) -> tuple[str, ...]:
        return tuple(self.node(statement, word, scope) for word in words)

    def node(self, statement: Statement, word: str, scope: _Scope) -> str:
        if not _NODE.fullmatch(word):
            raise NetlistError(statement.line, f"{statement.words[0]}: “{word}” is no node name")
        folded = word.lower()
        if folded in (GROUND_NODE, "gnd"):
            return GROUND_NODE
        if folded in scope.nodes:
            return scope.nodes[folded]
        full = scope.prefix.lower() + folded
        return self.spellings.setdefault(full, scope.prefix + word)

    def number(self, word: str, scope: _Scope, statement: Statement) -> float:
        """A value: a number with its suffix, or an expression in braces, or a parameter's name."""
        name = statement.words[0]
        match = VALUE.fullmatch(word)
        if match:
            try:
                value = scaled(match[1], match[2])
            except ExpressionError as error:
                raise NetlistError(statement.line, f"{name}: {error}") from error
            if value in (float("inf"), float("-inf")):
                raise NetlistError(statement.line, f"{name}: “{word}” is too large a number")
            return value
        if not word.startswith("{"):
            raise NetlistError(statement.line, f"{name}: “{word}” is not a value")
        try:
            return evaluate_expression(parse_expression(word[1:-1]), scope.lookup)
        except ExpressionError as error:
            raise NetlistError(statement.line, f"{name}: {error}") from error


def read_netlist(text: str) -> Netlist:
    """Read netlist text. Raises NetlistError naming line, element and offending text."""
    title, block, directives = read_deck(text)

    def build(changed: Mapping[str, float]) -> tuple[Circuit, _Reader, Lookup]:
        reader = _Reader()
        texts = {k: v.strip("{}") for k, v in block.parameters.items()}
        lookup = resolver(texts, _unknown, changed)
        parameters = {}
        for name, line in block.parameter_lines.items():
            try:
                parameters[name] = lookup(name)
            except ExpressionError as error:
                raise NetlistError(line, f"the parameter {name}: {error}") from error
        reader.block(block, _Scope("", MappingProxyType({}), lookup, (block,)))
        reader.join_up()
        circuit = Circuit(
            title,
            tuple(reader.elements.values()),
            parameters=parameters,
            rebuild=lambda more: build({**changed, **more})[0],
        )
        return circuit, reader, lookup

    circuit, reader, lookup = build({})
    if not circuit.elements:
        raise NetlistError(
            1, "no element follows the title line; the first line is always taken as the title"
        )
    top = _Scope("", MappingProxyType({}), lookup, (block,))
    requests, temperature, near = read_directives(
        directives,
        lambda word, statement: reader.number(word, top, statement),
        lambda word, statement: reader.node(statement, word, top),
        circuit,
    )
    circuit = replace(circuit, temperature=temperature, near=near)
    notes = list(reader.notes)
    if _is_an_element(text, circuit):
        notes.append(
            f"line 1, “{title}”, is taken as the title, as the first line always is, though it reads as an "
            f"element; put a title above it"
        )
    notes += _lonely_nodes(circuit, reader.lines)
    return Netlist(
        circuit, tuple(requests) or (OperatingPointRequest(1),), reader.lines, tuple(notes)
    )


def _unknown(name: str) -> float:
    raise ExpressionError(f"nothing is called {name} here; .param sets named values")


def _near(word: str, known: Mapping[str, object]) -> str:
    match = get_close_matches(word.lower(), known, n=1)
    return f"; did you mean {match[0]}?" if match else ""


def _of_a_likely_slip(letter: str, name: str, word: str) -> list[str]:
    """What suffixes are read as, where another size is likely meant."""
    if letter == "R" and re.fullmatch(r"[\d.]+M(ohms?|Ω)?", word):
        return [f"{name}: “{word}” is read as milliohms, as the trade has it; Meg is mega"]
    if letter == "C" and re.fullmatch(r"[\d.]+F", word):
        return [
            f"{name}: “{word}” is read as femtofarads, as the trade has it; leave the F out for farads"
        ]
    return []


def _lonely_nodes(circuit: Circuit, lines: Mapping[str, int]) -> Iterator[str]:
    """Nodes at which one end of a part is alone, as a slip in a name leaves them."""
    at: dict[str, list[Element]] = defaultdict(list)
    for element in circuit:
        for node in element.nodes:
            at[node].append(element)
    joined = [node for node, elements in at.items() if len(elements) > 1]
    for node, (element, *others) in at.items():
        if others or len(element.nodes) != 2 or node == GROUND_NODE:
            continue
        where = f"line {lines[element.name]}: " if element.name in lines else ""
        near = get_close_matches(node, joined, n=1)
        meant = f"; is {near[0]} meant?" if near else ""
        yield f"{where}nothing but {element.name} is at node {node}{meant}"


def _is_an_element(text: str, circuit: Circuit) -> bool:
    """Whether the first line reads as an element connected to the circuit below it."""
    first = text.split(maxsplit=1)[:1]
    if not first or first[0][0].upper() not in BY_LETTER or not _NAME.fullmatch(first[0]):
        return False
    try:
        longer = read_netlist(f"*\n{text}").circuit
    except NetlistError:
        return False
    nodes = {n for e in longer if e.name not in circuit.by_name for n in e.nodes}
    return bool(nodes & {GROUND_NODE, *circuit.nodes})
