"""The bench over real sockets, with PyVISA as a client of its own: IEEE 488.2-1992 and SCPI-1999."""

from __future__ import annotations

import contextlib
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import pyvisa

from lucidbench.instruments.bench import Bench
from lucidbench.instruments.models import Meter
from lucidbench.instruments.scpi.server import LONGEST_LINE, MOST_CLIENTS, InstrumentServer
from lucidbench.instruments.scpi.syntax import Pattern, block, messages, numeric
from lucidbench.instruments.serving import BenchServer
from tests.core.circuits import circuit
from tests.serving import free_port

EXAMPLES = Path(__file__).parents[2] / "examples"


@pytest.fixture
def bench() -> Iterator[BenchServer]:
    server = BenchServer(Bench(circuit("V1 in 0 SIN(0 1 1k)", "R1 in out 1k", "R2 out 0 1k")))
    yield server
    server.stop()


def visa(server: BenchServer, kind: str) -> Any:
    manager = pyvisa.ResourceManager("@py")
    return manager.open_resource(
        server.addresses[kind], read_termination="\n", write_termination="\n", timeout=10_000
    )


def plain(server: BenchServer, kind: str) -> socket.socket:
    port = int(server.addresses[kind].split("::")[2])
    line = socket.create_connection(("127.0.0.1", port), 10)
    line.settimeout(10)
    return line


def asked(line: socket.socket, message: bytes) -> str:
    line.sendall(message + b"\n")
    return line.makefile("rb").readline().decode().strip()


def test_headers_in_every_form() -> None:
    """SCPI-1999, volume 1, 6.2: short and long mnemonics, any case, optional nodes, numeric suffixes."""
    pattern = Pattern("[SENSe]:VOLTage#[:DC]:RANGe[:UPPer]")
    for header in ("SENSE:VOLTAGE:DC:RANGE:UPPER", "VOLT:RANG", "SENS:VOLT1:RANG"):
        assert pattern.suffixes(header) == (1,)
    assert pattern.suffixes("VOLTAGE2:DC:RANG") == (2,)
    for header in ("VOLTA:RANG", "VOLT", "VOLT:RANG:LOWER", "SENS:VOLT"):
        assert pattern.suffixes(header) is None


def test_paths_of_compound_messages() -> None:
    """SCPI-1999, volume 1, 6.2.4: a header without a colon goes on where the one before it was; common
    commands leave that as it is; a semicolon within a string parts nothing."""
    line = 'TRIG:LEV 1;SLOP POS;*OPC?;SOUR "a;b";:SYST:ERR?'
    found = [(m.header, m.is_query) for m in messages(line)]
    assert found == [
        ("TRIG:LEV", False), ("TRIG:SLOP", False), ("*OPC", True), ("TRIG:SOUR", False),
        ("SYST:ERR", True),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [("10 MV", "V", 0.01), ("1.5KHZ", "HZ", 1500.0), ("2MHZ", "HZ", 2e6), ("1 MOHM", "OHM", 1e6),
     ("-2.5E-3", "V", -0.0025), ("3UA", "A", 3e-6), ("#H1F", "", 31.0), ("1MAHZ", "HZ", 1e6)],
)  # fmt: skip
def test_numbers_with_suffixes(text: str, unit: str, value: float) -> None:
    """SCPI-1999, volume 1, 7.1: M is milli, but mega in MHZ and MOHM."""
    assert numeric(text, unit) == pytest.approx(value)


def test_a_block_tells_its_length() -> None:
    """IEEE 488.2-1992, 8.7.9."""
    assert block(b"x" * 12) == b"#212" + b"x" * 12


def test_common_commands_and_status(bench: BenchServer) -> None:
    meter = visa(bench, "meter")
    assert meter.query("*IDN?").startswith("Lucid Bench,Multimeter,")
    assert meter.query("*OPC?") == "1"
    assert meter.query("*TST?") == "0"
    assert meter.query("SYST:VERS?") == "1999.0"
    assert int(meter.query("*ESR?")) == 128  # it was switched on
    meter.write("*ESE 60;*SRE 32")
    meter.write("NONSENSE")
    assert (
        int(meter.query("*STB?")) == 4 + 32 + 64
    )  # an error waits, its event is enabled, so is service
    assert int(meter.query("*ESR?")) == 32  # a command error
    assert meter.query("SYST:ERR?").startswith("-113,")
    assert meter.query("SYST:ERR?") == '0,"No error"'
    meter.write("*CLS")
    assert int(meter.query("*STB?")) == 0


@pytest.mark.parametrize(
    ("kind", "line", "number"),
    [
        ("meter", "CONF:FOO", -113), ("meter", "CONF:VOLT 1E6", -222),
        ("meter", "FETCH?", -230), ("meter", "READ?", -221), ("meter", "*IDN? 3", -108),
        ("meter", "FUNC", -109), ("meter", 'FUNC "LIGHT"', -224), ("meter", "CONF:VOLT 1KHZ", -131),
        ("meter", "ROUT:CLOS (@out", -171), ("meter", "CONF:VOLT 1.2.3", -121),
        ("generator", "FREQ ABC", -104), ("generator", "FREQ 1E12", -222),
        ("generator", "FUNC ROUND", -141), ("oscilloscope", "INP3:COUP AC", -114),
        ("oscilloscope", "TRACE? CH1", -230), ("oscilloscope", "INIT", -221),
    ],
)  # fmt: skip
def test_what_is_wrong_has_the_standards_number(
    bench: BenchServer, kind: str, line: str, number: int
) -> None:
    """SCPI-1999, volume 2, chapter 21."""
    instrument = visa(bench, kind)
    instrument.write(line)
    assert int(instrument.query("SYST:ERR?").split(",")[0]) == number
    assert instrument.query("*OPC?") == "1"


