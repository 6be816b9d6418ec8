"""What a record holds, in a short text."""

from __future__ import annotations

from hashlib import blake2b

from lucidbench.core.document.exercise import Record


def content_of(record: Record) -> str:
    """Changes with its numbers, with what they are of, and with how it is laid."""
    total = blake2b(repr((record.id, record.shift, record.scale)).encode(), digest_size=16)
    for column in record.columns:
        total.update(repr((column.quantity, column.unit, column.common)).encode())
        total.update(repr(column.values).encode())
        total.update(repr((column.uncertainty, column.uncertainties)).encode())
    return total.hexdigest()
