"""The textbook expression language: parse, work out with units, typeset. Nothing is ever executed."""

from lucidbench.core.formula.evaluate import Known, evaluate, names_in
from lucidbench.core.formula.parser import parse
from lucidbench.core.formula.tree import Formula
from lucidbench.core.formula.typeset import latex, name_latex, quantity_latex
from lucidbench.core.formula.worksheet import WorkedLine, work_out

__all__ = [
    "Formula",
    "Known",
    "WorkedLine",
    "evaluate",
    "latex",
    "name_latex",
    "names_in",
    "parse",
    "quantity_latex",
    "work_out",
]
