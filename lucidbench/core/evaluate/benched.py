"""What the bench says of the ledger's rows: readings, parts that were measured, and records read off."""

from __future__ import annotations

from collections.abc import Iterator

from lucidbench.core.comparison import BenchEntry, PinnedReading
from lucidbench.core.document.exercise import Exercise, LedgerRow, Record
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings.registry import OVER_FREQUENCY, OVER_TIME, OVER_VALUE, ReadingKind
from lucidbench.core.records.content import content_of
from lucidbench.core.records.curves import axis_of, bench_curves
from lucidbench.core.records.uncertain import reading_of
from lucidbench.core.units.dimensions import UNITS
from lucidbench.core.units.uncertain import with_uncertainty

PART = "part"  # the reading of a part's own value
_KINDS = {"t": OVER_TIME, "f": OVER_FREQUENCY}
_MOST_KNOWN = (
    256  # readings of records that are remembered: an edit of the circuit leaves them as they are
)
_known: dict[tuple[str, str, str], tuple[float, str, float] | None] = {}


def bench_entries(exercise: Exercise) -> list[BenchEntry]:
    """By the names of the ledger's rows; a figure at rest is called as a formula calls it. What was written
    down goes before what a record says."""
    rows = {row.figure: row for row in exercise.ledger}
    found = []
    for note in exercise.measurements:
        row = rows.get(note.figure)
        if row or note.figure.is_at_rest or note.figure.reading == PART:
            name = row.name if row else note.figure.quantity
            found.append(BenchEntry(name, note.text, note.id))
    written = {entry.quantity for entry in found if entry.text.strip()}
    for row in exercise.ledger:
        if row.name not in written:
            found += _of_records(exercise, row)
    return found


def _of_records(exercise: Exercise, row: LedgerRow) -> Iterator[BenchEntry]:
    """The same reading of the same curve, of the last record that has it."""
    figure = row.figure
    for record in reversed(exercise.records):
        if figure.record not in ("", record.id) or figure.member:
            continue
        axis, _ = axis_of(record)
        kinds = {kind.key: kind for kind in _KINDS.get(axis, OVER_VALUE)}
        told = _reading(record, figure.quantity, kinds.get(figure.reading))
        if told is not None:
            value, unit, uncertainty = told
            text = with_uncertainty(value, uncertainty if uncertainty < abs(value) else 0.0, unit)
            yield BenchEntry(row.name, text)
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


def parts_measured(exercise: Exercise, circuit: Circuit) -> list[PinnedReading]:
    """The values of parts that were measured, as they are drawn, with their tolerances."""
    named = {row.name for row in exercise.ledger}
    found = {}
    for note in exercise.measurements:
        name = note.figure.quantity
        element = circuit.by_name.get(name)
        if note.figure.reading != PART or element is None or not element.main_key or name in named:
            continue
        unit = element.device.description.parameter(element.main_key).unit
        value = float(element.values[element.main_key])
        # An even interval of that half-width, expanded (JCGM 100:2008, 4.3.7).
        width = element.spreads.get(element.main_key, 0.0)
        spread = 2 * width * abs(value) / 3**0.5
        if unit in UNITS:
            found[name] = PinnedReading(name, f"value of {name}", value, unit, spread)
    return list(found.values())
