"""A short pass of every benchmark, so that none rots; its figures mean nothing and are thrown away."""

from __future__ import annotations

import re
import subprocess
import sys

import pytest

from tests.benchmarks.__main__ import NAMES
from tests.serving import HOME, environment

LONGEST = 600  # s, on a busy machine


def short(*words: str) -> str:
    command = [sys.executable, "-m", "tools", "benchmark", "--short", *words]
    ended = subprocess.run(
        command, capture_output=True, text=True, timeout=LONGEST, cwd=HOME, env=environment()
    )
    assert ended.returncode == 0, ended.stderr[-2_000:]
    return ended.stdout


@pytest.mark.parametrize("name", NAMES)
def test_a_benchmark_prints_its_rows(name: str) -> None:
    rows = [line for line in short("--only", name).splitlines() if line.startswith("| ")]
    assert len(rows) >= 2  # the head, and what was measured
    for row in rows[1:]:
        assert re.search(r"\| (yes|NO) \|$", row), row


def test_a_class_is_played() -> None:
    told = short("class", "--students", "4", "--workers", "1")
    things = {line.split("|")[2].strip() for line in told.splitlines() if line.startswith("| 4 ")}
    assert {"look", "save", "run"} <= things
    assert all(
        line.rstrip(" |").endswith(" 0") for line in told.splitlines() if line.startswith("| 4 ")
    )
