"""`lucid compare`: the ledger of an exercise, as JSON or as a table."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Mapping
from typing import Any

from lucidbench.cli.files import is_document, text_of
from lucidbench.core.cases import BASE, name_of
from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.curve_verdicts import CurveVerdict
from lucidbench.core.evaluate.exact_shapes import Exactness
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.ledgers import CaseLedger, ledgers
from lucidbench.core.evaluate.shapes import RowLook
from lucidbench.core.evaluate.tables import VOICES, as_csv

BAD_INPUT = 2
ALL = "all"


def run(options: argparse.Namespace) -> int:
    try:
        text = text_of(options.file)
        if not is_document(text):
            raise LucidError("this is no exercise document, which alone has a ledger")
        exercise = read_exercise(text)
        found = ledgers(exercise, _cases(exercise, options.case))
    except LucidError as error:
        print(f"lucid compare: {options.file.name}: {error}", file=sys.stderr)
        return BAD_INPUT
    for each in found:
        if each.problem:
            print(f"lucid compare: note: {each.name}: {each.problem}", file=sys.stderr)
    if options.csv:
        print(as_csv(found), end="")
    else:
        exact = {each.case: exactness(exercise, each.case) for each in found}
        told = {
            "rows": [
                _row(row, each, {e.figure: e for e in exact[each.case] if not e.line})
                for each in found
                for row in each.rows
            ],
            "curves_by_hand": [
                {"quantity": held.figure, "case": each.name, **_exact(held)}
                for each in found
                for held in exact[each.case]
                if held.line
            ],
            "curves": [_curve(curve, each) for each in found for curve in each.curves],
        }
        print(json.dumps(told, ensure_ascii=False, allow_nan=False))
    return 0


def _cases(exercise: Exercise, asked: str) -> list[str]:
    """The ids meant. Raises LucidError where there is no such case."""
    ids = [BASE, *(case.id for case in exercise.cases)]
    if asked == ALL:
        return ids
    found = [case for case in ids if asked in (case, name_of(exercise, case))]
    if not found:
        names = ", ".join(name_of(exercise, case) for case in ids)
        raise LucidError(f"there is no case called {asked}; there are {names}")
    return found[:1]


def _row(row: RowLook, case: CaseLedger, exact: Mapping[str, Exactness]) -> dict[str, Any]:
    """A voice that says nothing is null."""
    told: dict[str, Any] = {"figure": row.quantity, "case": case.name}
    for voice, numbers in zip(VOICES, row.numbers, strict=True):
        told[voice] = None
        if numbers is not None:
            value, uncertainty = numbers
            told[voice] = {"value": value, "unit": row.unit, "uncertainty": uncertainty or None}
    values = [numbers[0] if numbers else None for numbers in row.numbers]
    by_hand, simulated, bench = values
    told["difference"] = {
        "simulated_less_hand": _less(simulated, by_hand),
        "bench_less_simulated": _less(bench, simulated),
        "bench_less_hand": _less(bench, by_hand),
    }
    told |= _exact(exact.get(row.quantity))
    told["verdict"] = row.verdict
    told["sentence"] = row.sentence
    return told


def _exact(held: Exactness | None) -> dict[str, Any]:
    """How a hand line stands to the exact result; all null where that is not known."""
    return {
        "against_exact": held.state if held else None,
        "against_exact_sentence": held.sentence if held else None,
        "relative_error": held.relative_error if held else None,
        "worst_error": held.worst if held else None,
        "error_over_tolerances": held.box if held else None,
        "exact_by": held.reference if held else None,
    }


def _less(one: float | None, other: float | None) -> float | None:
    return None if one is None or other is None else one - other


def _curve(curve: CurveVerdict, case: CaseLedger) -> dict[str, Any]:
    return {
        "voices": curve.voices, "record": curve.name or None, "run": curve.run_name, "case": case.name,
        "quantity": curve.quantity,
        "part": curve.part, "inside": curve.inside, "points": curve.count,
        "verdict": curve.verdict, "sentence": curve.sentence, "laid": curve.laid,
    }  # fmt: skip
