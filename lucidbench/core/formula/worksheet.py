"""A page of working: lines of formulas, each seeing the parts' values and the lines before it.

A line `V_out = V1*R2/(R1+R2)` gives a hand value for V_out. Names resolve first to earlier lines,
then to parts, then to simulated quantities; a line that draws on a simulation is no hand value.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula.evaluate import Known, evaluate, names_in
from lucidbench.core.formula.parser import parse
from lucidbench.core.formula.tree import Formula, Negation, Number
from lucidbench.core.formula.typeset import latex, name_latex
from lucidbench.core.units.dimensions import CURRENT, POWER, VOLTAGE, Dimension
from lucidbench.core.units.uncertain import EXPANDED

PLUS_MINUS = "±"
_LAST_DIGIT = EXPANDED / 2  # half a digit either way is even
_TARGETS: dict[str, Dimension] = {"V": VOLTAGE, "I": CURRENT, "P": POWER}


@dataclass(frozen=True)
class WorkedLine:
    """One line worked out, or the error that stopped it. `latex` is there whenever it parsed. `spread` is the
    expanded uncertainty it was given behind a ±, or that of the last digit of a figure that was written
    down."""

    text: str
    target: str | None = None
    result: Known | None = None
    latex: str | None = None
    substituted: str | None = None
    error: FormulaError | None = None
    spread: float | None = None


def work_out(
    lines: Sequence[str],
    parts: Mapping[str, Known],
    simulated: Mapping[str, Known],
    parameters: Collection[str] = (),
) -> list[WorkedLine]:
    """Work out `lines` in order. Errors stay with their line; later lines go on.

    `parts` are all names with a value on the drawing; those of them that are `parameters` may be worked
    out as well: that is where their values come from.
    """
    fixed = set(parts) - set(parameters)
    names: dict[str, Known] = {**simulated, **parts}
    worked: dict[str, int] = {}
    page: list[WorkedLine] = []
    for number, text in enumerate(lines, start=1):
        line = _line(text, names, fixed, worked)
        page.append(line)
        if line.target and line.target not in worked and line.target not in fixed:
            worked[line.target] = number
            names.pop(line.target, None)  # a failed line must not let the simulation answer for it
            if line.result:
                names[line.target] = line.result
    return page


def _line(
    text: str, names: Mapping[str, Known], parts: Collection[str], worked: Mapping[str, int]
) -> WorkedLine:
    if not text.strip():
        return WorkedLine(text)
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
    try:
        _check_target(formula, parts, worked)
        result = evaluate(formula, names)
        _check_dimension(formula, result)
        uncertainty = _spread(formula, result, spread, behind if sign else "", names)
    except FormulaError as error:
        return WorkedLine(text, formula.target, latex=shown, error=error)
    substituted = latex(formula.body, names) if names_in(formula.body) else None
    return WorkedLine(text, formula.target, result, shown, substituted, spread=uncertainty)


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
    return _LAST_DIGIT * _place(body) if isinstance(body, Number) else None


def _place(number: Number) -> float:
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
