"""Textbook expressions to trees: recursive descent over a few token kinds. Nothing is evaluated here.

    line    = [ name "=" ] sum
    sides   = sum "=" sum
    sum     = product { ("+" | "-") product }
    product = shunt { ("*" | "/") shunt }
    shunt   = signed { "||" signed }
    signed  = [ "-" | "+" ] phasor
    phasor  = power [ "∠" [ "-" | "+" ] number ]
    power   = atom [ "^" signed ]
    atom    = number [ unit ] | name | function "(" sum { "," sum } ")" | "(" sum ")" | "√" atom

A number may carry a unit, close up or after a space: `0.7 V`, `10 mA`, `4k7`, `4.7 kΩ`; it may be
imaginary, `j4`, `4j`, or an angle, `30°`, `30 deg`. Behind ∠, or <, a plain number is in degrees.
`R1 || R2` is what two in parallel come to, and binds closer than a product. A name goes on behind a dot for
a pin, or for what is within a block: `I_Q1.C`, `V_X1.mid`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace

from lucidbench.core.errors import FormulaError, ValueTextError
from lucidbench.core.formula.functions import FUNCTIONS
from lucidbench.core.formula.tree import (
    PARALLEL,
    Call,
    Formula,
    Name,
    Negation,
    Node,
    Number,
    Operation,
)
from lucidbench.core.units.dimensions import NUMBER, UNIT_SPELLINGS, UNITS
from lucidbench.core.units.prefixes import SPELLINGS
from lucidbench.core.units.values import parse_value

LONGEST_FORMULA = 500  # characters
DEEPEST_NESTING = 40

_PREFIXES = "".join(p for p in SPELLINGS)
_UNIT = "|".join(sorted(UNIT_SPELLINGS, key=len, reverse=True))
_TOKEN = re.compile(
    rf"""\s*(?:
      (?P<number>
          (?:\d+\.?\d*|\.\d+)\s?(?:°|deg(?:rees?)?(?![A-Za-z0-9_]))
        | j?\d+[{_PREFIXES}RΩ]\d+(?:{_UNIT})?(?![A-Za-z0-9_])
        | (?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?j(?![A-Za-z0-9_])
        | j?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?
          (?:\s?[{_PREFIXES}]?(?:{_UNIT})(?![A-Za-z0-9_]) | [{_PREFIXES}](?![A-Za-z0-9_]))?
      )
    | (?P<name>[A-Za-zα-ωΑ-Ω][A-Za-z0-9α-ωΑ-Ω]*(?:_[A-Za-z0-9_]+(?:\.[A-Za-z0-9_]+)*)?)
    | (?P<symbol>[-+*/^()=∠<∥√]|\|\||·|×|−|÷)
    )""",
    re.VERBOSE,
)
_ANGLE = re.compile(r"([\d.]+)\s?(?:°|deg(?:rees?)?)")
_PLAIN_SYMBOL = {"·": "*", "×": "*", "−": "-", "÷": "/", "**": "^", "||": PARALLEL, "<": "∠"}


@dataclass(frozen=True)
class _Token:
    kind: str  # number, name, symbol, end
    text: str
    at: int

    @property
    def end(self) -> int:
        return self.at + len(self.text)


@dataclass(frozen=True)
class Dialect:
    """What tells one language of formulas from another; the grammar is the same.

    `token` has groups number, name and symbol, and may have `sensed`, for a name such as V(node). `arity`
    gives how many arguments the function of a name takes, 0 for one that is none; it may raise.
    """

    token: re.Pattern[str]
    number: Callable[[str, int], Number]
    arity: Callable[[str], int]
    functions: str  # those there are, for a message
    longest: int = LONGEST_FORMULA  # characters
    deepest: int = DEEPEST_NESTING


def parse(text: str) -> Formula:
    """Parse one line. Raises FormulaError pointing at the character."""
    return _Parser(text, TEXTBOOK).line()


def sides_of(text: str) -> tuple[Formula, Formula]:
    """The two sides of an equation. Raises FormulaError where there is no one =."""
    return _Parser(text, TEXTBOOK).sides()


def parse_sum(text: str, dialect: Dialect) -> Node:
    """Parse an expression of another language. Raises FormulaError pointing at the character."""
    return _Parser(text, dialect).whole()


def _tokens(text: str, dialect: Dialect) -> list[_Token]:
    tokens: list[_Token] = []
    position = 0
    while text[position:].strip():
        match = dialect.token.match(text, position)
        if not match or not match.lastgroup:
            at = position + len(text[position:]) - len(text[position:].lstrip())
            raise FormulaError(f"“{text[at]}” has no meaning in a formula", at)
        found = match[match.lastgroup]
        tokens.append(
            _Token(match.lastgroup, _PLAIN_SYMBOL.get(found, found), match.start(match.lastgroup))
        )
        position = match.end()
    tokens.append(_Token("end", "", len(text.rstrip())))
    return tokens


class _Parser:
    def __init__(self, text: str, dialect: Dialect) -> None:
        if len(text) > dialect.longest:
            most = f"a formula has at most {dialect.longest:,} characters"
            raise FormulaError(most, dialect.longest)
        self.text = text
        self.dialect = dialect
        self.tokens = _tokens(text, dialect)
        self.index = 0
        self.depth = 0

    @property
    def here(self) -> _Token:
        return self.tokens[self.index]

    def take(self) -> _Token:
        token = self.here
        self.index += 1
        return token

    def line(self) -> Formula:
        target = None
        if self.here.kind == "end":
            raise FormulaError("a formula is missing", 0)
        if len(self.tokens) > 1 and self.tokens[1].text == "=":
            if self.here.kind != "name":
                raise FormulaError("left of = stands the name of what is worked out", self.here.at)
            target = self.take().text
            self.take()
        return Formula(target, self.whole(), self.text)

    def sides(self) -> tuple[Formula, Formula]:
        left = self.sum()
        if self.here.text != "=":
            raise FormulaError("an equation has an = between its sides", self.here.at)
        self.take()
        return Formula(None, left, self.text), Formula(None, self.whole(), self.text)

    def whole(self) -> Node:
        body = self.sum()
        if self.here.kind != "end":
            raise self._misplaced(self.here)
        return body

    def _deeper(self, at: int) -> None:
        self.depth += 1
        if self.depth > self.dialect.deepest:
            raise FormulaError("the formula is nested too deeply", at)

    def sum(self) -> Node:
        self._deeper(self.here.at)
        left = self.product()
        while self.here.text in ("+", "-"):
            operator = self.take()
            left = _operation(operator, left, self.product())
        self.depth -= 1
        return left

    def product(self) -> Node:
        left = self.shunt()
        while self.here.text in ("*", "/"):
            operator = self.take()
            left = _operation(operator, left, self.shunt())
        return left

    def shunt(self) -> Node:
        left = self.signed()
        while self.here.text == PARALLEL:
            operator = self.take()
            left = _operation(operator, left, self.signed())
        return left

    def signed(self) -> Node:
        if self.here.text in ("+", "-") and self.here.kind == "symbol":
            sign = self.take()
            self._deeper(sign.at)
            operand = self.signed()
            self.depth -= 1
            return operand if sign.text == "+" else Negation(operand, sign.at, operand.end)
        return self.phasor()

    def phasor(self) -> Node:
        magnitude = self.power()
        if self.here.text != "∠":
            return magnitude
        operator = self.take()
        sign = self.take() if self.here.text in ("+", "-") else None
        angle = self.power()
        if (
            not isinstance(angle, Number)
            or angle.dimension != NUMBER
            or isinstance(angle.value, complex)
        ):
            wanted = "after ∠ stands an angle in degrees, as in 10 A ∠ 30°"
            raise FormulaError(wanted, operator.at)
        if not angle.in_degrees:
            angle = replace(angle, value=math.radians(angle.value), in_degrees=True)
        turned: Node = angle
        if sign and sign.text == "-":
            turned = Negation(angle, sign.at, angle.end)
        return _operation(operator, magnitude, turned)

    def power(self) -> Node:
        base = self.atom()
        if self.here.text == "^":
            operator = self.take()
            self._deeper(operator.at)
            raised = _operation(operator, base, self.signed())
            self.depth -= 1
            return raised
        return base

    def atom(self) -> Node:
        token = self.take()
        if token.kind == "number":
            return self.dialect.number(token.text, token.at)
        if token.kind == "sensed":
            return Name(token.text, token.at, token.end)
        if token.kind == "name":
            arity = self.dialect.arity(token.text)
            if arity:
                return self._call(token, arity)
            if self.here.text == "(":
                known = self.dialect.functions
                raise FormulaError(
                    f"“{token.text}” is no function; there are {known}. For a product write *",
                    token.at,
                    len(token.text),
                )
            return Name(token.text, token.at, token.end)
        if token.text == "(":
            inner = self.sum()
            self._close(token)
            return inner
        if token.text == "√":
            under = self.atom()
            return Call("sqrt", (under,), token.at, under.end)
        if token.kind == "end":
            raise FormulaError("something is missing at the end", max(token.at - 1, 0))
        raise FormulaError(f"a number or a name should stand before “{token.text}”", token.at)

    def _call(self, function: _Token, arity: int) -> Node:
        opening = self.here
        if opening.text != "(":
            takes = "its argument" if arity == 1 else f"its {arity} arguments"
            raise FormulaError(
                f"{function.text} takes {takes} in parentheses", function.at, len(function.text)
            )
        self.take()
        arguments = [self.sum()]
        while len(arguments) < arity:
            if self.here.text != ",":
                raise FormulaError(
                    f"{function.text} takes {arity} arguments, with a comma between", self.here.at
                )
            self.take()
            arguments.append(self.sum())
        end = self._close(opening).end
        return Call(function.text, tuple(arguments), function.at, end)

    def _close(self, opening: _Token) -> _Token:
        if self.here.text != ")":
            if self.here.kind == "end":
                raise FormulaError("this parenthesis is not closed", opening.at)
            raise self._misplaced(self.here)
        return self.take()

    def _misplaced(self, token: _Token) -> FormulaError:
        if token.text == ")":
            return FormulaError("this parenthesis closes none", token.at)
        if token.text == "=":
            return FormulaError("only one = may stand in a line", token.at)
        return FormulaError(
            f"an operator is missing before “{token.text}”; a product is written with *",
            token.at,
            len(token.text),
        )


def _operation(operator: _Token, left: Node, right: Node) -> Operation:
    return Operation(operator.text, left, right, operator.at, left.at, right.end)


def _number(text: str, at: int) -> Number:
    angle = _ANGLE.fullmatch(text)
    if angle:
        radians = math.radians(float(angle[1]))
        return Number(radians, NUMBER, text, at, at + len(text), in_degrees=True)
    whole, is_imaginary = text, "j" in text
    text = text.strip("j")
    unit, dimension = "", NUMBER
    for spelling in sorted(UNIT_SPELLINGS, key=len, reverse=True):
        if text.endswith(spelling):
            unit = UNIT_SPELLINGS[spelling]
            dimension = UNITS[unit]
            break
    try:
        value = parse_value(text, unit)
    except ValueTextError as error:
        raise FormulaError(str(error), at + error.at) from error
    number = 1j * value.number if is_imaginary else value.number
    return Number(number, dimension, whole, at, at + len(whole))


TEXTBOOK = Dialect(_TOKEN, _number, lambda name: int(name in FUNCTIONS), ", ".join(FUNCTIONS))
