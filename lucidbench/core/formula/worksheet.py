"""A page of working: lines of formulas, each seeing the parts' values and the lines before it.

A line `V_out = V1*R2/(R1+R2)` gives a hand value for V_out. Names resolve first to earlier lines,
then to parts, then to simulated quantities; a line that draws on a simulation is no hand value.

A line `V_a/R1 + V_b/R2 = I1` is an equation: it holds, or does not. A line `R2 = ?` asks for a value; while
one
does, parts may be given other values by lines (`C1 = 10 nF`), and a name may be worked out a second time:
that is then a condition, which the value that is sought has to meet. A line with t or f in it, where nothing
is called so, is a curve: it has no value, and is drawn over time or frequency.
"""

from __future__ import annotations

import math
import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula.evaluate import CONSTANTS, Known, evaluate, names_in
from lucidbench.core.formula.parser import parse, sides_of
from lucidbench.core.formula.tree import Formula, Negation, Node, Number, Operation
from lucidbench.core.formula.typeset import latex, name_latex
from lucidbench.core.units.dimensions import CURRENT, FREQUENCY, POWER, TIME, VOLTAGE, Dimension
from lucidbench.core.units.uncertain import EXPANDED

PLUS_MINUS = "±"
SOUGHT = "?"
Role = Literal["formula", "equation", "sought", "condition", "curve"]
# With a value at which units are checked; angular frequencies are 2π·f.
ANGULAR = {name: Known(2 * math.pi, FREQUENCY) for name in ("ω", "w", "omega")}
VARIABLES = {"t": Known(1.0, TIME), "f": Known(1.0, FREQUENCY), **ANGULAR}
_HOLDS = 1e-3  # relative: what three-figure working agrees within
_LAST_DIGIT = EXPANDED / 2  # half a digit either way is even
_TARGETS: dict[str, Dimension] = {"V": VOLTAGE, "U": VOLTAGE, "I": CURRENT, "P": POWER}


@dataclass(frozen=True)
class WorkedLine:
    """One line worked out, or the error that stopped it. `latex` is there whenever it parsed. `spread` is the
    expanded uncertainty it was given behind a ±, or that of the last digit of a figure that was written
    down. `role` is what kind of line it is; of an equation or a condition, `holds` is whether it does, None
    where that is not known."""

    text: str
    target: str | None = None
    result: Known | None = None
    latex: str | None = None
    substituted: str | None = None
    error: FormulaError | None = None
    spread: float | None = None
    role: Role = "formula"
    holds: bool | None = None


def work_out(
    lines: Sequence[str],
    parts: Mapping[str, Known],
    simulated: Mapping[str, Known],
    parameters: Collection[str] = (),
    given: Sequence[Mapping[str, Known]] = (),
) -> list[WorkedLine]:
    """Work out `lines` in order. Errors stay with their line; later lines go on.

    `parts` are all names with a value on the drawing; those of them that are `parameters` may be worked
    out as well: that is where their values come from. `given` is, line by line, what names stand for there
    that are not worked out.
    """
    fixed = set(parts) - set(parameters)
    is_design = any(sought_in(text) for text in lines)
    names: dict[str, Known] = {**simulated, **parts}
    worked: dict[str, int] = {}
    moving = {name: known for name, known in VARIABLES.items() if name not in parts}
    page: list[WorkedLine] = []
    for number, text in enumerate(lines, start=1):
        here = names
        if given:
            here = {**names, **{n: k for n, k in given[number - 1].items() if n not in worked}}
        line = _line(text, here, fixed, worked, is_design)
        if line.error or line.role == "equation":
            line = _over_a_variable(line, here, moving)
        page.append(line)
        if line.role not in ("formula", "condition") or not line.target:
            continue
        if is_design and line.target in fixed and line.result:
            names[line.target] = line.result
        elif line.target not in worked and line.target not in fixed:
            worked[line.target] = number
            names.pop(line.target, None)  # a failed line must not let the simulation answer for it
            if line.result:
                names[line.target] = line.result
    return page


