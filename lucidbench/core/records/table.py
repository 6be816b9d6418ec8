"""A table as instruments and spreadsheets write it, read as it is meant: fields, decimal sign, heads, units.

Everything that is guessed here can be told instead. Nothing is left out in silence: what cannot be read is
told with its line.
"""

from __future__ import annotations

import io
import re
import warnings
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from lucidbench.core.errors import DocumentError, ValueTextError
from lucidbench.core.units import parse_value
from lucidbench.core.units.prefixes import EXPONENTS, SPELLINGS

Array = npt.NDArray[np.float64]
LARGEST_TABLE = 64_000_000  # bytes
MOST_ROWS = 2_000_000
MOST_COLUMNS = 64
MOST_KEPT = 20_000  # points of a record: of more, those that make its extremes are kept
_LONGEST_HEAD = 200  # lines
_SOON = 3  # lines
_SAMPLE = 400  # lines that decide how fields are parted
DELIMITERS = {";": "semicolons", "\t": "tabs", ",": "commas", " ": "spaces"}

_UNITS = ("V", "A", "Ω", "Hz", "s", "W", "F", "H", "dB", "°", "rad", "%")
_SPELT = {
    "v": "V", "volt": "V", "volts": "V", "a": "A", "amp": "A", "amps": "A", "ampere": "A", "ohm": "Ω",
    "ohms": "Ω", "hz": "Hz", "hertz": "Hz", "s": "s", "sec": "s", "second": "s", "seconds": "s",
    "db": "dB", "deg": "°", "degree": "°", "degrees": "°", "rad": "rad", "radian": "rad",
    "radians": "rad", "w": "W", "watt": "W", "f": "F", "h": "H", "%": "%", "percent": "%",
}  # fmt: skip
_IN_NAME = re.compile(r"^(.*?)\s*(?:[\[(]\s*([^\])]*)\s*[\])]|/\s*([A-Za-zµμΩ°%]{1,4}))\s*$")
_INTERVAL = re.compile(
    r"sampl\w*\W*(interval|period|time)|time\W*(step|increment|interval)|x\W*increment|\bdt\b|delta\W*t",
    re.IGNORECASE,
)
_RATE = re.compile(r"sampl\w*\W*(rate|frequency)|samples\W*(per|/)\W*s", re.I)
_MARKS = {b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16", b"\xef\xbb\xbf": "utf-8-sig"}
_NUMBER = re.compile(r"[-+]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][-+]?\d+)?")

# How a column's numbers are meant, and by what they become values.
VALUE, PEAK_TO_PEAK, RMS, DECIBEL, DEGREES, RADIANS, SPREAD, UNUSED = (
    "value", "peak to peak", "RMS", "dB", "degrees", "radians", "uncertainty", "unused",
)  # fmt: skip


@dataclass
class TableColumn:
    """What a column is taken for. `unit` is that of its numbers as they stand, a prefix with it; `given`
    is one of the words above; `of` the number of the column that a column of uncertainties belongs to."""

    name: str
    unit: str = ""
    given: str = VALUE
    of: int = -1
    quantity: str = ""


@dataclass
class Table:
    """`numbers` of shape (rows, columns), and where they are means their expanded `scatter`, alike.
    `interval` [s] stands for a column of times that is not there."""

    numbers: Array
    columns: list[TableColumn]
    delimiter: str
    decimal: str
    head: list[str] = field(default_factory=list)
    interval: float | None = None
    notes: list[str] = field(default_factory=list)
    scatter: Array | None = None


def decoded(raw: bytes) -> str:
    """As text, whatever it was written in. Raises DocumentError where it is too large."""
    if len(raw) > LARGEST_TABLE:
        raise DocumentError(
            f"The table has more than {LARGEST_TABLE // 1_000_000} MB. Export a shorter part of it, or "
            f"fewer points."
        )
    for mark, encoding in _MARKS.items():
        if raw.startswith(mark):
            return raw.decode(encoding, "replace")
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError:
        return raw.decode("latin-1")


def read_table(text: str, delimiter: str = "", decimal: str = "") -> Table:
    """Raises DocumentError, with the line at fault and what would mend it."""
    lines = text.splitlines()
    if not any(line.strip() for line in lines):
        raise DocumentError("The table is empty.")
    delimiter = delimiter or _delimiter(lines)
    decimal = decimal or _decimal(lines, delimiter)
    first = _first_row(lines, delimiter, decimal)
    if first is None:
        raise DocumentError(
            "No row of numbers was found in the table. Its columns are parted by semicolons, tabs, commas "
            "or spaces, and its numbers have a point or a comma."
        )
    head = [line.rstrip("\r") for line in lines[:first]]
    body = [line for line in lines[first:] if line.strip()]
    if len(body) > MOST_ROWS:
        raise DocumentError(f"The table has {len(body):,} rows; {MOST_ROWS:,} are the most.")
    numbers = _numbers(body, first, delimiter, decimal)
    width = numbers.shape[1]
    if width > MOST_COLUMNS:
        raise DocumentError(f"The table has {width} columns; {MOST_COLUMNS} are the most.")
    table = Table(numbers, _columns(head, width, delimiter), delimiter, decimal, head)
    table.interval = _interval(head, decimal)
    is_timed = table.columns[0].unit in ("s",) or "time" in table.columns[0].name.lower()
    if width > 1 and is_timed:
        table.interval = None
    return table


def _fields(line: str, delimiter: str) -> list[str]:
    if delimiter == " ":
        return line.split()
    fields = [piece.strip().strip('"') for piece in line.rstrip("\r").split(delimiter)]
    while fields and not fields[-1]:
        fields.pop()
    return fields


def _as_numbers(line: str, delimiter: str, decimal: str) -> list[float] | None:
    fields = _fields(line, delimiter)
    try:
        return [float(f.replace(",", ".") if decimal == "," else f) for f in fields] or None
    except ValueError:
        return None


def _delimiter(lines: list[str]) -> str:
    """The one by which most of the later lines come apart in the same number of fields."""
    sample = [line for line in lines[-_SAMPLE:] if line.strip()]
    sample = sample[len(sample) // 2 :]  # heads come before the numbers
    for mark in DELIMITERS:
        counts = [len(_fields(line, mark)) for line in sample if mark in line.strip()]
        if len(counts) >= 0.8 * len(sample) and counts and max(set(counts), key=counts.count) > 1:
            # A comma that stands for a decimal point is no delimiter.
            if mark == "," and _is_decimal_comma(sample):
                continue
            return mark
    return ";"


def _is_decimal_comma(sample: list[str]) -> bool:
    """Whether commas stand within numbers alone: `0,5 1,25`."""
    spaced = [line for line in sample if " " in line.strip() or "\t" in line]
    return bool(spaced) and all(
        all(re.fullmatch(r"[-+]?\d*,?\d+(?:[eE][-+]?\d+)?", word) for word in line.split())
        for line in spaced[:20]
    )


def _decimal(lines: list[str], delimiter: str) -> str:
    if delimiter == ",":
        return "."
    sample = lines[-_SAMPLE:]
    commas = sum(bool(re.search(r"\d,\d", line)) for line in sample)
    points = sum(bool(re.search(r"\d\.\d", line)) for line in sample)
    return "," if commas > points else "."


def _first_row(lines: list[str], delimiter: str, decimal: str) -> int | None:
    """The first row of numbers that one with as many fields follows soon."""
    counts = []
    for line in lines[: _LONGEST_HEAD + _SOON]:
        numbers = _as_numbers(line, delimiter, decimal) if line.strip() else None
        counts.append(len(numbers) if numbers else 0)
    for k, count in enumerate(counts[:_LONGEST_HEAD]):
        if count and count in counts[k + 1 : k + 1 + _SOON]:
            return k
    return None


def _numbers(body: list[str], first: int, delimiter: str, decimal: str) -> Array:
    text = "\n".join(body)
    if decimal == ",":
        text = text.replace(",", ".")
    if '"' in text:
        text = text.replace('"', "")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            found = np.loadtxt(
                io.StringIO(text), delimiter=None if delimiter == " " else delimiter, ndmin=2,
                comments=None,
            )  # fmt: skip
    except (ValueError, UserWarning):
        found = _row_by_row(body, first, delimiter, decimal)
    bad = np.flatnonzero(~np.all(np.isfinite(found), axis=1))
    if len(bad):
        raise DocumentError(
            f"Line {first + int(bad[0]) + 1} of the table holds what is no number (NaN or ∞). Take the "
            f"row out, or leave that column unused."
        )
    return np.asarray(found, np.float64)


def _row_by_row(body: list[str], first: int, delimiter: str, decimal: str) -> Array:
    """The same where rows end in an empty field; raises DocumentError at the first that is none."""
    rows: list[list[float]] = []
    for k, line in enumerate(body):
        numbers = _as_numbers(line, delimiter, decimal)
        if numbers is None:
            wrong = next((f for f in _fields(line, delimiter) if not _NUMBER.fullmatch(f)), "")
            raise DocumentError(
                f"Line {first + k + 1} of the table holds “{wrong[:30]}” where a number is meant."
            )
        if rows and len(numbers) != len(rows[0]):
            raise DocumentError(
                f"Line {first + k + 1} of the table has {len(numbers)} numbers, and those above have "
                f"{len(rows[0])}. Columns are parted by {DELIMITERS.get(delimiter, delimiter)} here."
            )
        rows.append(numbers)
    return np.array(rows)


def _columns(head: list[str], width: int, delimiter: str) -> list[TableColumn]:
    """By the last line of the head with a name for each column, and a line of units behind it."""
    named = [fields for line in head if len(fields := _fields(line, delimiter)) == width]
    units = [""] * width
    if (
        named
        and width
        and all(unit_of(text) or not text.strip() for text in named[-1])
        and any(unit_of(text) for text in named[-1])
    ):
        units = [unit_of(text) or "" for text in named.pop()]
    names = named[-1] if named else [""] * width
    found = []
    for k, (name, unit) in enumerate(zip(names, units, strict=True)):
        inside = _IN_NAME.match(name)
        told = unit_of(inside[2] or inside[3] or "") if inside else None
        column = TableColumn(name.strip() or f"column {k + 1}", unit or told or "")
        _guess(column, first=k == 0)
        found.append(column)
    return found


def _guess(column: TableColumn, first: bool) -> None:
    """How a column's numbers are meant, from its name and unit."""
    words = column.name.lower()
    if not column.unit and first:
        is_frequency = "freq" in words or words in ("f", "hz")
        is_time = "time" in words or words == "t"
        column.unit = "Hz" if is_frequency else "s" if is_time else ""
    plain = column.unit
    if re.search(r"±|uncert|error|std\b|sigma", words):
        column.given = SPREAD
    elif plain == "dB" or re.search(r"\bdb\b", words):
        column.given, column.unit = DECIBEL, ""
    elif plain == "°" or "phase" in words or "deg" in words:
        column.given, column.unit = DEGREES, ""
        if plain == "rad":
            column.given = RADIANS
    elif plain == "rad":
        column.given, column.unit = RADIANS, ""
    elif re.search(r"p-?p\b|pk-?pk|peak.?to.?peak|vpp", words):
        column.given = PEAK_TO_PEAK
    elif re.search(r"\brms\b|vrms|effective", words):
        column.given = RMS


def unit_of(text: str) -> str | None:
    """A unit as it is spelt here, its prefix with it: "mV"; None where the text is none."""
    word = text.strip().strip("[]()").strip()
    if not word:
        return None
    lowered = word.lower()
    if lowered in _SPELT and (len(word) > 1 or word in _UNITS or lowered != "f"):
        return _SPELT[lowered]
    if word in _UNITS:
        return word
    for prefix in (*EXPONENTS, *SPELLINGS):
        rest = word[len(prefix) :]
        if prefix and word.startswith(prefix) and (rest in _UNITS or rest.lower() in _SPELT):
            plain = rest if rest in _UNITS else _SPELT[rest.lower()]
            return f"{SPELLINGS.get(prefix, prefix)}{plain}"
    return None


def _interval(head: list[str], decimal: str) -> float | None:
    """The sample interval [s] that a line of the head tells."""
    for line in head:
        is_rate = bool(_RATE.search(line))
        if not is_rate and not _INTERVAL.search(line):
            continue
        for piece in reversed(re.split(r"[;\t:=]" if decimal == "," else r"[;\t:=,]", line)):
            told = piece.replace(",", ".") if decimal == "," else piece
            told = told.replace("Sa/s", "Hz").replace("S/s", "Hz")
            try:
                number = parse_value(told, "Hz" if is_rate else "s").number
            except ValueTextError:
                continue
            if number > 0:
                return 1 / number if is_rate else number
    return None
