"""The ledger of four cases after an edit, beside solving the same cases bare."""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable
from functools import partial

import numpy as np

from lucidbench.core.cases import in_case
from lucidbench.core.document.exercise import Exercise, LedgerRow, read_exercise
from lucidbench.core.document.figure import OfCurve, OfFormula, QuantityAtRest
from lucidbench.core.evaluate.ledgers import ledgers
from lucidbench.core.evaluate.run_figures import WHILE_EDITED
from lucidbench.core.runs import solve
from lucidbench.core.runs.result import SOLVED
from tests.benchmarks.effort import repeated
from tests.benchmarks.rows import Row
from tests.serving import HOME

BAR = 0.15  # [s], p95
EDITS = repeated(40)
CASES = ("", "c1", "c2", "c3")
_AT_REST = 20
_READINGS = (
    "maximum", "lower_cutoff", "slope_low", "slope_high",
)  # fmt: skip


def rows() -> list[Row]:
    """30 figures of the Hydrophone stage: at rest, of its sweep, and of formulas of them."""
    stage = _with_rows(read_exercise((HOME / "examples" / "hydrophone-stage.json").read_text()))
    edits = [_edited(stage, k) for k in range(EDITS)]
    ledgers(edits[0], CASES, limits=WHILE_EDITED)
    ours = [_seconds(partial(ledgers, edit, CASES, limits=WHILE_EDITED)) for edit in edits[1:]]
    bare = [_seconds(partial(_bare, edit)) for edit in edits[1:]]
    late = float(np.quantile(ours, 0.95))
    work = "ledger of 30 figures in 4 cases after an edit, p95"
    return [
        Row(work, "150 ms", late, BAR, 1.0),
        Row(work, "the same cases solved bare, p95", late, float(np.quantile(bare, 0.95)), 20.0),
    ]


def _with_rows(stage: Exercise) -> Exercise:
    names = [f"V_{n}" for n in ("b", "c", "e", "vcc")] + [f"I_R{k}" for k in range(1, 6)]
    names += [f"P_R{k}" for k in range(1, 6)] + ["I_V2", "P_V2", "I_Q1.B", "I_Q1.C", "P_Q1"]
    figures = {name: QuantityAtRest(quantity=name) for name in names[:_AT_REST]}
    for k, reading in enumerate(_READINGS):
        figures[f"s_{k}"] = OfCurve(curve="V_out", run="r3", reading=reading)
    formulas = (
        "V_b/V_vcc",
        "V_c - V_e",
        "P_R3/P_V2",
        "I_R3/I_R4",
        "s_0/V_c",
        "s_2 - s_3",
        "V_e/R4",
    )
    for k, text in enumerate(formulas):
        figures[f"x_{k}"] = OfFormula(formula=text)
    chosen = itertools.islice(figures.items(), 30)
    table = [LedgerRow(id=name, name=name, figure=figure) for name, figure in chosen]
    return stage.model_copy(update={"ledger": table, "hand": [], "measurements": []})


def _edited(stage: Exercise, k: int) -> Exercise:
    edited = stage.model_copy(deep=True)
    resistor = next(p for p in edited.schematic.parts if p.name == "R3")
    resistor.values["resistance"] = f"{2.2 + 0.001 * k:.4g} kΩ"
    return edited


def _bare(stage: Exercise) -> None:
    runs = [run for run in stage.runs if run.id in ("r1", "r3")]
    for case in CASES:
        in_case(stage, case)
        for run in runs:
            solve(stage, run, case=case)


def _seconds(work: Callable[[], object]) -> float:
    SOLVED.clear()  # whoever comes first would solve for the other
    began = time.perf_counter()
    work()
    return time.perf_counter() - began
