"""A table become a record: what was understood of it, what of that is told otherwise, and its columns."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Annotated, Any

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, Field

from lucidbench.core.document.exercise import Column
from lucidbench.core.errors import DocumentError, FormulaError, ValueTextError
from lucidbench.core.formula import parse
from lucidbench.core.records import table as tables
from lucidbench.core.records.table import (
    DECIBEL,
    DEGREES,
    MOST_KEPT,
    PEAK_TO_PEAK,
    RADIANS,
    RMS,
    SPREAD,
    UNUSED,
    VALUE,
    Table,
    TableColumn,
)
from lucidbench.core.units import parse_value
from lucidbench.core.units.engineering import engineering

Array = npt.NDArray[np.float64]
GIVEN = (VALUE, PEAK_TO_PEAK, RMS, DECIBEL, DEGREES, RADIANS, SPREAD, UNUSED)
_SHOWN = 6  # rows of the table, as they were read
_FACTOR = {PEAK_TO_PEAK: 0.5, RMS: float(np.sqrt(2)), RADIANS: 180 / float(np.pi)}
_QUANTITY = re.compile(r"[VIP]_[A-Za-z0-9_.]+")

Word = Annotated[str, Field(max_length=500)]


class ColumnChoice(BaseModel):
    """How a column is meant: `given` as the words of GIVEN say, in `unit`, of `quantity`, a formula; a column
    of uncertainties is `of` another, by its number."""

    name: Word = ""
    unit: Annotated[str, Field(max_length=20)] = ""
    given: Annotated[str, Field(max_length=20)] = VALUE
    quantity: Word = ""
    of: int = -1
    problem: str | None = None


class TableChoices(BaseModel):
    """What is told otherwise than it would be understood; empty: as it is understood."""

    delimiter: Annotated[str, Field(max_length=1)] = ""
    decimal: Annotated[str, Field(max_length=1)] = ""
    interval: Annotated[str, Field(max_length=40)] = ""
    columns: list[ColumnChoice] = Field(default=[], max_length=tables.MOST_COLUMNS)
    uncertainty: Annotated[str, Field(max_length=40)] = ""


class ReadTable(BaseModel):
    """What was understood: the record's `columns` where there is no `problem`, with fewer points where it
    has more than a record keeps."""

    delimiter: str
    decimal: str
    interval: str
    rows: int
    head: list[str]
    sample: list[list[str]]
    choices: list[ColumnChoice]
    columns: list[Column] = []
    notes: list[str] = []
    problem: str | None = None


def imported(raw: bytes, told: TableChoices, known: Sequence[str]) -> ReadTable:
    """`known` are the quantities of the circuit, which columns are named after where that is likely.

    Raises DocumentError where the text is no table; what is meant wrongly is the look's problem.
    """
    table = tables.read_table(tables.decoded(raw), told.delimiter, told.decimal)
    choices = _choices(table, told, known)
    look = ReadTable(
        delimiter=table.delimiter, decimal=table.decimal, rows=len(table.numbers),
        interval=told.interval
        or (engineering(table.interval, "s", 9).replace("\u00a0", " ") if table.interval else ""),
        head=table.head[-8:], choices=choices, notes=table.notes,
        sample=[[f"{v:.6g}" for v in row] for row in table.numbers[:_SHOWN]],
    )  # fmt: skip
    try:
        x, first, rest = _abscissa(table, choices, look.interval)
        look.columns = _record(table, choices, x, first, rest, told.uncertainty, look)
    except DocumentError as error:
        look.problem = str(error)
    return look


def _choices(table: Table, told: TableChoices, known: Sequence[str]) -> list[ColumnChoice]:
    if len(told.columns) == len(table.columns):
        return [choice.model_copy(update={"problem": None}) for choice in told.columns]
    is_table_of_times = table.interval is not None
    found = []
    for k, column in enumerate(table.columns):
        quantity = "" if k == 0 and not is_table_of_times else _likely(column, known)
        found.append(ColumnChoice(name=column.name, unit=column.unit, given=column.given,
                                  quantity=quantity, of=k - 1 if column.given == SPREAD else -1))  # fmt: skip
    first = found[0]
    if not is_table_of_times:
        first.quantity = {"s": "t", "Hz": "f"}.get(_plain(first.unit), first.name)
    for choice in found:
        if choice.given in (VALUE, PEAK_TO_PEAK, RMS) and not choice.unit:
            choice.unit = {"V_": "V", "I_": "A"}.get(choice.quantity[:2], "")
    angles = [c for c in found if c.given in (DEGREES, RADIANS) and not c.quantity]
    sizes = [c for c in found[1:] if c.given in (VALUE, DECIBEL) and c.quantity]
    for angle in angles:  # the phase of what stands beside it
        angle.quantity = sizes[-1].quantity if sizes else ""
    return found


def _likely(column: TableColumn, known: Sequence[str]) -> str:
    """The quantity a column's name speaks of; "" where none is likely."""
    words = set(re.split(r"[^A-Za-z0-9]+", column.name.lower()))
    for name in known:
        if name.lower() in column.name.lower() or (
            name[:2] == "V_" and name[2:].lower() in words and _plain(column.unit) in ("", "V")
        ):
            return name
    own = _QUANTITY.match(column.name)
    if own:  # of another circuit, perhaps, which is said where it is looked at
        return own[0]
    if {"gain", "ratio", "amplification"} & words and {"V_out", "V_in"} <= set(known):
        return "V_out/V_in"
    return ""


