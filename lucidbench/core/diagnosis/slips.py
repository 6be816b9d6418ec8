"""Small slips in a formula worked out by hand, each as the formula would read without it.

A slip is a change of the text at one place of the formula's own tree, so that what is offered can be read,
checked and put in the place of what was written.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Formula, Known, evaluate, parse
from lucidbench.core.formula.tree import Call, Name, Negation, Node, Number, Operation
from lucidbench.core.units.dimensions import UNITS, Dimension

_ADDED = tuple(UNITS[unit] for unit in ("Ω", "F", "H", "S") if unit in UNITS)
_PREFIXES = {1e3: "m or k", 1e-3: "m or k", 1e6: "µ or M", 1e-6: "µ or M"}
_MOST = 400  # slips of one formula
_FACTORS = {
    "sqrt(2)": "An RMS value was taken for a peak value.",
    "1/sqrt(2)": "A peak value was taken for an RMS value.",
    "2": "A factor of 2 is missing, as between a peak value and a peak-to-peak value.",
    "1/2": "There is a factor of 2 too many, as between a peak-to-peak value and a peak value.",
}


@dataclass(frozen=True)
class Slip:
    """`text` is the line without the slip, `sentence` says what it is; `weight` how usual, beside the others
    (common practice, no published source)."""

    key: str
    text: str
    sentence: str
    weight: float


def slips_of(formula: Formula, names: Mapping[str, Known]) -> Iterator[Slip]:
    """Every slip that may be in a formula; `names` are what its names stand for. Texts that are no formula,
    or add what cannot be added, are left out."""
    seen: set[str] = set()
    for slip in _all(formula, names):
        if slip.text in seen or len(seen) >= _MOST:
            continue
        seen.add(slip.text)
        try:
            evaluate(parse(slip.text), names)
        except FormulaError:
            continue
        yield slip


def _all(formula: Formula, names: Mapping[str, Known]) -> Iterator[Slip]:
    text, body = formula.text, formula.body
    whole = _of(text, body)
    for node, is_first in _nodes(body):
        yield from _at(text, node, is_first, names)

    def instead(other: str) -> str:
        return _spliced(text, body, other)

    yield Slip("two_pi", instead(f"({whole})*2*pi"), "2π is missing as a factor.", 0.04)
    over = f"({whole})/(2*pi)"
    if isinstance(body, Operation) and body.operator == "/":
        left, right = _sides(text, body)
        over = f"{left}/(2*pi*{right})"
    yield Slip("two_pi", instead(over), "The 2π in the denominator is missing.", 0.06)
    turned = _of(text, body.operand) if isinstance(body, Negation) else f"-({whole})"
    yield Slip("sign", instead(turned), "The sign is the other way round.", 0.03)
    yield Slip("upside_down", instead(f"1/({whole})"), "The formula is upside down.", 0.01)
    for factor in (1e3, 1e-3, 1e6, 1e-6):
        yield Slip(
            "prefix", instead(f"({whole})*{factor:g}"),
            f"A prefix ({_PREFIXES[factor]}) was lost: the result is {1 / factor:g} times what it should be.",
            0.01,
        )  # fmt: skip
    for times, what in _FACTORS.items():
        yield Slip("peak_or_rms", instead(f"({whole})*{times}"), what, 0.008)


def _nodes(node: Node, is_first: bool = True) -> Iterator[tuple[Node, bool]]:
    """Every node; `is_first` of the outermost one."""
    yield node, is_first
    match node:
        case Operation():
            yield from _nodes(node.left, False)
            yield from _nodes(node.right, False)
        case Negation():
            yield from _nodes(node.operand, False)
        case Call():
            for argument in node.arguments:
                yield from _nodes(argument, False)


def _at(text: str, node: Node, is_first: bool, names: Mapping[str, Known]) -> Iterator[Slip]:
    match node:
        case Operation():
            yield from _of_operation(text, node, is_first, names)
        case Call(function="sqrt"):
            inner = _of(text, node.argument)
            yield Slip(
                "root", _spliced(text, node, f"({inner})"), "There is a root too many.", 0.01
            )
        case Call(function="sin" | "cos" | "tan" as function):
            inner = _of(text, node.argument)
            yield Slip(
                "radians", _spliced(text, node, f"{function}(({inner})*pi/180)"),
                "The angle is in degrees, and was taken as radians.", 0.03,
            )  # fmt: skip
        case Name():
            yield from _other_names(text, node, names)
        case Number():
            yield from _other_numbers(text, node)


def _of_operation(
    text: str, node: Operation, is_first: bool, names: Mapping[str, Known]
) -> Iterator[Slip]:
    def instead(other: str) -> str:
        return _spliced(text, node, other)

    own = _of(text, node)
    left, right = _sides(text, node)
    other_sign = f"The sign before {right} is wrong."
    match node.operator:
        case "+":
            if _dimension(node.left, text, names) in _ADDED:
                yield Slip(
                    "parallel", instead(f"(({left})*({right})/(({left})+({right})))"),
                    f"{left} and {right} are in parallel, and were added.", 0.04,
                )  # fmt: skip
            yield Slip("sign", instead(f"({left}-({right}))"), other_sign, 0.03)
        case "-":
            yield Slip("sign", instead(f"({left}+{right})"), other_sign, 0.03)
        case "∥":
            at, end = _extent(text, node)
            bracketed = text[:at].rstrip().endswith("(") and text[end:].lstrip().startswith(")")
            added = f"{left} + {right}" if bracketed else f"({left} + {right})"
            yield Slip(
                "series", instead(added), f"{left} and {right} are in series, and were taken in parallel.",
                0.03,
            )  # fmt: skip
        case "/":
            in_parallel = _parallel(text, node)
            if in_parallel:
                yield Slip(
                    "series", instead(f"({in_parallel})"),
                    f"{own} is for parts in parallel; here they are in series.", 0.02,
                )  # fmt: skip
            yield Slip(
                "upside_down", instead(f"(({right})/({left}))"), f"{own} is upside down.", 0.02
            )
            if not is_first:
                yield Slip("two_pi", instead(f"({own}/(2*pi))"), f"2π is missing in {own}.", 0.02)
        case "*":
            for keeps, drops in ((left, right), (right, left)):
                if _is_two_pi(drops):
                    yield Slip("two_pi", instead(f"({keeps})"), "There is a 2π too many.", 0.03)


def _other_names(text: str, node: Name, names: Mapping[str, Known]) -> Iterator[Slip]:
    known = names.get(node.name)
    if known is None:
        return
    if known.dimension == UNITS["Hz"]:
        yield Slip(
            "two_pi", _spliced(text, node, f"(2*pi*{node.name})"),
            f"{node.name} stands where ω = 2π·{node.name} belongs.", 0.05,
        )  # fmt: skip
    for other, of in names.items():
        is_part = re.fullmatch(r"[A-Z][A-Za-z]*\d+", other)
        if other != node.name and is_part and of.dimension == known.dimension:
            yield Slip(
                "other_part", _spliced(text, node, other),
                f"{node.name} stands where {other} belongs.", 0.02,
            )  # fmt: skip


def _other_numbers(text: str, node: Number) -> Iterator[Slip]:
    own = text[node.at : node.end]
    for factor in (1e3, 1e-3):
        yield Slip(
            "prefix", _spliced(text, node, f"({own}*{factor:g})"),
            f"The prefix of {own} is wrong by a {'thousand' if factor > 1 else 'thousandth'}.", 0.02,
        )  # fmt: skip
    value = complex(node.value).real
    if own.strip() in ("3", "3.1", "3.14", "3.142") and abs(value - math.pi) < 0.2:
        yield Slip("rounded", _spliced(text, node, "pi"), f"{own} is a rough π.", 0.03)
    if own.strip() in ("0.7", "0.71", "1.4", "1.41"):
        exact = "sqrt(2)" if value > 1 else "1/sqrt(2)"
        yield Slip(
            "rounded", _spliced(text, node, f"({exact})"), f"{own} is a rough {exact}.", 0.02
        )
    if own.strip() in ("6", "6.28", "6.3"):
        yield Slip("rounded", _spliced(text, node, "(2*pi)"), f"{own} is a rough 2π.", 0.03)


def _sides(text: str, node: Operation) -> tuple[str, str]:
    return _of(text, node.left), _of(text, node.right)


def _spliced(text: str, node: Node, other: str) -> str:
    """The line with another text in the place of a node."""
    at, end = _extent(text, node)
    return text[:at] + other + text[end:]


def _extent(text: str, node: Node) -> tuple[int, int]:
    """Where a node stands, with the brackets that belong to it: those at its edges are not told."""
    at, end = node.at, node.end
    open_brackets = text[at:end].count("(") - text[at:end].count(")")
    while open_brackets > 0 and ")" in text[end:]:
        end = text.index(")", end) + 1
        open_brackets -= 1
    while open_brackets < 0 and "(" in text[:at]:
        at = text.rindex("(", 0, at)
        open_brackets += 1
    return at, end


def _of(text: str, node: Node) -> str:
    at, end = _extent(text, node)
    return text[at:end]


def _dimension(node: Node, text: str, names: Mapping[str, Known]) -> Dimension | None:
    try:
        return evaluate(Formula(None, node, text), names).dimension
    except FormulaError:
        return None


def _parallel(text: str, node: Operation) -> str:
    """ "a+b" of a*b/(a+b); "" of others."""
    above, below = node.left, node.right
    if not (isinstance(above, Operation) and above.operator == "*"):
        return ""
    if not (isinstance(below, Operation) and below.operator == "+"):
        return ""
    factors, terms = _sides(text, above), _sides(text, below)
    return f"{terms[0]}+{terms[1]}" if set(factors) == set(terms) else ""


def _is_two_pi(text: str) -> bool:
    return text.replace(" ", "").strip("()") in ("2*pi", "2π", "2*π", "pi*2")
