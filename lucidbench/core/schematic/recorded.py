"""A column of a table of recorded values, as the waveform of a source."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Sequence

from pydantic import BaseModel

from lucidbench.core.devices.waves import MOST_POINTS
from lucidbench.core.errors import DocumentError
from lucidbench.core.units import engineering
from lucidbench.core.units.engineering import NO_BREAK_SPACE

LARGEST_TABLE = 4_000_000  # characters
MOST_COLUMNS = 64
EVEN = 1e-3  # of the mean interval: what times may be off and still count as equally spaced


class Recorded(BaseModel):
    """The columns there are, the one taken, and the form and values of a source that repeats it."""

    columns: list[str]
    column: int
    form: str
    values: dict[str, str]
    notes: list[str] = []


def recorded(text: str, column: int | None = None) -> Recorded:
    """Read a table with rising times [s] in its first column, and values in the others.

    Fields are parted by commas, semicolons (then with decimal commas) or tabs; lines before the first
    with numbers are heads. Raises DocumentError with the line at fault.
    """
    if len(text) > LARGEST_TABLE:
        raise DocumentError(f"The table has more than {LARGEST_TABLE:,} characters.")
    names, rows = _read(text)
    taken = 1 if column is None else column
    if not 1 <= taken < len(names):
        raise DocumentError(f"The table has no column {taken + 1}; it has {len(names)}.")
    times, values = [row[0] for row in rows], [row[taken] for row in rows]
    for (line, before), (_, here) in zip(enumerate(times), enumerate(times[1:]), strict=False):
        if here <= before:
            raise DocumentError(
                f"The times in the first column must rise; they do not from row {line + 1} to "
                f"{line + 2} of numbers ({before:g} s, {here:g} s)."
            )
    notes = []
    span, mean = times[-1] - times[0], (times[-1] - times[0]) / (len(times) - 1)
    even = all(abs(t - times[0] - k * mean) <= EVEN * mean for k, t in enumerate(times))
    most = MOST_POINTS if even else MOST_POINTS // 2
    if len(times) > most:
        stride = math.ceil((len(times) - 1) / (most - 1))
        notes.append(
            f"Of {len(times):,} rows one in {stride} is taken; {most:,} values are the most."
        )
        times, values, mean = times[::stride], values[::stride], mean * stride
    if even:
        told = {
            "samples": " ".join(f"{v:.6g}" for v in values),
            "interval": engineering(mean, "s", 9).replace(NO_BREAK_SPACE, " "),
        }
    else:
        pairs = zip(times, values, strict=True)
        told = {"points": ", ".join(f"{t - times[0]:.9g} {v:.6g}" for t, v in pairs)}
    if times[0]:
        notes.append(f"It began at {times[0]:g} s, and begins at 0 here; it lasts {span:g} s.")
    form = "samples" if even else "piecewise"
    return Recorded(columns=names, column=taken, form=form, values=told, notes=notes)


def _read(text: str) -> tuple[list[str], list[list[float]]]:
    """(names, rows of numbers), as many numbers a row as there are names."""
    lines = text.lstrip("\ufeff").splitlines()
    sample = next((line for line in reversed(lines) if line.strip()), "")
    parted = next((mark for mark in (";", "\t", ",") if mark in sample), ",")
    heads: list[str] = []
    rows: list[list[float]] = []
    for number, fields in enumerate(csv.reader(io.StringIO("\n".join(lines)), delimiter=parted), 1):
        words = [field.strip() for field in fields]
        if not any(words):
            continue
        numbers = _numbers(words, comma=parted != ",")
        if numbers is None:
            if rows:
                raise DocumentError(f"Line {number} of the table is no row of numbers.")
            heads = words
            continue
        if rows and len(numbers) != len(rows[0]):
            raise DocumentError(
                f"Line {number} of the table has {len(numbers)} numbers, the lines above have "
                f"{len(rows[0])}."
            )
        rows.append(numbers)
    if len(rows) < 2 or not 2 <= len(rows[0]) <= MOST_COLUMNS:
        raise DocumentError(
            "The table needs a column of times and one of values beside it, with two rows or more."
        )
    names = (
        heads if len(heads) == len(rows[0]) else [f"column {k + 1}" for k in range(len(rows[0]))]
    )
    return [name or f"column {k + 1}" for k, name in enumerate(names)], rows


def _numbers(words: Sequence[str], comma: bool) -> list[float] | None:
    while words and not words[-1]:
        words = words[:-1]
    try:
        found = [float(w.replace(",", ".") if comma else w) for w in words]
    except ValueError:
        return None
    return found if found and all(map(math.isfinite, found)) else None
