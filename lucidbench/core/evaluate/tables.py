"""Ledgers as tables for other programs: what stands in which column, and the files they are written as."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import reduce
from typing import Any

from lucidbench.core.evaluate.ledgers import CaseLedger
from lucidbench.core.evaluate.shapes import RowLook
from lucidbench.core.runs.files import Export, harmless

VOICES = ("hand", "simulated", "bench")
Cell = str | float


@dataclass(frozen=True)
class LedgerColumn:
    """A column by its `head`, and the `path` of what stands in it within a row: fields and places, or "case"
    for the case's name. Of a spread, zero is nothing known."""

    head: str
    path: list[str | int]
    is_spread: bool = False

    def of(self, row: RowLook, case: str) -> Cell:
        if self.path == ["case"]:
            return case
        found: Any = reduce(_step, self.path, row)
        return "" if found is None or (self.is_spread and not found) else found


def _step(held: Any, step: str | int) -> Any:
    if held is None:
        return None
    return getattr(held, step) if isinstance(step, str) else held[step]


# In order; clipboard, CSV and workbook follow.
COLUMNS: list[LedgerColumn] = [
    LedgerColumn("figure", ["quantity"]),
    LedgerColumn("case", ["case"]),
    LedgerColumn("unit", ["unit"]),
    *(
        column
        for k, voice in enumerate(VOICES)
        for column in (
            LedgerColumn(voice, ["numbers", k, 0]),
            LedgerColumn(f"{voice} ±", ["numbers", k, 1], is_spread=True),
        )
    ),
    LedgerColumn("verdict", ["verdict"]),
    LedgerColumn("note", ["note"]),
]


def lines_of(ledgers: Sequence[CaseLedger]) -> Iterator[list[Cell]]:
    """The heads, then a line for each figure of each case; what a voice does not say is empty."""
    yield [column.head for column in COLUMNS]
    for each in ledgers:
        for row in each.rows:
            cells = [column.of(row, each.name) for column in COLUMNS]
            yield [harmless(cell) if isinstance(cell, str) else cell for cell in cells]


def as_csv(ledgers: Sequence[CaseLedger]) -> str:
    """As RFC 4180 has it."""
    text = io.StringIO()
    csv.writer(text).writerows(lines_of(ledgers))
    return text.getvalue()


def as_xlsx(ledgers: Sequence[CaseLedger]) -> bytes:
    """A workbook (ISO/IEC 29500): a sheet of the ledger, one of the curves judged."""
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet("Ledger")
    for line in lines_of(ledgers):
        sheet.append(line)
    curves = book.create_sheet("Curves")
    curves.append(
        ["curve", "part", "voices", "record", "run", "case", "points inside", "points", "verdict"]
    )
    for each in ledgers:
        for curve in each.curves:
            told = [curve.quantity, curve.part, curve.voices, curve.name, curve.run_name, each.name]
            curves.append([*map(harmless, told), curve.inside, curve.count, curve.verdict])
    whole = io.BytesIO()
    book.save(whole)
    return whole.getvalue()


# By the ending of the file's name; what stands here a page offers.
LEDGER_EXPORTS: dict[str, Export[Sequence[CaseLedger]]] = {
    "csv": Export("Table, CSV", lambda ledgers: as_csv(ledgers).encode()),
    "xlsx": Export("Workbook, XLSX", as_xlsx),
}
