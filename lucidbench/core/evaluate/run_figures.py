"""Figures of runs as they are now, with what tolerances do to them: quick ones anew with every edit."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

from lucidbench.core.analyses import Watch
from lucidbench.core.comparison import Estimate
from lucidbench.core.document.exercise import Exercise, Run
from lucidbench.core.document.figure import (
    AtMarker,
    BetweenMarkers,
    Cell,
    Figure,
    OfCurve,
    run_of,
)
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import Result, case_of_run, fingerprint_of, present, solve
from lucidbench.core.runs.marks import at_marks
from lucidbench.core.runs.traces import shown_formula
from lucidbench.core.tolerance import Spreads, intervals_of, spreads_of
from lucidbench.core.units.dimensions import NUMBER, UNITS

_MOST_KNOWN = 256  # runs whose figures are remembered, so that an edit elsewhere costs nothing
_UNREADABLE = (LucidError, ValueError, LookupError, StopIteration)


class Limits(NamedTuple):
    """How long [s, of its own work] a run may take for the sake of the ledger, and its tolerances after
    that. What takes longer keeps what it was, or is told without them. Only where it `is_thorough`, figures
    that bend over their tolerances are found and worked out by draws."""

    run: float
    tolerances: float
    is_thorough: bool = False


WHILE_EDITED = Limits(0.4, 0.03)
ON_REQUEST = Limits(60.0, 60.0, is_thorough=True)


class Figured(NamedTuple):
    """`has_tolerances` whether what tolerances do to it is known; `problem` why it is no figure."""

    estimate: Estimate | None
    unit: str
    conditions: str
    has_tolerances: bool = True
    problem: str = ""


_known: dict[str, Mapping[Figure, Figured]] = {}


def figures_now(
    exercise: Exercise,
    case: str,
    circuit: Circuit,
    wanted: Iterable[Figure],
    limits: Limits = WHILE_EDITED,
) -> dict[Figure, Figured]:
    """Those of runs while a `case` is looked at, whose circuit is `circuit`; left out is what took too
    long."""
    asked = list(dict.fromkeys(wanted))
    found: dict[Figure, Figured] = {}
    for run in exercise.runs:
        own = [figure for figure in asked if run_of(figure) == run.id]
        if own:
            found |= _of_run(exercise, case, run, own, circuit, limits)
    return found


def _of_run(
    exercise: Exercise,
    case: str,
    run: Run,
    wanted: Sequence[Figure],
    circuit: Circuit,
    limits: Limits,
) -> Mapping[Figure, Figured]:
    mark = fingerprint_of(circuit, run, exercise)
    own = case_of_run(run, case)
    cases = [each.model_dump_json() for each in exercise.cases] if own != case else []
    key = repr((mark, own, cases, run.markers, [w.model_dump_json() for w in wanted], limits))
    known = _known.get(key)
    if known is not None:
        return known
    watch = Watch(limits.run, clock=time.thread_time)
    result = solve(exercise, run, watch, case)
    if result.problem:
        told = {} if watch.is_over else {f: _trouble(result.problem) for f in wanted}
    else:
        told = _figures(result, wanted, limits)
    _known[key] = told
    while len(_known) > _MOST_KNOWN:
        _known.pop(next(iter(_known)), None)
    return told


def _trouble(sentence: str) -> Figured:
    return Figured(None, "", "", problem=sentence.removesuffix("."))


def _figures(result: Result, wanted: Sequence[Figure], limits: Limits) -> dict[Figure, Figured]:
    read = dict(_read(result, wanted))
    spreads = _spreads(result, read, limits)
    found: dict[Figure, Figured] = {}
    for figure in wanted:
        if figure not in read:
            found[figure] = _trouble(f"{figure.spoken} has no such reading here.")
            continue
        value, unit = read[figure]
        scale, unit = (0.01, "") if unit == "%" else (1.0, unit)
        moves = spreads.limits.get(figure, {}) if spreads else {}
        drawn = spreads.drawn.get(figure) if spreads else None
        estimate = Estimate(
            scale * value,
            UNITS.get(unit, NUMBER),
            limits={source: scale * size for source, size in moves.items()},
            drawn=None if drawn is None else scale * drawn,
        )
        found[figure] = Figured(estimate, unit, result.conditions, spreads is not None)
    return found


def _spreads(
    result: Result, read: Mapping[Figure, tuple[float, str]], limits: Limits
) -> Spreads[Figure] | None:
    """What tolerances do to the figures of a run; None where that takes too long, or it is a family."""
    circuit, analysis = result.circuit, result.analysis
    count = len(intervals_of(circuit))
    if not count:
        return Spreads()
    assert analysis is not None
    if result.members[0].role != "alone" or count * result.seconds > limits.tolerances:
        return None
    until = time.thread_time() + 3 * limits.tolerances

    def again(other: Circuit) -> dict[Figure, float]:
        watch = Watch(max(0.01, until - time.thread_time()), clock=time.thread_time)
        solution = analysis.solve(other, result.settings, watch)
        member = replace(result.members[0], solution=solution)
        moved = replace(result, circuit=other, members=(member,))
        return {figure: value for figure, (value, _) in _read(moved, list(read))}

    nominal = {figure: value for figure, (value, _) in read.items()}
    return spreads_of(circuit, nominal, again, until, is_thorough=limits.is_thorough)


def _read(result: Result, wanted: Sequence[Figure]) -> Iterator[tuple[Figure, tuple[float, str]]]:
    """(figure, (value, unit)) of those that the result has."""
    cells: dict[Place, tuple[float, str]] | None = None
    for figure in wanted:
        try:
            match figure:
                case OfCurve():
                    yield figure, _reading(result, figure)
                case AtMarker():
                    yield figure, _at_marker(result, figure)
                case BetweenMarkers():
                    between = at_marks(result, result.run.markers).between
                    told = next(each for each in between if each.key == figure.reading)
                    yield figure, (told.value, told.unit)
                case Cell():
                    cells = _cells(result) if cells is None else cells
                    yield (
                        figure,
                        cells[
                            figure.table, figure.subject, figure.row, figure.column, figure.member
                        ],
                    )
        except _UNREADABLE:
            continue


def _reading(result: Result, figure: OfCurve) -> tuple[float, str]:
    member = next(m for m in result.members if figure.member in ("", m.key))
    assert result.analysis is not None
    kind = next(k for k in result.analysis.readings if k.key == figure.reading)
    if member.solution.traces is None:
        raise KeyError(figure.curve)
    text = figure.curve
    told = kind.read(member.solution.traces.curve(shown_formula(text), text, result.values))
    return float(told), told.unit


def _at_marker(result: Result, figure: AtMarker) -> tuple[float, str]:
    look = at_marks(result, result.run.markers)
    row = next(v for v in look.values if (v.text, v.member) == (figure.curve, figure.member))
    value = row.values["AB".index(figure.marker)]
    if value is None:
        raise KeyError(figure.curve)
    drawn = next(c for c in present(result).curves if c.text == figure.curve)
    return value, drawn.unit


Place = tuple[str, str, str, str, str]  # of a cell: table, subject, row, column, member


def _cells(result: Result) -> dict[Place, tuple[float, str]]:
    """Every figure of the run's tables."""
    return {
        (table.key, row.subject, row.key, column.key, row.member): (cell.value, cell.unit)
        for table in present(result).tables
        for row in table.rows
        for column, cell in zip(table.head, row.cells, strict=True)
        if cell.value is not None
    }
