"""`lucid working`: a figure worked out step by step, as one JSON object."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from lucidbench.cli.files import is_document, text_of
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known
from lucidbench.core.netlist import Circuit, read_netlist
from lucidbench.core.working import How, Step, Told, workings
from lucidbench.core.working.about import driven_at, frequency_of

BAD_INPUT = 2


def run(options: argparse.Namespace) -> int:
    try:
        circuit = _circuit(options.file)
        how: How = options.how or ("phasor" if driven_at(circuit) else "rest")
        frequency = frequency_of(circuit) if how == "phasor" else None
        ways = workings(circuit, options.figure, how, frequency)
        told = _chosen(ways, options.way)
    except LucidError as error:
        print(f"lucid working: {options.file.name}: {error}", file=sys.stderr)
        return BAD_INPUT
    said = {
        "file": str(options.file),
        "figure": options.figure,
        "as": how,
        "frequency": frequency,
        "way": told.key,
        "answer": told.answer,
        **_quantity(told.value),
        "steps": [_step(step) for step in told.steps],
        "ways": {way.key: way.reason or None for way in ways},
    }
    json.dump(said, sys.stdout, ensure_ascii=False, allow_nan=False, indent=1)
    print()
    return 0


def _circuit(path: Path) -> Circuit:
    text = text_of(path)
    if not is_document(text):
        return read_netlist(text).circuit
    reading = drawing_of(read_exercise(text))
    if not reading.circuit.elements:
        raise LucidError("nothing is drawn yet")
    return reading.circuit


def _chosen(ways: list[Told], key: str) -> Told:
    """The way of this name, or the shortest. Raises LucidError where it does not lead there."""
    own = [way for way in ways if key in (way.key, "")]
    if not own:
        raise LucidError(
            f"there is no way {key} here; {', '.join(way.key for way in ways)} are the ways"
        )
    if not own[0].steps:
        raise LucidError(own[0].reason)
    return own[0]


def _step(step: Step) -> dict[str, Any]:
    return {
        "sentence": step.sentence,
        "line": step.line or None,
        **_quantity(step.value),
        "parts": list(step.parts),
    }


def _quantity(known: Known | None) -> dict[str, Any]:
    """A phasor's value is its real and its imaginary part."""
    if known is None:
        return {"value": None, "unit": None}
    value = complex(known.value)
    return {
        "value": [value.real, value.imag] if value.imag else value.real,
        "unit": known.dimension.unit,
    }
