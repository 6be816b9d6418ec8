"""What stands in the way of a set-up or a check is said in a sentence, and nothing is left half done."""

from __future__ import annotations

import fcntl
import importlib.util
import os
import re
import shutil
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from importlib.machinery import SourceFileLoader
from pathlib import Path
from types import ModuleType

import pytest

from tests.serving import HOME, environment

SETUP_FREE = 5.0  # s, on a busy machine; setting anything up would take minutes


@pytest.fixture
def launcher(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> ModuleType:
    """The launcher's own functions, in a folder of the test's."""
    loader = SourceFileLoader("launcher", str(HOME / "lucid"))
    spec = importlib.util.spec_from_loader("launcher", loader)
    assert spec
    module = importlib.util.module_from_spec(spec)
    loader.exec_module(module)
    monkeypatch.setattr(module, "STATE", tmp_path / ".lucid")
    return module


@pytest.fixture
def checkout(tmp_path: Path) -> Path:
    """What a stranger has cloned, with nothing set up."""
    folder = tmp_path / "clone"
    package = [f"lucidbench/{name}" for name in ("__init__.py", "tuning.py", "cli")]
    for name in ("lucid", *package, "tools", "requirements"):
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        copy = shutil.copytree if (HOME / name).is_dir() else shutil.copy
        copy(HOME / name, folder / name)
    return folder


def lucid(checkout: Path, *words: str, **settings: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, str(checkout / "lucid"), *words]
    own = {**environment(), **settings}
    return subprocess.run(command, capture_output=True, text=True, timeout=60, cwd="/", env=own)


COMMANDS = (
    "demo", "serve", "account", "solve", "bench", "compare", "judge", "working", "explain", "schema", "test",
    "check", "dev", "types", "pictures", "zoo", "study", "benchmark",
)  # fmt: skip


@pytest.mark.parametrize("command", COMMANDS)
def test_help_is_printed_before_anything_is_set_up(checkout: Path, command: str) -> None:
    began = time.monotonic()
    told = lucid(checkout, command, "--help")
    assert told.returncode == 0
    assert f"usage: ./lucid {command}" in told.stdout
    assert time.monotonic() - began < SETUP_FREE
    assert not {".venv", ".lucid", "data"} & {each.name for each in checkout.iterdir()}


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["demo", "--port", "99999"], "“99999” is not a port"),
        (["bench", "x.cir", "--port", "-1"], "“-1” is not a port"),
        (["serve", "--workers", "0"], "not a number of workers"),
        (["solve", "x.cir", "--limit-seconds", "soon"], "“soon” is not a time"),
        (["tset"], "invalid choice"),
    ],
)
def test_words_that_mean_nothing_are_refused_before_anything_is_set_up(
    checkout: Path, words: list[str], says: str
) -> None:
    told = lucid(checkout, *words)
    assert (told.returncode, told.stdout) == (2, "")
    assert says in told.stderr
    assert not (checkout / ".venv").exists()