def _over_a_variable(
    line: WorkedLine, names: Mapping[str, Known], moving: dict[str, Known]
) -> WorkedLine:
    """The same line as a curve, where that is what it is. `moving` are the names that are none but curves."""
    text = line.text.partition(PLUS_MINUS)[0]
    try:
        has_sides = is_equation(text)
        formula = sides_of(text)[1] if has_sides else parse(text)
        used = names_in(formula.body)
        if not used & set(moving) - set(names) or used - set(names) - set(moving) - set(CONSTANTS):
            return line
        at = {**names, **{n: k for n, k in moving.items() if n not in names}}
        sample = evaluate(formula, at)
        if not has_sides:
            _check_dimension(formula, sample)
    except FormulaError as error:
        return line if line.role == "equation" or not line.latex else replace(line, error=error)
    if formula.target:
        moving[formula.target] = sample
    return replace(line, error=None, role="curve", target=formula.target)


def given_by(text: str) -> str:
    """What stands before the = of a line; "" where there is none."""
    name, equals, _ = text.partition("=")
    return name.strip() if equals else ""


def sought_in(text: str) -> str | None:
    """The name that a line asks for: R2 of `R2 = ?`."""
    name, sign, behind = text.partition("=")
    return name.strip() if sign and behind.strip() == SOUGHT and name.strip() else None


def _line(
    text: str,
    names: Mapping[str, Known],
    parts: Collection[str],
    worked: Mapping[str, int],
    is_design: bool,
) -> WorkedLine:
    if not text.strip():
        return WorkedLine(text)
    sought = sought_in(text)
    if sought:
        return _sought(text, sought)
    if is_equation(text):
        return _equation(text, names)
    said, sign, behind = text.partition(PLUS_MINUS)
    try:
        formula = parse(said)
        spread = parse(behind) if sign and not behind.strip().endswith("%") else None
    except FormulaError as error:
        return WorkedLine(text, error=error)
    head = f"{name_latex(formula.target)} = " if formula.target else ""
    shown = head + latex(formula.body)
    if sign:
        shown += r" \pm " + (latex(spread.body) if spread else behind.strip().replace("%", r"\,\%"))
    role: Role = "formula"
    if is_design and (formula.target in parts or formula.target in worked):
        role = "condition"
    try:
        if role == "formula":
            _check_target(formula, parts, worked)
        result = evaluate(formula, names)
        _check_dimension(formula, result)
        uncertainty = _spread(formula, result, spread, behind if sign else "", names)
    except FormulaError as error:
        if role == "condition" and names_in(formula.body):
            return WorkedLine(text, formula.target, latex=shown, role=role)  # of what is sought
        return WorkedLine(text, formula.target, latex=shown, error=error)
    substituted = latex(formula.body, names) if names_in(formula.body) else None
    holds = None
    before = names.get(formula.target or "") if formula.target in worked else None
    if role == "condition" and before is not None:
        holds = _agree(result, before)
    return WorkedLine(
        text, formula.target, result, shown, substituted, spread=uncertainty, role=role, holds=holds
    )


def _sought(text: str, name: str) -> WorkedLine:
    try:
        target = parse(f"{name} = 1").target
    except FormulaError as error:
        return WorkedLine(text, error=error, role="sought")
    return WorkedLine(text, target, latex=f"{name_latex(name)} = {SOUGHT}", role="sought")


def is_equation(text: str) -> bool:
    """Whether more than a name stands before its =."""
    before, sign, _ = text.partition("=")
    return bool(sign and before.strip()) and not re.fullmatch(
        r"[^\W\d]\w*(?:\.\w+)*", before.strip()
    )


def _equation(text: str, names: Mapping[str, Known]) -> WorkedLine:
    try:
        left, right = sides_of(text)
    except FormulaError as error:
        return WorkedLine(text, error=error, role="equation")
    shown = f"{latex(left.body)} = {latex(right.body)}"
    if (names_in(left.body) | names_in(right.body)) - set(names) - set(CONSTANTS):
        return WorkedLine(text, latex=shown, role="equation")
    try:
        apart = sides_apart(left, right, names)
    except FormulaError as error:
        return WorkedLine(text, latex=shown, error=error, role="equation")
    scale = max(largest_term(left.body, names), largest_term(right.body, names))
    holds = apart <= _HOLDS * scale
    return WorkedLine(text, latex=shown, role="equation", holds=holds)


