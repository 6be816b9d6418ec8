"""A formula without the brackets it can do without, as one writes it by hand."""

from __future__ import annotations

from typing import Any

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula.parser import parse
from lucidbench.core.formula.tree import Call, Name, Negation, Node, Number, Operation


def without_needless_brackets(text: str) -> str:
    """The same line, each pair of brackets gone that changes nothing but the order of a sum or product; a
    text that is no formula stays as it is."""
    try:
        meant = _shape(parse(text).body)
    except FormulaError:
        return text
    at = 0
    while True:
        at = text.find("(", at)
        if at < 0:
            return text
        other = _without_pair(text, at)
        if other is not None and _means(other, meant):
            text = other
        else:
            at += 1


def _without_pair(text: str, at: int) -> str | None:
    depth = 0
    for end in range(at, len(text)):
        depth += {"(": 1, ")": -1}.get(text[end], 0)
        if not depth:
            return text[:at] + text[at + 1 : end].strip() + text[end + 1 :]
    return None


def _means(text: str, meant: Any) -> bool:
    try:
        return bool(_shape(parse(text).body) == meant)
    except FormulaError:
        return False


def _shape(node: Node) -> Any:
    """The formula without places, sums and products in one level each."""
    match node:
        case Number():
            return node.value, node.dimension
        case Name():
            return node.name
        case Negation():
            return "negation", _shape(node.operand)
        case Call():
            return node.function, *map(_shape, node.arguments)
        case Operation(operator="+" | "*" as operator):
            return operator, *_level(node, operator)
        case Operation():
            return node.operator, _shape(node.left), _shape(node.right)


def _level(node: Node, operator: str) -> list[Any]:
    if isinstance(node, Operation) and node.operator == operator:
        return [*_level(node.left, operator), *_level(node.right, operator)]
    return [_shape(node)]
