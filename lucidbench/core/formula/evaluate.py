"""Working out a formula: values and dimensions together, so that volts never meet amperes unseen."""

from __future__ import annotations

import cmath
import difflib
import math
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula.functions import FUNCTIONS, Scalar
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
from lucidbench.core.units.dimensions import NUMBER, UNITS, Dimension

_LARGEST_EXPONENT = 100


@dataclass(frozen=True)
class Known:
    """What a name stands for. `simulated` marks a figure that comes from a simulation."""

    value: Scalar
    dimension: Dimension
    simulated: bool = False


CONSTANTS: dict[str, Known] = {
    "pi": Known(math.pi, NUMBER),
    "π": Known(math.pi, NUMBER),
    "j": Known(1j, NUMBER),
}


def evaluate(formula: Formula, names: Mapping[str, Known]) -> Known:
    """The value of the formula's body, with its dimension.

    Raises FormulaError pointing at the name or operator that cannot be worked out.
    """
    result = _node(formula.body, names)
    if not _finite(result.value):
        raise FormulaError("the result is too large a number", formula.body.at)
    return result


def names_in(node: Node) -> set[str]:
    """Every name a formula uses."""
    match node:
        case Name():
            return {node.name}
        case Negation():
            return names_in(node.operand)
        case Operation():
            return names_in(node.left) | names_in(node.right)
        case Call():
            return names_in(node.argument)
        case Number():
            return set()


def _node(node: Node, names: Mapping[str, Known]) -> Known:
    match node:
        case Number():
            return Known(node.value, node.dimension)
        case Name():
            return _lookup(node, names)
        case Negation():
            operand = _node(node.operand, names)
            return Known(-operand.value, operand.dimension, operand.simulated)
        case Call():
            return _call(node, _node(node.argument, names))
        case Operation():
            return _operation(node, _node(node.left, names), _node(node.right, names))


def _lookup(node: Name, names: Mapping[str, Known]) -> Known:
    known = names.get(node.name) or CONSTANTS.get(node.name)
    if known:
        return known
    near = difflib.get_close_matches(node.name, names, n=1, cutoff=0.5)
    hint = f"; did you mean {near[0]}?" if near else ""
    if node.name in UNITS:
        hint = "; a unit follows its number, as in 5 V"
    raise FormulaError(f"nothing is called “{node.name}” here{hint}", node.at, len(node.name))


def _call(node: Call, argument: Known) -> Known:
    function = FUNCTIONS[node.function]
    if function.dimension is None:
        if argument.dimension != NUMBER:
            raise FormulaError(
                f"{node.function} takes a plain number, and this is {argument.dimension.quantity}",
                node.argument.at,
                node.argument.end - node.argument.at,
            )
        dimension = NUMBER
    else:
        dimension = function.dimension(argument.dimension)
    try:
        return Known(function.compute(argument.value), dimension, argument.simulated)
    except ValueError as error:
        raise FormulaError(str(error), node.at, node.end - node.at) from error
    except OverflowError as error:
        raise FormulaError("the result is too large a number", node.at) from error


def _operation(node: Operation, left: Known, right: Known) -> Known:
    simulated = left.simulated or right.simulated
    if node.operator in ("+", "-", PARALLEL):
        if left.dimension != right.dimension:
            raise FormulaError(_mixed(node, left, right), node.operator_at)
        if node.operator == PARALLEL:
            total = left.value + right.value
            if total == 0:
                raise FormulaError("here is a division by zero", node.operator_at)
            return Known(left.value * right.value / total, left.dimension, simulated)
        sign = 1 if node.operator == "+" else -1
        return Known(left.value + sign * right.value, left.dimension, simulated)
    if node.operator == "*":
        return Known(left.value * right.value, left.dimension * right.dimension, simulated)
    if node.operator == "/":
        if right.value == 0:
            raise FormulaError("here is a division by zero", node.operator_at)
        return Known(left.value / right.value, left.dimension / right.dimension, simulated)
    if node.operator == "∠":
        turn = cmath.rect(1, complex(right.value).real)
        return Known(left.value * turn, left.dimension, simulated)
    return Known(*_power(node, left, right), simulated)


def _power(node: Operation, base: Known, exponent: Known) -> tuple[Scalar, Dimension]:
    if exponent.dimension != NUMBER or isinstance(exponent.value, complex):
        raise FormulaError("an exponent is a plain number", node.right.at)
    if base.dimension != NUMBER and abs(exponent.value) > _LARGEST_EXPONENT:
        raise FormulaError("the exponent is too large", node.right.at)
    if base.value == 0 and exponent.value < 0:
        raise FormulaError("here is a division by zero", node.operator_at)
    if not isinstance(base.value, complex) and base.value < 0 and exponent.value % 1:
        raise FormulaError("a root of a negative number is not real", node.operator_at)
    try:
        value = base.value**exponent.value
    except OverflowError as error:
        raise FormulaError("the result is too large a number", node.operator_at) from error
    if base.dimension == NUMBER:
        return value, NUMBER
    return value, base.dimension ** Fraction(exponent.value).limit_denominator(12)


def _mixed(node: Operation, left: Known, right: Known) -> str:
    verbs = {"+": "added to", "-": "subtracted from", PARALLEL: "in parallel with"}
    verb = verbs[node.operator]
    first, second = (right, left) if node.operator == "-" else (left, right)
    sentence = f"{first.dimension.quantity} cannot be {verb} {second.dimension.quantity}"
    for side, known, other in ((node.left, left, right), (node.right, right, left)):
        if isinstance(side, Number) and known.dimension == NUMBER:
            return f"{sentence}; write the unit, {side.text} {other.dimension.unit}"
    return sentence


def _finite(value: Scalar) -> bool:
    number = complex(value)
    return math.isfinite(number.real) and math.isfinite(number.imag)