def sides_apart(left: Formula, right: Formula, names: Mapping[str, Known]) -> float:
    """How far the two sides of an equation are apart. Raises FormulaError where they are of two kinds, or
    come to nothing."""
    one, other = evaluate(left, names), evaluate(right, names)
    if one.dimension != other.dimension and not (_is_zero(left.body) or _is_zero(right.body)):
        raise FormulaError(
            f"left of = stands {one.dimension.quantity}, and right of it {other.dimension.quantity}",
            left.text.find("="),
        )
    return abs(complex(one.value) - complex(other.value))


def _is_zero(body: Node) -> bool:
    """A 0 needs no unit."""
    return isinstance(body, Number) and body.value == 0


def largest_term(node: Node, names: Mapping[str, Known]) -> float:
    """Of a sum, in the unit it has."""
    if isinstance(node, Operation) and node.operator in ("+", "-"):
        return max(largest_term(node.left, names), largest_term(node.right, names))
    return abs(complex(evaluate(Formula(None, node, ""), names).value))


def _agree(one: Known, other: Known) -> bool:
    a, b = complex(one.value), complex(other.value)
    return one.dimension == other.dimension and abs(a - b) <= _HOLDS * max(abs(a), abs(b))


def _spread(
    formula: Formula, result: Known, spread: Formula | None, behind: str, names: Mapping[str, Known]
) -> float | None:
    """The expanded uncertainty of a line. Raises FormulaError where what stands behind its ± is none."""
    at = len(formula.text) + len(PLUS_MINUS)
    if spread is not None:
        told = evaluate(spread, names)
        if told.dimension != result.dimension:
            raise FormulaError(
                f"behind the ± stands {told.dimension.quantity}, and before it {result.dimension.quantity}",
                at,
            )
        return abs(complex(told.value).real)
    if behind:
        try:
            share = float(behind.strip().removesuffix("%").strip().replace(",", "."))
        except ValueError as error:
            raise FormulaError("behind the ± stands no number", at) from error
        return abs(share / 100 * complex(result.value).real)
    body = formula.body.operand if isinstance(formula.body, Negation) else formula.body
    return _LAST_DIGIT * place_of(body) if isinstance(body, Number) else None


def place_of(number: Number) -> float:
    """What one is worth in the last digit that was written."""
    written = re.match(r"\d*\.?\d*(?:[eE][+-]?\d+)?", number.text.strip())
    figures = written[0] if written else ""
    mantissa = re.split("[eE]", figures)[0]
    shown = float(figures) if mantissa.strip(".") else 0.0
    if not shown:
        return 0.0
    decimals = len(mantissa.partition(".")[2])
    factor = abs(complex(number.value)) / abs(shown)  # of the prefix
    power = shown / float(mantissa)
    return factor * power * 10.0**-decimals


def _check_target(formula: Formula, parts: Collection[str], worked: Mapping[str, int]) -> None:
    target = formula.target
    if target is None:
        return
    at = formula.text.find(target)
    if target in worked:
        raise FormulaError(
            f"{target} is already worked out in line {worked[target]}", at, len(target)
        )
    if target in parts:
        raise FormulaError(
            f"{target} is a part on the drawing, and its value is set there; give what you work "
            f"out another name, such as {target}_wanted",
            at,
            len(target),
        )


def _check_dimension(formula: Formula, result: Known) -> None:
    letter, underscore, _ = (formula.target or "").partition("_")
    wanted = _TARGETS.get(letter) if underscore else None
    if wanted and result.dimension != wanted:
        raise FormulaError(
            f"{formula.target} should be {wanted.quantity}, and this comes to "
            f"{result.dimension.quantity}",
            formula.body.at,
            formula.body.end - formula.body.at,
        )
