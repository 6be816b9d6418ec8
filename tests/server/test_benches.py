"""Benches of pages, asked for on the line: plans, points, seals, and what ends them."""

from __future__ import annotations

import json
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from tests.serving import Line, Server, line_to

EXAMPLES = Path(__file__).parents[2] / "examples"


def example(name: str, **more: object) -> dict[str, Any]:
    return {**json.loads((EXAMPLES / f"{name}.json").read_text()), **more}


def recipe(way: str, bench: str = "", **settings: str) -> dict[str, object]:
    return {"way": way, "settings": settings, "bench": bench}


def children_of(server: Server) -> list[int]:
    """Processes that serve a bench: those below the server's own that listen."""
    assert server.process
    told = subprocess.run(
        ["ps", "-eo", "pid,ppid"], capture_output=True, text=True, check=True
    ).stdout.splitlines()[1:]
    above = {int(pid): int(parent) for pid, parent in (line.split() for line in told)}
    found = []
    for pid in above:
        parent = pid
        while parent in above and parent != server.process.pid:
            parent = above[parent]
        if parent == server.process.pid:
            found.append(pid)
    return found


def test_a_plan_and_a_reading(server: Server) -> None:
    battery = example("battery-sense")
    with line_to(server) as line:
        status, plan = line.ask("plan", {"document": battery, "recipe": recipe("meter", at="out")})
        assert status == 200
        assert plan["problem"] is None
        assert plan["benches"] == ["Stand-in bench"]
        assert [lead["words"] for lead in plan["leads"]] == [
            "Red lead on node out",
            "Black lead on ground",
        ]
        status, taken = line.ask("take", {"document": battery, "recipe": recipe("meter", at="out")})
        assert status == 200
        (column,) = taken["columns"]
        assert (column["quantity"], column["text"]) == ("V_out", "2.594 V ± 0.017 V")
        # After an edit the new circuit is on the same bench.
        part = next(p for p in battery["schematic"]["parts"] if p["name"] == "V1")
        part["values"]["voltage"] = "6.3"
        status, taken = line.ask("take", {"document": battery, "recipe": recipe("meter", at="out")})
        assert taken["columns"][0]["values"][0] == pytest.approx(1.297, abs=0.02)


@pytest.mark.parametrize(
    ("way", "settings", "told"),
    [
        ("meter", {"at": "nowhere"}, "There is no node and no part called nowhere."),
        ("meter", {"function": "amps", "at": "out"}, "A current is read into a part, and out is a node"),
        ("response", {"from": "1 uHz"}, "The generator goes from 1 mHz to 20 MHz"),
        ("component", {"frequency": "1 Hz"}, "The bridge measures from 20 Hz to 200 kHz"),
        ("record", {"points": "1e9"}, "The oscilloscope records from 2 to 20,000 points"),
    ],
)  # fmt: skip
def test_what_cannot_be_measured_is_said_beforehand(
    server: Server, way: str, settings: dict[str, str], told: str
) -> None:
    with line_to(server) as line:
        asked = {"document": example("battery-sense"), "recipe": recipe(way, **settings)}
        status, plan = line.ask("plan", asked)
        assert status == 200
        assert told.rstrip(".") in plan["problem"].replace("\u00a0", " ")
        assert line.ask("take", asked)[0] == 422
        assert line.ask("plan", {**asked, "recipe": recipe("divining")})[0] == 422


def test_a_sealed_build_is_measured_and_not_read(server: Server) -> None:
    """The fault shows on the bench and nowhere in the document; the word opens it, another does not."""
    battery = example("battery-sense")
    r2 = next(p["id"] for p in battery["schematic"]["parts"] if p["name"] == "R2")
    battery["build"] = {"seed": 4, "faults": [{"part": r2, "does": "factor", "factor": 10}]}
    with line_to(server) as line:
        status, build = line.ask("seal", {"document": battery, "word": "tern"})
        assert status == 200
        assert (build["seed"], build["faults"]) == (1, [])
        assert "factor" not in json.dumps(build)
        again = line.ask("seal", {"document": battery, "word": "tern"})[1]
        assert again["digest"] != build["digest"]  # salted
        sealed = {**battery, "build": build}
        status, taken = line.ask("take", {"document": sealed, "recipe": recipe("meter", at="out")})
        assert status == 200
        assert taken["columns"][0]["values"][0] > 6
        assert line.ask("unseal", {"document": sealed, "word": "gull"})[0] == 422
        status, opened = line.ask("unseal", {"document": sealed, "word": "tern"})
        assert (status, opened["faults"][0]["factor"]) == (200, 10)
        build["sealed"] = build["sealed"][:-8] + "AAAAAAA="
        status, problem = line.ask(
            "take", {"document": {**battery, "build": build}, "recipe": recipe("meter", at="out")}
        )
        assert status == 422
        assert "sealed on another server" in problem["detail"]


