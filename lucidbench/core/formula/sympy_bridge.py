"""SymPy's expressions as formulas of the product's own language, and the other way round."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula.tree import (
    PARALLEL,
    Call,
    Name,
    Negation,
    Node,
    Number,
    Operation,
)


def formula_text(expression: Any) -> str:
    """Products with *, powers with ^."""
    return str(expression).replace("**", "^")


def symbolic(node: Node, names: Mapping[str, Any]) -> Any:
    """A formula in SymPy's letters; `names` are those there are. Raises FormulaError for any other, and for
    what has no place in letters."""
    import sympy

    match node:
        case Number():
            value = complex(node.value)
            real, imaginary = (
                sympy.nsimplify(part, rational=True) for part in (value.real, value.imag)
            )
            return real + sympy.I * imaginary
        case Name():
            if node.name in names:
                return names[node.name]
            if node.name in ("pi", "π"):
                return sympy.pi
            if node.name == "j":
                return sympy.I
            raise FormulaError(f"nothing is called “{node.name}” here", node.at, len(node.name))
        case Negation():
            return -symbolic(node.operand, names)
        case Call():
            return _called(node, [symbolic(each, names) for each in node.arguments])
        case Operation():
            return _operated(node, symbolic(node.left, names), symbolic(node.right, names))


def _called(node: Call, arguments: list[Any]) -> Any:
    import sympy

    x = arguments[0]
    functions = {
        "sqrt": sympy.sqrt, "exp": sympy.exp, "ln": sympy.log, "abs": sympy.Abs, "arg": sympy.arg,
        "Re": sympy.re, "Im": sympy.im, "sin": sympy.sin, "cos": sympy.cos, "tan": sympy.tan,
        "atan": sympy.atan,
    }  # fmt: skip
    if node.function in functions:
        return functions[node.function](x)
    if node.function == "lg":
        return sympy.log(x) / sympy.log(10)
    if node.function == "dB":
        return 20 * sympy.log(sympy.Abs(x)) / sympy.log(10)
    raise FormulaError(f"{node.function} has no place among letters", node.at, len(node.function))


def _operated(node: Operation, a: Any, b: Any) -> Any:
    import sympy

    match node.operator:
        case "+":
            return a + b
        case "-":
            return a - b
        case "*":
            return a * b
        case "/":
            return a / b
        case "^":
            return a**b
        case "∠":
            return a * sympy.exp(sympy.I * b)
        case _:
            assert node.operator == PARALLEL
            return a * b / (a + b)


def is_nothing(difference: Any, most_operations: int) -> bool | None:
    """Whether an expression is zero whatever its letters stand for: of fractions of polynomials a decision,
    of others that they are, or None; None too where it is too large to be tried."""
    import sympy

    if sympy.count_ops(difference) > most_operations:
        return None
    left = sympy.cancel(sympy.together(difference))
    if left == 0:
        return True
    if left.is_rational_function(*left.free_symbols):
        return False
    return True if sympy.simplify(left) == 0 else None
