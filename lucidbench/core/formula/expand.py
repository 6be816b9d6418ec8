"""Formulas with the names in them followed through to what these stand for."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula.tree import Call, Name, Node, replaced

_DEEPEST = 30


def expanded(node: Node, definitions: Mapping[str, Node], depth: int = 0) -> Node:
    """With every name that has one replaced by its definition, through and through. Raises FormulaError where
    they go in a circle."""
    if depth > _DEEPEST:
        raise FormulaError("these lines define each other in a circle", 0)
    instead: dict[Node, Node] = {
        each: expanded(definitions[each.name], definitions, depth + 1)
        for each in _names(node)
        if each.name in definitions
    }
    return replaced(node, instead) if instead else node


def _names(node: Node) -> list[Name]:
    if isinstance(node, Name):
        return [node]
    if isinstance(node, Call):
        return [name for argument in node.arguments for name in _names(argument)]
    inner = [getattr(node, side) for side in ("left", "right", "operand") if hasattr(node, side)]
    return [name for each in inner for name in _names(each)]
