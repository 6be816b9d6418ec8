"""The launcher, as it is called: help, refusals, a database of its own, a clean end."""

from __future__ import annotations

import json
import signal
import socket
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tests.serving import HOME, free_port

LUCID = [sys.executable, "-m", "lucidbench"]


def lucid(*words: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, str(HOME / "lucid"), *words]
    return subprocess.run(command, capture_output=True, text=True, timeout=120, cwd="/")


def test_solve_from_another_folder(tmp_path: Path) -> None:
    file = tmp_path / "two.cir"
    file.write_text("two\nI1 0 a 2m\nR1 a 0 1k\n")
    answer = lucid("solve", str(file))
    assert answer.returncode == 0
    (analysis,) = json.loads(answer.stdout)["analyses"]
    assert analysis["values"]["V_a"] == pytest.approx(2.0)
    answer = lucid("solve", "--csv", "--show", "V_a", str(file))
    assert answer.stdout.splitlines() == ["name,value", "V_a,2.0"]
    file.write_text("two\nI1 0 a 2m\nR1 a 0 1k1k\n")
    answer = lucid("solve", str(file))
    assert (answer.returncode, answer.stdout) == (2, "")
    assert "line 3: R1: “1k1k” is not a value" in answer.stderr


def test_a_port_that_is_taken_is_said_plainly(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        command = [*LUCID, "serve", "--port", port, "--data", str(tmp_path)]
        answer = subprocess.run(command, capture_output=True, text=True, timeout=60, cwd=HOME)
    assert answer.returncode == 1
    assert f"port {port} is taken" in answer.stderr
    assert "Traceback" not in answer.stderr


def serve(tmp_path: Path, *words: str) -> str:
    """Serve until the address is printed, stop with Ctrl-C, and give what was printed."""
    command = [*LUCID, "demo", "--port", str(free_port()), "--data", str(tmp_path), *words]
    process = subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, cwd=HOME
    )
    printed = ""
    assert process.stdout
    deadline = time.monotonic() + 60
    while "http://127.0.0.1" not in printed and time.monotonic() < deadline:
        printed += process.stdout.readline()
    process.send_signal(signal.SIGINT)
    rest, _ = process.communicate(timeout=20)
    assert process.returncode == 0
    assert "Traceback" not in rest
    assert "has stopped" in rest
    return printed


TOLD_AT_A_BAD_MOMENT = """
import os, signal, time, weakref
from lucidbench.server.run import stop_when_told
stop_when_told()
class Thing: pass
thing = Thing()
forgotten = weakref.ref(thing, lambda _: os.kill(os.getpid(), signal.SIGINT))
del thing
time.sleep(30)
"""


def test_it_stops_even_where_what_is_raised_goes_no_further() -> None:
    command = [sys.executable, "-c", TOLD_AT_A_BAD_MOMENT]
    answer = subprocess.run(command, capture_output=True, text=True, timeout=20, cwd=HOME)
    assert (answer.returncode, answer.stderr) == (0, "")


def test_the_demo_keeps_its_own_database_and_can_begin_anew(tmp_path: Path) -> None:
    assert "Loaded 12 demo exercises" in serve(tmp_path)
    database = tmp_path / "lucid.sqlite3"
    with sqlite3.connect(database) as connection:
        connection.execute("update exercises_exercise set deleted = datetime('now')")
    assert "Loaded" not in serve(tmp_path)  # what was deleted stays deleted
    assert "Loaded 12 demo exercises" in serve(tmp_path, "--fresh")
    assert (tmp_path / "secret.key").stat().st_mode & 0o077 == 0
