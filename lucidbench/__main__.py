"""`lucid`, and `python -m lucidbench`."""

from __future__ import annotations

import sys
from importlib import import_module

from lucidbench.cli.commands import parser
from lucidbench.tuning import tune


def main(arguments: list[str] | None = None) -> int:
    tune()  # before anything numerical is imported
    options = parser().parse_args(arguments)
    found: int = import_module(options.module).run(options)
    return found


if __name__ == "__main__":
    sys.exit(main())
