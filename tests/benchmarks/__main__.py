"""Measure every row and print the table."""

from __future__ import annotations

import platform
from pathlib import Path

import numba
import numpy as np

from tests.benchmarks import (
    amplifier,
    comparing,
    editing,
    engine,
    explaining,
    looking,
    measuring,
    notebook,
    predicting,
    simulating,
    switching,
)
from tests.benchmarks.rows import HEAD


def machine() -> str:
    """The processor's name, as the system tells it."""
    told = Path("/proc/cpuinfo")
    if told.exists():
        for line in told.read_text().splitlines():
            if line.startswith("model name"):
                return line.partition(":")[2].strip()
    return platform.processor() or platform.machine()


def main() -> None:
    print(f"{machine()}, {platform.system()}, Python {platform.python_version()}, ", end="")
    print(f"numpy {np.__version__}, numba {numba.__version__}\n")
    print(HEAD)
    for measure in (
        amplifier.rows,
        switching.rows,
        lambda: [engine.sweep_row()],
        engine.operating_point_rows,
        engine.ladder_rows,
        lambda: [engine.tolerance_row()],
        looking.rows,
        notebook.rows,
        editing.rows,
        simulating.rows,
        measuring.rows,
        comparing.rows,
        explaining.rows,
        predicting.rows,
    ):
        for row in measure():
            print(row, flush=True)


if __name__ == "__main__":
    main()
