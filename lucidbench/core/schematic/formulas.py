"""A drawn source's formula, written as in a textbook, as the program that its law runs."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Known
from lucidbench.core.formula.parser import parse
from lucidbench.core.formula.tree import Call, Name, Negation, Node, Number, Operation
from lucidbench.core.netlist.expressions import Op, compile_expression

_FUNCTIONS = {
    "abs": "abs", "sqrt": "sqrt", "exp": "exp", "ln": "ln", "lg": "log10",
    "sin": "sin", "cos": "cos", "tan": "tan",
}  # fmt: skip
_TIME = "t"


def program_of(
    text: str, parameters: Mapping[str, Known]
) -> tuple[list[str], list[str], tuple[float, ...]]:
    """(nodes sensed, parts whose currents are sensed, program). Raises FormulaError."""
    ops = list(_ops(parse(text).body, parameters))
    return compile_expression(ops, _unknown)


def _ops(node: Node, parameters: Mapping[str, Known]) -> list[Op]:
    """In postfix order."""
    match node:
        case Number():
            if isinstance(node.value, complex):
                raise FormulaError("a source's formula is real; j cannot stand in it", node.at)
            return [Op("constant", node.value)]
        case Negation():
            return [*_ops(node.operand, parameters), Op("negate")]
        case Operation():
            return [
                *_ops(node.left, parameters),
                *_ops(node.right, parameters),
                Op(node.operator),
            ]
        case Call():
            code = _FUNCTIONS.get(node.function)
            if code is None:
                known = ", ".join(_FUNCTIONS)
                raise FormulaError(
                    f"{node.function} cannot stand in a source's formula; {known} can", node.at
                )
            return [*_ops(node.argument, parameters), Op(code)]
        case Name():
            return [_name(node, parameters)]


def _name(node: Name, parameters: Mapping[str, Known]) -> Op:
    known = parameters.get(node.name)
    if known is not None and not isinstance(known.value, complex):
        return Op("constant", float(known.value))
    if node.name in ("pi", "π"):
        return Op("constant", 3.141592653589793)
    if node.name == _TIME:
        return Op("time")
    kind, _, subject = node.name.partition("_")
    if subject and kind == "V":
        return Op("voltage", names=(subject,))
    if subject and kind == "I":
        return Op("current", names=(subject,))
    raise FormulaError(
        f"nothing is called “{node.name}” here; V_ and a node, I_ and a part, t or a parameter are",
        node.at,
        len(node.name),
    )


def _unknown(name: str) -> float:
    raise FormulaError(f"nothing is called “{name}” here", 0)
