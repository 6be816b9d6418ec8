"""Predict on the demo circuits: a typed line held against the circuit, workings, a value sought."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.evaluation import evaluation_of
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.seek import Free, Target, sought
from lucidbench.core.evaluate.worked_out import working_of
from tests.benchmarks.effort import repeated
from tests.benchmarks.rows import Row

EXAMPLES = Path(__file__).parents[2] / "examples"
LINE, WORKING, SEEK = 0.3, 2.0, 2.0  # [s]
_HOWS = ("rest", "phasor", "gain", "step")


def rows() -> Sequence[Row]:
    exercises = [
        read_exercise(path.read_bytes())
        for path in sorted(EXAMPLES.glob("*.json"))[: repeated(12, 3)]
    ]
    lines = [t for exercise in exercises for t in _of_lines(exercise)]
    workings = [t for exercise in exercises for t in _of_workings(exercise)]
    seeks = [t for exercise in exercises for t in _of_seeks(exercise)]
    return [
        Row(f"a line held against the circuit, p95 of {len(lines)}", "300 ms", _p95(lines), LINE, 1.0),
        Row(f"working in every way, slowest of {len(workings)} figures", "2 s", max(workings), WORKING, 1.0),
        Row(f"a value sought, slowest of {len(seeks)}", "2 s", max(seeks), SEEK, 1.0),
    ]  # fmt: skip


def _p95(times: list[float]) -> float:
    return float(np.quantile(times, 0.95))


def _took(began: float) -> float:
    return time.perf_counter() - began


def _of_lines(exercise: Exercise) -> Iterator[float]:
    """Each line as if it were the last to be typed, with those before it that it may rest on, in an exercise
    that is being worked at: its circuit is as it was a line ago."""
    exactness(exercise)
    for k in range(len(exercise.hand)):
        own = exercise.model_copy(update={"hand": exercise.hand[: k + 1]})
        began = time.perf_counter()
        exactness(own)
        yield _took(began)


def _of_workings(exercise: Exercise) -> Iterator[float]:
    for quantity in evaluation_of(exercise).quantities:
        for how in _HOWS:
            began = time.perf_counter()
            try:
                working_of(exercise, quantity.name, how)
            except LucidError:
                continue
            yield _took(began)


def _of_seeks(exercise: Exercise) -> Iterator[float]:
    """Every resistor, for each figure at rest a tenth larger."""
    quantities = [q for q in evaluation_of(exercise).quantities if q.kind == "voltage" and q.value][
        :3
    ]
    for part in exercise.schematic.parts:
        for quantity in quantities if part.kind == "resistor" else ():
            began = time.perf_counter()
            try:
                sought(
                    exercise,
                    [Free(part.name)],
                    [Target(quantity.name, f"{1.1 * quantity.value:.6g}")],
                )
            except LucidError:
                continue
            yield _took(began)
