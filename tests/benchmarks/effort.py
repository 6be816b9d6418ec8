"""How much a benchmark does: what is to be believed, or a little, to see that it still runs."""

from __future__ import annotations

import os
from typing import TypeVar

SHORT = "LUCID_BENCHMARK_SHORT"  # in the environment; read when a benchmark is loaded
T = TypeVar("T")
_LEAST = 4  # that a quantile can be told of


def repeated(usual: int, least: int = _LEAST) -> int:
    return min(usual, least) if os.environ.get(SHORT) else usual


def sized(usual: T, short: T) -> T:
    return short if os.environ.get(SHORT) else usual
