"""`lucid judge`: what is said of every line of exercises' workings, as one JSON object a file."""

from __future__ import annotations

import argparse
import json
import math
import sys
from dataclasses import asdict
from typing import Any

from lucidbench.cli.files import text_of
from lucidbench.core.document.exercise import read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.judged import JudgedLine, judged

UNREADABLE = 1
_KEYS = (
    "text", "figure", "as", "verdict", "reason", "parts", "error", "error_over_tolerances", "mend",
)  # fmt: skip


def run(options: argparse.Namespace) -> int:
    status = 0
    for path in options.files:
        told: dict[str, Any] = {"file": str(path)}
        try:
            told["lines"] = [_as_json(line) for line in judged(read_exercise(text_of(path)))]
        except LucidError as error:
            told["problem"] = str(error)
            status = UNREADABLE
        print(json.dumps(told, ensure_ascii=False, allow_nan=False))
        sys.stdout.flush()
    return status


def _as_json(line: JudgedLine) -> dict[str, Any]:
    told = asdict(line)
    told["as"] = told.pop("about")
    for key in ("error", "error_over_tolerances"):
        if told[key] is not None and not math.isfinite(told[key]):
            told[key] = None
    return {key: told[key] for key in _KEYS}
