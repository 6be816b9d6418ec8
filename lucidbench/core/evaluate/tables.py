"""Ledgers as tables for other programs: CSV as RFC 4180 has it, or a workbook (ISO/IEC 29500)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence

from lucidbench.core.evaluate.ledgers import CaseLedger
from lucidbench.core.runs.files import harmless

VOICES = ("hand", "simulated", "bench")
HEAD = (
    "figure",
    "case",
    "unit",
    *(word for v in VOICES for word in (v, f"{v} ±")),
    "verdict",
    "note",
)
Cell = str | float


def lines_of(ledgers: Sequence[CaseLedger]) -> Iterator[list[Cell]]:
    """A line for each figure of each case; what a voice does not say is empty."""
    for each in ledgers:
        for row in each.rows:
            told: list[Cell] = [row.quantity, each.name, row.unit]
            for numbers in row.numbers:
                value, uncertainty = numbers or ("", "")
                told += [value, uncertainty or ""]
            yield [*told, row.verdict, row.note]


def as_csv(ledgers: Sequence[CaseLedger]) -> str:
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(HEAD)
    writer.writerows(
        [harmless(c) if isinstance(c, str) else c for c in line] for line in lines_of(ledgers)
    )
    return text.getvalue()


def as_xlsx(ledgers: Sequence[CaseLedger]) -> bytes:
    """A sheet of the ledger, one of the curves judged."""
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet("Ledger")
    sheet.append(HEAD)
    for line in lines_of(ledgers):
        sheet.append([harmless(c) if isinstance(c, str) else c for c in line])
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