def _plain(unit: str) -> str:
    """Without its prefix."""
    if unit in ("", "dB", "°", "rad", "%", "s", "V", "A", "Hz", "Ω", "W", "F", "H"):
        return unit
    return unit[1:]


def _scale(unit: str) -> float:
    plain = _plain(unit)
    if plain == unit:
        return 1.0
    return parse_value(f"1{unit}", plain).number


def _abscissa(
    table: Table, choices: list[ColumnChoice], interval: str
) -> tuple[Array, ColumnChoice, list[int]]:
    """(values, what they are, the other columns). Raises DocumentError."""
    if interval:
        try:
            step = parse_value(interval, "s").number
        except ValueTextError as error:
            raise DocumentError(
                f"The sample interval {interval} cannot be read; {error}."
            ) from error
        if step <= 0:
            raise DocumentError("The sample interval must be above zero.")
        first = ColumnChoice(name="time", unit="s", quantity="t")
        times = np.asarray(step * np.arange(len(table.numbers)), np.float64)
        return times, first, list(range(len(choices)))
    first = choices[0]
    if first.given != VALUE or not first.quantity:
        first.problem = (
            "the first column is what the others are over: a time, a frequency, a source"
        )
        raise DocumentError(
            "The first column must say what the others are over. Choose a time, a frequency or a source "
            "for it, or give a sample interval."
        )
    _average(table, choices)
    x = table.numbers[:, 0] * _scale(first.unit)
    back = np.flatnonzero(np.diff(x) <= 0)
    if len(back):
        k = int(back[0])
        if first.quantity in ("t", "f") or np.any(np.diff(np.sort(x)) == 0):
            what = {"t": "Time", "f": "The frequency"}.get(first.quantity, first.quantity)
            raise DocumentError(
                f"{what} does not go forward from row {k + 1} to row {k + 2} of the numbers "
                f"({table.numbers[k, 0]:g}, then {table.numbers[k + 1, 0]:g}). Sort the rows, or take out "
                f"the double one."
            )
    return x, first, list(range(1, len(choices)))


def _average(table: Table, choices: list[ColumnChoice]) -> None:
    """Where every place was measured several times: the means, with the scatter as their uncertainty.

    JCGM 100:2008, 4.2: the standard uncertainty of a mean is the observations' deviation over the root of
    their number; expanded, twice that.
    """
    places, which, counts = np.unique(table.numbers[:, 0], return_inverse=True, return_counts=True)
    if len(counts) < 2 or np.min(counts) < 2:
        return
    width = table.numbers.shape[1]
    means = np.stack(
        [np.bincount(which, table.numbers[:, k]) / counts for k in range(width)], axis=1
    )
    squares = (table.numbers - means[which]) ** 2
    sums = np.stack([np.bincount(which, squares[:, k]) for k in range(width)], axis=1)
    means[:, 0] = places
    table.numbers = means
    table.scatter = 2 * np.sqrt(sums / (counts - 1)[:, None] / counts[:, None])
    table.notes.append(
        f"Each of the {len(places)} places was measured several times: means are kept, with their scatter "
        f"as uncertainty."
    )


