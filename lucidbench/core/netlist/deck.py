"""Netlist text as statements: lines joined and split into words, subcircuits taken apart."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from lucidbench.core.errors import NetlistError

LARGEST_TEXT = 4_000_000  # characters
DEEPEST_SUBCIRCUITS = 20
_DECIMAL_COMMA = re.compile(r"[-+]?[\d.]*\d,\d[\w.]*")
RESERVED = ("pi", "time")  # what no parameter may be called


@dataclass(frozen=True)
class Statement:
    """One logical line: the number it begins on, and its words. "{…}" is one word."""

    line: int
    words: tuple[str, ...]


@dataclass
class Block:
    """The statements of the circuit itself or of one subcircuit."""

    name: str = ""
    line: int = 1
    ports: tuple[str, ...] = ()
    defaults: dict[str, str] = field(default_factory=dict)
    statements: list[Statement] = field(default_factory=list)
    models: dict[str, Statement] = field(default_factory=dict)
    parameters: dict[str, str] = field(default_factory=dict)
    parameter_lines: dict[str, int] = field(default_factory=dict)
    blocks: dict[str, Block] = field(default_factory=dict)


def read_deck(text: str) -> tuple[str, Block, list[Statement]]:
    """(title, circuit, directives). Raises NetlistError."""
    if len(text) > LARGEST_TEXT:
        raise NetlistError(1, f"the text is longer than {LARGEST_TEXT:,} characters")
    text = text.removeprefix("\ufeff")
    if not text.strip():
        raise NetlistError(1, "the file is empty; a title line and elements are wanted")
    if "\0" in text:
        line = text[: text.index("\0")].count("\n") + 1
        raise NetlistError(line, "this is not text: it holds a zero byte")
    title, *body = text.splitlines()
    circuit = Block()
    open_blocks = [circuit]
    directives: list[Statement] = []
    statements = iter(_statements(body))
    for statement in statements:
        first = statement.words[0].lower()
        block = open_blocks[-1]
        if first == ".end":
            for late in statements:
                raise NetlistError(
                    late.line, f"“{late.words[0]}” stands after .end in line {statement.line}"
                )
        elif first == ".subckt":
            open_blocks.append(_begun(statement, open_blocks))
        elif first == ".ends":
            if block is circuit:
                raise NetlistError(statement.line, ".ends closes a subcircuit, and none is open")
            open_blocks.pop()
        elif first == ".model":
            _model(block, statement)
        elif first in (".param", ".params"):
            _parameters(block, statement)
        elif not first.startswith("."):
            block.statements.append(statement)
        elif block is not circuit:
            raise NetlistError(
                statement.line, f"“{statement.words[0]}” cannot stand within a subcircuit"
            )
        else:
            directives.append(statement)
    if open_blocks[-1] is not circuit:
        raise NetlistError(
            open_blocks[-1].line, f"the subcircuit {open_blocks[-1].name} is not closed by .ends"
        )
    return title.strip(), circuit, directives


def _begun(statement: Statement, within: list[Block]) -> Block:
    """A subcircuit, entered into the block it is defined in."""
    block = _opened(statement)
    if block.name in within[-1].blocks:
        raise NetlistError(statement.line, f"the subcircuit {block.name} is defined twice")
    if len(within) >= DEEPEST_SUBCIRCUITS:
        raise NetlistError(statement.line, "subcircuits are defined too deep within others")
    within[-1].blocks[block.name] = block
    return block


def _statements(body: list[str]) -> list[Statement]:
    joined: list[tuple[int, list[str]]] = []
    for number, raw in enumerate(body, start=2):
        line = raw.split(";", 1)[0].strip()
        if not line or line.startswith("*"):
            continue
        if line.startswith("+"):
            if not joined:
                raise NetlistError(number, "“+” continues a line, but none stands before it")
            joined[-1][1].append(line[1:])
        else:
            joined.append((number, [line]))
    found = []
    for number, parts in joined:
        line = " ".join(parts)
        words = tuple(_words(number, line))
        if words:
            _refuse_decimal_commas(number, words, line)
            found.append(Statement(number, words))
    return found


def _refuse_decimal_commas(number: int, words: tuple[str, ...], line: str) -> None:
    """Commas part the pairs of a piecewise linear source and what stands in brackets, where blanks part
    nothing else; a tight one anywhere else is meant for a decimal point."""
    if any(word.lower() == "pwl" for word in words):
        return
    bare = re.sub(r"\{[^{}]*\}|'[^']*'", " ", line)
    places = [re.sub(r"\([^()]*\)", " ", bare)]
    for inside in re.findall(r"\(([^()]*)\)", bare):
        if "=" in inside or re.search(r"[^\s,]\s+[^\s,]", inside):
            places.append(inside)
    for place in places:
        tight = _DECIMAL_COMMA.search(place)
        if tight:
            raise NetlistError(
                number, f"{words[0]}: “{tight[0]}” has a comma where a decimal point is wanted"
            )


def _words(number: int, line: str) -> list[str]:
    """Words between blanks and commas; brackets and = stand alone, {…} and '…' are one word."""
    words: list[str] = []
    word = ""
    at = 0
    while at < len(line):
        letter = line[at]
        if letter in "{'":
            end = _closing(number, line, at)
            words += [word] if word else []
            words.append("{" + line[at + 1 : end] + "}")
            word, at = "", end
        elif letter in " \t,=()":
            words += [word] if word else []
            words += [letter] if letter in "=()" else []
            word = ""
        else:
            word += letter
        at += 1
    return [*words, word] if word else words


def _closing(number: int, line: str, at: int) -> int:
    if line[at] == "'":
        end = line.find("'", at + 1)
    else:
        depth, end = 0, -1
        for k in range(at, len(line)):
            depth += {"{": 1, "}": -1}.get(line[k], 0)
            if depth == 0:
                end = k
                break
    if end < 0:
        closing = "}" if line[at] == "{" else "'"
        raise NetlistError(number, f"“{line[at:][:40]}” is not closed by {closing}")
    return end


def keyed(number: int, words: tuple[str, ...] | list[str]) -> dict[str, str]:
    """`a = 1 b = 2` as {"a": "1", "b": "2"}, names in lower case. Raises NetlistError."""
    found: dict[str, str] = {}
    k = 0
    while k < len(words):
        if k + 2 >= len(words) or words[k + 1] != "=" or words[k + 2] in "=()":
            raise NetlistError(
                number, f"“{' '.join(words[k : k + 3])}” is not of the form name=value"
            )
        name = words[k].lower()
        if name in found:
            raise NetlistError(number, f"{words[k]} is given twice")
        found[name] = words[k + 2]
        k += 3
    return found


def _opened(statement: Statement) -> Block:
    words = [w for w in statement.words[1:] if w not in "()"]
    if not words:
        raise NetlistError(statement.line, ".subckt needs a name and its ports")
    name, *rest = words
    first_key = next((k for k, w in enumerate(rest) if w == "="), None)
    plain = len(rest) if first_key is None else first_key - 1
    ports = [w for w in rest[:plain] if w.lower() not in ("params:", "param:")]
    lowered = [p.lower() for p in ports]
    if len(set(lowered)) != len(ports):
        raise NetlistError(statement.line, f"the subcircuit {name} names a port twice")
    defaults = keyed(statement.line, rest[plain:])
    return Block(name.lower(), statement.line, tuple(lowered), defaults)


def _model(block: Block, statement: Statement) -> None:
    if len(statement.words) < 3:
        raise NetlistError(
            statement.line, ".model needs a name and a type, as in .model mine NPN(BF=100)"
        )
    name = statement.words[1].lower()
    if name in block.models:
        line = block.models[name].line
        raise NetlistError(
            statement.line, f"the model {statement.words[1]} is already defined in line {line}"
        )
    block.models[name] = statement


def _parameters(block: Block, statement: Statement) -> None:
    for name, text in keyed(statement.line, statement.words[1:]).items():
        if not (name[0].isalpha() or name[0] == "_"):
            raise NetlistError(statement.line, f"“{name}” cannot be a parameter's name")
        if name in RESERVED:
            raise NetlistError(
                statement.line, f"{name} has its own meaning here; give the parameter another name"
            )
        if name in block.parameters:
            line = block.parameter_lines[name]
            raise NetlistError(
                statement.line, f"the parameter {name} is already set in line {line}"
            )
        block.parameters[name] = text
        block.parameter_lines[name] = statement.line
