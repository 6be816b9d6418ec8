"""One measured row of the table, and how times are taken."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

from tests.benchmarks.effort import repeated


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


TURN = 0.03  # s; how long a work is repeated in its turn, at least once


def side_by_side(
    ours: Callable[[], object], other: Callable[[], object], rounds: int
) -> tuple[float, float]:
    """Seconds of both, in the round whose ratio is the middle one.

    A machine's pace wanders from minute to minute; within a round both meet the same.
    """
    ours(), other()
    return middle([(per_call(ours), per_call(other)) for _ in range(repeated(rounds, 1))])


def middle(pairs: list[tuple[float, float]]) -> tuple[float, float]:
    return sorted(pairs, key=lambda pair: pair[0] / pair[1])[len(pairs) // 2]


def per_call(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    calls = 0
    while (passed := time.perf_counter() - began) < TURN or not calls:
        work()
        calls += 1
    return passed / calls
