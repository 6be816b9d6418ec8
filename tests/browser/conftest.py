"""A real server on a database of its own, and Debian's Chromium in front of it."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

HOME = Path(__file__).resolve().parents[2]
CHROMIUM = "/usr/bin/chromium"
STARTS_WITHIN = 60  # s
SHOWS_WITHIN = 20_000  # ms; how long a busy machine may take to show what is expected

expect.set_options(timeout=SHOWS_WITHIN)

# Playwright's own event loop would make Django refuse its database; the tests here ask the server only.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    return {
        "executable_path": CHROMIUM,
        "args": ["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
    }


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}, "color_scheme": "light"}


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """The application as `./lucid demo` runs it; it can be stopped and started again."""

    def __init__(self, data: Path) -> None:
        self.data, self.port = data, _free_port()
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [sys.executable, "-m", "lucidbench.server.run", "--demo"]
        command += ["--port", str(self.port), "--data", str(self.data)]
        self.process = subprocess.Popen(command, cwd=HOME)
        deadline = time.monotonic() + STARTS_WITHIN
        while time.monotonic() < deadline:
            try:
                urllib.request.urlopen(f"{self.url}/api/catalogue", timeout=1).close()
                return
            except OSError:
                time.sleep(0.1)
        raise TimeoutError("the server did not start")

    def stop(self) -> None:
        if self.process:
            self.process.terminate()
            self.process.wait(10)


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    running = Server(tmp_path / "data")
    running.start()
    yield running
    running.stop()


@pytest.fixture
def notebook(server: Server, page: Page) -> Page:
    """The notebook, open, with the demo exercises in it. Errors of the page fail the test."""
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on("console", lambda m: errors.append(m.text) if "Content Security" in m.text else None)
    page.goto(server.url)
    page.get_by_role("heading", name="Notebook").wait_for()
    yield page
    assert errors == []