def _record(
    table: Table, choices: list[ColumnChoice], x: Array, first: ColumnChoice, rest: list[int],
    uncertainty: str, look: ReadTable,
) -> list[Column]:  # fmt: skip
    used = [k for k in rest if choices[k].given not in (UNUSED, SPREAD)]
    if not used:
        raise DocumentError("No column of values is used; choose what one of them is.")
    over_frequency = first.quantity == "f"
    columns: list[tuple[Column, Array, Array | None]] = []
    for k in used:
        choice = choices[k]
        choice.problem = _fault(choice)
        if choice.problem:
            raise DocumentError(f"Column {k + 1}, {choice.name[:40]}: {choice.problem}.")
        factor = _scale(choice.unit) * _FACTOR.get(choice.given, 1.0)
        values = table.numbers[:, k] * factor
        spread = next((s for s in rest if choices[s].given == SPREAD and choices[s].of == k), None)
        errors = None
        if table.scatter is not None:
            errors = table.scatter[:, k] * factor
        if spread is not None:
            errors = np.abs(table.numbers[:, spread]) * factor
        columns.append((_column(choice, over_frequency, uncertainty), values, errors))
    quantities = [column.quantity for column, _, _ in columns]
    double = next((q for q in quantities if quantities.count(q) > 1), None)
    if double:
        raise DocumentError(f"Two columns are of {double}; leave one of them unused.")
    kept = _kept(len(x), [values for _, values, _ in columns], look)
    told = [Column(quantity=first.quantity, unit=_plain(first.unit), values=x[kept].tolist())]
    for column, values, errors in columns:
        more: dict[str, Any] = {"values": values[kept].tolist()}
        if errors is not None:
            more |= {"uncertainties": errors[kept].tolist(), "uncertainty": None}
        told.append(column.model_copy(update=more))
    return told


def _fault(choice: ColumnChoice) -> str | None:
    if not choice.quantity.strip():
        return "say what it is of, as V_out, or leave it unused"
    try:
        parse(choice.quantity)
    except FormulaError as error:
        return f"{choice.quantity} cannot be read; {error}"
    if choice.given not in GIVEN:
        return f"{choice.given} is no way to give values"
    try:
        _scale(choice.unit)
    except ValueTextError:
        return f"{choice.unit} is no unit"
    return None


def _column(choice: ColumnChoice, over_frequency: bool, uncertainty: str) -> Column:
    """Empty, with what it is of: over frequency sizes and phases are told apart."""
    text, given = choice.quantity.strip(), choice.given
    unit = _plain(choice.unit)
    if given == DECIBEL:
        text, unit = f"dB({text})", "dB"
    elif given in (DEGREES, RADIANS):
        text, unit = f"arg({text})", "°"
    elif over_frequency:
        text = f"abs({text})"
    common, own = 0.0, None
    told = uncertainty.strip().lstrip("±").strip()
    if told and unit not in ("°",):
        try:
            if told.endswith("%"):
                common = parse_value(told, "%").number
            else:
                own = parse_value(told, unit).number
        except ValueTextError as error:
            raise DocumentError(f"The uncertainty {told} cannot be read; {error}.") from error
    return Column(quantity=text, unit=unit, common=common, uncertainty=own)


def _kept(count: int, curves: list[Array], look: ReadTable) -> npt.NDArray[np.intp]:
    """Which points a record keeps: all, or of equal pieces the least and the largest of every curve."""
    if count <= MOST_KEPT:
        return np.arange(count)
    pieces = MOST_KEPT // (2 * len(curves))
    length = -(-count // pieces)
    kept = [np.array([0, count - 1], np.intp)]
    whole = count // length * length
    starts = np.arange(0, whole, length)
    for curve in curves:
        blocks = curve[:whole].reshape(-1, length)
        kept += [starts + np.argmin(blocks, axis=1), starts + np.argmax(blocks, axis=1)]
    chosen = np.unique(np.concatenate(kept))
    look.notes.append(
        f"Of {count:,} rows {len(chosen):,} are kept: of every {length:,}, the least and the largest."
    )
    return chosen
