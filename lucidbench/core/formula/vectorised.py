"""A formula worked out for many points at once: the same rules, with arrays for numbers."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import tree
from lucidbench.core.formula.evaluate import CONSTANTS, Known, evaluate
from lucidbench.core.formula.functions import FUNCTIONS
from lucidbench.core.formula.tree import Call, Formula, Name, Negation, Node, Number, Operation
from lucidbench.core.units.dimensions import Dimension

Values = npt.NDArray[Any]


def dimension_of(formula: Formula, names: Mapping[str, Known]) -> Dimension:
    """What the formula gives, whatever the numbers are. Raises FormulaError as `evaluate` does."""
    ones = {name: Known(1.5, known.dimension) for name, known in names.items()}
    return evaluate(formula, ones).dimension


def evaluate_over(formula: Formula, names: Mapping[str, Values | complex]) -> Values:
    """The formula's body over arrays of like shape. Where a point has no value, it is NaN."""
    with np.errstate(all="ignore"):
        return np.asarray(_node(formula.body, names))


def _node(node: Node, names: Mapping[str, Values | complex]) -> Any:
    match node:
        case Number():
            return node.value
        case Name():
            if node.name in names:
                return names[node.name]
            if node.name in CONSTANTS:
                return CONSTANTS[node.name].value
            raise FormulaError(f"nothing is called “{node.name}” here", node.at, len(node.name))
        case Negation():
            return -_node(node.operand, names)
        case Call():
            return _call(node.function, _node(node.argument, names))
        case Operation():
            left, right = _node(node.left, names), _node(node.right, names)
            match node.operator:
                case "+":
                    return left + right
                case "-":
                    return left - right
                case "*":
                    return left * right
                case "/":
                    return np.divide(left, right)
                case "∠":
                    return left * np.exp(1j * right)
                case tree.PARALLEL:
                    return np.divide(left * right, left + right)
                case _:
                    return np.power(left, right)


_PLAIN: dict[str, Any] = {
    "abs": np.abs,
    "sqrt": np.sqrt,
    "exp": np.exp,
    "ln": np.log,
    "lg": np.log10,
    "log10": np.log10,
    "dB": lambda x: 20 * np.log10(np.abs(x)),
    "Re": np.real,
    "Im": np.imag,
    "sin": np.sin,
    "cos": np.cos,
    "tan": np.tan,
    "atan": np.arctan,
}


def _call(name: str, argument: Any) -> Any:
    if name in _PLAIN:
        return _PLAIN[name](argument)
    compute = FUNCTIONS[name].compute  # the others, point by point

    def at(x: Any) -> Any:
        try:
            return compute(x.item())
        except (ValueError, OverflowError):
            return np.nan

    return np.array([at(x) for x in np.atleast_1d(argument)])
