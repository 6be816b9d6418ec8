"""The parsed form of a formula. Every node knows its place in the text, for messages."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from lucidbench.core.units.dimensions import Dimension

PARALLEL = "∥"  # as an operator; written ||


@dataclass(frozen=True)
class Number:
    """`value` in SI units; an angle that was written in degrees is in radians."""

    value: float | complex
    dimension: Dimension
    text: str
    at: int
    end: int
    in_degrees: bool = False


@dataclass(frozen=True)
class Name:
    name: str
    at: int
    end: int


@dataclass(frozen=True)
class Negation:
    operand: Node
    at: int
    end: int


@dataclass(frozen=True)
class Operation:
    operator: str  # + - * / ^ ∠ ∥
    left: Node
    right: Node
    operator_at: int
    at: int
    end: int


@dataclass(frozen=True)
class Call:
    function: str
    arguments: tuple[Node, ...]
    at: int
    end: int

    @property
    def argument(self) -> Node:
        """Of a function that takes one."""
        return self.arguments[0]


def calls_of(node: Node, function: str) -> list[Call]:
    """Every call of a function in a formula."""
    match node:
        case Call():
            inner = [call for each in node.arguments for call in calls_of(each, function)]
            return [node, *inner] if node.function == function else inner
        case Negation():
            return calls_of(node.operand, function)
        case Operation():
            return calls_of(node.left, function) + calls_of(node.right, function)
    return []


def replaced(node: Node, instead: Mapping[Node, Node]) -> Node:
    """The same with some of its parts exchanged."""
    if node in instead:
        return instead[node]
    match node:
        case Call():
            return replace(node, arguments=tuple(replaced(n, instead) for n in node.arguments))
        case Negation():
            return replace(node, operand=replaced(node.operand, instead))
        case Operation():
            left, right = replaced(node.left, instead), replaced(node.right, instead)
            return replace(node, left=left, right=right)
    return node


Node = Number | Name | Negation | Operation | Call


@dataclass(frozen=True)
class Formula:
    """`target = body`; `target` is None where the text is an expression alone."""

    target: str | None
    body: Node
    text: str
