"""The open line, from the outside: a WebSocket client of another make asks as a page would."""

from __future__ import annotations

import json
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Thread
from typing import Any

import pytest
from django.conf import settings
from waitress.server import create_server
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import ClientConnection, connect

from lucidbench.server.line import PATH, taking_lines
from lucidbench.server.wsgi import application

EXAMPLE = Path(__file__).parents[2] / "examples" / "battery-sense.json"
TOKEN = "a" * 32
pytestmark = pytest.mark.django_db


@contextmanager
def served() -> Iterator[str]:
    """The address of a server that takes lines, host and port."""
    listening = socket.create_server(("127.0.0.1", 0))
    server = create_server(application, sockets=[listening])
    server.channel_class = taking_lines(application, 10_000_000)
    Thread(target=server.run, daemon=True).start()
    try:
        yield f"127.0.0.1:{listening.getsockname()[1]}"
    finally:
        server.close()


def line_to(host: str, origin: str, token: str = TOKEN) -> ClientConnection:
    cookie = {"Cookie": f"{settings.CSRF_COOKIE_NAME}={token}"}
    return connect(f"ws://{host}{PATH}", origin=origin, additional_headers=cookie)  # type: ignore[arg-type]


def send(line: ClientConnection, key: int, path: str, body: object, token: str = TOKEN) -> None:
    line.send(json.dumps({"key": key, "path": path, "token": token}) + "\n" + json.dumps(body))


def heard(line: ClientConnection) -> tuple[int, int, Any]:
    head, _, told = str(line.recv()).partition("\n")
    key, status = map(int, head.split())
    return key, status, json.loads(told)


def test_a_line_answers_as_http_does() -> None:
    with served() as host, line_to(host, f"http://{host}") as line:
        send(line, 7, "/api/look", {"document": json.loads(EXAMPLE.read_text())})
        key, status, look = heard(line)
        assert (key, status, look["unsolved"]) == (7, 200, None)
        for k in range(20):
            send(line, k, "/api/interpret", {"text": f"{k + 1}k"})
        told = {key: answer for key, status, answer in (heard(line) for _ in range(20))}
        values = [told[k]["placements"][0]["values"]["resistance"] for k in range(20)]
        assert values == [f"{k + 1}k" for k in range(20)]
        send(line, 1, "/api/look", {"since": "forgotten"})
        key, status, problem = heard(line)
        assert (key, status, problem["title"]) == (1, 410, "Forgotten")


def test_a_line_is_for_pages_that_came_from_here() -> None:
    with served() as host:
        with pytest.raises(InvalidStatus, match="403"):
            line_to(host, "http://elsewhere.example")
        with line_to(host, f"http://{host}") as line:
            send(line, 1, "/api/interpret", {"text": "4k7"}, token="b" * 32)
            assert heard(line)[:2] == (1, 403)
            line.send("anything")
            with pytest.raises(ConnectionClosed, match="no such message"):
                line.recv()
