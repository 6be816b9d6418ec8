"""Netlist text in the trade's common line-per-element form.

The first line is the title. Then one element a line (`R1 in out 4.7k`), its kind told by the first
letter of its name. `*` begins a comment line, `;` a comment at the end of a line, `+` continues the
line before. `.op` asks for the operating point, `.end` ends the text. Names and keywords do not
distinguish case. Node 0 (or gnd) is ground.

Values have that form's own suffixes, which do not distinguish case either: f p n u m k meg g t,
and letters after the suffix (a unit) are ignored. So 1M is a thousandth here; write 1meg for a million.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from lucidbench.core.devices import BY_LETTER
from lucidbench.core.errors import NetlistError
from lucidbench.core.netlist.circuit import (
    GROUND_NODE,
    MOST_ELEMENTS,
    Circuit,
    Element,
    value_fault,
)

LARGEST_TEXT = 2_000_000  # characters
_SUFFIXES = (
    ("meg", 1e6),
    ("mil", 25.4e-6),
    ("t", 1e12),
    ("g", 1e9),
    ("k", 1e3),
    ("m", 1e-3),
    ("u", 1e-6),
    ("µ", 1e-6),
    ("n", 1e-9),
    ("p", 1e-12),
    ("f", 1e-15),
)
_VALUE = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d{1,3})?)([a-zµΩ]*)", re.IGNORECASE)
_NAME = re.compile(r"[A-Za-z0-9_.+\-/]{1,64}")
_ELEMENT_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,63}")


@dataclass(frozen=True)
class Request:
    """An analysis the text asks for."""

    kind: str
    line: int


@dataclass
class Netlist:
    """What a netlist text says. `lines` gives the line of each element, for messages."""

    circuit: Circuit
    requests: tuple[Request, ...]
    lines: dict[str, int]
    notes: tuple[str, ...] = ()


@dataclass
class _Reader:
    elements: list[Element] = field(default_factory=list)
    lines: dict[str, int] = field(default_factory=dict)
    requests: list[Request] = field(default_factory=list)
    spellings: dict[str, str] = field(default_factory=dict)

    def element(self, number: int, words: list[str]) -> None:
        name = words[0]
        device = BY_LETTER.get(name[0].upper())
        if device is None:
            known = ", ".join(f"{k} ({d.description.label.lower()})" for k, d in BY_LETTER.items())
            raise NetlistError(
                number, f"“{name}” begins with no letter of a known element: {known}"
            )
        if not _ELEMENT_NAME.fullmatch(name):
            raise NetlistError(
                number, f"“{name}” is no element name: letters, digits and _ may stand in one"
            )
        earlier = next((k for k in self.lines if k.lower() == name.lower()), None)
        if earlier:
            raise NetlistError(
                number,
                f"{name} is already defined in line {self.lines[earlier]}; rename one of them",
            )
        if len(words) < 4:
            raise NetlistError(
                number, f"{name} needs two nodes and a value; “{' '.join(words)}” has too few words"
            )
        rest = words[3:]
        if device.letter in "VI" and len(rest) > 1 and rest[0].lower() == "dc":
            rest = rest[1:]
        if len(rest) > 1:
            raise NetlistError(number, f"{name}: “{rest[1]}” after the value is not understood")
        parameter = device.description.parameters[0]
        value = _value(number, name, rest[0])
        fault = value_fault(device.description.kind, parameter.key, value)
        if fault:
            raise NetlistError(number, f"{name}: {fault}, but “{rest[0]}” is given")
        nodes = tuple(self.node(number, name, word) for word in words[1:3])
        if len(self.elements) >= MOST_ELEMENTS:
            raise NetlistError(number, f"more than {MOST_ELEMENTS:,} elements are too many")
        self.elements.append(Element(name, device.description.kind, nodes, {parameter.key: value}))
        self.lines[name] = number

    def node(self, number: int, name: str, word: str) -> str:
        if not _NAME.fullmatch(word):
            raise NetlistError(number, f"{name}: “{word}” is no node name")
        folded = word.lower()
        if folded in (GROUND_NODE, "gnd"):
            return GROUND_NODE
        return self.spellings.setdefault(folded, word)

    def directive(self, number: int, words: list[str]) -> None:
        if words[0].lower() != ".op":
            raise NetlistError(number, f"“{words[0]}” is not understood; .op and .end are")
        if len(words) > 1:
            raise NetlistError(number, f"“{words[1]}” after .op is not understood")
        self.requests.append(Request("operating_point", number))


def read_netlist(text: str) -> Netlist:
    """Read netlist text. Raises NetlistError naming line, element and offending text."""
    if len(text) > LARGEST_TEXT:
        raise NetlistError(1, f"the text is longer than {LARGEST_TEXT:,} characters")
    if not text.strip():
        raise NetlistError(1, "the file is empty; a title line and elements are wanted")
    title, *body = text.removeprefix("\ufeff").splitlines()
    if "\0" in text:
        line = text[: text.index("\0")].count("\n") + 1
        raise NetlistError(line, "this is not text: it holds a zero byte")
    reader = _Reader()
    ended_at = 0
    for number, words in _logical_lines(body):
        if ended_at:
            raise NetlistError(number, f"“{words[0]}” stands after .end in line {ended_at}")
        if words[0].lower() == ".end":
            ended_at = number
        elif words[0].startswith("."):
            reader.directive(number, words)
        else:
            reader.element(number, words)
    if not reader.elements:
        raise NetlistError(
            1, "no element follows the title line; the first line is always taken as the title"
        )
    notes: tuple[str, ...] = ()
    if _looks_like_element(title):
        notes = (f"line 1, “{title.strip()}”, is taken as the title, not as an element",)
    requests = reader.requests or [Request("operating_point", 1)]
    circuit = Circuit(title.strip(), tuple(reader.elements))
    return Netlist(circuit, tuple(requests), reader.lines, notes)


def _logical_lines(body: list[str]) -> list[tuple[int, list[str]]]:
    """(line number, words) of each line that says something, continuations joined."""
    joined: list[tuple[int, list[str]]] = []
    for number, raw in enumerate(body, start=2):
        line = raw.split(";", 1)[0].strip()
        if not line or line.startswith("*"):
            continue
        if line.startswith("+"):
            if not joined:
                raise NetlistError(number, "“+” continues a line, but none stands before it")
            joined[-1][1].extend(_words(line[1:]))
        else:
            joined.append((number, _words(line)))
    return joined


def _words(line: str) -> list[str]:
    return line.replace(",", " ").replace("=", " = ").split()


def _value(number: int, name: str, word: str) -> float:
    match = _VALUE.fullmatch(word)
    if not match:
        raise NetlistError(number, f"{name}: “{word}” is not a value")
    letters = match[2].lower()
    scale = next((factor for suffix, factor in _SUFFIXES if letters.startswith(suffix)), 1.0)
    value = float(match[1]) * scale
    if value in (float("inf"), float("-inf")):
        raise NetlistError(number, f"{name}: “{word}” is too large a number")
    return value


def _looks_like_element(title: str) -> bool:
    words = title.split()
    return (
        len(words) == 4
        and words[0][0].upper() in BY_LETTER
        and bool(_ELEMENT_NAME.fullmatch(words[0]))
        and bool(_VALUE.fullmatch(words[3]))
    )
