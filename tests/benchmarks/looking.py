"""What the page asks after every edit: one look at thirty parts, in the core and of the server.

Every look is at a value that was not there before, as after an edit.
"""

from __future__ import annotations

import gc
import statistics
import tempfile
import time
from collections.abc import Callable
from itertools import count
from pathlib import Path

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.schematic import Label, Part, Schematic, Wire
from tests.benchmarks.effort import repeated
from tests.benchmarks.rows import Row
from tests.serving import Server, line_to, with_demo

ROUNDS = repeated(300)
REACH = 30e-3  # [s], p95 of one look at 30 parts, asked of a server on this machine


def ladder(sections: int) -> Exercise:
    """A drawn ladder of `sections` series and shunt resistors, all toleranced, with working."""
    parts = [
        Part(
            id="v",
            kind="voltage_source",
            name="V1",
            values={"voltage": "12"},
            at=(0, 4),
            rotation=90,
        ),
        Part(id="g", kind="ground", name="GND", at=(0, 7)),
    ]
    wires = [Wire(id="top", points=[(0, 1), (0, 0), (2, 0)])]
    values = {"resistance": "1k", "tolerance": "5 %"}
    for k in range(sections):
        x = 2 + 10 * k
        series = {"id": f"s{k}", "name": f"R{2 * k + 1}", "at": (x + 3, 0)}
        shunt = {"id": f"p{k}", "name": f"R{2 * k + 2}", "at": (x + 6, 4), "rotation": 90}
        parts += [Part(kind="resistor", values=values, **each) for each in (series, shunt)]
        wires.append(Wire(id=f"a{k}", points=[(x + 6, 0), (x + 6, 1)]))
        wires.append(Wire(id=f"b{k}", points=[(x + 6, 0), (x + 10, 0)]))
        wires.append(Wire(id=f"c{k}", points=[(x - 4 if k else 0, 7), (x + 6, 7)]))
    labels = [Label(id="l", name="out", at=(2 + 10 * sections, 0))]
    hand = [{"id": "h", "text": "V_n1 = V1"}]
    drawing = Schematic(parts=parts, wires=wires, labels=labels)
    return Exercise.model_validate({"schematic": drawing, "hand": hand})


def times(work: Callable[[], object], rounds: int = ROUNDS) -> list[float]:
    """Seconds each round took, after a few that are not counted."""
    for _ in range(5):
        work()
    taken = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return taken


def p95(taken: list[float]) -> float:
    return statistics.quantiles(taken, n=20)[-1]


def rows() -> list[Row]:
    exercise = ladder(15)
    assert len([p for p in exercise.schematic.parts if p.kind != "ground"]) == 31
    assert not evaluation_of(exercise).unsolved
    edits = (
        {"op": "replace", "path": "/schematic/parts/2/values/resistance", "value": f"{k} Ω"}
        for k in count(1_000)
    )
    gc.freeze()
    core = times(lambda: evaluation_of(patched(exercise, [Change.model_validate(next(edits))])))
    with tempfile.TemporaryDirectory() as folder:
        with_demo(Path(folder))
        server = Server(Path(folder))
        server.start()
        with line_to(server) as page:

            def ask(asked: dict[str, object]) -> str:
                status, told = page.ask("look", asked)
                assert status == 200
                return str(told["mark"])

            mark = ask({"document": exercise.model_dump(mode="json")})
            asked = times(lambda: ask({"since": mark, "changes": [next(edits)]}))
        server.stop()
    return [
        Row("look at 31 parts in the core, p95", "30 ms", p95(core), REACH, 1),
        Row("look at 31 parts, asked of the server, p95", "30 ms", p95(asked), REACH, 1),
    ]
