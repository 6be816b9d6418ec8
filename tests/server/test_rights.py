"""A server that others reach asks who one is: for every request, and for every ask on an open line."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Iterator

import pytest
from websockets.exceptions import ConnectionClosed, InvalidStatus

from tests.serving import HOME, Client, Line, Server, environment, line_to, serving

BATTERY = json.loads((HOME / "examples" / "battery-sense.json").read_text())
ASKED = {"document": BATTERY}
# Every address of this machine that begins with 127 leads back to it; only the first needs no account.
SHARED = "127.0.0.2"
NOT_ALLOWED = 4403


def account(server: Server, *words: str, password: str = "") -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "lucidbench", "account", *words]
    command += ["--data", str(server.data)]
    return subprocess.run(
        command,
        input=password + "\n",
        capture_output=True,
        text=True,
        cwd=HOME,
        env=environment(),
        timeout=60,
    )


@pytest.fixture(scope="module")
def shared(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    with serving(tmp_path_factory.mktemp("data"), host=SHARED) as running:
        for name in ("ada", "ben"):
            assert account(running, name, password=f"{name} knows").returncode == 0
        yield running


def signed_in(server: Server, name: str) -> Client:
    client = Client(server)
    status, person = client.call("POST", "/sign-in", {"name": name, "password": f"{name} knows"})
    assert (status, person["name"]) == (200, name)
    return client


def ends(line: Line) -> bool:
    """Whether the line is closed to who asks on it now, with the reason."""
    with pytest.raises(ConnectionClosed) as closed:
        line.ask("look", ASKED)
    told = closed.value.rcvd
    return bool(told and told.code == NOT_ALLOWED and "not signed in" in told.reason)


def test_strangers_are_let_nowhere(shared: Server) -> None:
    stranger = Client(shared)
    assert stranger.call("GET", "/exercises")[0] == 401
    assert stranger.call("GET", "/me")[1] == {"needed": True, "name": None}
    with line_to(shared, cookie=stranger.cookie) as line:
        assert ends(line)
    with pytest.raises(InvalidStatus, match="403"), line_to(shared, "http://elsewhere.example"):
        pass
    status, told = stranger.call("POST", "/sign-in", {"name": "ada", "password": "guess"})
    assert (status, "name or the password is wrong" in told["detail"]) == (403, True)


def test_everybody_has_a_notebook_of_their_own(shared: Server) -> None:
    ada, ben = signed_in(shared, "ada"), signed_in(shared, "ben")
    status, opened = ada.call("POST", "/exercises", {"document": BATTERY})
    assert status == 201
    path = f"/exercises/{opened['id']}"
    save = {"based_on": 1, "document": BATTERY}
    assert ada.call("PUT", path, save)[0] == 200
    assert ben.call("GET", "/exercises")[1]["total"] == 0
    for method, at, body in (
        ("GET", path, None), ("PUT", path, save), ("DELETE", path, None),
        ("GET", f"{path}/revisions/1", None), ("POST", f"{path}/duplicate", None),
        ("POST", f"{path}/restore", None), ("GET", f"{path}/file", None),
    ):  # fmt: skip
        assert ben.call(method, at, body)[0] == 404, at
    with line_to(shared, cookie=ada.cookie) as line, line_to(shared, cookie=ben.cookie) as other:
        status, seen = line.ask("look", ASKED)
        assert status == 200
        assert other.ask("look", {"since": seen["mark"], "changes": []})[0] == 410


def test_rights_that_end_end_on_an_open_line_too(shared: Server) -> None:
    ada, ben = signed_in(shared, "ada"), signed_in(shared, "ben")
    with line_to(shared, cookie=ada.cookie) as hers, line_to(shared, cookie=ben.cookie) as his:
        assert hers.ask("look", ASKED)[0] == his.ask("look", ASKED)[0] == 200
        assert ada.call("POST", "/sign-out")[0] == 204
        assert ends(hers)
        assert his.ask("look", ASKED)[0] == 200
        assert account(shared, "ben", "--close").returncode == 0
        assert ends(his)
    assert ben.call("GET", "/exercises")[0] == 401
    assert "no account called eve" in account(shared, "eve", "--close").stderr
    assert account(shared, "b n", password="x").returncode == 1


def test_on_a_machine_of_ones_own_nobody_is_asked(server: Server) -> None:
    with line_to(server) as line:
        assert Client(server).call("GET", "/exercises")[0] == 200
        assert line.ask("look", ASKED)[0] == 200
