"""Small slips in a formula worked out by hand, each as the formula would read without it.

A slip is one change to one place of the formula's own tree, or to all places that are written alike, so that
what is offered can be read, checked and put in the place of what was written.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import combinations

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Formula, Known, evaluate
from lucidbench.core.formula.chains import (
    ONE,
    Term,
    chains_in,
    factors_of,
    operation,
    placeless,
    product_of,
    shunt_of,
    shunts_of,
    sum_of,
    terms_of,
    with_instead,
)
from lucidbench.core.formula.tree import (
    PARALLEL,
    Call,
    Name,
    Node,
    Number,
    Operation,
    replaced,
)
from lucidbench.core.formula.written import written
from lucidbench.core.units.dimensions import NUMBER, UNITS, Dimension

LEFT_OUT = "one_missing"  # what a textbook may leave out as well, where it costs little
_MOST = 6000  # slips of one formula
_MOST_IN_PAIRS = 8  # parts: of more, no two are put in the place of one
_PART = re.compile(r"[A-Z][A-Za-z]*\d+(?:_\w+)?")
_PREFIXES = {1e3: "m or k", 1e-3: "m or k", 1e6: "µ or M", 1e-6: "µ or M"}


@dataclass(frozen=True)
class Slip:
    """`body` is the formula without the slip and `text` the whole line, `sentence` says what it is; `weight`
    how usual, beside the others (common practice, no published source)."""

    key: str
    body: Node
    text: str
    sentence: str
    weight: float


def slips_of(formula: Formula, names: Mapping[str, Known], is_ac: bool = False) -> Iterator[Slip]:
    """Every slip that may be in a formula; `names` are what its names stand for. Those that add what cannot
    be added are left out. Of RMS and peak values it speaks where the circuit `is_ac`."""
    body = placeless(formula.body)
    spaced = not re.search(r"[\w)][+-]", formula.text)
    head = f"{formula.target} = " if formula.target else ""
    seen = {body}
    for other, key, sentence, weight in _Slips(body, names, is_ac).all():
        if other in seen:
            continue
        seen.add(other)
        if len(seen) > _MOST:
            return
        try:
            evaluate(Formula(None, other, ""), names)
        except FormulaError:
            continue
        yield Slip(key, other, head + written(other, spaced), sentence, weight)


Change = tuple[Node, str, str, float]  # what stands there instead, key, sentence, weight


class _Slips:
    """Of one formula."""

    def __init__(self, body: Node, names: Mapping[str, Known], is_ac: bool) -> None:
        self.body = body
        self.names = names
        self.is_ac = is_ac
        self.parts = [Name(n, 0, 0) for n in names if _PART.fullmatch(n)]

    def all(self) -> Iterator[Change]:
        yield from self._of_the_whole()
        for old in dict.fromkeys(chains_in(self.body)):
            for new, key, words, weight in self._instead_of(old):
                for other in with_instead(self.body, old, new):
                    yield other, key, words, weight
                yield replaced(self.body, {old: new}), key, words, weight
        yield from self._exchanged()
        yield from self._in_parallel_everywhere()

    def dimension(self, node: Node) -> Dimension | None:
        try:
            return evaluate(Formula(None, node, ""), self.names).dimension
        except FormulaError:
            return None

    def alike(self, node: Node) -> list[Name]:
        """Other parts of the same dimension."""
        own = self.dimension(node)
        return [
            part for part in self.parts if part != node and self.names[part.name].dimension == own
        ]

    # Of the whole formula.

    def _of_the_whole(self) -> Iterator[Change]:
        sign, factors = factors_of(self.body)
        weight = 0.03 if len(terms_of(self.body)) == 1 else 0.015
        yield product_of(factors, -sign), "sign", "The sign is the other way round.", weight
        for part in self.parts:
            for where, words in ((1, "missing as a factor"), (-1, "missing below the line")):
                more = product_of([*factors, (where, part)], sign)
                yield more, "factor", f"{part.name} is {words}.", 0.004
        if all(e < 0 for e, n in factors if n != ONE):
            return
        for factor in (1e3, 1e-3, 1e6, 1e-6):
            yield (
                product_of([*factors, (1, Number(factor, NUMBER, f"{factor:g}", 0, 0))], sign), "prefix",
                f"A prefix ({_PREFIXES[factor]}) was lost: the result is {1 / factor:g} times what it should "
                "be.", 0.005,
            )  # fmt: skip

    def _exchanged(self) -> Iterator[Change]:
        """Two parts of one kind, each in the other's place."""
        here = [
            n
            for n in dict.fromkeys(chains_in(self.body))
            if isinstance(n, Name) and n in self.parts
        ]
        for one, other in combinations(here, 2):
            if self.names[one.name].dimension == self.names[other.name].dimension:
                words = f"{one.name} and {other.name} are exchanged."
                yield replaced(self.body, {one: other, other: one}), "exchanged", words, 0.015

    def _in_parallel_everywhere(self) -> Iterator[Change]:
        """Two parts that were added wherever they stand in a sum."""
        here = [
            n
            for n in dict.fromkeys(chains_in(self.body))
            if isinstance(n, Name) and n in self.parts
        ]
        for one, other in combinations(here, 2):
            own = self.names[one.name].dimension
            if own in _ADDED and own == self.names[other.name].dimension:
                words = f"{one.name} and {other.name} are in parallel, and were added."
                yield _with_pair_in_parallel(self.body, one, other), "parallel", words, 0.03

    # Of one place.

    def _instead_of(self, node: Node) -> Iterator[Change]:
        match node:
            case Operation(operator="+" | "-"):
                yield from self._of_sum(node)
            case Operation(operator="∥"):
                yield from self._of_shunt(node)
            case Operation(operator="^"):
                yield from self._of_power(node)
            case Call():
                yield from self._of_call(node)
            case Name():
                yield from self._of_name(node)
            case Number():
                yield from self._of_number(node)
        if not isinstance(node, Number) or node == self.body:
            yield from self._of_product(node)

    def _of_sum(self, node: Operation) -> Iterator[Change]:
        terms = terms_of(node)
        for k, (sign, term) in enumerate(terms):
            shown = written(term)
            rest = [*terms[:k], *terms[k + 1 :]]
            turned = sum_of([*terms[:k], (-sign, term), *terms[k + 1 :]])
            yield turned, "sign", f"The sign before {shown} is wrong.", 0.03
            yield (
                sum_of(rest),
                "one_too_many",
                f"{shown} does not belong into {written(node)}.",
                0.015,
            )
        yield from self._with_one_more(node, terms)
        for one, other in combinations(range(len(terms)), 2):
            yield from self._in_parallel(terms, one, other)
        if len(terms) > 2:
            for k, (sign, term) in enumerate(terms):
                others = sum_of([*terms[:k], *terms[k + 1 :]])
                if sign > 0 and self.dimension(term) in _ADDED:
                    words = f"{written(term)} is in parallel with {written(others)}, and was added."
                    yield operation(PARALLEL, term, others), "parallel", words, 0.03
        absent = [part for part in self.alike(node) if (1, part) not in terms]
        for part in self.alike(node):
            words = f"{written(node)} stands where {part.name} belongs."
            yield part, "other_part", words, 0.012
        for pair in combinations(absent, 2):
            more = operation("+", *pair)
            words = f"{written(node)} stands where {written(more)} belongs."
            yield more, "other_part", words, 0.01
        yield Call("sqrt", (node,), 0, 0), "root", f"The root of {written(node)} is missing.", 0.02

    def _with_one_more(self, node: Operation, terms: list[Term]) -> Iterator[Change]:
        own = self.dimension(node)
        present = {written(n) for _, n in terms}
        more: list[tuple[Node, str]] = [(part, part.name) for part in self.alike(node)]
        inverted = UNITS["Ω"] if own == UNITS["S"] else None
        more += [
            (operation("/", ONE, part), f"1/{part.name}")
            for part in self.parts
            if inverted and self.names[part.name].dimension == inverted
        ]
        if own == NUMBER:
            more.append((ONE, "1"))
        for added, shown in more:
            if written(added) not in present:
                words = f"{shown} is missing in {written(node)}."
                yield sum_of([*terms, (1, added)]), LEFT_OUT, words, 0.02

    def _in_parallel(self, terms: list[Term], one: int, other: int) -> Iterator[Change]:
        a, b = terms[one], terms[other]
        if a[0] != b[0] or self.dimension(a[1]) not in _ADDED:
            return
        rest = [term for k, term in enumerate(terms) if k not in (one, other)]
        both = operation(PARALLEL, a[1], b[1])
        shown = f"{written(a[1])} and {written(b[1])} are in parallel, and were added."
        whole = sum_of([(a[0], both), *rest])
        yield whole, "parallel", shown, 0.04

    def _of_shunt(self, node: Operation) -> Iterator[Change]:
        shunts = shunts_of(node)
        added = sum_of([(1, n) for n in shunts])
        shown = " and ".join(map(written, shunts))
        yield added, "series", f"{shown} are in series, and were taken in parallel.", 0.03
        for k, each in enumerate(shunts):
            rest = shunt_of([*shunts[:k], *shunts[k + 1 :]])
            yield (
                rest,
                "one_too_many",
                f"{written(each)} does not belong into {written(node)}.",
                0.015,
            )
            if len(shunts) > 2:
                words = f"{written(each)} is in series with the others, and was taken in parallel."
                yield operation("+", each, rest), "series", words, 0.03
        for part in self.alike(node):
            if part not in shunts:
                words = f"{part.name} is missing in {written(node)}."
                yield shunt_of([*shunts, part]), LEFT_OUT, words, 0.02

    def _of_power(self, node: Operation) -> Iterator[Change]:
        yield node.left, "square", f"{written(node)} is not raised to a power.", 0.015

    def _of_call(self, node: Call) -> Iterator[Change]:
        inner = node.argument
        shown = written(node)
        match node.function:
            case "sqrt":
                yield inner, "root", "There is a root too many.", 0.015
            case "sin" | "cos" as function:
                in_radians = product_of([(1, inner), (1, Name("pi", 0, 0)), (-1, _plain(180))])
                yield (
                    Call(function, (in_radians,), 0, 0), "radians",
                    "The angle is in degrees, and was taken as radians.", 0.03,
                )  # fmt: skip
                other = {"sin": "cos", "cos": "sin"}[function]
                yield (
                    Call(other, (inner,), 0, 0),
                    "function",
                    f"{function} stands where {other} belongs.",
                    0.02,
                )
            case "exp":
                rest = operation("-", ONE, node)
                yield rest, "rise_or_fall", f"{shown} falls, where 1 - {shown} rises.", 0.03
        if node.function != "sqrt":
            turned = _turned(inner)
            words = f"The sign within {node.function} is wrong."
            yield Call(node.function, (turned,), 0, 0), "sign", words, 0.02
        if node.function in ("arg", "atan"):
            turned = product_of([(1, node), (1, Name("pi", 0, 0)), (-1, _plain(180))])
            yield turned, "radians", "The angle is in radians, and was taken as degrees.", 0.02

    def _of_name(self, node: Name) -> Iterator[Change]:
        known = self.names.get(node.name)
        if known is None:
            return
        if known.dimension == UNITS["Hz"]:
            angular = product_of([(1, _plain(2)), (1, Name("pi", 0, 0)), (1, node)])
            words = f"{node.name} stands where ω = 2π·{node.name} belongs."
            yield angular, "two_pi", words, 0.05
        others = self.alike(node)
        for other in others:
            yield other, "other_part", f"{node.name} stands where {other.name} belongs.", 0.02
        if known.dimension not in _ADDED or len(others) >= _MOST_IN_PAIRS:
            return
        for operator, how in (("+", "in series"), (PARALLEL, "in parallel")):
            for other in others:
                words = f"{other.name} is left out: {node.name} and {other.name} are {how}."
                yield operation(operator, node, other), LEFT_OUT, words, 0.012
            for one, other in combinations(others, 2):
                words = f"{node.name} stands where {one.name} and {other.name} belong, {how}."
                yield operation(operator, one, other), "other_part", words, 0.012

    def _of_number(self, node: Number) -> Iterator[Change]:
        own = node.text.strip()
        value = complex(node.value).real
        for factor in (1e3, 1e-3):
            if node.dimension != NUMBER:
                other = operation("*", node, Number(factor, NUMBER, f"{factor:g}", 0, 0))
                times = "thousand" if factor > 1 else "thousandth"
                yield other, "prefix", f"The prefix of {own} is wrong by a {times}.", 0.02
        if own in ("3", "3.1", "3.14", "3.142") and abs(value - math.pi) < 0.2:
            yield Name("pi", 0, 0), "rounded", f"{own} is a rough π.", 0.03
        if own in ("0.7", "0.71", "1.4", "1.41"):
            root = Call("sqrt", (_plain(2),), 0, 0)
            exact = root if value > 1 else operation("/", ONE, root)
            yield exact, "rounded", f"{own} is a rough {written(exact)}.", 0.02
        if own in ("6", "6.28", "6.3"):
            two_pi = operation("*", _plain(2), Name("pi", 0, 0))
            yield two_pi, "rounded", f"{own} is a rough 2π.", 0.03

    def _of_product(self, node: Node) -> Iterator[Change]:
        sign, factors = factors_of(node)
        is_whole = node == self.body

        def told(changed: list[tuple[int, Node]], turned: int = sign) -> Node:
            return product_of(changed, turned)

        shown = written(node)
        own = [k for k, (_, n) in enumerate(factors) if n != ONE]
        if (isinstance(node, Operation) and node.operator in "*/") or is_whole:
            upside_down = f"{shown} is upside down."
            yield told([(-e, n) for e, n in factors]), "upside_down", upside_down, 0.02
            for k in own:
                e, n = factors[k]
                rest = [*factors[:k], *factors[k + 1 :]]
                where = "below" if e > 0 else "above"
                yield (
                    told([*rest, (-e, n)]),
                    "upside_down",
                    f"{written(n)} belongs {where} the line.",
                    0.02,
                )
                if len(own) > 1:
                    turned = product_of([(-f, m) for f, m in rest])
                    words = f"{written(product_of(rest))} is upside down."
                    yield told([(e, n), *factors_of(turned)[1]]), "upside_down", words, 0.02
                    words = f"{written(n)} is one factor too many."
                    yield told(rest), "one_too_many", words, 0.01
                    inner = product_of(rest, sign)
                    squared = operation("^", inner, _plain(2))
                    words = f"{written(inner)} is to be squared."
                    yield product_of([(e, n), (1, squared)]), "square", words, 0.015
                if not (isinstance(n, Operation) and n.operator == "^"):
                    squared = operation("^", n, _plain(2))
                    words = f"{written(n)} is to be squared."
                    yield (
                        told([*factors[:k], (e, squared), *factors[k + 1 :]]),
                        "square",
                        words,
                        0.015,
                    )
            yield from self._ratio_turned(factors, sign)
            yield from self._in_series(node)
            yield from self._with_square_moved(factors, sign)
            yield from self._other_share(factors, sign)
        for times, below, (key, words), weight in self._constants(shown, is_whole):
            constants = [*((1, n) for n in times), *((-1, n) for n in below)]
            yield told([*constants, *factors]), key, words, weight
        pi = (1, Name("pi", 0, 0))
        if is_whole and pi not in factors:
            yield told([factors[0], pi, *factors[1:]]), "two_pi", "π is missing as a factor.", 0.02
        for at in (1, -1):
            constant = [(at, _plain(2)), (at, pi[1])]
            if all(c in factors for c in constant):
                rest = [f for f in factors if f not in constant]
                yield told(rest), "two_pi", "There is a 2π too many.", 0.03
        imaginary = (1, Name("j", 0, 0))
        if imaginary in factors:
            rest = [f for f in factors if f != imaginary]
            yield told(rest), "j", f"There is a j too many in {shown}.", 0.015
        elif not isinstance(node, Call):
            yield told([imaginary, *factors]), "j", f"The j of {shown} is missing.", 0.02

    def _constants(
        self, shown: str, is_whole: bool
    ) -> Iterator[tuple[list[Node], list[Node], tuple[str, str], float]]:
        two, pi = _plain(2), Name("pi", 0, 0)
        where = "" if is_whole else f" in {shown}"
        yield [two, pi], [], ("two_pi", f"2π is missing as a factor{where}."), 0.04
        yield [], [two, pi], ("two_pi", f"2π is missing below the line{where}."), 0.05
        root = Call("sqrt", (two,), 0, 0)
        missing, many = (
            f"A factor of 2 is missing{where}",
            f"There is a factor of 2 too many{where}",
        )
        if is_whole and self.is_ac:
            yield [root], [], ("peak_or_rms", "An RMS value was taken for a peak value."), 0.012
            yield [], [root], ("peak_or_rms", "A peak value was taken for an RMS value."), 0.012
            missing += ", as between a peak value and a peak-to-peak value"
            many += ", as between a peak-to-peak value and a peak value"
        yield [two], [], ("factor_two", f"{missing}."), 0.01
        yield [], [two], ("factor_two", f"{many}."), 0.01

    def _ratio_turned(self, factors: list[tuple[int, Node]], sign: int) -> Iterator[Change]:
        """b/a for a/b, within a longer product."""
        parts = [k for k, (_, n) in enumerate(factors) if isinstance(n, Name) and n in self.parts]
        for one, other in combinations(parts, 2):
            (e, n), (f, m) = factors[one], factors[other]
            if e == f:
                continue
            turned = list(factors)
            turned[one], turned[other] = (-e, n), (-f, m)
            above, below = (n, m) if e > 0 else (m, n)
            words = f"{written(above)}/{written(below)} is upside down."
            yield product_of(turned, sign), "upside_down", words, 0.02

    def _in_series(self, node: Node) -> Iterator[Change]:
        """a + b for a*b/(a+b)."""
        if not (isinstance(node, Operation) and node.operator == "/"):
            return
        _, above = factors_of(node.left)
        below = terms_of(node.right)
        if len(above) == 2 and {n for _, n in above} == {n for _, n in below}:
            words = f"{written(node)} is for parts in parallel; here they are in series."
            yield node.right, "series", words, 0.02

    def _with_square_moved(self, factors: list[tuple[int, Node]], sign: int) -> Iterator[Change]:
        for k, (e, n) in enumerate(factors):
            if not (isinstance(n, Operation) and n.operator == "^"):
                continue
            for m, (at, other) in enumerate(factors):
                if m != k and not isinstance(other, Number):
                    moved = list(factors)
                    moved[k], moved[m] = (e, n.left), (at, operation("^", other, n.right))
                    words = f"The power is of {written(other)}, not of {written(n.left)}."
                    yield product_of(moved, sign), "square", words, 0.02

    def _other_share(self, factors: list[tuple[int, Node]], sign: int) -> Iterator[Change]:
        """b/(a+b) for a/(a+b), of a divider or a first order."""
        for k, (e, n) in enumerate(factors):
            terms = terms_of(n)
            if e > 0 or len(terms) != 2:
                continue
            rest = [*factors[:k], *factors[k + 1 :]]
            if all(isinstance(term, Name) for _, term in terms):
                continue  # one name stands where another belongs
            for (s, a), (r, b) in (terms, terms[::-1]):
                one, other = ([f for f in factors_of(each)[1] if f[1] != ONE] for each in (a, b))
                if all(f in rest for f in one):
                    left = [f for f in rest if f not in one]
                    words = (
                        f"That is the share of {written(a)}, and here is the one of {written(b)}."
                    )
                    yield (
                        product_of([*left, *other, (e, n)], sign * s * r),
                        "other_share",
                        words,
                        0.025,
                    )


def _with_pair_in_parallel(node: Node, one: Node, other: Node) -> Node:
    terms = terms_of(node)
    if (1, one) in terms and (1, other) in terms:
        rest = [term for term in terms if term not in ((1, one), (1, other))]
        return sum_of([(1, operation(PARALLEL, one, other)), *rest])
    match node:
        case Operation(operator="+" | "-"):
            return sum_of([(s, _with_pair_in_parallel(n, one, other)) for s, n in terms])
        case Operation(operator="*" | "/"):
            sign, factors = factors_of(node)
            return product_of(
                [(e, _with_pair_in_parallel(n, one, other)) for e, n in factors], sign
            )
        case Operation():
            return operation(
                node.operator,
                *(_with_pair_in_parallel(n, one, other) for n in (node.left, node.right)),
            )
    return node


def _turned(node: Node) -> Node:
    sign, factors = factors_of(node)
    return product_of(factors, -sign)


def _plain(value: float) -> Number:
    return Number(value, NUMBER, f"{value:g}", 0, 0)


_ADDED = tuple(UNITS[unit] for unit in ("Ω", "F", "H", "S") if unit in UNITS)
