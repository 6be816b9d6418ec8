"""`lucid schema`: the JSON Schema of the exercise document."""

from __future__ import annotations

import argparse
import sys

from lucidbench.core.document.exercise import schema

CANNOT_WRITE = 1


def run(options: argparse.Namespace) -> int:
    text = schema()
    if options.output is None:
        print(text, end="")
        return 0
    try:
        options.output.write_text(text, encoding="utf-8")
    except OSError as error:
        print(f"lucid schema: {options.output}: {error.strerror}", file=sys.stderr)
        return CANNOT_WRITE
    return 0
