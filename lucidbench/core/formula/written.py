"""A formula as one writes it: from its tree, with no more brackets than it needs."""

from __future__ import annotations

from dataclasses import replace

from lucidbench.core.formula.tree import PARALLEL, Call, Name, Negation, Node, Number, Operation

_SUM, _PRODUCT, _SHUNT, _SIGNED, _POWER, _ATOM = range(6)
_LEVELS = {
    "+": _SUM,
    "-": _SUM,
    "*": _PRODUCT,
    "/": _PRODUCT,
    PARALLEL: _SHUNT,
    "∠": _SIGNED,
    "^": _POWER,
}


def written(node: Node, is_spaced: bool = True) -> str:
    """As text that parses to the same, but for the order of sums and products; the signs of a sum stand
    between blanks where it `is_spaced`."""
    return _Writer(" " if is_spaced else "").text(node, _SUM)


class _Writer:
    def __init__(self, blank: str) -> None:
        self._blank = blank

    def text(self, node: Node, least: int) -> str:
        """`least` is the loosest level that needs no brackets here."""
        shown = self._bare(node)
        return f"({shown})" if _level(node) < least else shown

    def _bare(self, node: Node) -> str:
        match node:
            case Number():
                return node.text
            case Name():
                return node.name
            case Call():
                return f"{node.function}({', '.join(self.text(n, _SUM) for n in node.arguments)})"
            case Negation():
                return self._negated(node.operand)
            case Operation():
                return self._operation(node)

    def _negated(self, operand: Node) -> str:
        if isinstance(operand, Negation):
            return self._bare(operand.operand)
        return "-" + self.text(operand, _PRODUCT)

    def _operation(self, node: Operation) -> str:
        left, right = node.left, node.right
        match node.operator:
            case "+" | "-":
                sign: str = node.operator
                if _is_negative(right):
                    sign, right = {"+": "-", "-": "+"}[sign], _turned(right)
                after = self.text(right, _SUM if sign == "+" else _PRODUCT)
                return f"{self.text(left, _SUM)}{self._blank}{sign}{self._blank}{after}"
            case "*":
                return f"{self._first(left)}*{self._factor(right)}"
            case "/":
                return f"{self._first(left)}/{self.text(right, _SHUNT)}"
            case "^":
                return f"{self.text(left, _ATOM)}^{self.text(right, _ATOM)}"
            case "∠":
                return f"{self.text(left, _POWER)} ∠ {self._bare(right)}"
        return f"{self.text(left, _SHUNT)} || {self.text(right, _SHUNT)}"

    def _first(self, node: Node) -> str:
        """Of a product: its minus sign is that of the whole."""
        return self._bare(node) if isinstance(node, Negation) else self.text(node, _PRODUCT)

    def _factor(self, node: Node) -> str:
        """Behind a *: a product needs no brackets there."""
        return self.text(
            node, _PRODUCT if _level(node) == _PRODUCT and not _is_negative(node) else _SHUNT
        )


def _is_negative(node: Node) -> bool:
    """Whether it is a product that begins with a minus."""
    match node:
        case Operation(operator="*" | "/"):
            return _is_negative(node.left)
    return isinstance(node, Negation)


def _turned(node: Node) -> Node:
    """With the other sign, of what begins with a minus."""
    if isinstance(node, Negation):
        return node.operand
    assert isinstance(node, Operation)
    return replace(node, left=_turned(node.left))


def _level(node: Node) -> int:
    match node:
        case Negation():
            return _SUM
        case Operation():
            return _LEVELS[node.operator]
        case Number() if " " in node.text or node.text[:1] in "-+":
            return _POWER
    return _ATOM