def test_a_page_that_leaves_lets_its_bench_go(server: Server) -> None:
    before = set(children_of(server))
    with line_to(server) as line:
        line.ask(
            "take", {"document": example("battery-sense"), "recipe": recipe("meter", at="out")}
        )
        own = set(children_of(server)) - before
        assert own
    deadline = time.monotonic() + 10
    while own & set(children_of(server)) and time.monotonic() < deadline:
        time.sleep(0.1)
    assert not own & set(children_of(server))


def test_a_real_bench_that_its_owner_lists(server: Server) -> None:
    """A second process on ports of its own, listed in the settings file; an address that is not listed
    cannot be reached through the server."""
    ladder = example("anti-alias-ladder")
    command = [
        sys.executable,
        "-m",
        "lucidbench",
        "bench",
        str(EXAMPLES / "anti-alias-ladder.json"),
    ]
    file = server.data / "instruments.toml"
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as bench:
        assert bench.stdout
        addresses = dict(bench.stdout.readline().strip().split(": ") for _ in range(5))
        lines = "\n".join(f'{kind} = "{address}"' for kind, address in addresses.items())
        file.write_text(f'[[bench]]\nname = "Bench by the window"\n{lines}\n')
        with line_to(server) as line:
            asked = {
                "document": ladder,
                "recipe": recipe("record", "Bench by the window", points="200"),
            }
            status, plan = line.ask("plan", asked)
            assert plan["benches"] == ["Stand-in bench", "Bench by the window"]
            status, taken = line.ask("take", asked)
            assert status == 200
            assert [c["quantity"] for c in taken["columns"]] == ["t", "V_in", "V_out"]
            bench.kill()
            bench.wait()
            status, problem = line.ask("take", asked)
            assert status == 422
            assert "oscilloscope of Bench by the window" in problem["detail"]
            unlisted = {**asked, "recipe": recipe("record", "127.0.0.1")}
            assert "no bench called 127.0.0.1" in line.ask("take", unlisted)[1]["detail"]
            file.write_text("[[bench]")
            assert "cannot be read" in line.ask("plan", asked)[1]["detail"]
    file.unlink()


def test_a_run_a_page_only_looks_at_and_records_beside_it(server: Server) -> None:
    """A run that the document does not keep has its records beside it, and one can be laid over it."""
    ladder = example("anti-alias-ladder")
    settings = {"begin": "settled", "stop": "6 ms"}
    own = {"id": "x", "analysis": "transient", "settings": settings, "show": ["V_out"]}
    with line_to(server) as line:
        run = beside(line, ladder, own)
        assert [c["text"] for c in run["curves"]] == ["V_in", "V_out"]
        assert run["gaps"][1]["sentence"].startswith("Agrees at ")
        shown = line.ask("run", {"document": ladder, "run": "x", "own": own})[1]
        asked = {"document": ladder, "result": shown["result"], "record": "m1", "curve": "V_out"}
        status, laid = line.ask("lay", {**asked, "by": "trigger"})
        assert (status, laid["shift"]) == (200, pytest.approx(1e-4, rel=1e-3))
        status, laid = line.ask("lay", {**asked, "by": "fit"})
        periods = (laid["shift"] - 1e-4) / 1.5e-3  # it repeats, and may lie a whole number further
        assert (status, periods) == (200, pytest.approx(round(periods), abs=0.02))
        assert line.ask("lay", {**asked, "record": "gone", "by": "fit"})[0] == 422


def beside(line: Line, document: dict[str, Any], own: dict[str, Any]) -> dict[str, Any]:
    shown = line.ask("run", {"document": document, "run": "x", "own": own})[1]
    asked = {"document": document, "result": shown["result"], "run": "x", "own": own}
    status, told = line.ask("beside", asked)
    assert status == 200
    found: dict[str, Any] = told
    return found
