"""Measuring on the stand-in beside the engine's own time for the same; a long table read and drawn."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import numpy as np
from playwright.sync_api import expect

from lucidbench.core.document.exercise import Exercise, Recipe, read_exercise
from lucidbench.core.schematic import read_drawing
from lucidbench.instruments.bench import Bench, between
from lucidbench.instruments.build import built
from lucidbench.instruments.client import BenchClient
from lucidbench.instruments.measuring import Measuring, plan_of
from lucidbench.instruments.models import Generator
from lucidbench.instruments.serving import BenchServer
from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.page import demo_page
from tests.benchmarks.rows import Row, middle
from tests.browser.hands import open_exercise
from tests.serving import HOME

RESPONSE, RECORD, TABLE = 3.0, 0.5, 3.0  # [s], the bars
ROUNDS = repeated(3, 1)
POINTS = sized(50, 4)


def rows() -> list[Row]:
    return [*_responses(), *_record(), _table()]


def _exercise(name: str) -> Exercise:
    return read_exercise((HOME / "examples" / f"{name}.json").read_text())


def _measured(exercise: Exercise, recipe: Recipe) -> float:
    """Seconds, over sockets, from the first message to the last answer."""
    circuit = read_drawing(
        exercise.schematic, exercise.title, exercise.parameters, exercise.blocks
    ).circuit
    server = BenchServer(Bench(built(exercise)))
    measuring = Measuring(BenchClient("The stand-in", server.addresses))
    try:
        plan = plan_of(circuit, recipe, {})
        began = time.perf_counter()
        for at in plan.points:
            measuring.take(plan, at)
        return time.perf_counter() - began
    finally:
        measuring.close()
        server.stop()


def _responses() -> list[Row]:
    found = []
    for name, title in (
        ("time-signal-filter", "Time-signal filter"),
        ("hydrophone-stage", "Hydrophone stage"),
    ):
        exercise = _exercise(name)
        recipe = Recipe(way="response", settings={"points": str(POINTS), "at": "out"})
        pairs = [(_measured(exercise, recipe), _engine(exercise)) for _ in range(ROUNDS)]
        ours, engine = middle(pairs)
        found.append(Row(f"response of 50 points, {title}", "3 s", ours, RESPONSE, 1.0))
        found.append(
            Row(
                f"response of 50 points, {title}",
                "the engine's 50 settled states alone",
                ours,
                engine,
                20.0,
            )
        )
    return found


def _engine(exercise: Exercise) -> float:
    """The settled state at 50 frequencies, with both probes on."""
    bench = Bench(built(exercise))
    generator = Generator(bench)
    bench.attach("probe", between("probe", "out", "gnd", 10e6, 15e-12))
    generator.carry_out("VOLT 0.01;OUTP ON")
    began = time.perf_counter()
    for f in np.geomspace(100, 1e5, POINTS):
        generator.carry_out(f"FREQ {f}")
        bench.steady().voltage("out", "0", np.linspace(0, 4 / f, 400))
    return time.perf_counter() - began


def _record() -> list[Row]:
    exercise = _exercise("anti-alias-ladder")
    recipe = Recipe(way="record", settings={"points": sized("10000", "100")})
    ours, engine = middle([(_measured(exercise, recipe), _run(exercise)) for _ in range(ROUNDS)])
    return [
        Row(
            "record of 10,000 samples, after the engine's run",
            "0.5 s",
            max(0.0, ours - engine),
            RECORD,
            1.0,
        )
    ]


def _run(exercise: Exercise) -> float:
    bench = Bench(built(exercise))
    began = time.perf_counter()
    bench.from_switch_on(20e-3)
    return time.perf_counter() - began


def _table() -> Row:
    """From the file chosen to its curve on the page."""
    with tempfile.TemporaryDirectory() as folder, demo_page() as page:
        file = Path(folder) / "long.csv"
        t = np.arange(sized(1_000_000, 1_000)) * 1e-9
        np.savetxt(
            file,
            np.column_stack([t, np.sin(t * 6e4)]),
            "%.7e",
            ",",
            header="t [s],V_out [V]",
            comments="",
        )
        open_exercise(page, "Anti-alias ladder")
        page.get_by_role("tab", name="Measure").click()
        page.get_by_role("button", name="Table …").click()
        dialog = page.get_by_role("dialog")
        with page.expect_file_chooser() as chooser:
            dialog.get_by_role("button", name="File …").click()
        began = time.perf_counter()
        chooser.value.set_files(file)
        expect(dialog.get_by_role("img").first).to_be_visible(timeout=30_000)
        ours = time.perf_counter() - began
    return Row("a file of 1,000,000 rows, read and drawn", "3 s", ours, TABLE, 1.0)
