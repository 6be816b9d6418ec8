"""`lucid solve`: a circuit from a file, its analyses as JSON, as a table or as a picture."""

from __future__ import annotations

import argparse
import csv
import json
import os
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from lucidbench.cli.files import is_document, text_of
from lucidbench.core.analyses.run import DEFAULT_SECONDS, RunRefused, Watch
from lucidbench.core.analyses.unrest import unrest_of
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.errors import CircuitError, LucidError, NetlistError
from lucidbench.core.netlist import Netlist, read_netlist
from lucidbench.core.netlist.requests import OperatingPointRequest, Request
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds import answer
from lucidbench.plot import plot

BAD_INPUT = 2


def run(options: argparse.Namespace) -> int:
    notes: list[str] = []
    try:
        netlist = _read(options.file)
        notes += netlist.notes
        watch = Watch(seconds=options.limit_seconds or DEFAULT_SECONDS)
        answers = [_analyse(netlist, request, watch) for request in netlist.requests]
        notes += [note for each in answers for note in each.notes]
        unrest = unrest_of(netlist.circuit)
        notes += [unrest.sentence] if unrest else []
        if options.show:
            answers = [_shown(each, options.show) for each in answers]
        if options.plot:
            options.plot.write_text(plot(netlist.circuit.title, answers), encoding="utf-8")
    except LucidError as error:
        hint = "".join(f" ({note})" for note in notes)
        print(f"lucid solve: {options.file.name}: {error}{hint}", file=sys.stderr)
        return BAD_INPUT
    except OSError as error:
        print(f"lucid solve: {options.plot}: {error.strerror}", file=sys.stderr)
        return BAD_INPUT
    except MemoryError:
        print(
            f"lucid solve: {options.file.name}: the run does not fit into memory", file=sys.stderr
        )
        return BAD_INPUT
    for note in notes:
        print(f"lucid solve: note: {note}", file=sys.stderr)
    try:
        if options.csv:
            _write_csv(answers)
        else:
            found = {"analyses": [each.as_json() for each in answers]}
            print(json.dumps(found, ensure_ascii=False))
        sys.stdout.flush()
    except BrokenPipeError:  # whoever reads has seen enough, as `head` has
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return 0


def _read(path: Path) -> Netlist:
    text = text_of(path)
    return _drawn(text) if is_document(text) else read_netlist(text)


def _drawn(text: str) -> Netlist:
    """The circuit of an exercise document. Raises on its first fault."""
    from lucidbench.core.document.exercise import (
        read_exercise,
    )  # half of the start-up time, for drawings only

    exercise = read_exercise(text)
    drawing = drawing_of(exercise)
    for finding in drawing.findings:
        if finding.severity == "fault":
            raise LucidError(finding.sentence)
    if not drawing.circuit.elements:
        raise LucidError("The drawing holds no part that could carry a current.")
    return Netlist(drawing.circuit, (OperatingPointRequest(1),), {})


def _analyse(netlist: Netlist, request: Request, watch: Watch) -> Answer:
    try:
        return answer(netlist.circuit, request, watch)
    except CircuitError as error:
        lines = [netlist.lines[name] for name in error.elements if name in netlist.lines]
        if lines:
            raise NetlistError(max(lines), str(error)) from error
        raise
    except RunRefused as error:
        if netlist.lines:
            raise NetlistError(request.line, str(error)) from error
        raise


def _shown(given: Answer, names: list[str]) -> Answer:
    """Only the named results. Raises LucidError where one is not there."""
    lowered = {name.lower(): name for name in given.names}
    missing = [name for name in names if name.lower() not in lowered]
    if missing:
        raise LucidError(
            f"there is no {missing[0]} in the result; there are {', '.join(given.names)}"
        )
    wanted = [lowered[name.lower()] for name in names]
    return replace(
        given,
        values={k: given.values[k] for k in wanted} if given.values else given.values,
        traces={k: given.traces[k] for k in wanted} if given.traces else given.traces,
    )


def _write_csv(answers: list[Answer]) -> None:
    """Tables as RFC 4180 has them, one after the other with an empty line between."""
    writer = csv.writer(sys.stdout)
    for k, each in enumerate(answers):
        if k:
            writer.writerow([])
        for row in _rows(each):
            writer.writerow(row)


def _rows(given: Answer) -> list[list[Any]]:
    if given.axis is None:
        return [["name", "value"], *([k, repr(v)] for k, v in given.values.items())]
    head = [f"{given.axis.name} [{given.axis.unit}]" if given.axis.unit else given.axis.name]
    columns: list[Any] = [given.axis.values]
    if given.outer is not None:
        shape = (len(given.outer.values), len(given.axis.values))
        head.insert(0, f"{given.outer.name} [{given.outer.unit}]")
        columns = [
            np.broadcast_to(given.outer.values[:, None], shape).ravel(),
            np.broadcast_to(given.axis.values, shape).ravel(),
        ]
    for name, trace in given.traces.items():
        if np.iscomplexobj(trace):
            head += [f"|{name}|", f"arg {name} [°]"]
            columns += [np.abs(trace), np.degrees(np.angle(trace))]
        else:
            head.append(name)
            columns.append(trace.ravel())
    return [head, *([repr(float(v)) for v in row] for row in zip(*columns, strict=True))]
