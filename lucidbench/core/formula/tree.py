"""The parsed form of a formula. Every node knows its place in the text, for messages."""

from __future__ import annotations

from dataclasses import dataclass

from lucidbench.core.units.dimensions import Dimension


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
    operator: str  # + - * / ^ ∠
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


Node = Number | Name | Negation | Operation | Call


@dataclass(frozen=True)
class Formula:
    """`target = body`; `target` is None where the text is an expression alone."""

    target: str | None
    body: Node
    text: str