def test_the_error_queue_overflows_as_the_standard_says(bench: BenchServer) -> None:
    meter = visa(bench, "meter")
    for _ in range(30):
        meter.write("NONSENSE")
    count = int(meter.query("SYST:ERR:COUN?"))
    told = [meter.query("SYST:ERR?").split(",")[0] for _ in range(count)]
    assert told == ["-113"] * (count - 1) + ["-350"]


def test_a_measurement_in_every_style(bench: BenchServer) -> None:
    """SCPI-1999, volume 2, chapter 3: MEASure, CONFigure with READ, INITiate with FETCh, the same each time
    but for noise of some counts; the generator takes the place of the source."""
    generator, meter = visa(bench, "generator"), visa(bench, "meter")
    generator.write("SOURce:FUNCtion SINusoid; FREQuency 1.0KHZ; :SOURCE:VOLTAGE 2; :OUTPUT ON")
    assert float(generator.query("FREQ? MAX")) == 20e6
    first = float(meter.query("MEASURE:VOLTAGE:AC? (@out,gnd)"))
    meter.write("CONF:VOLT:AC;:ROUT:CLOS (@out)")
    second = float(meter.query("READ?"))
    meter.write("INIT")
    third = float(meter.query("FETC?"))
    assert first == pytest.approx(2 * 2000 / 2050 / 2 / 2**0.5, rel=0.02)
    assert second == pytest.approx(first, abs=0.003)
    assert third == pytest.approx(first, abs=0.003)
    assert generator.query("SYST:ERR?").startswith("0")


def test_a_waveform_as_text_and_as_a_block(bench: BenchServer) -> None:
    scope = visa(bench, "oscilloscope")
    scope.write("ROUT2:CLOS (@out);:SWE:POIN 200;TIME 2 MS;:TRIG:SOUR INT2;:INIT")
    assert scope.query("SYST:ERR?").startswith("0")
    text = scope.query_ascii_values("TRAC? CH2")
    scope.write("FORM REAL,32")
    packed = scope.query_binary_values("DATA? CH2", datatype="f", is_big_endian=True)
    assert len(text) == 200
    assert packed == pytest.approx(text, rel=1e-6)


def test_half_a_command_and_a_line_without_end(bench: BenchServer) -> None:
    line = plain(bench, "meter")
    line.sendall(b"*ID")
    time.sleep(0.05)
    assert asked(line, b"N?").startswith("Lucid Bench")
    for _ in range(160):  # ten megabytes without a newline
        line.sendall(b"A" * LONGEST_LINE)
    line.sendall(b"\n")
    assert asked(line, b"SYST:ERR?").startswith("-363")
    line.close()


def test_bytes_that_are_no_text(bench: BenchServer) -> None:
    line = plain(bench, "meter")
    line.sendall(b"\xff\x00\xfe\n")
    assert asked(line, b"SYST:ERR?").startswith("-101")


def test_a_client_that_never_reads_holds_up_nobody(bench: BenchServer) -> None:
    """What it did not read is dropped when it asks anew, with the error for that."""
    deaf, other = plain(bench, "oscilloscope"), plain(bench, "oscilloscope")
    assert asked(other, b"ROUT1:CLOS (@out);:SWE:POIN 20000;:INIT;:SYST:ERR?").startswith("0")
    deaf.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
    for _ in range(40):
        deaf.sendall(b"TRAC? CH1\n")
    time.sleep(2.0)
    began = time.monotonic()
    assert asked(other, b"*OPC?") == "1"
    assert time.monotonic() - began < 5
    told = [asked(other, b"SYST:ERR?").split(",")[0] for _ in range(3)]
    assert "-410" in told


def test_two_hundred_clients(bench: BenchServer) -> None:
    """Those beyond the most are let go at once; the others are answered."""
    lines = [plain(bench, "meter") for _ in range(200)]
    answered = 0
    for line in lines:
        with contextlib.suppress(OSError):
            answered += asked(line, b"*OPC?") == "1"
    assert answered == MOST_CLIENTS
    for line in lines:
        line.close()
    time.sleep(0.3)
    assert asked(plain(bench, "meter"), b"*OPC?") == "1"


def test_a_port_that_is_taken_leaves_none_served() -> None:
    port = free_port(run=5)
    held = InstrumentServer(Meter(Bench(circuit("V1 a 0 1", "R1 a 0 1k"))), port=port + 2)
    with pytest.raises(OSError, match=f"port {port + 2}: .* in use"):
        BenchServer(Bench(circuit("V1 a 0 1", "R1 a 0 1k")), port=port)
    with socket.socket() as free:
        free.bind(("127.0.0.1", port))
    held.server_close()


def test_a_bench_from_the_command_line() -> None:
    """`lucid bench` prints where each instrument is, the meter first, and ends when asked to."""
    command = [sys.executable, "-m", "lucidbench", "bench", str(EXAMPLES / "battery-sense.json")]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout
        told = [process.stdout.readline().strip() for _ in range(5)]
        kinds = [line.split(":")[0] for line in told]
        assert kinds == ["meter", "generator", "oscilloscope", "supply", "bridge"]
        port = int(told[0].split("::")[2])
        with socket.create_connection(("127.0.0.1", port), 10) as line:
            assert 2.4 < float(asked(line, b"MEAS:VOLT? (@out,gnd)")) < 2.8
        process.terminate()
        assert process.wait(10) == 0
    wrong = subprocess.run(
        [*command[:4], "/nowhere.cir"], capture_output=True, text=True, check=False
    )
    assert wrong.returncode == 2
    assert "cannot be read" in wrong.stderr
