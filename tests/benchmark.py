"""`./lucid benchmark`: how quick the work is, as ratios within this one run."""

from __future__ import annotations

import gc
import http.client
import platform
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from lucidbench.core.analyses import operating_point
from lucidbench.core.exercise import Exercise
from lucidbench.core.look import look
from lucidbench.core.netlist import read_netlist
from lucidbench.core.schematic import Label, Part, Schematic, Wire
from tests.browser.conftest import Server

ROUNDS = 300
REACH_MS = 30.0  # p95 of one look at 30 parts, asked of a server on this machine


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


def text_ladder(nodes: int) -> str:
    lines = [f"R{k} {k} {k + 1} 1k\nRS{k} {k + 1} 0 10k" for k in range(1, nodes)]
    return "\n".join(("a ladder", "V1 1 0 1", *lines))


def main() -> None:
    exercise = ladder(15)
    assert len([p for p in exercise.schematic.parts if p.kind != "ground"]) == 31
    assert not look(exercise).unsolved
    body = exercise.model_dump_json().encode()

    gc.freeze()
    rng = np.random.default_rng(1)
    matrix, drive = rng.random((33, 33)) + 33 * np.eye(33), rng.random(33)
    bare = times(lambda: np.linalg.solve(matrix, drive))
    core = times(lambda: look(exercise))
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        page = http.client.HTTPConnection("127.0.0.1", server.port)  # kept open, as a browser does
        page.request("GET", "/")
        cookie = page.getresponse().headers["Set-Cookie"].split(";")[0]
        page.close()
        token = cookie.partition("=")[2]
        headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Cookie": cookie}

        def ask() -> None:
            page.request("POST", "/api/look", body, headers)
            answer = page.getresponse()
            assert answer.status == 200
            answer.read()

        asked = times(ask)
        server.stop()

    small, large = (read_netlist(text_ladder(n)).circuit for n in (500, 5000))
    at_500, at_5000 = (times(lambda c=c: operating_point(c), 9) for c in (small, large))

    print(f"{platform.machine()}, Python {platform.python_version()}, numpy {np.__version__}")
    ms = 1e3
    rows = [
        ("one bare solve of 33 unknowns, median", statistics.median(bare) * ms, 1.0),
        ("look at 31 parts in the core, p95", p95(core) * ms, p95(core) / statistics.median(bare)),
        ("look at 31 parts, asked of the server, p95", p95(asked) * ms, p95(asked) / p95(core)),
        ("operating point, ladder of 500 nodes", statistics.median(at_500) * ms, 1.0),
        (
            "operating point, ladder of 5,000 nodes",
            statistics.median(at_5000) * ms,
            statistics.median(at_5000) / statistics.median(at_500),
        ),
    ]
    print(f"{'work':<46}{'ms':>10}{'ratio':>9}   ratio to")
    against = ("itself", "the bare solve", "the core's look", "itself", "a tenth of the size")
    for (label, milliseconds, ratio), reference in zip(rows, against, strict=True):
        print(f"{label:<46}{milliseconds:>10.3f}{ratio:>9.1f}   {reference}")
    share = p95(asked) * ms / REACH_MS
    print(f"The server's p95 is {share:.0%} of the {REACH_MS:.0f} ms a look may take.")


if __name__ == "__main__":
    main()
