"""The application as its launcher runs it, on a port and a folder of its own."""

from __future__ import annotations

import atexit
import http.client
import json
import os
import random
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path
from typing import Any

from websockets.sync.client import ClientConnection, connect

HOME = Path(__file__).resolve().parents[1]
STARTS_WITHIN = 60  # s


FIRST_PORT, LAST_PORT = 10_000, 32_000  # below those that a system gives to connections by itself


def free_port(run: int = 1) -> int:
    """The first of `run` free ports in a row. They are none that the tests beside this one, or a
    browser's connections, are given before they are used."""
    while True:
        first = random.randrange(FIRST_PORT, LAST_PORT)
        with ExitStack() as held, suppress(OSError):
            for port in range(first, first + run):
                held.enter_context(socket.socket()).bind(("127.0.0.1", port))
            return first


def environment() -> dict[str, str]:
    """Of what is started as a person would: without what holds for these tests alone."""
    own = ("DJANGO_SETTINGS_MODULE", "LUCID_DATA", "DJANGO_ALLOW_ASYNC_UNSAFE")
    return {key: value for key, value in os.environ.items() if key not in own}


class Server:
    """It can be stopped and started again."""

    def __init__(self, data: Path, workers: int = 1, host: str = "127.0.0.1") -> None:
        self.data, self.host, self.port = data, host, free_port()
        self.words = ["serve", "--host", host, "--workers", str(workers)]
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        return f"{self.host}:{self.port}"

    @property
    def url(self) -> str:
        return f"http://{self.address}"

    def start(self) -> None:
        command = [sys.executable, "-m", "lucidbench", *self.words]
        command += ["--port", str(self.port), "--data", str(self.data)]
        self.process = subprocess.Popen(command, cwd=HOME, env=environment())
        deadline = time.monotonic() + STARTS_WITHIN
        while time.monotonic() < deadline and self.process.poll() is None:
            try:
                urllib.request.urlopen(f"{self.url}/api/me", timeout=5).close()
                return
            except OSError:
                time.sleep(0.1)
        raise TimeoutError("the server did not start")

    def stop(self) -> None:
        if self.process:
            self.process.terminate()
            self.process.wait(20)

    @property
    def workers(self) -> list[int]:
        """Process ids of its workers, where it has several."""
        assert self.process
        children = Path(f"/proc/{self.process.pid}/task/{self.process.pid}/children").read_text()
        found = []
        for child in map(int, children.split()):
            try:
                if b"spawn_main" in Path(f"/proc/{child}/cmdline").read_bytes():
                    found.append(child)
            except OSError:
                pass  # it has just ended
        return found


MADE = "LUCID_DEMO_MADE"  # where the demo exercises are, once this process or one above it has made them


def with_demo(data: Path) -> None:
    """Put the demo exercises into a data folder."""
    if MADE not in os.environ:
        made = tempfile.mkdtemp(prefix="lucid-demo-")
        atexit.register(shutil.rmtree, made, ignore_errors=True)
        with_accounts(Path(made), 0)
        os.environ[MADE] = made
    shutil.copytree(os.environ[MADE], data, dirs_exist_ok=True)


def with_accounts(data: Path, count: int) -> list[str]:
    """The same, and as many accounts that have them too; the keys of their sessions."""
    command = [sys.executable, "-m", "tests.browser.accounts", str(data), str(count)]
    told = subprocess.run(
        command, cwd=HOME, env=environment(), check=True, capture_output=True, text=True
    )
    return [
        line.removeprefix("key ") for line in told.stdout.splitlines() if line.startswith("key ")
    ]


@contextmanager
def serving(data: Path, workers: int = 1, host: str = "127.0.0.1") -> Iterator[Server]:
    server = Server(data, workers, host)
    server.start()
    try:
        yield server
    finally:
        server.stop()


class Client:
    """Asks over HTTP as the page does: with the cookie it was given, and what proves that it has it."""

    def __init__(self, server: Server) -> None:
        self.server = server
        self.cookies: dict[str, str] = {}
        self.connection = http.client.HTTPConnection(server.host, server.port, timeout=60)
        self._ask("GET", "/", None, {})  # the page, with its cookie

    def call(self, method: str, path: str, body: object = None) -> tuple[int, Any]:
        kind = {"Content-Type": "application/json"}
        sent = None if body is None else json.dumps(body).encode()
        status, told = self._ask(method, f"/api{path}", sent, kind)
        return status, json.loads(told) if told else None

    def post_file(self, path: str, content: bytes, **words: str) -> dict[str, Any]:
        """Status and answer, of a form with a file in it."""
        mark = "a-form-of-these-tests"
        lines = [f'Content-Disposition: form-data; name="{k}"\r\n\r\n{v}' for k, v in words.items()]
        lines.append(
            'Content-Disposition: form-data; name="file"; filename="table"\r\n'
            f"Content-Type: text/csv\r\n\r\n{content.decode()}"
        )
        body = "".join(f"--{mark}\r\n{line}\r\n" for line in lines) + f"--{mark}--\r\n"
        kind = {"Content-Type": f"multipart/form-data; boundary={mark}"}
        status, told = self._ask("POST", f"/api{path}", body.encode(), kind)
        return {"status": status, "answer": json.loads(told)}

    @property
    def cookie(self) -> str:
        return "; ".join(f"{name}={value}" for name, value in self.cookies.items())

    def _ask(
        self, method: str, path: str, body: bytes | None, headers: dict[str, str]
    ) -> tuple[int, bytes]:
        token = self.cookies.get("csrftoken", "")
        headers = {
            **headers,
            "Cookie": self.cookie,
            "X-CSRFToken": token,
            "Origin": self.server.url,
            "Connection": "close",  # kept open, the server may close it just as it is used again
        }
        self.connection.request(method, path, body, headers)
        answer = self.connection.getresponse()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                key, _, rest = value.partition("=")
                self.cookies[key] = rest.partition(";")[0]
        return answer.status, answer.read()


class Line:
    """A page's line, by a WebSocket client of another make."""

    def __init__(self, socket: ClientConnection) -> None:
        self.socket = socket
        self.asked = 0

    def send(self, ask: str, body: object) -> int:
        self.asked += 1
        self.socket.send(json.dumps({"id": self.asked, "ask": ask, "body": body}))
        return self.asked

    def hear(self, timeout: float = 60) -> tuple[dict[str, Any], Any]:
        """The next message: its head, and what follows it."""
        message = self.socket.recv(timeout)
        if isinstance(message, bytes):
            head, _, content = message.partition(b"\n")
            return json.loads(head), content
        first, _, rest = message.partition("\n")
        return json.loads(first), json.loads(rest) if rest else None

    def hear_to_the_end(self) -> None:
        """What is on its way still comes. Raises ConnectionClosed after it."""
        while True:
            self.hear()

    def ask(self, ask: str, body: object) -> tuple[int, Any]:
        """The status and the answer to this ask; what else comes meanwhile is passed over."""
        key = self.send(ask, body)
        while True:
            head, told = self.hear()
            if head["id"] == key and "status" in head:
                return head["status"], told


@contextmanager
def line_to(server: Server, origin: str = "", cookie: str = "") -> Iterator[Line]:
    opened = connect(
        f"ws://{server.address}/line",
        origin=origin or server.url,  # type: ignore[arg-type]
        additional_headers={"Cookie": cookie} if cookie else None,
        max_size=None,
        max_queue=None,
        close_timeout=1,
    )
    with opened as socket:
        yield Line(socket)
