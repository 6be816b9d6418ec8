"""The curves of the working: lines over t or f, as formulas of parts, to be drawn over what they are of."""

from __future__ import annotations

import re
from dataclasses import dataclass

from lucidbench.core.cases import lines_in
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Formula, names_in, parse
from lucidbench.core.formula.evaluate import CONSTANTS
from lucidbench.core.formula.expand import expanded
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.tree import Node
from lucidbench.core.formula.worksheet import ANGULAR, PLUS_MINUS, VARIABLES, sought_in

_MAY_BE = re.compile(r"(?<![\w.])([tfwω]|omega)(?!\w)")  # by itself; most workings have none


@dataclass(frozen=True)
class HandCurve:
    """Of the line of that id: `of` is what it says something of (V_out, V_out/V_in, H), without blanks;
    `over` is t or f, and `meant` a sentence on what a name of one's own is taken as."""

    line: str
    of: str
    over: str
    formula: Formula
    meant: str = ""


def hand_curves(exercise: Exercise, case: str) -> list[HandCurve]:
    """Those of a case, with the names in them followed through."""
    if not any(_MAY_BE.search(line.text) for line in exercise.hand):
        return []
    definitions: dict[str, Node] = {}
    angular = parse("2*pi*f").body
    found: list[tuple[str, str, Formula]] = []
    parts = {part.name for part in exercise.schematic.parts} | {p.name for p in exercise.parameters}
    for line, said in zip(exercise.hand, lines_in(exercise, case), strict=True):
        text = said.partition(PLUS_MINUS)[0]
        if not text.strip() or sought_in(text):
            continue
        try:
            formula = parse(text)
            of = formula.target
            if of and of not in parts:
                definitions.setdefault(of, formula.body)
        except FormulaError:
            try:
                formula = sides_of(text)[1]
                of = text.partition("=")[0]
            except FormulaError:
                continue
        if of:
            found.append((line.id, of.replace(" ", ""), formula))
    curves = []
    definitions |= dict.fromkeys(set(ANGULAR) - definitions.keys() - parts, angular)
    for identity, of, formula in found:
        others = {name: body for name, body in definitions.items() if name != of}
        try:
            body = expanded(formula.body, others)
        except FormulaError:
            continue
        over = names_in(body) & set(VARIABLES) - parts - set(CONSTANTS)
        if len(over) == 1:
            curves.append(HandCurve(identity, of, over.pop(), Formula(None, body, formula.text)))
    return curves
