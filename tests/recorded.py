"""What the real server answers to panels, for their component tests: `python -m tests.recorded FILE`.

Each answer is held against the API's own description before it is written.
"""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from jsonschema import Draft202012Validator

from tests.serving import HOME, Client, Line, line_to, serving, with_demo

EXERCISES = (
    "battery-sense",
    "time-signal-filter",
    "hydrophone-stage",
    "anti-alias-ladder",
    "feed-line",
    "flow-integrator",
    "lamp-curve",
)
# Runs that these exercises have besides their own.
RUNS: dict[str, list[dict[str, Any]]] = {
    "time-signal-filter": [{"name": "Roots", "analysis": "natural", "settings": {"output": "out"}}],
    "hydrophone-stage": [
        {
            "name": "In all cases",
            "analysis": "frequency_sweep",
            "show": ["V_in", "V_out"],
            "settings": {"vary": "cases"},
        }
    ],
    "anti-alias-ladder": [{"name": "Formula", "analysis": "symbolic"}],
    "flow-integrator": [{"name": "Harmonics", "analysis": "fourier"}],
}
HTTP = (
    "/catalogue",
    "/analyses",
    "/exports",
    "/ways",
    "/starters",
    "/me",
    "/exercises",
    "/exercises?deleted=true",
)
BLANK = {"settings": {}, "show": [], "markers": [], "without": [], "plots": []}
# What is asked of which exercise: a name for it, the ask, its body beside the document.
ASKED: tuple[tuple[str, str, str, dict[str, Any]], ...] = (
    ("battery-sense", "exact", "exact", {}),
    ("battery-sense", "working of V_out", "working", {"figure": "V_out"}),
    ("battery-sense", "working of nothing", "working", {"figure": "V_nowhere"}),
    ("battery-sense", "meter", "plan", {"recipe": {"way": "meter", "settings": {}}}),
    ("battery-sense", "reading", "take", {"recipe": {"way": "meter", "settings": {"at": "out"}}}),
    ("time-signal-filter", "component", "plan", {"recipe": {"way": "component", "settings": {}}}),
    ("time-signal-filter", "a coil", "take", {"recipe": {"way": "component", "settings": {}}}),
    ("lamp-curve", "curve", "plan", {"recipe": {"way": "curve", "settings": {"points": "3"}}}),
    ("lamp-curve", "a point", "take", {"recipe": {"way": "curve", "settings": {"points": "3"}}}),
    ("hydrophone-stage", "a case", "case", {"text": "without R5"}),
    ("hydrophone-stage", "no case", "case", {"text": "without R77"}),
    ("hydrophone-stage", "two cases", "ledgers", {"cases": ["", "c1"]}),
    ("time-signal-filter", "ledger", "ledgers", {"cases": [""]}),
    ("time-signal-filter", "why", "explain", {}),
    ("hydrophone-stage", "exact", "exact", {}),
    ("hydrophone-stage", "ledger", "ledgers", {"cases": [""]}),
    ("hydrophone-stage", "why by hand", "explain", {"voices": "hand-simulated", "row": "V_e"}),
)  # fmt: skip
TABLES = {
    "table": "t [s],CH1\n0,1\n1,2\n2,3\n",
    "table with a fault": "t [s],CH1\n0,1\n1,oops\n2,3\n",
}


class Recorder:
    def __init__(self, client: Client, line: Line, described: dict[str, Any]) -> None:
        self.client, self.line, self.described = client, line, described
        self.asks = described["components"]["schemas"]["Line"]["properties"]

    def ask(self, ask: str, body: dict[str, Any]) -> dict[str, Any]:
        status, answer = self.line.ask(ask, body)
        schema = self.asks[ask]["properties"]["answer"] if status == 200 else _PROBLEM
        self._hold(schema, answer)
        return {"status": status, "answer": answer}

    def get(self, path: str) -> Any:
        status, answer = self.client.call("GET", path)
        assert status == 200, path
        get = self.described["paths"]["/api" + path.partition("?")[0]]["get"]
        self._hold(get["responses"]["200"]["content"]["application/json"]["schema"], answer)
        return answer

    def _hold(self, schema: dict[str, Any], answer: object) -> None:
        Draft202012Validator({**schema, "components": self.described["components"]}).validate(
            answer
        )


_PROBLEM = {"$ref": "#/components/schemas/Problem"}


def recorded() -> dict[str, Any]:
    described = json.loads((HOME / "web" / "src" / "api" / "openapi.json").read_text())
    with tempfile.TemporaryDirectory() as folder:
        with_demo(Path(folder))
        with serving(Path(folder)) as server, line_to(server) as line:
            return _of(Recorder(Client(server), line, described))


def _of(recorder: Recorder) -> dict[str, Any]:
    cards = recorder.client.call("GET", "/exercises")[1]["cards"]
    numbers = {card["title"].lower().replace(" ", "-"): card["id"] for card in cards}
    exercises: dict[str, dict[str, Any]] = {}
    for name in EXERCISES:
        _, opened = recorder.client.call("GET", f"/exercises/{numbers[name]}")
        for run in RUNS.get(name, ()):
            own = opened["document"]["runs"]
            own.append({**own[0], **BLANK, **run, "id": f"r{len(own) + 7}"})
        document = {"document": opened["document"]}
        answers = {"look": recorder.ask("look", {**document, "compared": True})}
        for run in opened["document"]["runs"]:
            told = recorder.ask("run", {**document, "run": run["id"]})
            of = {**document, "result": told["answer"]["result"]}
            answers[f"run {run['name']}"] = told
            answers[f"beside {run['name']}"] = recorder.ask("beside", {**of, "run": run["id"]})
            if run["markers"]:
                answers[f"marks {run['name']}"] = recorder.ask(
                    "marks", {**of, "marks": run["markers"]}
                )
        for owner, key, ask, body in ASKED:
            if owner == name:
                answers[key] = recorder.ask(ask, {**document, **body})
        exercises[name] = {"opened": opened, "answers": answers}
    http = {f"/api{path}": recorder.get(path) for path in HTTP}
    return {"exercises": exercises, "http": http, "tables": _tables(recorder.client)}


def _tables(client: Client) -> dict[str, Any]:
    return {name: client.post_file("/table", text.encode()) for name, text in TABLES.items()}


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(json.dumps(recorded(), ensure_ascii=False))
