"""The client against instruments that are not as they should be, and against a maker's own commands."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from lucidbench.core.errors import LucidError
from lucidbench.instruments import client as clients
from lucidbench.instruments.bench import Bench
from lucidbench.instruments.client import BenchClient, BenchTrouble
from lucidbench.instruments.dialects import read_settings
from lucidbench.instruments.serving import BenchServer
from tests.core.circuits import circuit

Answer = Callable[[str], bytes | None]


@contextmanager
def instrument(answer: Answer) -> Iterator[tuple[str, list[str]]]:
    """A socket that answers each line as told; None hangs up. Gives its address, and what it heard."""
    place = socket.create_server(("127.0.0.1", 0))
    heard: list[str] = []

    def serve() -> None:
        while True:
            try:
                line, _ = place.accept()
            except OSError:
                return
            with line, line.makefile("rb") as lines:
                for raw in lines:
                    heard.append(raw.decode().strip())
                    told = answer(heard[-1])
                    if told is None:
                        break
                    line.sendall(told)

    threading.Thread(target=serve, daemon=True).start()
    yield f"TCPIP0::127.0.0.1::{place.getsockname()[1]}::SOCKET", heard
    place.close()


def usual(more: dict[str, bytes | None]) -> Answer:
    """Answers as an instrument does, and `more`."""
    known: dict[str, bytes | None] = {
        "*IDN?": b"Skerry,M1,7,1\n",
        "SYSTem:ERRor?": b'0,"No error"\n',
    }
    return lambda line: {**known, **more}.get(line, b"")


def test_nothing_there() -> None:
    with socket.create_server(("127.0.0.1", 0)) as place:
        port = place.getsockname()[1]
    client = BenchClient("Bench 3", {"meter": f"TCPIP0::127.0.0.1::{port}::SOCKET"})
    with pytest.raises(BenchTrouble, match="multimeter of Bench 3 cannot be reached"):
        client.number("meter", "read")
    with pytest.raises(BenchTrouble, match="Bench 3 has no oscilloscope"):
        client.number("oscilloscope", "interval")


def test_an_instrument_that_says_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(clients, "PATIENCE", 0.3)
    with instrument(usual({"READ?": b""})) as (address, _):
        client = BenchClient("Bench 3", {"meter": address})
        with pytest.raises(BenchTrouble, match=r"did not answer within 0\.3 s"):
            client.number("meter", "read")


def test_an_answer_that_is_no_number() -> None:
    with instrument(usual({"READ?": b"please wait\n"})) as (address, _):
        client = BenchClient("Bench 3", {"meter": address})
        with pytest.raises(BenchTrouble, match="answered “please wait” to READ"):
            client.number("meter", "read")


def test_an_instrument_that_hangs_up_is_connected_again() -> None:
    hangs = {"READ?": None}
    with instrument(lambda line: usual(dict(hangs))(line)) as (address, heard):
        client = BenchClient("Bench 3", {"meter": address})
        with pytest.raises(BenchTrouble, match="connection to the multimeter of Bench 3 was lost"):
            client.number("meter", "read")
        hangs["READ?"] = b"1.5\n"  # type: ignore[assignment]
        assert client.number("meter", "read") == 1.5
        assert heard.count("*IDN?") == 2


def test_what_the_instrument_says_is_wrong_is_told() -> None:
    errors = [b'-222,"Data out of range"\n', b'0,"No error"\n']
    answer = usual({})
    with instrument(
        lambda line: errors.pop(0) if line.startswith("SYST") and errors else answer(line)
    ) as (address, _):
        client = BenchClient("Bench 3", {"supply": address})
        with pytest.raises(BenchTrouble, match="The supply says: Data out of range"):
            client.tell("supply", "volts", value="9999")


def test_a_makers_own_commands_from_the_settings_file(tmp_path: Path) -> None:
    """By what *IDN? answers; a step left empty is left out."""
    file = tmp_path / "instruments.toml"
    with instrument(usual({"GIVE!": b"4.25\n"})) as (address, heard):
        file.write_text(
            f"""
            [[bench]]
            name = "Bench 3"
            meter = "{address}"

            [[dialect]]
            kind = "meter"
            name = "Skerry meters"
            identification = "^Skerry,M1"
            accuracy = [0.001, 0.0005]
            commands = {{ function = "", read = "GIVE!" }}
            """
        )
        settings = read_settings(file)
        client = BenchClient("Bench 3", settings.benches[0].addresses, settings)
        client.tell("meter", "function", function="VOLT:DC")
        assert client.number("meter", "read") == 4.25
        assert client.dialect("meter").accuracy == (0.001, 0.0005)
        assert not any("CONF" in line for line in heard)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("[[bench]\n", "cannot be read"),
        ('[[bench]]\nname = "A"\nlamp = "x"\n', "lamp is no kind of instrument"),
        ('[[dialect]]\nkind = "meter"\nidentification = "("\n', "has a fault"),
        ('[[dialect]]\nkind = "meter"\nidentification = "x"\ncommands = { reed = "" }\n', "no step reed"),
    ],
)  # fmt: skip
def test_a_settings_file_with_a_fault(tmp_path: Path, text: str, told: str) -> None:
    (tmp_path / "instruments.toml").write_text(text)
    with pytest.raises(LucidError, match=told):
        read_settings(tmp_path / "instruments.toml")
    assert read_settings(tmp_path / "none.toml").benches == ()


def test_the_stand_in_and_the_client_agree_on_every_step() -> None:
    """No step of any kind is unknown to the stand-in: what it does not understand it would say."""
    server = BenchServer(Bench(circuit("V1 a 0 SIN(0 1 1k)", "R1 a 0 1k")))
    client = BenchClient("The stand-in", server.addresses)
    put_in = {
        "function": "VOLT:DC", "shape": "SINusoid", "value": "10", "channel": 1, "coupling": "AC",
        "slope": "POS", "places": "a",
    }  # fmt: skip
    for kind in ("generator", "oscilloscope", "meter"):
        dialect = client.dialect(kind)
        steps = [s for s in clients_steps(kind) if not (dialect.command(s) or "").endswith("?")]
        for step in sorted(steps, key=lambda s: s != "clip"):
            if step not in ("start", "data") and "{channel}?" not in step:
                places = "V1" if kind == "generator" else "a"
                client.tell(kind, step, **{**put_in, "places": places})
    client.close()
    server.stop()


def clients_steps(kind: str) -> list[str]:
    from lucidbench.instruments.dialects import STANDARD

    return ["clip", *STANDARD[kind]]
