"""What holds for every test: how many random examples are tried, and that what is asked for exists."""

from __future__ import annotations

import os
import re

import pytest

from tests import depth

depth.load(os.environ.get("HYPOTHESIS_PROFILE", depth.QUICK))


def pytest_configure(config: pytest.Config) -> None:
    """Raise UsageError where `-m` names a marker that no test has: it would run nothing, and say nothing."""
    known = {line.partition(":")[0].partition("(")[0].strip() for line in config.getini("markers")}
    words = set(re.findall(r"\w+", config.getoption("markexpr", "") or "")) - {"and", "or", "not"}
    for word in sorted(words - known):
        raise pytest.UsageError(f"no test is marked “{word}”. Marks: {', '.join(sorted(known))}.")
