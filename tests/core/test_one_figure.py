"""The same figure asked for in several places is the same number, to its last digit."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path

import pytest

from lucidbench.core.document.exercise import Exercise, LedgerRow, read_exercise
from lucidbench.core.document.figure import Cell, OfCurve, run_of
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.evaluate.ledgers import ledgers
from lucidbench.core.evaluate.run_figures import Limits
from lucidbench.core.evaluate.tables import as_csv
from lucidbench.core.runs import carry_out

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
PATIENT = Limits(60.0, 60.0)


def where_shown(exercise: Exercise, row: LedgerRow) -> Iterator[float]:
    """As the run itself tells it: among the readings of a curve, or in a table."""
    run = next(run for run in exercise.runs if run.id == run_of(row.figure))
    told = carry_out(exercise, run)
    figure = row.figure
    if isinstance(figure, OfCurve):
        for curve in (each for each in told.curves if each.text == figure.curve):
            yield from (each.value for each in curve.readings if each.key == figure.reading)
    if isinstance(figure, Cell):
        (table,) = (each for each in told.tables if each.key == figure.table)
        k = [column.key for column in table.head].index(figure.column)
        rows = (
            each for each in table.rows if (each.subject, each.key) == (figure.subject, figure.row)
        )
        yield from (each.cells[k].value or 0.0 for each in rows)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_run_ledger_and_file_tell_one_number(path: Path) -> None:
    exercise = read_exercise(path.read_text())
    look = {row.quantity: row for row in evaluation_of(exercise, limits=PATIENT).ledger}
    (whole,) = ledgers(exercise, [""])
    asked = {row.quantity: row for row in whole.rows}
    filed = {line["figure"]: line for line in csv.DictReader(io.StringIO(as_csv([whole])))}
    for row in exercise.ledger:
        simulated = look[row.name].numbers[1]
        if simulated is None:
            continue
        told = asked[row.name].numbers[1]
        assert told is not None
        assert told[0] == simulated[0] == json.loads(filed[row.name]["simulated"]), row.name
        if isinstance(row.figure, (OfCurve, Cell)):
            assert list(where_shown(exercise, row)) == [simulated[0]], row.name
