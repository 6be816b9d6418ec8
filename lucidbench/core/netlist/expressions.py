"""Expressions of netlist text: `{2*R1 + 1k}`, `{V(a,b)*I(V1)}`; parsed, never executed as code.

Numbers take the trade's case-insensitive suffixes (m milli, meg mega). Names are told apart without
regard to case. An expression of numbers and parameters has a value; one of circuit quantities
becomes a program that the expression law runs.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from decimal import Decimal

from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.formula.parser import Dialect, parse_sum
from lucidbench.core.formula.tree import Call, Name, Negation, Node, Number, Operation
from lucidbench.core.units.dimensions import NUMBER as NO_DIMENSION

LONGEST = 2_000  # characters
DEEPEST = 20  # brackets within brackets; the law's stack holds a few more
MOST_CONTROLS = 8
SUFFIXES = (
    ("meg", "1e6"),
    ("mil", "25.4e-6"),
    ("t", "1e12"),
    ("g", "1e9"),
    ("k", "1e3"),
    ("m", "1e-3"),
    ("u", "1e-6"),
    ("µ", "1e-6"),
    ("μ", "1e-6"),
    ("n", "1e-9"),
    ("p", "1e-12"),
    ("f", "1e-15"),
)
# Of which one is written, by the power of ten it stands for.
_WRITTEN = {12: "T", 9: "G", 6: "Meg", 3: "k", 0: "", -3: "m", -6: "u", -9: "n", -12: "p", -15: "f"}
NUMBER = re.compile(r"(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d{1,3})?", re.IGNORECASE)
VALUE = re.compile(rf"([+-]?{NUMBER.pattern})([a-zµμΩ]*)", re.IGNORECASE)
_TOKEN = re.compile(
    rf"""\s*(?:(?P<number>{NUMBER.pattern}[a-zµμΩ]*)|(?P<sensed>[vi]\s*\([^()]*\))
    |(?P<name>[a-z_][\w.]*)|(?P<symbol>\*\*|[-+*/^(),]))""",
    re.IGNORECASE | re.VERBOSE,
)


class ExpressionError(LucidError):
    """An expression was not understood or cannot be worked out."""


@dataclass(frozen=True)
class Op:
    """One step of a program in postfix order."""

    code: str  # "constant", "name", "voltage", "current", "time", an operator or a function
    value: float = 0.0
    names: tuple[str, ...] = ()


# Operator or function: number of operands, and what it does with plain numbers.
_COMPUTE: dict[str, tuple[int, Callable[..., float]]] = {
    "+": (2, lambda a, b: a + b),
    "-": (2, lambda a, b: a - b),
    "*": (2, lambda a, b: a * b),
    "/": (2, lambda a, b: a / b),
    "^": (2, lambda a, b: a**b),
    "negate": (1, lambda a: -a),
    "abs": (1, abs),
    "sqrt": (1, math.sqrt),
    "exp": (1, math.exp),
    "ln": (1, math.log),
    "log10": (1, math.log10),
    "sin": (1, math.sin),
    "cos": (1, math.cos),
    "tan": (1, math.tan),
    "atan": (1, math.atan),
    "tanh": (1, math.tanh),
    "min": (2, min),
    "max": (2, max),
}
_SAME = {"pow": "^", "pwr": "^", "arctan": "atan"}
_OPERATORS = ("+", "-", "*", "/", "^", "negate")
_LEAVES = ("constant", "control", "time")
# The expression law's numbers (devices/laws/expression.py).
_CODES = {code: number for number, code in enumerate((*_LEAVES, *_COMPUTE))}


def scaled(number: str, letters: str) -> float:
    """A number with its suffix; letters beyond the suffix name a unit and say nothing.

    Raises ExpressionError for an e that no exponent follows.
    """
    lowered = letters.lower()
    if lowered == "e":
        raise ExpressionError(f"“{number}{letters}” lacks the digits of its exponent")
    factor = next((f for s, f in SUFFIXES if lowered.startswith(s)), "")
    # By decimals: 10u is the same number as 1e-05.
    return float(Decimal(number) * Decimal(factor)) if factor else float(number)


def spelled(value: float) -> str:
    """A number as `scaled` reads it again to the last digit, with a suffix where one is usual: "10u"."""
    exact = Decimal(repr(value))
    power = 3 * math.floor(exact.adjusted() / 3) if exact else 0
    if not exact.is_finite() or power not in _WRITTEN:
        return repr(value)
    return f"{exact.scaleb(-power).normalize():f}{_WRITTEN[power]}"


def parse_expression(text: str) -> list[Op]:
    """`text` in postfix order. Raises ExpressionError."""
    try:
        return list(_ops(parse_sum(text, NETLIST)))
    except FormulaError as error:
        shown = text.strip()
        raise ExpressionError(
            f"{error}, in “{shown}”" if len(shown) < 80 else str(error)
        ) from error


def _ops(node: Node) -> Iterator[Op]:
    match node:
        case Number():
            yield Op("constant", complex(node.value).real)
        case Name():
            yield _named(node)
        case Negation():
            yield from _ops(node.operand)
            yield Op("negate")
        case Operation():
            yield from _ops(node.left)
            yield from _ops(node.right)
            yield Op(node.operator)
        case Call():
            for argument in node.arguments:
                yield from _ops(argument)
            yield Op(_code(node.function))


def _named(node: Name) -> Op:
    """A parameter, a constant, time, or V(node), V(node, node), I(element)."""
    name = node.name.lower()
    if not name.endswith(")"):
        known = {"pi": Op("constant", math.pi), "time": Op("time")}
        return known.get(name) or Op("name", names=(name,))
    letter, _, inside = node.name[:-1].partition("(")
    is_voltage = letter.strip().lower() == "v"
    names = tuple(map(str.strip, inside.split(",")))
    if not all(names) or len(names) > (2 if is_voltage else 1):
        raise FormulaError(f"“{node.name}” names no quantity", node.at, len(node.name))
    return Op("voltage" if is_voltage else "current", names=names)


def _code(function: str) -> str:
    name = function.lower()
    return _SAME.get(name, name)


def _arity(name: str) -> int:
    lowered = name.lower()
    if lowered == "log":
        raise FormulaError("log is read in two ways; write ln(…) or log10(…)", 0)
    code = _code(name)
    known = code in _COMPUTE and (lowered in _SAME or code not in _OPERATORS)
    return _COMPUTE[code][0] if known else 0


def _number(text: str, at: int) -> Number:
    match = VALUE.fullmatch(text)
    assert match is not None
    value = scaled(match[1], match[2])
    if not math.isfinite(value):
        raise FormulaError(f"“{text}” is too large a number", at, len(text))
    return Number(value, NO_DIMENSION, text, at, at + len(text))


def evaluate_expression(ops: list[Op], lookup: Callable[[str], float]) -> float:
    """The value of an expression of numbers and names. Raises ExpressionError."""
    stack: list[float] = []
    for op in ops:
        if op.code == "constant":
            stack.append(op.value)
        elif op.code == "name":
            stack.append(lookup(op.names[0]))
        elif op.code in ("voltage", "current", "time"):
            raise ExpressionError("a value cannot depend on voltages, currents or time")
        else:
            count, compute = _COMPUTE[op.code]
            operands = [stack.pop() for _ in range(count)][::-1]
            try:
                result = compute(*operands)
            except ZeroDivisionError:
                raise ExpressionError("here is a division by zero") from None
            except (ValueError, OverflowError):
                shown = ", ".join(f"{o:g}" for o in operands)
                raise ExpressionError(f"{op.code} of {shown} has no real value") from None
            if isinstance(result, complex) or not math.isfinite(result):
                raise ExpressionError("the result is no finite real number")
            stack.append(result)
    return float(stack[0])


def compile_expression(
    ops: list[Op], lookup: Callable[[str], float]
) -> tuple[list[str], list[str], tuple[float, ...]]:
    """(sensed nodes, sensed elements, program) of an expression of circuit quantities.

    The program begins with how many of each it senses. Raises ExpressionError.
    """
    nodes = list(
        dict.fromkeys(n for op in ops if op.code == "voltage" for n in op.names if n != "0")
    )
    currents = list(dict.fromkeys(op.names[0] for op in ops if op.code == "current"))
    if len(nodes) + len(currents) > MOST_CONTROLS:
        raise ExpressionError(f"a formula may use at most {MOST_CONTROLS} voltages and currents")
    program: list[float] = [len(nodes), len(currents)]

    def node(name: str) -> list[float]:
        if name == "0":
            return [_CODES["constant"], 0.0]
        return [_CODES["control"], nodes.index(name)]

    for op in ops:
        if op.code == "constant":
            program += [_CODES["constant"], op.value]
        elif op.code == "name":
            program += [_CODES["constant"], lookup(op.names[0])]
        elif op.code == "voltage":
            program += node(op.names[0])
            if len(op.names) > 1:
                program += [*node(op.names[1]), _CODES["-"]]
        elif op.code == "current":
            program += [_CODES["control"], len(nodes) + currents.index(op.names[0])]
        else:
            program.append(_CODES[op.code])
    return nodes, currents, tuple(float(p) for p in program)


def resolver(
    texts: Mapping[str, str], outer: Callable[[str], float], fixed: Mapping[str, float]
) -> Callable[[str], float]:
    """Values of parameters given as expressions of each other, in any order.

    `texts` by lower-case name; `fixed` ones have their value already, and what is in neither is asked
    of `outer`. Circles are told.
    """
    known = dict(fixed)
    pending: list[str] = []

    def lookup(name: str) -> float:
        if name in known:
            return known[name]
        if name not in texts:
            return outer(name)
        if name in pending:
            circle = " → ".join([*pending[pending.index(name) :], name])
            raise ExpressionError(f"the parameters depend on each other in a circle: {circle}")
        pending.append(name)
        try:
            known[name] = evaluate_expression(parse_expression(texts[name]), lookup)
        finally:
            pending.pop()
        return known[name]

    return lookup


def write_program(program: tuple[float, ...], sensed: list[str]) -> str:
    """A program as text again; `sensed` names its controls in order."""
    names = {number: code for code, number in _CODES.items()}
    stack: list[str] = []
    k = 2
    while k < len(program):
        code = names[int(program[k])]
        k += 1
        if code == "constant":
            stack.append(repr(program[k]) if program[k] >= 0 else f"({program[k]!r})")
            k += 1
        elif code == "control":
            stack.append(sensed[int(program[k])])
            k += 1
        elif code == "time":
            stack.append("time")
        else:
            count = _COMPUTE[code][0]
            operands = [stack.pop() for _ in range(count)][::-1]
            if code in "+-*/^":
                stack.append(f"({operands[0]}{code}{operands[1]})")
            elif code == "negate":
                stack.append(f"(-{operands[0]})")
            else:
                stack.append(f"{code}({','.join(operands)})")
    return stack[0]


NETLIST = Dialect(
    _TOKEN,
    _number,
    _arity,
    ", ".join(name for name in (*_COMPUTE, *_SAME) if name not in _OPERATORS),
    LONGEST,
    DEEPEST,
)
