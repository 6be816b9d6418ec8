"""Netlist text and `solve`: the trade's common form, and sentences that name line, element and text."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.cli import BAD_INPUT, main
from lucidbench.core.errors import NetlistError
from lucidbench.core.netlist import read_netlist

DIVIDER = """a divider
* fed from twelve volts
V1 in 0 DC 12 ; the supply
R1 in out
+ 1MEG
r2 OUT gnd 270kohm
.op
.end
"""


def test_reading_the_common_form() -> None:
    netlist = read_netlist(DIVIDER)
    v1, r1, r2 = netlist.circuit
    assert (v1.values, r1.values, r2.values) == (
        {"voltage": 12.0},
        {"resistance": 1e6},
        {"resistance": 270e3},
    )
    assert r1.nodes == ("in", "out")
    assert r2.nodes == ("out", "0")  # case is not told apart; the first spelling stays
    assert netlist.lines == {"V1": 3, "R1": 4, "r2": 6}


@pytest.mark.parametrize(
    ("suffix", "factor"),
    [("meg", 1e6), ("MEG", 1e6), ("M", 1e-3), ("m", 1e-3), ("K", 1e3), ("u", 1e-6), ("F", 1e-15),
     ("G", 1e9), ("ohm", 1.0)],
)  # fmt: skip
def test_suffixes_without_regard_to_case(suffix: str, factor: float) -> None:
    (element,) = read_netlist(f"t\nR1 a 0 2{suffix}\n").circuit
    assert element.values["resistance"] == pytest.approx(2 * factor)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("R1 a 0 zzz", "line 3: R1: “zzz” is not a value"),
        ("R1 a 0", "line 3: R1 needs two nodes and a value"),
        ("R1 a 0 0", "resistance is zero"),
        ("R1 a 0 -5", "resistance is negative"),
        ("R1 a 0 1k extra", "“extra” after the value"),
        ("V9 a 0 2", "V9 is already defined in line 2"),
        ("Z1 a 0 1k", "“Z1” begins with no letter"),
        (".tran 1", ".tran takes step, stop"),
        (".noise v(a) V9", "“.noise” is not understood"),
        ("R1 a 0 1e999", "too large"),
        ("R1 {a} 0 1k", "“{a}” is no node name"),
        (".end\nR1 a 0 1", "line 4: “R1” stands after .end"),
    ],
)
def test_refusals_name_line_element_and_text(line: str, says: str) -> None:
    with pytest.raises(NetlistError) as refusal:
        read_netlist(f"title\nV9 a 0 1\n{line}\n")
    assert says in str(refusal.value)


@given(st.text(max_size=300))
def test_junk_is_refused_by_name(text: str) -> None:
    try:
        read_netlist(text)
    except NetlistError as refusal:
        assert str(refusal).startswith("line ")  # noqa: PT017


def test_solve_prints_the_operating_point(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "divider.cir"
    file.write_text(DIVIDER)
    assert main([str(file)]) == 0
    (analysis,) = json.loads(capsys.readouterr().out)["analyses"]
    assert analysis["kind"] == "operating_point"
    values = analysis["values"]
    assert set(values) == {f"{q}_{n}" for q in "IP" for n in ("V1", "R1", "r2")} | {"V_in", "V_out"}
    assert values["V_out"] == pytest.approx(12 * 27 / 127)
    assert values["I_R1"] == pytest.approx(12 / 1.27e6)
    assert values["I_V1"] == pytest.approx(-12 / 1.27e6)


def test_solve_of_a_drawing_is_solve_of_its_text(capsys: pytest.CaptureFixture[str]) -> None:
    example = Path(__file__).parents[2] / "examples" / "battery-sense.json"
    assert main([str(example)]) == 0
    (analysis,) = json.loads(capsys.readouterr().out)["analyses"]
    assert analysis["values"]["V_out"] == pytest.approx(12.6 * 27 / 127)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "the file is empty"),
        (b"t\nR1 a 0 1k\nI1 a b 1m\n", "line 3: Nothing but the current source I1"),
        (b"t\nR1 a b 1k\n", "There is no ground"),
        (b"t\n\xff\xfe\n", "line 2: this is not UTF-8 text"),
        (b"R1 a 0 1k\nR2 b c 1k\n", "line 1, “R1 a 0 1k”, is taken as the title"),
        (b'{"format": "other"}', "no Lucid Bench exercise"),
        (b'{"format": "lucid-bench-exercise", "version": 9}', "version 9"),
        (b"{nonsense", "no JSON document"),
        (b"x" * 6_000_000, "are the most"),
    ],
)
def test_solve_says_in_one_line_what_is_wrong(
    content: bytes, says: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "bad.cir"
    file.write_bytes(content)
    assert main([str(file)]) == BAD_INPUT
    out, err = capsys.readouterr()
    assert out == ""
    assert says in err
    assert err.count("\n") == 1
