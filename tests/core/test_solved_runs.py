"""A run is solved once for one state of its circuit, whoever asks; and never kept where it is no answer."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from lucidbench.core.analyses import Watch
from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.evaluate.curve_verdicts import judged_curves
from lucidbench.core.evaluate.run_figures import Limits
from lucidbench.core.runs import ANALYSES, carry_out
from lucidbench.core.runs.result import SOLVED
from lucidbench.core.runs.store import Store

EXAMPLES = Path(__file__).parents[2] / "examples"
PATIENT = Limits(60.0, 0.0)  # no tolerances, which are other circuits


@pytest.fixture
def counted(monkeypatch: pytest.MonkeyPatch) -> Iterator[Counter[str]]:
    """How often each analysis was carried out of each circuit."""
    counts: Counter[str] = Counter()
    SOLVED.clear()
    for key, kind in list(ANALYSES.items()):

        def solve(*asked: Any, key: str = key, kind: Any = kind) -> Any:
            counts[f"{key} {asked[0].fingerprint}"] += 1
            return kind.solve(*asked)

        monkeypatch.setitem(ANALYSES, key, replace(kind, solve=solve))
    yield counts
    SOLVED.clear()


def filter_exercise(**changes: object) -> Exercise:
    exercise = read_exercise((EXAMPLES / "time-signal-filter.json").read_text())
    return exercise.model_copy(update=changes)


def test_plot_ledger_and_judged_curve_share_one_solution(counted: Counter[str]) -> None:
    exercise = filter_exercise()
    (run,) = exercise.runs
    shown = carry_out(exercise, run)
    evaluation_of(exercise, limits=PATIENT)
    assert list(judged_curves(exercise, "", 60.0))
    assert carry_out(exercise, run).curves == shown.curves
    assert len(counted) == 4  # and with each of three parts at the end of its tolerance
    assert set(counted.values()) == {1}


def test_what_a_run_depends_on_has_it_solved_anew(counted: Counter[str]) -> None:
    exercise = filter_exercise()
    (run,) = exercise.runs
    first = carry_out(exercise, run)
    renamed = run.model_copy(update={"name": "Another", "markers": []})
    assert carry_out(exercise, renamed).curves == first.curves
    assert [*counted.values()] == [1]
    parts = [part.model_copy(deep=True) for part in exercise.schematic.parts]
    next(part for part in parts if part.name == "R1").values["resistance"] = "440"
    schematic = exercise.schematic.model_copy(update={"parts": parts})
    other = carry_out(exercise.model_copy(update={"schematic": schematic}), run)
    assert other.curves[0].y != first.curves[0].y
    assert [*counted.values()] == [1, 1]


def test_a_run_that_ran_out_of_time_is_no_answer(counted: Counter[str]) -> None:
    exercise = read_exercise((EXAMPLES / "hydrophone-stage.json").read_text())
    run = exercise.runs[1].model_copy(update={"settings": {"stop": "1 s"}})
    assert carry_out(exercise, run, Watch(seconds=0.0)).problem
    assert not carry_out(exercise, run.model_copy(update={"settings": {}})).problem
    assert [*counted.values()] == [2]


def test_records_beside_a_run_are_those_of_now(counted: Counter[str]) -> None:
    exercise = filter_exercise()
    (run,) = exercise.runs
    asked = run.model_copy(update={"show": ["V_out/V_in"], "reads": []})
    carry_out(exercise, asked)
    bench = asked.model_copy(update={"show": ["bench(V_out/V_in)"]})
    assert carry_out(exercise, bench).curves
    assert carry_out(filter_exercise(records=[]), bench).shown[0].problem


def test_the_store_forgets_what_was_used_longest_ago() -> None:
    store = Store[str](budget=100)
    for key in "abc":
        store.keep(key, key.upper(), 40)
        store.get("a")
    assert [store.get(key) for key in "abc"] == ["A", None, "C"]
    store.keep("d", "D", 101)  # more than all
    store.keep("a", "AA", 10)
    assert [store.get(key) for key in "acd"] == ["AA", "C", None]
