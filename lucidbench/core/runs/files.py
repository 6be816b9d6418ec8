"""Files that a run's result is written as, one entry of `EXPORTS` each: comma-separated values (RFC 4180), a
workbook."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Generic, TypeVar

from lucidbench.core.errors import DocumentError
from lucidbench.core.runs.looks import CurveLook, RunLook

Columns = tuple[list[str], list[list[float | None]]]
Shown = TypeVar("Shown")


@dataclass(frozen=True)
class Export(Generic[Shown]):
    """A file form. `label` is what a menu calls it; where it is `of_curves`, it is empty without them."""

    label: str
    write: Callable[[Shown], bytes]
    of_curves: bool = False


def written(exports: Mapping[str, Export[Shown]], form: str, what: Shown) -> bytes:
    """The content of the file. Raises DocumentError for an unknown form."""
    if form not in exports:
        raise DocumentError(
            f"Files cannot be written as {form[:20]}; choose {' or '.join(exports)}."
        )
    return exports[form].write(what)


def columns_of(look: RunLook) -> Columns:
    """(heads with units, columns): the axis, then every curve; a phasor has magnitude and phase."""
    heads = [f"{look.axis} [{look.axis_unit}]" if look.axis_unit else look.axis]
    columns: list[list[float | None]] = [list(look.x)]
    for curve in look.curves:
        name = _name(curve)
        unit = f" [{curve.unit}]" if curve.unit else ""
        heads.append(f"{name}{unit}")
        columns.append(curve.y)
        if curve.phase is not None:
            heads.append(f"phase of {name} [°]")
            columns.append(curve.phase)
    return heads, columns


def _name(curve: CurveLook) -> str:
    return f"{curve.text} ({curve.member.label})" if curve.member else curve.text


def as_csv(look: RunLook) -> str:
    """One row an abscissa."""
    heads, columns = columns_of(look)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(heads)
    for row in zip(*columns, strict=True):
        writer.writerow(["" if value is None else repr(value) for value in row])
    return text.getvalue()


def as_xlsx(look: RunLook) -> bytes:
    """A workbook (ISO/IEC 29500): the curves, and a sheet for what is read off them and each table."""
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    if look.curves:
        heads, columns = columns_of(look)
        sheet = book.create_sheet("Curves")
        sheet.append([harmless(head) for head in heads])
        for row in zip(*columns, strict=True):
            sheet.append(row)
        readings = book.create_sheet("Readings")
        readings.append(["curve", "reading", "value", "unit"])
        for curve in look.curves:
            name = _name(curve)
            for figure in curve.readings:
                readings.append([harmless(name), figure.label, figure.value, figure.unit])
    for k, table in enumerate(look.tables, 1):
        sheet = book.create_sheet(_sheet_name(k, table.title))
        sheet.append([harmless(head.text) for head in table.head])
        for each in table.rows:
            sheet.append([harmless(c.text) if c.value is None else c.value for c in each.cells])
    notes = book.create_sheet("Conditions")
    for line in (look.conditions, *look.notes):
        notes.append([harmless(line)])
    whole = io.BytesIO()
    book.save(whole)
    return whole.getvalue()


def harmless(text: str) -> str:
    """Text that no spreadsheet takes for a formula of its own."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") else text


def _sheet_name(number: int, title: str) -> str:
    """At most 31 characters, none of those that are not allowed."""
    return f"{number} {re.sub(r'[^A-Za-z0-9 ]+', ' ', title)}".strip()[:31]


# By the ending of the file's name; what stands here a page offers.
EXPORTS: dict[str, Export[RunLook]] = {
    "csv": Export("All points, CSV", lambda look: as_csv(look).encode(), of_curves=True),
    "xlsx": Export("Workbook, XLSX", as_xlsx),
}
