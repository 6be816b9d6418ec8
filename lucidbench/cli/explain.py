"""`lucid explain`: why the bench differs from the circuit, as one JSON object."""

from __future__ import annotations

import argparse
import json
import math
import sys
from pathlib import Path
from typing import Any

from lucidbench.cli.files import is_document, text_of
from lucidbench.core.analyses import Watch
from lucidbench.core.diagnosis import KINDS, Explanation, explained
from lucidbench.core.diagnosis.bench_table import Measured, read_bench_table
from lucidbench.core.document.exercise import read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.gaps import gap_of
from lucidbench.core.evaluate.hand_gaps import (
    BENCH,
    SIMULATED,
    HandExplanation,
    explained_by_hand,
)
from lucidbench.core.netlist import read_netlist

BAD_INPUT = 2
SECONDS = 300.0


def run(options: argparse.Namespace) -> int:
    name = options.file.name
    try:
        only = _keys(options.only)
        text = text_of(options.file)
        if not is_document(text):
            measured = _measured(text, options.bench)
            name = f"{name} with {options.bench.name}"
            told = as_json(explained(measured.observed, only, watch=Watch(SECONDS)))
            notes = measured.notes
        elif options.voices in ("", "bench-simulated"):
            gap = gap_of(read_exercise(text), of=options.figure)
            told, notes = as_json(gap.explained(only, watch=Watch(SECONDS))), gap.notes
        else:
            if not options.figure:
                raise LucidError("a hand figure is explained by its row; name it with --figure")
            against = BENCH if options.voices == "bench-hand" else SIMULATED
            told, notes = (
                _by_hand(explained_by_hand(read_exercise(text), options.figure, against)),
                (),
            )
    except LucidError as error:
        print(f"lucid explain: {name}: {error}", file=sys.stderr)
        return BAD_INPUT
    for note in notes:
        print(f"lucid explain: note: {note}", file=sys.stderr)
    print(json.dumps(_finite(told), ensure_ascii=False, allow_nan=False))
    return 0


def _finite(told: Any) -> Any:
    """The same with null for what is no finite number, of which JSON knows none."""
    match told:
        case dict():
            return {key: _finite(each) for key, each in told.items()}
        case list():
            return [_finite(each) for each in told]
        case float() if not math.isfinite(told):
            return None
    return told


def _measured(text: str, bench: Path | None) -> Measured:
    if bench is None:
        raise LucidError("a netlist is explained beside a table; name it with --bench TABLE.csv")
    return read_bench_table(text_of(bench), read_netlist(text))


def _keys(text: str) -> list[str]:
    keys = [key.strip() for key in text.split(",") if key.strip()]
    known = {kind.key for kind in KINDS} | {"probe_capacitance"}
    unknown = [key for key in keys if key not in known]
    if unknown:
        raise LucidError(f"there is no cause {unknown[0]}; there are {', '.join(sorted(known))}")
    return keys


def as_json(found: Explanation) -> dict[str, Any]:
    """Uncertainties are expanded (k = 2)."""
    return {
        "answer": found.answer,
        "agrees": found.agrees,
        "chi_square": found.chi_square,
        "points": found.points,
        "tolerance_alone": {
            "probability": found.probability_of_data,
            "values": [
                {"part": v.part, "nominal": v.nominal, "value": v.value, "unit": v.unit,
                 "uncertainty": v.uncertainty, "fixed_by_data": v.fixed, "tolerance_is_usual": v.is_usual}
                for v in found.likely
            ],
        },
        "causes": [
            {
                "part": each.causes[0].part, "cause": each.causes[0].key,
                "other": each.causes[0].other or None,
                "value": each.values[0], "unit": each.causes[0].unit, "uncertainty": each.uncertainties[0],
                "probability": each.probability, "explains": each.explains, "group": each.group,
                "chi_square": each.chi_square, "sentence": each.sentence,
                "with": [
                    {"part": cause.part, "cause": cause.key, "other": cause.other or None, "value": value,
                     "unit": cause.unit, "uncertainty": uncertainty}
                    for cause, value, uncertainty in list(
                        zip(each.causes, each.values, each.uncertainties, strict=True))[1:]
                ],
            }
            for each in found.causes
        ],
        "groups": [list(group) for group in found.groups],
        "next_measurement": None if found.next is None else {
            "what": found.next.way, "where": found.next.where, "frequency": found.next.frequency,
            "sentence": found.next.sentence, "expected": list(found.next.expected),
        },
        "residual": found.residual or None,
    }  # fmt: skip


def _by_hand(found: HandExplanation) -> dict[str, Any]:
    """The same of a figure by hand: `value` is what it comes to without the slip, `line` how that reads."""
    return {
        "answer": found.answer, "agrees": found.agrees, "chi_square": None, "points": 1,
        "tolerance_alone": None, "hand": found.hand, "wanted": found.wanted, "unit": found.unit,
        "causes": [
            {"part": each.part, "cause": each.key, "other": None, "value": each.value, "unit": each.unit,
             "uncertainty": None, "probability": each.probability, "explains": each.explains,
             "group": each.group, "sentence": each.sentence, "line": each.text or None}
            for each in found.causes
        ],
        "groups": [list(group) for group in found.groups], "next_measurement": None, "residual": None,
    }  # fmt: skip
