"""Textbook expressions to trees: recursive descent over a few token kinds. Nothing is evaluated here.

    line    = [ name "=" ] sum
    sum     = product { ("+" | "-") product }
    product = signed { ("*" | "/") signed }
    signed  = [ "-" | "+" ] power
    power   = atom [ "^" signed ]
    atom    = number [ unit ] | name | function "(" sum ")" | "(" sum ")"

A number may carry a unit, close up or after a space: `0.7 V`, `10 mA`, `4k7`, `4.7 kΩ`. A name goes on
behind a dot for a pin, or for what is within a block: `I_Q1.C`, `V_X1.mid`.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from lucidbench.core.errors import FormulaError, ValueTextError
from lucidbench.core.formula.functions import FUNCTIONS
from lucidbench.core.formula.tree import Call, Formula, Name, Negation, Node, Number, Operation
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
          \d+[{_PREFIXES}RΩ]\d+(?:{_UNIT})?(?![A-Za-z0-9_])
        | (?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?
          (?:\s?[{_PREFIXES}]?(?:{_UNIT})(?![A-Za-z0-9_]) | [{_PREFIXES}](?![A-Za-z0-9_]))?
      )
    | (?P<name>[A-Za-zα-ωΑ-Ω][A-Za-z0-9α-ωΑ-Ω]*(?:_[A-Za-z0-9_]+(?:\.[A-Za-z0-9_]+)*)?)
    | (?P<symbol>[-+*/^()=]|·|×|−|÷)
    )""",
    re.VERBOSE,
)
_PLAIN_SYMBOL = {"·": "*", "×": "*", "−": "-", "÷": "/"}


@dataclass(frozen=True)
class _Token:
    kind: str  # number, name, symbol, end
    text: str
    at: int

    @property
    def end(self) -> int:
        return self.at + len(self.text)


def parse(text: str) -> Formula:
    """Parse one line. Raises FormulaError pointing at the character."""
    if len(text) > LONGEST_FORMULA:
        raise FormulaError(f"a formula has at most {LONGEST_FORMULA} characters", LONGEST_FORMULA)
    return _Parser(text).line()


def _tokens(text: str) -> list[_Token]:
    tokens: list[_Token] = []
    position = 0
    while text[position:].strip():
        match = _TOKEN.match(text, position)
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
    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens = _tokens(text)
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
        body = self.sum()
        if self.here.kind != "end":
            raise self._misplaced(self.here)
        return Formula(target, body, self.text)

    def sum(self) -> Node:
        self.depth += 1
        if self.depth > DEEPEST_NESTING:
            raise FormulaError("the formula is nested too deeply", self.here.at)
        left = self.product()
        while self.here.text in ("+", "-"):
            operator = self.take()
            left = _operation(operator, left, self.product())
        self.depth -= 1
        return left

    def product(self) -> Node:
        left = self.signed()
        while self.here.text in ("*", "/"):
            operator = self.take()
            left = _operation(operator, left, self.signed())
        return left

    def signed(self) -> Node:
        if self.here.text in ("+", "-") and self.here.kind == "symbol":
            sign = self.take()
            self.depth += 1
            if self.depth > DEEPEST_NESTING:
                raise FormulaError("the formula is nested too deeply", sign.at)
            operand = self.signed()
            self.depth -= 1
            return operand if sign.text == "+" else Negation(operand, sign.at, operand.end)
        return self.power()

    def power(self) -> Node:
        base = self.atom()
        if self.here.text == "^":
            operator = self.take()
            return _operation(operator, base, self.signed())
        return base

    def atom(self) -> Node:
        token = self.take()
        if token.kind == "number":
            return _number(token)
        if token.kind == "name":
            if token.text in FUNCTIONS:
                return self._call(token)
            if self.here.text == "(":
                known = ", ".join(FUNCTIONS)
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
        if token.kind == "end":
            raise FormulaError("something is missing at the end", max(token.at - 1, 0))
        raise FormulaError(f"a number or a name should stand before “{token.text}”", token.at)

    def _call(self, function: _Token) -> Node:
        opening = self.here
        if opening.text != "(":
            raise FormulaError(
                f"{function.text} takes its argument in parentheses",
                function.at,
                len(function.text),
            )
        self.take()
        argument = self.sum()
        return Call(function.text, argument, function.at, self._close(opening).end)

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


def _number(token: _Token) -> Number:
    unit, dimension = "", NUMBER
    for spelling in sorted(UNIT_SPELLINGS, key=len, reverse=True):
        if token.text.endswith(spelling):
            unit = UNIT_SPELLINGS[spelling]
            dimension = UNITS[unit]
            break
    try:
        value = parse_value(token.text, unit)
    except ValueTextError as error:
        raise FormulaError(str(error), token.at + error.at) from error
    return Number(value.number, dimension, token.text, token.at, token.end)
