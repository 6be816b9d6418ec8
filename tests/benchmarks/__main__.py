"""`./lucid benchmark`: measure every row and print the table."""

from __future__ import annotations

import argparse
import os
import platform
import sys
from importlib import import_module
from pathlib import Path

import numba
import numpy as np

from tests.benchmarks.effort import SHORT

# In the order of the table; each has `rows`.
NAMES = (
    "amplifier", "switching", "engine", "looking", "notebook", "editing", "simulating", "measuring",
    "comparing", "explaining", "predicting",
)  # fmt: skip


def run(options: argparse.Namespace) -> int:
    if options.short:
        os.environ[SHORT] = "yes"
    if options.what == "class":
        from tests.benchmarks import classroom

        return classroom.run(options)
    names = [name for name in NAMES if options.only in name]
    if not names:
        print(
            f"lucid: there is no benchmark {options.only}; there are {', '.join(NAMES)}.",
            file=sys.stderr,
        )
        return 2
    from tests.benchmarks.rows import HEAD

    print(f"{_machine()}, {platform.system()}, Python {platform.python_version()}, ", end="")
    print(f"numpy {np.__version__}, numba {numba.__version__}\n")
    print(HEAD)
    for name in names:
        for row in import_module(f"tests.benchmarks.{name}").rows():
            print(row, flush=True)
    return 0


def _machine() -> str:
    """The processor's name, as the system tells it."""
    told = Path("/proc/cpuinfo")
    if told.exists():
        for line in told.read_text().splitlines():
            if line.startswith("model name"):
                return line.partition(":")[2].strip()
    return platform.processor() or platform.machine()
