"""The file a command is given."""

from __future__ import annotations

from pathlib import Path

from lucidbench.core.errors import LucidError

LARGEST_FILE = 5_000_000  # bytes


def text_of(path: Path) -> str:
    """Raises LucidError where it cannot be read, is too large or is no UTF-8 text."""
    try:
        size = path.stat().st_size
        if size > LARGEST_FILE:
            raise LucidError(f"the file has {size:,} bytes; {LARGEST_FILE:,} are the most")
        raw = path.read_bytes()
    except OSError as error:
        raise LucidError(f"the file cannot be read: {error.strerror}") from error
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError as error:
        line = raw[: error.start].count(b"\n") + 1
        raise LucidError(f"line {line}: this is not UTF-8 text") from error


def is_document(text: str) -> bool:
    """Whether it is an exercise, and no netlist."""
    return text.lstrip("\ufeff \t\r\n").startswith("{")
