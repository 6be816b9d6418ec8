"""The ledgers of several cases, whatever they take: for the table of cases, and for scripts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from lucidbench.core.cases import in_case, name_of
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.curve_verdicts import CurveVerdict, judged_curves
from lucidbench.core.evaluate.evaluation import evaluation_of
from lucidbench.core.evaluate.run_figures import ON_REQUEST, Limits
from lucidbench.core.evaluate.shapes import RowLook

MOST_FIGURES = 8_000  # rows of all cases together


@dataclass(frozen=True, slots=True)
class CaseLedger:
    """`problem` says why the case is of no use to the simulation, or why there are no rows."""

    case: str
    name: str
    rows: list[RowLook]
    problem: str | None
    curves: list[CurveVerdict]


def ledgers(
    exercise: Exercise,
    cases: Sequence[str],
    tell: Callable[[float], None] = lambda share: None,
    limits: Limits = ON_REQUEST,
) -> list[CaseLedger]:
    """In the order of `cases`; `tell` is told how far it has come. Never raises for what a case holds."""
    found: list[CaseLedger] = []
    rows = 0
    for k, case in enumerate(cases):
        tell(k / len(cases))
        name = name_of(exercise, case)
        if rows > MOST_FIGURES:
            sentence = f"These are more than {MOST_FIGURES:,} figures in all cases together."
            found.append(CaseLedger(case, name, [], sentence, []))
            continue
        try:
            in_case(exercise, case)
            look = evaluation_of(exercise, limits=limits, case=case)
        except LucidError as error:
            found.append(CaseLedger(case, name, [], str(error), []))
            continue
        rows += len(look.ledger)
        curves = list(judged_curves(exercise, case, limits.run))
        found.append(CaseLedger(case, name, look.ledger, look.unsolved, curves))
    tell(1.0)
    return found
