"""One measured row of the table, and how times are taken."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """`work` took `ours` [s], what it is held against `other` [s]; `reach` is the ratio aimed at.

    Where `faster`, the ratio is other/ours and should be at least `reach`; else ours/other, at most.
    """

    work: str
    against: str
    ours: float
    other: float
    reach: float
    faster: bool = False

    @property
    def ratio(self) -> float:
        return self.other / self.ours if self.faster else self.ours / self.other

    @property
    def reached(self) -> bool:
        return self.ratio >= self.reach if self.faster else self.ratio <= self.reach

    def __str__(self) -> str:
        sign, mark = ("≥" if self.faster else "≤"), ("yes" if self.reached else "NO")
        return (
            f"| {self.work} | {self.against} | {self.ours * 1e3:.3g} | {self.other * 1e3:.3g} "
            f"| {self.ratio:.3g} | {sign} {self.reach:g} | {mark} |"
        )


HEAD = "| work | against | ms | its ms | ratio | reach | reached |\n|---|---|---|---|---|---|---|"


def best_time(work: Callable[[], object], rounds: int) -> float:
    """Seconds, the least of `rounds`: what the work costs when nothing else runs."""
    work()
    taken = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return min(taken)