def test_an_old_node_is_named_with_what_is_needed(
    launcher: ModuleType, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for tool, version in (("node", "v16.20.2"), ("npm", "8.19.4")):
        path = tmp_path / tool
        path.write_text(f"#!/bin/sh\necho {version}\n")
        path.chmod(0o755)
    monkeypatch.setenv("PATH", f"{tmp_path}:{os.environ['PATH']}")
    with pytest.raises(launcher.Trouble, match=r"Node 16\.20\.2; install Node 20 or later"):
        launcher.npm()
    monkeypatch.setenv("PATH", "/nowhere")
    with pytest.raises(launcher.Trouble, match="node is missing"):
        launcher.npm()


def test_a_step_that_fails_is_done_again_the_next_time(launcher: ModuleType) -> None:
    """As pip does without a network: its last lines are shown, and no stamp is left."""
    launcher.STATE.mkdir()
    fails = [sys.executable, "-c", "import sys; print('no route to host'); sys.exit(1)"]
    with pytest.raises(launcher.Trouble, match=r"(?s)connected\?.*no route to host"):
        launcher.step("x", "X", "1", True, lambda: launcher.run(*fails, hint=launcher.OFFLINE))
    assert not launcher.is_done("x", "1")
    done: list[int] = []
    for _ in range(2):
        launcher.step("x", "X", "1", True, lambda: done.append(1))
    assert done == [1]


@pytest.fixture
def machine(
    launcher: ModuleType, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> Callable[..., list[str]]:
    """Sets up a browser on a machine with these programs; what is asked of its package manager."""

    def set_up(*programs: str, root: bool = True, connected: bool = True) -> list[str]:
        asked: list[str] = []

        def apt_install(*packages: str) -> None:
            asked.extend(packages)
            if not connected:
                raise launcher.Trouble("no route to host")

        for program in programs:
            (tmp_path / program).write_text("#!/bin/sh\n")
            (tmp_path / program).chmod(0o755)
        launcher.STATE.mkdir(exist_ok=True)
        monkeypatch.setenv("PATH", str(tmp_path))
        monkeypatch.setattr("os.geteuid", lambda: 0 if root else 1000)
        monkeypatch.setattr(launcher, "apt_install", apt_install)
        launcher.set_up_browser()
        return asked

    return set_up


def test_a_browser_is_installed_where_there_is_none(machine: Callable[..., list[str]]) -> None:
    assert machine() == machine(root=False)[:1] == ["chromium-headless-shell"]


def test_a_browser_that_is_there_will_do(machine: Callable[..., list[str]]) -> None:
    assert machine("chromium", root=False) == []  # nobody is asked for a password
    assert machine("chromium", connected=False) == ["chromium-headless-shell"]
    assert machine("chromium", connected=False) == []  # and it is not tried again
    assert machine("chromium-headless-shell") == []


def test_no_browser_and_no_network_is_said(
    launcher: ModuleType, machine: Callable[..., list[str]]
) -> None:
    with pytest.raises(launcher.Trouble, match="no route to host"):
        machine(connected=False)
    assert not launcher.is_done("chromium", "headless")


def test_a_folder_that_cannot_be_written_to_is_named(
    launcher: ModuleType, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setattr(launcher, "STATE", tmp_path / "file" / ".lucid")
    with pytest.raises(launcher.Trouble, match="cannot be written to"), launcher.alone():
        pass


def test_a_second_set_up_waits_for_the_first_and_says_so(
    launcher: ModuleType, capsys: pytest.CaptureFixture[str]
) -> None:
    launcher.STATE.mkdir()
    order: list[str] = []

    def second() -> None:
        with launcher.alone():
            order.append("second")

    with (launcher.STATE / "lock").open("w") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        waiting = threading.Thread(target=second)
        waiting.start()
        deadline = time.monotonic() + 20
        told = ""
        while "setting up" not in told and time.monotonic() < deadline:
            told += capsys.readouterr().err
            time.sleep(0.01)
        order.append("first")
    waiting.join(20)
    assert order == ["first", "second"]
    assert "this one goes on when that is done" in told


def pytest_on(*words: str, **settings: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "pytest", "-p", "no:xdist", *words]
    own = {**environment(), **settings}
    own = {key: value for key, value in own.items() if not key.startswith("PYTEST_")}
    return subprocess.run(command, capture_output=True, text=True, timeout=300, cwd=HOME, env=own)


def test_a_mark_that_no_test_has_is_said() -> None:
    told = pytest_on("-m", "slwo", "tests/core/test_units.py")
    assert told.returncode == pytest.ExitCode.USAGE_ERROR
    assert "no test is marked “slwo”" in told.stderr
    assert "own_server" in told.stderr


def test_a_missing_chromium_is_said_with_the_mend() -> None:
    words = ("tests/browser/test_sheet.py", "-k", "sweeping")
    told = pytest_on(*words, LUCID_CHROMIUM="/nowhere/chromium")
    assert told.returncode == 1
    assert "Chromium is missing: ./lucid test installs it" in told.stdout
    assert "Traceback" not in told.stdout


def test_a_taken_port_is_said_by_the_development_server(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        port = str(taken.getsockname()[1])
        for name in ("--port", "--server-port"):
            told = subprocess.run(
                [sys.executable, "-m", "tools", "dev", name, port],
                capture_output=True, text=True, timeout=60, cwd=HOME,
                env={**environment(), "LUCID_HOME": str(tmp_path)},
            )  # fmt: skip
            assert told.returncode == 1
            assert f"port {port} is taken. Choose another with {name}" in told.stderr
    assert not list(tmp_path.iterdir())


FAILS = """
def test_that_fails(notebook):
    notebook.get_by_role("link", name="Battery sense", exact=True).click()
    assert False, "on purpose"
"""


def test_a_failing_browser_test_leaves_a_picture_and_a_trace_where_it_says(tmp_path: Path) -> None:
    (tmp_path / "test_failing.py").write_text(FAILS)
    (tmp_path / "conftest.py").write_text("from tests.browser.conftest import *\n")
    told = pytest_on(f"--rootdir={HOME}", str(tmp_path))
    assert told.returncode == 1
    found = re.search(r"Pictures and traces: (\S+)", told.stdout)
    assert found
    folder = Path(found[1])
    assert (folder / "page-0-0.png").read_bytes().startswith(b"\x89PNG")
    assert (folder / "trace-0.zip").read_bytes().startswith(b"PK")
    shutil.rmtree(folder)
