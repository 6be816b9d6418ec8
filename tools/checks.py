"""`./lucid test` and `./lucid check`: every check, the quick ones beside the tests."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from tools import HOME, WEB, generated
from tools.share import share_of_tests

BIN = Path(sys.executable).parent
NPM = ("npm", "run", "--silent")
DEEP_ZOO = 5000  # circuits of `--deep`
DEEP_STUDY = 0.2  # of the causes that are planted in `--deep`


@dataclass(frozen=True)
class Check:
    label: str
    words: tuple[str | Path, ...]
    folder: Path = HOME


@dataclass(frozen=True)
class Outcome:
    check: Check
    passed: bool
    seconds: float
    output: str


PYTHON_CHECKS = (
    Check("Format", (BIN / "ruff", "format", "--check", ".")),
    Check("Lint", (BIN / "ruff", "check", ".")),
    Check("Import rules", (BIN / "lint-imports",)),
    Check("Types", (BIN / "mypy",)),
)
PAGE_CHECKS = (
    Check("Page: format, lint and import rules", (*NPM, "check"), WEB),
    Check("Page: types", (*NPM, "types"), WEB),
)
ANSWERS = Check(
    "Page: answers of the server for its tests",
    (sys.executable, "-c", "from tools import generated; generated.record()"),
)
PAGE_TESTS = Check("Page: tests", (*NPM, "test"), WEB)
DEEP = (
    Check("Zoo", (sys.executable, "-m", "tools", "zoo", "--runs", str(DEEP_ZOO))),
    Check("Study", (sys.executable, "-m", "tools", "study", "--share", str(DEEP_STUDY))),
)


def run(options: argparse.Namespace) -> int:
    if options.pytest:
        return subprocess.call([sys.executable, "-m", "pytest", *options.pytest], cwd=HOME)
    generated.make()
    if options.command == "check":
        return _closing(_side_by_side([PYTHON_CHECKS, PAGE_CHECKS]))
    os.environ["HYPOTHESIS_PROFILE"] = "deep" if options.deep else "quick"
    began = time.monotonic()
    with ThreadPoolExecutor(2) as beside:
        chains = [
            beside.submit(_one_by_one, PYTHON_CHECKS),
            beside.submit(_one_by_one, (*PAGE_CHECKS, ANSWERS, PAGE_TESTS)),
        ]
        print(
            "· Core, instruments, server, browser; static checks and the page's tests beside them",
            flush=True,
        )
        tests = _pytest()
        outcomes = [outcome for chain in chains for outcome in chain.result()]
    if options.deep:
        outcomes += _one_by_one(DEEP)
    print(share_of_tests())
    print(f"{time.monotonic() - began:.0f} s in all.")
    return _closing([*outcomes, tests])


def _pytest() -> Outcome:
    """Over all processors; what it prints is seen as it comes."""
    check = Check(
        "Core, instruments, server, browser",
        (sys.executable, "-m", "pytest", "-n", str(os.cpu_count() or 1), "--dist", "worksteal"),
    )
    began = time.monotonic()
    code = subprocess.call([str(word) for word in check.words], cwd=check.folder)
    return Outcome(check, code == 0, time.monotonic() - began, "")


def _side_by_side(chains: list[tuple[Check, ...]]) -> list[Outcome]:
    with ThreadPoolExecutor(len(chains)) as threads:
        return [outcome for chain in threads.map(_one_by_one, chains) for outcome in chain]


def _one_by_one(checks: tuple[Check, ...]) -> list[Outcome]:
    found = []
    for check in checks:
        began = time.monotonic()
        ended = subprocess.run(
            [str(word) for word in check.words],
            cwd=check.folder,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        found.append(Outcome(check, ended.returncode == 0, time.monotonic() - began, ended.stdout))
    return found


def _closing(outcomes: list[Outcome]) -> int:
    failed = [outcome for outcome in outcomes if not outcome.passed]
    for outcome in failed:
        if outcome.output:
            print(f"\n--- {outcome.check.label}\n{outcome.output.rstrip()}")
    for outcome in outcomes:
        print(
            f"{'passed' if outcome.passed else 'FAILED'}  {outcome.seconds:4.0f} s  {outcome.check.label}"
        )
    if failed:
        print(f"lucid: failed: {', '.join(o.check.label for o in failed)}.", file=sys.stderr)
        return 1
    print("All checks passed.")
    return 0
