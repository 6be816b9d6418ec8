"""Sums and products in one level each, as one reads them: terms with their signs, factors above and below."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import reduce

from lucidbench.core.formula.tree import PARALLEL, Call, Name, Negation, Node, Number, Operation
from lucidbench.core.units.dimensions import NUMBER

Term = tuple[int, Node]  # its sign
Factor = tuple[int, Node]  # 1 above the line, -1 below it
ONE = Number(1.0, NUMBER, "1", 0, 0)


def terms_of(node: Node) -> list[Term]:
    """Of a sum; of all else, itself."""
    match node:
        case Operation(operator="+" | "-" as operator):
            sign = 1 if operator == "+" else -1
            return [*terms_of(node.left), *((sign * s, n) for s, n in terms_of(node.right))]
        case Negation():
            return [(-s, n) for s, n in terms_of(node.operand)]
    return [(1, node)]


def sum_of(terms: Sequence[Term]) -> Node:
    """A term above zero comes first, where there is one."""
    first = next((k for k, (sign, _) in enumerate(terms) if sign > 0), 0)
    (sign, node), *rest = [terms[first], *terms[:first], *terms[first + 1 :]]
    start: Node = node if sign > 0 else Negation(node, 0, 0)
    return reduce(lambda a, b: operation("+" if b[0] > 0 else "-", a, b[1]), rest, start)


def factors_of(node: Node) -> tuple[int, list[Factor]]:
    """(sign, factors) of a product; of all else, itself."""
    match node:
        case Operation(operator="*" | "/" as operator):
            one, left = factors_of(node.left)
            other, right = factors_of(node.right)
            below = 1 if operator == "*" else -1
            return one * other, [*left, *((below * e, n) for e, n in right)]
        case Negation():
            sign, inner = factors_of(node.operand)
            return -sign, inner
    return 1, [(1, node)]


def product_of(factors: Sequence[Factor], sign: int = 1) -> Node:
    """All that is above the line, over all that is below it."""
    above = [n for e, n in factors if e > 0 and n != ONE]
    below = [n for e, n in factors if e < 0 and n != ONE]
    whole = reduce(lambda a, b: operation("*", a, b), above) if above else ONE
    if below:
        whole = operation("/", whole, reduce(lambda a, b: operation("*", a, b), below))
    return whole if sign > 0 else Negation(whole, 0, 0)


def shunts_of(node: Node) -> list[Node]:
    """What is in parallel."""
    if isinstance(node, Operation) and node.operator == PARALLEL:
        return [*shunts_of(node.left), *shunts_of(node.right)]
    return [node]


def shunt_of(nodes: Sequence[Node]) -> Node:
    return reduce(lambda a, b: operation(PARALLEL, a, b), nodes)


def operation(operator: str, left: Node, right: Node) -> Operation:
    """Of nodes that stand in no text."""
    return Operation(operator, left, right, 0, 0, 0)


def placeless(node: Node) -> Node:
    """The same without places in a text, so that what is written alike is alike."""
    match node:
        case Number():
            return Number(node.value, node.dimension, node.text, 0, 0, node.in_degrees)
        case Name():
            return Name(node.name, 0, 0)
        case Negation():
            return Negation(placeless(node.operand), 0, 0)
        case Operation():
            return operation(node.operator, placeless(node.left), placeless(node.right))
        case Call():
            return Call(node.function, tuple(map(placeless, node.arguments)), 0, 0)


def chains_in(node: Node) -> Iterator[Node]:
    """The whole, then all within it that is a sum, product, shunt, call, name or number of its own, and no
    part of a longer chain of the same kind."""
    yield node
    for inner in _members(node):
        yield from chains_in(inner)


def _members(node: Node) -> list[Node]:
    match node:
        case Call():
            return list(node.arguments)
        case Operation(operator="+" | "-"):
            return [n for _, n in terms_of(node)]
        case Operation(operator="*" | "/"):
            return [n for _, n in factors_of(node)[1]]
        case Operation(operator="∥"):
            return shunts_of(node)
        case Operation():
            return [node.left, node.right]
        case Negation():
            return [node.operand]
    return []


def with_instead(node: Node, old: Node, new: Node) -> Iterator[Node]:
    """The formula with `new` in the place of `old`: once for each place at which it stands."""
    if node == old:
        yield new
        return
    members = _members(node)
    for k, inner in enumerate(members):
        for other in with_instead(inner, old, new):
            yield _of_members(node, [*members[:k], other, *members[k + 1 :]])


def _of_members(node: Node, members: Sequence[Node]) -> Node:
    """The same kind of node, of other members."""
    match node:
        case Call():
            return Call(node.function, tuple(members), 0, 0)
        case Operation(operator="+" | "-"):
            signs = (sign for sign, _ in terms_of(node))
            return sum_of(list(zip(signs, members, strict=True)))
        case Operation(operator="*" | "/"):
            sign, factors = factors_of(node)
            places = (at for at, _ in factors)
            return product_of(list(zip(places, members, strict=True)), sign)
        case Operation(operator="∥"):
            return shunt_of(members)
        case Operation():
            return operation(node.operator, *members)
    return Negation(members[0], 0, 0)
