"""The open line, from the outside: a WebSocket client of another make asks as a page would, and worse."""

from __future__ import annotations

import json
import socket
import struct
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from pathlib import Path

import pytest
from websockets.exceptions import ConnectionClosed, InvalidStatus

from lucidbench.server.live.memory import Memory, new_mark
from tests.serving import Line, Server, line_to

EXAMPLES = Path(__file__).parents[2] / "examples"
BATTERY = json.loads((EXAMPLES / "battery-sense.json").read_text())
LADDER = json.loads((EXAMPLES / "anti-alias-ladder.json").read_text())
LONG = {  # a run of a minute
    **json.loads((EXAMPLES / "hydrophone-stage.json").read_text()),
    "runs": [{"id": "r", "analysis": "transient", "settings": {"stop": "100 s"}}],
}
BROKEN = 0, ""  # what is told of a line that ended without a word
PAGES = 40
IDLE = 1_000


def edit(value: str) -> dict[str, str]:
    return {"op": "replace", "path": "/schematic/parts/0/values/voltage", "value": value}


def closed_with(line: Line, work: Callable[[], object] = lambda: None) -> tuple[int, str]:
    """How the line ends, while `work` is done or after it."""
    try:
        work()
        while True:
            line.hear()
    except ConnectionClosed as closed:
        return (closed.rcvd.code, closed.rcvd.reason) if closed.rcvd else BROKEN


def test_a_look_is_told_by_what_has_changed(server: Server) -> None:
    with line_to(server) as line:
        status, seen = line.ask("look", {"document": BATTERY})
        assert status == 200
        out = next(row for row in seen["ledger"] if row["quantity"] == "V_out")
        assert (out["hand"], out["simulated"], out["verdict"]) == (
            "2.679\u00a0V", "2.679\u00a0V", "agree",
        )  # fmt: skip
        # After an edit, what is as before is told by its places in the look before.
        asked = {"since": seen["mark"], "changes": [edit("9 V")]}
        _, next_ = line.ask("look", asked)
        assert next_["since"] == seen["mark"]
        assert next_["nets"] == [{"first": 0, "end": len(seen["nets"])}]
        changed, rest = next_["parts"]
        assert changed["id"] == BATTERY["schematic"]["parts"][0]["id"]
        assert rest == {"first": 1, "end": len(seen["parts"])}
        edited = json.loads(json.dumps(BATTERY))
        edited["schematic"]["parts"][0]["values"]["voltage"] = "9 V"
        _, whole = line.ask("look", {"document": edited})
        assert changed == whole["parts"][0]
        assert (whole["since"], whole["nets"]) == (None, seen["nets"])
        # Of another page's session nothing is known.
        with line_to(server) as other:
            status, problem = other.ask("look", asked)
            assert (status, problem["title"]) == (410, "CacheExpired")
        changes = [{**edit("9 V"), "path": "/schematic/parts/99/values/voltage"}]
        status, problem = line.ask("look", {**asked, "changes": changes})
        assert (status, problem["detail"]) == (
            422,
            "The document has nothing to change at schematic → parts → 99 → values → voltage.",
        )


def test_a_result_is_looked_at_closer_and_taken_out_as_a_file(server: Server) -> None:
    runs = [{"id": "r1", "analysis": "transient"}, {"id": "r2", "analysis": "guess"}]
    document = {**LADDER, "runs": runs}
    with line_to(server) as line:
        status, look = line.ask("run", {"document": document, "run": "r1"})
        assert (status, look["curves"][0]["text"]) == (200, "V_out")
        middle = look["x"][len(look["x"]) // 2]
        window = [0.99 * middle, 1.01 * middle]
        status, near = line.ask("closer", {"result": look["result"], "window": window})
        assert (status, near["circuit"], near["fingerprint"]) == (
            200, look["circuit"], look["fingerprint"],
        )  # fmt: skip
        _, table = line.ask("file", {"result": look["result"], "form": "csv"})
        assert table.decode().startswith("t [s],V_out [V],")
        _, book = line.ask("file", {"result": look["result"], "form": "xlsx"})
        assert book[:2] == b"PK"
        assert line.ask("closer", {"result": "gone"})[0] == 410
        status, told = line.ask("run", {"document": document, "run": "r9"})
        assert (status, told["detail"]) == (422, "The exercise has no run r9.")
        _, told = line.ask("run", {"document": document, "run": "r2"})
        assert "no analysis called guess" in told["problem"]


def test_a_long_run_tells_how_far_it_is_and_ends_when_it_is_cancelled(server: Server) -> None:
    with line_to(server) as line:
        key = line.send("run", {"document": LONG, "run": "r"})
        head, _ = line.hear()
        assert 0 <= head["progress"] <= 1
        assert line.ask("look", {"document": BATTERY})[0] == 200  # meanwhile
        line.socket.send(json.dumps({"id": key, "cancel": True}))
        while "status" not in head:
            head, told = line.hear(5)
        assert (head["status"], told["detail"]) == (422, "The run was cancelled.")


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"schematic": {"parts": [{"id": "a"}]}}, "schematic → parts → 0 → kind"),
        ({"schematic": {"wires": [{"id": "w", "points": [[0, 0]]}]}}, "points"),
        ({"version": 4}, "version"),
    ],
)
def test_bad_documents_are_refused_in_a_sentence(server: Server, body: object, says: str) -> None:
    with line_to(server) as line:
        status, problem = line.ask("look", {"document": body})
        assert (status, problem["title"]) == (422, "Not understood")
        assert says in problem["detail"]
        assert line.ask("guess", {})[0] == 404
        assert line.ask("look", [1])[0] == 422
        assert line.ask("look", {"document": BATTERY})[0] == 200


