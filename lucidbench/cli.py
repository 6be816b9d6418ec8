"""`lucid solve`: a circuit from a file, its analyses as JSON on standard output."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from lucidbench.core.analyses import operating_point
from lucidbench.core.errors import CircuitError, LucidError, NetlistError
from lucidbench.core.exercise import LARGEST_DOCUMENT, read_exercise
from lucidbench.core.netlist import Netlist, read_netlist
from lucidbench.core.netlist.text import Request
from lucidbench.core.schematic import read_drawing

BAD_INPUT = 2


def main(arguments: list[str] | None = None) -> int:
    parser = argparse.ArgumentParser(
        prog="lucid solve",
        description="Work out the circuit in FILE: a line-per-element netlist, or an exercise document.",
    )
    parser.add_argument("file", type=Path, metavar="FILE")
    options = parser.parse_args(arguments)
    notes: tuple[str, ...] = ()
    try:
        netlist = _read(options.file)
        notes = netlist.notes
        analyses = [_analyse(netlist, request) for request in netlist.requests]
    except LucidError as error:
        hint = "".join(f" ({note})" for note in notes)
        print(f"lucid solve: {options.file.name}: {error}{hint}", file=sys.stderr)
        return BAD_INPUT
    for note in notes:
        print(f"lucid solve: note: {note}", file=sys.stderr)
    print(json.dumps({"analyses": analyses}, ensure_ascii=False))
    return 0


def _read(path: Path) -> Netlist:
    try:
        size = path.stat().st_size
        if size > LARGEST_DOCUMENT:
            raise LucidError(f"the file has {size:,} bytes; {LARGEST_DOCUMENT:,} are the most")
        raw = path.read_bytes()
    except OSError as error:
        raise LucidError(f"the file cannot be read: {error.strerror}") from error
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as error:
        line = raw[: error.start].count(b"\n") + 1
        raise LucidError(f"line {line}: this is not UTF-8 text") from error
    if text.lstrip("\ufeff \t\r\n").startswith("{"):
        return _drawn(text)
    return read_netlist(text)


def _drawn(text: str) -> Netlist:
    """The circuit of an exercise document. Raises on its first fault."""
    exercise = read_exercise(text)
    drawing = read_drawing(exercise.schematic, exercise.title)
    for finding in drawing.findings:
        if finding.severity == "fault":
            raise LucidError(finding.sentence)
    if not drawing.circuit.elements:
        raise LucidError("The drawing holds no part that could carry a current.")
    return Netlist(drawing.circuit, (Request("operating_point", 1),), {})


def _analyse(netlist: Netlist, request: Request) -> dict[str, object]:
    try:
        values = operating_point(netlist.circuit).values
    except CircuitError as error:
        lines = [netlist.lines[name] for name in error.elements if name in netlist.lines]
        if lines:
            raise NetlistError(max(lines), str(error)) from error
        raise
    return {"kind": request.kind, "values": values}


if __name__ == "__main__":
    sys.exit(main())
