"""One unknown of linear equations in letters, by Cramer's rule.

Minors are expanded column by column, each by a row more than the one before, and each worked out once: what
is multiplied is always a large polynomial by a small one, where elimination multiplies large ones by each
other. (Gentleman and Johnson, Analysis of Algorithms, A Case Study: Determinants of Matrices with Polynomial
Entries, ACM Transactions on Mathematical Software 2, 1976.)
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

Column = dict[int, Any]  # what stands in it, by row


def quotient(columns: Sequence[Column], wanted: int, right: Column) -> tuple[Any, Any]:
    """(numerator, denominator) of the unknown `wanted`, the entries being elements of one ring.

    The denominator, None for nothing, is the determinant; `right` is the right-hand side.
    """
    order = _ordered(columns, wanted)
    last_use = {row: step for step, k in enumerate(order) for row in columns[k]}
    last_use |= {row: len(columns) for row in (*columns[wanted], *right)}
    minors: dict[int, Any] = {0: None}  # by the rows they use, a bit each; None for 1
    for step, k in enumerate(order):
        due = sum(1 << row for row, last in last_use.items() if last == step)
        minors = _wider(minors, columns[k], due)
    return _sum(minors, right), _sum(minors, columns[wanted])


def _ordered(columns: Sequence[Column], wanted: int) -> list[int]:
    """The other columns, so that few rows wait at a time."""
    waiting = [k for k in range(len(columns)) if k != wanted]
    seen: set[int] = set()
    order = []
    while waiting:
        k = min(waiting, key=lambda k: len(columns[k].keys() - seen))
        waiting.remove(k)
        order.append(k)
        seen |= columns[k].keys()
    return order


def _wider(minors: dict[int, Any], column: Column, due: int) -> dict[int, Any]:
    """Minors with one column more. Those without a row that no later column has would come to nothing."""
    found: dict[int, Any] = {}
    for rows, minor in minors.items():
        for row, entry in column.items():
            bit = 1 << row
            if rows & bit or due & ~(rows | bit):
                continue
            term = entry if minor is None else minor * entry
            if (rows >> row).bit_count() % 2:  # rows below it that stand before it
                term = -term
            found[rows | bit] = found[rows | bit] + term if rows | bit in found else term
    return {rows: minor for rows, minor in found.items() if minor}


def _sum(minors: dict[int, Any], column: Column) -> Any:
    """The determinant with this column last; None for nothing."""
    wider = _wider(minors, column, 0)
    return next(iter(wider.values()), None)
