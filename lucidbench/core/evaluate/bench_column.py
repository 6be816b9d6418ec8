"""What the bench says of the ledger's rows: readings, parts that were measured, and records read off."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from lucidbench.core.comparison import BenchEntry, Estimate
from lucidbench.core.document.exercise import Exercise, Record
from lucidbench.core.document.figure import (
    Figure,
    OfCurve,
    OfPart,
    QuantityAtRest,
    is_same,
)
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings.registry import OVER_FREQUENCY, OVER_TIME, OVER_VALUE, ReadingKind
from lucidbench.core.records.content import content_of
from lucidbench.core.records.curves import axis_of, bench_curves
from lucidbench.core.records.uncertain import reading_of
from lucidbench.core.tolerance import limits_of_part
from lucidbench.core.units.dimensions import UNITS
from lucidbench.core.units.uncertain import with_uncertainty

_KINDS = {"t": OVER_TIME, "f": OVER_FREQUENCY}
_MOST_KNOWN = (
    256  # readings of records that are remembered: an edit of the circuit leaves them as they are
)
_known: dict[tuple[str, str, str], tuple[float, str, float] | None] = {}


def bench_entries(exercise: Exercise, case: str, figures: Mapping[str, Figure]) -> list[BenchEntry]:
    """What was read in a case, by the names of `figures`; a figure at rest is called as a formula calls it,
    where that is not the name of another figure. What was written down goes before what a record says."""
    found = []
    for note in exercise.measurements:
        if note.figure.case != case:
            continue
        names = [name for name, figure in figures.items() if is_same(note.figure, figure)]
        if not names and isinstance(note.figure, (QuantityAtRest, OfPart)):
            names = [note.figure.spoken] if note.figure.spoken not in figures else []
        found += [BenchEntry(name, note.text, note.id) for name in names]
    written = {entry.quantity for entry in found if entry.text.strip()}
    for name, figure in figures.items():
        if name not in written and isinstance(figure, OfCurve):
            found += _of_records(exercise, case, name, figure)
    return found


def _of_records(exercise: Exercise, case: str, name: str, figure: OfCurve) -> Iterator[BenchEntry]:
    """The same reading of the same curve, of the last record that has it."""
    for record in reversed(exercise.records):
        if figure.record not in ("", record.id) or figure.member or record.case != case:
            continue
        axis, _ = axis_of(record)
        kinds = {kind.key: kind for kind in _KINDS.get(axis, OVER_VALUE)}
        told = _reading(record, figure.curve, kinds.get(figure.reading))
        if told is not None:
            value, unit, uncertainty = told
            text = with_uncertainty(value, uncertainty if uncertainty < abs(value) else 0.0, unit)
            yield BenchEntry(name, text)
            return


def _reading(
    record: Record, formula: str, kind: ReadingKind | None
) -> tuple[float, str, float] | None:
    if kind is None:
        return None
    key = (content_of(record), formula, kind.key)
    if key not in _known:
        _known[key] = _read(record, formula, kind)
        while len(_known) > _MOST_KNOWN:
            _known.pop(next(iter(_known)), None)
    return _known[key]


def _read(record: Record, formula: str, kind: ReadingKind) -> tuple[float, str, float] | None:
    try:
        curve = next(c for c in bench_curves(record) if c.formula == formula)
        return reading_of(curve, kind)
    except (LucidError, ValueError, StopIteration):
        return None


def parts_measured(exercise: Exercise, case: str, circuit: Circuit) -> dict[str, Estimate]:
    """The values of parts that were measured, as they are drawn, with their tolerances."""
    named = {row.name for row in exercise.ledger}
    found = {}
    for note in exercise.measurements:
        if not isinstance(note.figure, OfPart) or note.figure.case != case:
            continue
        name = note.figure.part
        element = circuit.by_name.get(name) if name not in named else None
        if element is not None and element.main_key:
            unit = element.device.description.parameter(element.main_key).unit
            value = float(element.values[element.main_key])
            if unit in UNITS:
                found[name] = Estimate(value, UNITS[unit], limits=limits_of_part(element, value))
    return found
