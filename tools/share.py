"""How much of the code is tests, by lines that are not empty."""

from __future__ import annotations

import subprocess
from pathlib import Path

from tools import HOME

_CODE = (".py", ".ts", ".tsx", ".css", ".html", ".sh")


def share_of_tests() -> str:
    """A sentence for the end of the checks. Migrations and what is generated do not count."""
    tests = code = 0
    listed = subprocess.run(
        ["git", "ls-files"], cwd=HOME, capture_output=True, text=True, check=False
    ).stdout.splitlines()
    for name in listed:
        path = HOME / name
        if not name.endswith(_CODE) or "migrations/" in name or not path.is_file():
            continue
        lines = sum(1 for line in path.read_text(errors="replace").splitlines() if line.strip())
        if _is_test(Path(name)):
            tests += lines
        else:
            code += lines
    if not tests:
        return "The share of tests is not known here: this is not a git checkout."
    return (
        f"Tests are {tests / (tests + code):.0%} of the code: {tests:,} of {tests + code:,} lines."
    )


def _is_test(name: Path) -> bool:
    return name.parts[0] == "tests" or ".test." in name.name or "tests" in name.parts
