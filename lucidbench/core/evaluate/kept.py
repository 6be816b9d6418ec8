"""The ledger's figures of runs as they are now: what is quick is worked out anew with every edit."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, Figure, LedgerRow, Run
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import parse
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import Result, fingerprint_of, present, solve
from lucidbench.core.runs.marks import at_marks

CELL = "cell"
AT_MARK, BETWEEN = "at ", "between "  # how the reading of a marker is told: "at A", "between phi"
SECONDS = 0.4  # a run may take for the sake of the ledger; a slower one keeps what it was
_MOST_KNOWN = 64  # runs whose figures are remembered, so that an edit elsewhere costs nothing


class Figured(NamedTuple):
    value: float
    unit: str
    conditions: str


_known: dict[str, Mapping[str, Figured]] = {}


def figures_now(exercise: Exercise, circuit: Circuit) -> dict[str, Figured]:
    """By the ids of the ledger's rows; left out is what took too long, or cannot be read off any more."""
    found: dict[str, Figured] = {}
    for run in exercise.runs:
        rows = [row for row in exercise.ledger if row.figure.run == run.id]
        if rows:
            found |= _of_run(exercise, run, rows, circuit)
    return found


def _of_run(
    exercise: Exercise, run: Run, rows: list[LedgerRow], circuit: Circuit
) -> Mapping[str, Figured]:
    wanted = [(row.id, row.figure.model_dump_json()) for row in rows]
    key = repr((fingerprint_of(circuit, run, exercise.records), run.markers, wanted))
    known = _known.get(key)
    if known is not None:
        return known
    result = solve(exercise, run, Watch(SECONDS))
    told = {} if result.problem else dict(_figures(result, rows))
    _known[key] = told
    while len(_known) > _MOST_KNOWN:
        _known.pop(next(iter(_known)), None)
    return told


def _figures(result: Result, rows: list[LedgerRow]) -> Iterator[tuple[str, Figured]]:
    cells: dict[str, tuple[float, str]] | None = None
    for row in rows:
        figure = row.figure
        try:
            if figure.reading == CELL:
                cells = _cells(result) if cells is None else cells
                value, unit = cells[figure.quantity]
            elif figure.reading.startswith((AT_MARK, BETWEEN)):
                value, unit = _at_marks(result, figure)
            else:
                value, unit = _reading(result, figure)
        except (LucidError, ValueError, LookupError, StopIteration):
            continue
        if unit == "%":
            value, unit = value / 100, ""
        yield row.id, Figured(value, unit, result.conditions)


def _reading(result: Result, figure: Figure) -> tuple[float, str]:
    member = next(m for m in result.members if figure.member in ("", m.key))
    assert result.analysis is not None
    kind = next(k for k in result.analysis.readings if k.key == figure.reading)
    if member.solution.traces is None:
        raise KeyError(figure.quantity)
    text = figure.quantity
    told = kind.read(member.solution.traces.curve(parse(text), text, result.values))
    return float(told), told.unit


def _at_marks(result: Result, figure: Figure) -> tuple[float, str]:
    """Of a curve at one of the run's markers, of the markers' places, or of what lies between them."""
    look = at_marks(result, result.run.markers)
    if figure.reading.startswith(BETWEEN):
        symbol = figure.reading.removeprefix(BETWEEN)
        told = next(f for f in look.between if f.key == symbol)
        return told.value, told.unit
    k = "AB".index(figure.reading.removeprefix(AT_MARK))
    row = next(v for v in look.values if (v.text, v.member) == (figure.quantity, figure.member))
    value = row.values[k]
    if value is None:
        raise KeyError(figure.quantity)
    drawn = next(c for c in present(result).curves if c.text == figure.quantity)
    return value, drawn.unit


def _cells(result: Result) -> dict[str, tuple[float, str]]:
    """Every figure of the run's tables, by the heads of its column and row and the table's title."""
    found: dict[str, tuple[float, str]] = {}
    for table in present(result).tables:
        for row in table.rows:
            for column, cell in zip(table.head, row, strict=False):
                if cell.value is not None:
                    words = ["" if column == "value" else column, row[0].text, table.title]
                    found.setdefault(", ".join(filter(None, words)), (cell.value, cell.unit))
    return found
