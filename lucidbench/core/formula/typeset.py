"""Formulas as LaTeX, in letters and with the values put in."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from functools import lru_cache

from lucidbench.core.formula.evaluate import Known
from lucidbench.core.formula.functions import FUNCTIONS
from lucidbench.core.formula.tree import PARALLEL, Call, Name, Negation, Node, Number, Operation
from lucidbench.core.units import engineering
from lucidbench.core.units.engineering import MINUS, NO_BREAK_SPACE

_SUM, _PRODUCT, _SIGN, _POWER, _ATOM = range(5)
_LEVEL = {
    "+": _SUM,
    "-": _SUM,
    "*": _PRODUCT,
    "/": _ATOM,
    "^": _POWER,
    "∠": _PRODUCT,
    PARALLEL: _SUM,
}
_GREEK = (
    "alpha", "beta", "gamma", "delta", "zeta", "eta", "theta", "kappa", "lambda", "tau", "phi",
    "omega", "Delta", "Phi", "Omega",
)  # fmt: skip
_READ_OFF = ("V_", "I_", "P_")  # what a reading may be written behind: V_out.pp
_HEAD = re.compile(r"([A-Za-zα-ωΑ-Ω]+?)(\d*)")


@lru_cache(maxsize=4096)
def name_latex(name: str) -> str:
    """ "V_out" as V with an upright index, "R1" as R with index 1."""
    if name in ("pi", "π"):
        return r"\pi"
    if name == "j":
        return r"\mathrm{j}"
    quantity, dot, reading = name.rpartition(".")
    if dot and quantity.startswith(_READ_OFF) and reading.islower():
        words = reading.replace("_", r"\ ")
        return rf"{name_latex(quantity)}\,[\text{{{words}}}]"
    head, _, tail = name.partition("_")
    match = _HEAD.fullmatch(head)
    if not match:
        return rf"\mathrm{{{_escape(name)}}}"
    letter = match[1] if len(match[1]) == 1 else rf"\mathrm{{{match[1]}}}"
    if match[1] in _GREEK:
        letter = rf"\{match[1]}"
    pieces = [each for each in (match[2], *tail.split("_")) if each]
    index = r",\,".join(
        rf"\{each}" if each in ("pi", *_GREEK) else rf"\mathrm{{{each}}}" for each in pieces
    )
    return f"{letter}_{{{index}}}" if index else letter


def quantity_latex(text: str) -> str:
    """An engineering-notation text ("4.7 kΩ") as LaTeX, its unit upright."""
    number, _, unit = text.partition(NO_BREAK_SPACE)
    number = number.replace(MINUS, "-")
    number = re.sub(r"·10([⁰¹²³⁴⁵⁶⁷⁸⁹⁻]+)", _power_of_ten, number)
    if not unit:
        return number
    symbol = unit.replace("Ω", r"\Omega").replace("µ", r"\text{µ}").replace("%", r"\%")
    symbol = re.sub(r"([⁰¹²³⁴⁵⁶⁷⁸⁹⁻]+)", lambda m: f"^{{{_digits(m[1])}}}", symbol)
    symbol = symbol.replace("·", r" \cdot ")
    return rf"{number}\,\mathrm{{{symbol}}}"


def latex(node: Node, values: Mapping[str, Known] | None = None) -> str:
    """The formula as LaTeX; with `values`, every name in it replaced by its value."""
    return _render(node, values)[0]


def _render(node: Node, values: Mapping[str, Known] | None) -> tuple[str, int]:
    match node:
        case Number():
            return _number(node), _ATOM
        case Name():
            known = values.get(node.name) if values else None
            if known is None or isinstance(known.value, complex):
                return name_latex(node.name), _ATOM
            shown = quantity_latex(engineering(known.value, known.dimension.unit))
            return shown, (_SIGN if known.value < 0 else _ATOM)
        case Negation():
            return f"-{_wrapped(node.operand, _PRODUCT, values)}", _SIGN
        case Call():
            return FUNCTIONS[node.function].latex % latex(node.argument, values), _ATOM
        case Operation():
            return _operation(node, values), _LEVEL[node.operator]


def _operation(node: Operation, values: Mapping[str, Known] | None) -> str:
    if node.operator == "/":
        return rf"\frac{{{latex(node.left, values)}}}{{{latex(node.right, values)}}}"
    if node.operator == "^":
        base = _wrapped(node.left, _ATOM, values)
        if _is_unit_bearing(node.left, values) or isinstance(node.left, Operation):
            base = rf"\left({latex(node.left, values)}\right)"
        return f"{{{base}}}^{{{latex(node.right, values)}}}"
    if node.operator == "∠":
        return rf"{_wrapped(node.left, _ATOM, values)} \angle {{{latex(node.right)}}}"
    if node.operator == PARALLEL:
        chain = isinstance(node.left, Operation) and node.left.operator == PARALLEL
        left = latex(node.left, values) if chain else _wrapped(node.left, _PRODUCT, values)
        return rf"{left} \parallel {_wrapped(node.right, _PRODUCT, values)}"
    level = _LEVEL[node.operator]
    left = _wrapped(node.left, level, values, leading=True)
    right = _wrapped(node.right, level + (node.operator == "-"), values)
    sign = {"*": r"\cdot", "+": "+", "-": "-"}[node.operator]
    return f"{left} {sign} {right}"


def _wrapped(
    node: Node, level: int, values: Mapping[str, Known] | None, *, leading: bool = False
) -> str:
    text, own = _render(node, values)
    negative_inside = own == _SIGN and not leading
    return rf"\left({text}\right)" if own < level or negative_inside else text


def _is_unit_bearing(node: Node, values: Mapping[str, Known] | None) -> bool:
    if isinstance(node, Number):
        return bool(node.dimension.unit)
    return isinstance(node, Name) and values is not None and node.name in values


def _number(node: Number) -> str:
    if isinstance(node.value, complex):
        size = engineering(node.value.imag, node.dimension.unit, digits=7)
        return rf"\mathrm{{j}}{quantity_latex(size)}"
    if node.in_degrees:
        return rf"{quantity_latex(engineering(math.degrees(node.value), digits=7))}^\circ"
    return quantity_latex(engineering(node.value, node.dimension.unit, digits=7))


def _power_of_ten(match: re.Match[str]) -> str:
    return rf"\cdot 10^{{{_digits(match[1])}}}"


def _digits(superscript: str) -> str:
    return superscript.translate(str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-"))


def _escape(text: str) -> str:
    return text.replace("_", r"\_")
