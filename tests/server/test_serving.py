"""Serving itself: what cannot be served is said, and a worker that is killed loses nothing acknowledged."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from websockets.exceptions import ConnectionClosed

from tests.depth import many
from tests.server.kills import COMES_BACK_WITHIN, kill_amid_saves
from tests.serving import HOME, Client, Server, environment, free_port, line_to, serving

BATTERY = json.loads((HOME / "examples" / "battery-sense.json").read_text())
STOPS_WITHIN = 20  # s, on a busy machine; compiling would go on for minutes
KILLS = many(quick=2, deep=200)


def refused(*words: str) -> str:
    """What is said where nothing can be served."""
    command = [sys.executable, "-m", "lucidbench", "serve", *words]
    if "--port" not in words:
        command += ["--port", str(free_port())]
    answer = subprocess.run(command, capture_output=True, text=True, timeout=120, cwd=HOME)
    assert answer.returncode == 1
    assert "Traceback" not in answer.stderr
    return answer.stderr


def test_what_cannot_be_served_is_said_in_a_sentence(server: Server, tmp_path: Path) -> None:
    taken = refused("--data", str(tmp_path / "other"), "--port", str(server.port))
    assert f"port {server.port} is taken" in taken
    assert "another Lucid Bench serves the data folder" in refused("--data", str(server.data))
    assert Client(server).call("GET", "/exercises")[0] == 200
    (tmp_path / "file").write_text("")
    assert "cannot be written to" in refused("--data", str(tmp_path / "file" / "data"))
    assert "is no address of this machine" in refused(
        "--data", str(tmp_path / "data"), "--host", "192.0.2.1"
    )
    broken = tmp_path / "broken"
    broken.mkdir()
    (broken / "lucid.sqlite3").write_bytes(b"no database at all" * 100)
    assert "cannot be used" in refused("--data", str(broken))


def test_a_request_larger_than_any_document_is_refused(server: Server) -> None:
    client = Client(server)
    client.connection.putrequest("POST", "/api/exercises")
    client.connection.putheader("Content-Length", "100000000")
    client.connection.endheaders()
    answer = client.connection.getresponse()
    assert (answer.status, "larger than 5 MB" in answer.read().decode()) == (413, True)
    document = {"title": "Large", "purpose": "x" * 6_000_000}
    status, problem = Client(server).call("POST", "/exercises", {"document": document})
    assert (status, problem["title"]) == (413, "Too large")


def test_workers_that_are_killed_lose_nothing_acknowledged_and_leave_nothing_behind(
    tmp_path: Path,
) -> None:
    long = json.loads((HOME / "examples" / "hydrophone-stage.json").read_text())
    long["runs"] = [{"id": "r", "analysis": "transient", "settings": {"stop": "100 s"}}]
    with serving(tmp_path, workers=2) as server:
        assert kill_amid_saves(server, KILLS) == []
        # Others come in their stead, and serve lines and pages as before.
        deadline = time.monotonic() + COMES_BACK_WITHIN
        while len(server.workers) < 2:
            assert time.monotonic() < deadline
            time.sleep(0.1)
        with line_to(server) as line:
            assert line.ask("look", {"document": BATTERY})[0] == 200
            line.send("run", {"document": long, "run": "r"})
            assert "progress" in line.hear()[0]
            busy = set().union(*map(processes_within, server.workers))
            for worker in server.workers:
                os.kill(worker, signal.SIGKILL)
            with pytest.raises(ConnectionClosed):
                line.hear_to_the_end()
        # The processes that its runs were in end with a worker.
        assert busy
        deadline = time.monotonic() + 10
        while left := {pid for pid in busy if is_running(pid)}:
            assert time.monotonic() < deadline, left
            time.sleep(0.1)


def test_a_server_that_compiles_stops_when_it_is_told_to(tmp_path: Path) -> None:
    """With no kernels kept, the first look would compile for a minute or two."""
    data, port = tmp_path / "data", free_port()
    command = [sys.executable, "-m", "lucidbench", "serve", "--workers", "1", "--port", str(port)]
    own = {**environment(), "LUCID_CACHE": str(tmp_path / "cache")}
    with subprocess.Popen(
        [*command, "--data", str(data)], stdout=subprocess.PIPE, text=True, cwd=HOME, env=own
    ) as process:
        assert process.stdout
        assert "http://127.0.0.1" in process.stdout.readline()
        deadline = time.monotonic() + 60
        while not list((tmp_path / "cache").rglob("*.nbi")):  # the first is compiled, others follow
            assert time.monotonic() < deadline
            time.sleep(0.1)
        process.send_signal(signal.SIGINT)
        assert process.wait(STOPS_WITHIN) == 0
        assert "has stopped" in process.stdout.read()


def processes_within(pid: int) -> set[int]:
    tasks = Path(f"/proc/{pid}/task").iterdir()
    children = {int(c) for task in tasks for c in (task / "children").read_text().split()}
    return children.union(*map(processes_within, children))


def is_running(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False