def test_a_line_is_for_pages_that_came_from_here(server: Server) -> None:
    for origin in ("http://elsewhere.example", f"http://127.0.0.1:{server.port + 1}"):
        with pytest.raises(InvalidStatus, match="403"), line_to(server, origin):
            pass


@pytest.mark.parametrize("message", ["no JSON", "[1]", '{"ask": "look"}', '{"id": {}}', "[" * 9000])
def test_what_is_no_message_ends_its_line_alone(server: Server, message: str) -> None:
    with line_to(server) as good, line_to(server) as bad:
        bad.socket.send(message)
        assert closed_with(bad) == (1007, "no such message")
        assert good.ask("look", {"document": BATTERY})[0] == 200


def test_too_much_ends_its_line_alone(server: Server) -> None:
    with line_to(server) as good:
        with line_to(server) as bad:
            code, _ = closed_with(bad, lambda: bad.socket.send("x" * 9_000_000))
            assert code in (1009, BROKEN[0])  # the reason can get lost among what is still sent
        with line_to(server) as bad:
            flood = closed_with(bad, lambda: [bad.send("ping", {}) for _ in range(10_000)])
            assert flood == (1008, "more messages than a page sends")
        for _ in range(3):  # what one page leaves under way does not keep the next from its own
            with line_to(server) as busy:
                for _ in range(12):
                    busy.send("run", {"document": LONG, "run": "r"})
                heads = (busy.hear()[0] for _ in iter(int, 1))
                refused = [next(h for h in heads if "status" in h)["status"] for _ in range(8)]
                assert refused == [429] * 8
                assert busy.ask("look", {"document": BATTERY})[0] == 200
        with line_to(server) as line:
            document = {**LADDER, "runs": [{"id": "r", "analysis": "operating_point"}]}
            assert line.ask("run", {"document": document, "run": "r"})[0] == 200
        assert good.ask("look", {"document": BATTERY})[0] == 200


def test_half_a_frame_and_a_page_that_never_reads_hold_up_nobody(server: Server) -> None:
    with line_to(server) as half, line_to(server) as deaf, line_to(server) as good:
        half.socket.socket.sendall(struct.pack("!BBH", 0x81, 0xFE, 1000) + b"mask{")
        deaf.socket.socket.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
        for _ in range(100):
            deaf.send("look", {"document": LADDER})
            time.sleep(0.01)
        for _ in range(5):
            assert good.ask("look", {"document": BATTERY})[0] == 200


def test_a_thousand_idle_lines_cost_the_others_nothing(server: Server) -> None:
    with ExitStack() as open_lines, ThreadPoolExecutor(8) as together:
        list(together.map(lambda _: open_lines.enter_context(line_to(server)), range(IDLE)))
        with line_to(server) as line:
            assert line.ask("look", {"document": BATTERY})[0] == 200


def test_forty_pages_each_edit_run_and_look_closer_without_a_refusal(server: Server) -> None:
    runs = [{"id": "r", "analysis": "frequency_sweep"}]

    def work(page: int) -> None:
        with line_to(server) as line:
            status, seen = line.ask("look", {"document": {**LADDER, "runs": runs}})
            for k in range(5):
                changes = [
                    {"op": "replace", "path": "/title", "value": f"{page} {k}"},
                    {
                        "op": "replace",
                        "path": "/schematic/parts/1/values/resistance",
                        "value": f"{page + 1}.{k} kΩ",
                    },
                ]
                status, seen = line.ask("look", {"since": seen["mark"], "changes": changes})
                assert (status, seen["unsolved"], seen["since"] is None) == (200, None, False)
            status, look = line.ask("run", {"since": seen["mark"], "changes": [], "run": "r"})
            assert status == 200
            window = [look["x"][3], look["x"][9]]
            assert line.ask("closer", {"result": look["result"], "window": window})[0] == 200

    with ThreadPoolExecutor(PAGES) as together:
        list(together.map(work, range(PAGES)))


def test_what_is_remembered_keeps_to_its_budgets() -> None:
    memory = Memory(page_budget=100, budget=250)
    marks = {page: [new_mark() for _ in range(4)] for page in "abc"}

    def known(page: str) -> list[bool]:
        return [memory.get(page, mark) is not None for mark in marks[page]]

    for mark in marks["a"]:
        memory.keep("a", mark, b"", 40)
    assert known("a") == [False, False, True, True]
    memory.get("a", marks["a"][2])
    memory.keep("a", marks["a"][0], b"", 40)
    assert known("a") == [True, False, True, False]  # what was asked for longest ago is gone
    assert memory.get("b", marks["a"][0]) is None
    memory.keep("b", marks["b"][0], b"", 170)  # one thing may be more than its page's budget
    assert (known("b")[0], memory.size) == (True, 250)
    memory.keep("c", marks["c"][0], b"", 10)
    assert memory.size <= 250
    assert known("c")[0]
    memory.forget("c")
    memory.forget("b")
    memory.forget("a")
    assert memory.size == 0
