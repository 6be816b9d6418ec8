"""Netlist text and `solve`: the trade's common form, and sentences that name line, element and text."""

from __future__ import annotations

import json
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.__main__ import main as lucid
from lucidbench.cli.solve import BAD_INPUT
from lucidbench.core.analyses import operating_point
from lucidbench.core.document.exercise import read_exercise
from lucidbench.core.errors import NetlistError
from lucidbench.core.netlist import Element, read_netlist, write_netlist
from lucidbench.core.schematic import read_drawing

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
        ("Q1 c b e", "Q1 needs 3 nodes and the name of a model"),
        ("Q1 c b e none", "there is no model none; the text defines none"),
        ("D1 a 0 m\n.model m NPN(BF=1)", "the model m in line 4 is a NPN, which belongs to Q"),
        ("D1 a 0 m\n.model m D(XX=1)", "line 4: “XX” is no parameter of D"),
        (
            "D1 a 0 m\n.model m D(IS=-1)",
            "line 4: the model m: IS: its saturation current is negative",
        ),
        (".model m D\n.model m D", "line 4: the model m is already defined in line 3"),
        (".model m FOO(a=1)\nD1 a 0 m", "“FOO” is no type of model"),
        ("R1 a 0 {2*q}", "line 3: R1: nothing is called q here"),
        (".param a={b} b={a}\nR1 a 0 {a}", "in a circle: a → b → a"),
        ("R1 a 0 {1/0}", "a division by zero"),
        ("R1 a 0 {(1+2}", "this parenthesis is not closed"),
        ("R1 a 0 {1+2", "is not closed by }"),
        ("X1 a 0 sub", "there is no subcircuit sub"),
        (
            ".subckt s a\nR1 a 0 1\n.ends\nX1 a 0 s",
            "a node for each of its ports, 1 in all (a); here are 2",
        ),
        (".subckt s a\nX1 a s\n.ends\nX1 a s", "does s hold itself?"),
        (".subckt s a\nR1 a 0 1", "the subcircuit s is not closed by .ends"),
        (".subckt s a\nR1 a 0 {r}\n.ends\nX1 a s q=1", "s has no parameter q"),
        ("V1 a 0 SIN(0 1)", "SIN takes offset amplitude frequency"),
        ("V1 a 0 PWL(0 0 1m 1 0.5m 2)", "must not run back"),
        ("V1 a 0 PULSE(0 1 0 1m 1m 1m 1m)", "longer than its period"),
        ("K1 L1 L2 2", "line 3: K1: its coupling factor must lie between"),
        ("E1 a 0 b 0", "E1 needs two nodes, two control nodes and a gain"),
        ("B1 a 0 V={V(b)*log(2)}", "log is read in two ways"),
        ("Y1 a 0 banana", "“banana” is no kind of part"),
        ("Y1 a resistor resistance=1", "Y1 needs 2 nodes before its kind"),
        (".dc V1 0 1 0", "never lead from"),
        (".dc Q1 0 1 1", "there is no element or parameter called Q1"),
        (".ac dec 0 1 2", "no number of points"),
        (".ac dec 10 0 2", "must be above 0 Hz"),
        (".tran 1u 0", "above 0 s"),
        (".tran 2 1", "its step, 2, is longer than the whole run, 1"),
        ("R1 a 0 {1e400}", "line 3: R1: “1e400” is too large a number"),
        ("B1 a 0 V={1e400*V(b)}", "“1e400” is too large a number"),
        ("R1 a 0 1e", "“1e” lacks the digits of its exponent"),
        ("V1 a 0 SIN(0 1,5 1k)", "“1,5” has a comma where a decimal point is wanted"),
        (".tran 1m 10,5m", "“10,5m” has a comma where"),
        (".dc V1 0 1,5 0.1", "“1,5” has a comma where"),
        (".ac dec 10 1 1,5meg", "“1,5meg” has a comma where"),
        (".temp 27,5", "“27,5” has a comma where"),
        ("R9 a 0 4,7k", "“4,7k” has a comma where"),
        ("C9 a 0 1u IC=-2,5", "“-2,5” has a comma where"),
        (".model q NPN(BF=1,5)", "“1,5” has a comma where"),
        (".param x=1,5", "“1,5” has a comma where"),
        (".ic V(a)=1,5", "“1,5” has a comma where"),
        (".param pi=3", "pi has its own meaning here"),
        (".temp 20\n.temp 30", "line 4: the temperature is already told in line 3"),
        (".dc temp -300 0 50", "-300 °C is no temperature"),
        ("B1 a 0 V={V(inn)}\nR1 in 0 1", "line 3: B1 senses the node inn, and nothing is joined"),
        ("R1 a 0 " + "x" * 100_000, "R1: “" + "x" * 60 + "…” is not a value"),
        (".ic V(nowhere)=1", "no node called nowhere"),
        (".temp -400", "no temperature"),
        (".end\nR1 a 0 1", "line 4: “R1” stands after .end"),
    ],
)
def test_refusals_name_line_element_and_text(line: str, says: str) -> None:
    with pytest.raises(NetlistError) as refusal:
        read_netlist(f"title\nV9 a 0 1\n{line}\n")
    assert says in str(refusal.value)


def test_models_parameters_and_subcircuits() -> None:
    netlist = read_netlist(
        """nested
        .param fc=1k Rb={2*ra} ra=5k
        .model sw NPN BF=180 IS=1e-15 KF=1e-12
        .subckt half in out r=1k
        R1 in mid {r}
        R2 mid out {2*r}
        .ends
        .subckt whole a b scale=1
        Xl a m half r={scale*1k}
        Xr m b half r=3k
        .ends
        X1 in 0 whole scale=2
        X2 in 0 whole
        C1 in 0 {1/(2*pi*fc*Rb)} IC=1
        Q1 in in 0 sw
        """
    )
    named = netlist.circuit.by_name
    assert named["X1.Xl.R2"].values["resistance"] == 4e3
    assert named["X2.Xl.R2"].values["resistance"] == 2e3
    assert named["X1.Xl.R1"].nodes == ("in", "X1.Xl.mid")
    assert named["X1.Xr.R1"].nodes == ("X1.m", "X1.Xr.mid")
    assert named["C1"].values == {"capacitance": pytest.approx(15.9155e-9), "initial_voltage": 1.0}
    assert netlist.notes == ("line 3: KF of the model sw has no effect here (noise)",)
    changed = netlist.circuit.with_parameter("ra", 10e3)
    assert changed.by_name["C1"].values["capacitance"] == pytest.approx(15.9155e-9 / 2)
    assert operating_point(netlist.circuit.without({"Q1", "C1"}).with_element(
        Element("V1", "voltage_source", ("in", "0"), {"voltage": 1.0})
    )).voltages["X1.m"] == pytest.approx(9 / 15)  # fmt: skip


EVERYTHING = """everything that has a line
V1 a 0 DC 1 AC 2 45 SIN(0.1 1 1k 1m 10 30)
V2 b 0 PULSE(0 5 1u 1n 2n 3u 9u)
I1 0 c DC 1m EXP(0 1m 1u 2u 3u 4u)
V3 k 0 PWL(0 0 1m 1 2m 0)
R1 a b 1k TC=1m
C1 b c 1u IC=2
L1 c d 1m IC=1m
L2 d 0 2m
K1 L1 L2 0.9
E1 e 0 a b 3
G1 0 e a 0 1m
F1 0 e V1 2
H1 f 0 V2 50
B1 g 0 V={V(a,b)*I(V1)^2 + max(time, 2) - exp(-abs(V(c)))}
R2 g f 1
R3 e f 1
D1 f k dm
Q1 a b c qm
M1 a b c 0 mm W=10u L=1u
J1 a k c jm
S1 a k b 0 sm
Y1 a g q opamp form=one_pole gain=1e5
R4 q 0 1
Y2 a b impedance resistance=5 reactance=0
Y3 k d timed_switch closes_at=1m
.model dm D(IS=1e-12 N=1.5 RS=1 CJO=1p BV=30)
.model qm PNP(BF=80 VAF=50 RB=10)
.model mm PMOS(VTO=-1 KP=50u LAMBDA=0.01)
.model jm NJF(VTO=-3 BETA=1m)
.model sm SW(VT=1 VH=0.1)
.temp 50
"""


def test_what_is_written_reads_back_as_the_same_circuit() -> None:
    first = read_netlist(EVERYTHING).circuit
    again = read_netlist(write_netlist(first)).circuit
    assert again.temperature == first.temperature
    assert operating_point(again).values == pytest.approx(operating_point(first).values, rel=1e-9)
    for before, after in zip(first, again, strict=True):
        assert (before.name, before.kind, before.nodes) == (after.name, after.kind, after.nodes)
        times = np.linspace(0, 5e-3, 50)
        if before.waveform is not None:
            assert after.waveform is not None
            assert after.waveform.value(times) == pytest.approx(before.waveform.value(times))
        told = {k: v for k, v in before.values.items() if v != before.device.defaults.get(k)}
        assert {k: after.values.get(k) for k in told} == pytest.approx(told, rel=1e-12)


@pytest.mark.parametrize("name", ["battery-sense", "level-bridge"])
def test_a_drawing_written_as_text_gives_the_same_results(name: str) -> None:
    document = (Path(__file__).parents[2] / "examples" / f"{name}.json").read_text()
    exercise = read_exercise(document)
    drawn = read_drawing(exercise.schematic, exercise.title).circuit
    again = read_netlist(write_netlist(drawn)).circuit
    assert again.title == exercise.title
    assert operating_point(again).values == pytest.approx(operating_point(drawn).values)


@given(st.lists(st.sampled_from(EVERYTHING.split()), max_size=60), st.integers(1, 9))
def test_shuffled_words_are_read_or_refused_by_line(words: list[str], width: int) -> None:
    lines = [" ".join(words[k : k + width]) for k in range(0, len(words), width)]
    try:
        read_netlist("\n".join(["t", *lines]))
    except NetlistError as refusal:
        assert str(refusal).startswith("line ")  # noqa: PT017


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
    assert lucid(["solve", str(file)]) == 0
    (analysis,) = json.loads(capsys.readouterr().out)["analyses"]
    assert analysis["kind"] == "operating_point"
    values = analysis["values"]
    assert set(values) == {f"{q}_{n}" for q in "IP" for n in ("V1", "R1", "r2")} | {"V_in", "V_out"}
    assert values["V_out"] == pytest.approx(12 * 27 / 127)
    assert values["I_R1"] == pytest.approx(12 / 1.27e6)
    assert values["I_V1"] == pytest.approx(-12 / 1.27e6)


ALL_FOUR = """every analysis
V1 in 0 DC 2 AC 1 SIN(0 1 1k)
R1 in out 1k
C1 out 0 159.15494309189535n
.op
.dc V1 0 2 1
.ac dec 1 100 10k
.tran 0.25m 1.1m
"""


def solved(text: str, tmp_path: Path, capsys: pytest.CaptureFixture[str], *options: str) -> str:
    file = tmp_path / "circuit.cir"
    file.write_text(text)
    assert lucid(["solve", str(file), *options]) == 0
    return capsys.readouterr().out


def test_solve_prints_every_analysis_in_file_order(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    point, sweep, over, run = json.loads(solved(ALL_FOUR, tmp_path, capsys))["analyses"]
    assert point["values"]["V_out"] == 2.0
    assert sweep["kind"] == "dc_sweep"
    assert sweep["axis"] == {"name": "V1", "unit": "V", "values": [0.0, 1.0, 2.0]}
    assert sweep["traces"]["V_out"] == [0.0, 1.0, 2.0]
    assert over["kind"] == "frequency_sweep"
    assert over["axis"]["values"] == pytest.approx([100, 1e3, 1e4])
    gain = np.array(over["traces"]["V_out"]["re"]) + 1j * np.array(over["traces"]["V_out"]["im"])
    assert gain == pytest.approx(1 / (1 + 1j * np.array([0.1, 1, 10])))
    assert set(over["traces"]) == {"V_in", "V_out", "I_V1", "I_R1", "I_C1"}
    assert run["kind"] == "transient"
    assert run["axis"]["values"] == pytest.approx([0, 0.25e-3, 0.5e-3, 0.75e-3, 1e-3, 1.1e-3])
    t, w = np.array(run["axis"]["values"]), 2e3 * np.pi
    exact = (
        np.sin(w * t) - np.cos(w * t) + np.exp(-w * t)
    ) / 2  # of a sine switched on to an RC at w = 1/RC
    assert run["traces"]["V_out"] == pytest.approx(exact, abs=1e-4)


def test_solve_for_people(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    table = solved(ALL_FOUR.replace(".op", ""), tmp_path, capsys, "--csv", "--show", "v_out")
    first, second, third = table.replace("\r", "").strip().split("\n\n")
    assert first.splitlines()[:3] == ["V1 [V],V_out", "0.0,0.0", "1.0,1.0"]
    assert second.splitlines()[0] == "frequency [Hz],|V_out|,arg V_out [°]"
    assert third.splitlines()[0] == "time [s],V_out"
    picture = tmp_path / "curves.svg"
    solved(ALL_FOUR, tmp_path, capsys, "--plot", str(picture))
    drawn = ElementTree.fromstring(picture.read_text())
    curves = [node for node in drawn.iter() if node.tag.endswith("polyline")]
    assert len(curves) == 5 + 2 * 5 + 5
    nested = "t\nV1 a 0 1\nV2 b 0 1\nR1 a b 1k\n.dc V1 0 1 1 V2 0 2 1\n"
    (analysis,) = json.loads(solved(nested, tmp_path, capsys))["analyses"]
    assert analysis["outer"]["values"] == [0.0, 1.0, 2.0]
    assert analysis["traces"]["I_R1"] == pytest.approx(np.array([[0, 1], [-1, 0], [-2, -1]]) * 1e-3)


@pytest.mark.parametrize(
    ("first", "is_said"),
    [("R1 a 0 1k", True), ("V1 a 0 SIN(0 1 1k)", True), ("D1 a b d", True), ("Q1 a b 0 q", True),
     ("C9 b 0 1u IC=2", True), ("Low pass with 10k", False), ("Common emitter stage", False),
     ("R1 x y 1k", False), ("", False), ("* R1 a 0 1k", False)],
)  # fmt: skip
def test_a_first_line_that_is_an_element_is_said_to_be_the_title(first: str, is_said: bool) -> None:
    models = ".model d D\n.model q NPN\n"
    read = read_netlist(f"{first}\nV9 b 0 5\nR9 b a 1k\nR8 a 0 1k\n{models}")
    assert any("is taken as the title" in note for note in read.notes) == is_said


def test_solve_of_a_drawing_is_solve_of_its_text(capsys: pytest.CaptureFixture[str]) -> None:
    example = Path(__file__).parents[2] / "examples" / "battery-sense.json"
    assert lucid(["solve", str(example)]) == 0
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
        (b"x" * 10_000_000, "are the most"),
        (b"t\nV1 a 0 1\nR1 a 0 1\n.tran 1p 1\n", "line 4: The output would have 1e+12 points"),
        (b"t\nV1 a 0 1\nR1 a 0 1\n.ac lin 1e12 1 2\n", "line 4: The sweep would have 1e+12 points"),
        (b"t\nV1 a 0 SIN(0 1 1e12)\nR1 a 0 1\n.tran 1 10\n", "would repeat 1e+13 times"),
        (b"t\nV1 a 0 1\nL1 a 0 1\n", "line 3: V1 and L1 form a loop: at DC L1 is a plain wire"),
        (
            b"t\nV1 a 0 1\nC1 a b 1\nE1 c 0 b 0 2\nR1 c 0 1\n",
            "line 3: Node b has no path to ground for direct",
        ),
        (b"t\nI1 0 a 1\nI2 a 0 2\n", "joins node a to the rest"),
        (b"t\nV1 a 0 1\nF1 0 b R1 2\nR1 a 0 1\nR2 b 0 1\n", "put an ammeter, or a source of 0 V"),
        (b"t\nV1 a 0 1\nK1 L1 L2 0.5\nR1 a 0 1\n", "K1 refers to L1, and there is no such element"),
    ],
)
def test_solve_says_in_one_line_what_is_wrong(
    content: bytes, says: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "bad.cir"
    file.write_bytes(content)
    assert lucid(["solve", str(file)]) == BAD_INPUT
    out, err = capsys.readouterr()
    assert out == ""
    assert says in err
    assert err.count("\n") == 1


def test_a_run_may_be_bounded_in_time(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "long.cir"
    file.write_text("t\nV1 a 0 SIN(0 1 1meg)\nR1 a b 1k\nC1 b 0 1n\n.tran 10u 100m\n")
    assert lucid(["solve", str(file), "--limit-seconds", "0.2"]) == BAD_INPUT
    out, err = capsys.readouterr()
    assert out == ""
    assert "line 5: The run took longer than the 0.2 s it is allowed" in err


def test_what_is_asked_for_must_be_there(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "small.cir"
    file.write_text("t\nV1 a 0 1\nR1 a 0 1\n")
    assert lucid(["solve", str(file), "--show", "V_q"]) == BAD_INPUT
    assert "there is no V_q in the result; there are V_a, I_V1" in capsys.readouterr().err
    assert lucid(["solve", str(file), "--plot", str(tmp_path / "p.svg")]) == BAD_INPUT
    assert "an operating point has values only" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("line", "says"),
    [("R9 a 0 1M", "milliohms"), ("R9 a 0 4.7Mohm", "milliohms"), ("C9 a 0 1F", "femtofarads"),
     ("R9 a 0 1Meg", ""), ("R9 a 0 10m", ""), ("C9 a 0 10pF", ""), ("L9 a 0 1M", "")],
)  # fmt: skip
def test_a_suffix_that_is_likely_meant_otherwise_gets_a_note(line: str, says: str) -> None:
    notes = read_netlist(f"t\nV1 a 0 1\nR1 a 0 1k\n{line}\n").notes
    assert bool(notes) == bool(says)
    assert says in " ".join(notes)


@pytest.mark.parametrize(
    ("line", "says"),
    [("R2 oout 0 1k", "line 4: nothing but R2 is at node oout; is out meant?"),
     ("R2 x 0 1k", "line 4: nothing but R2 is at node x"), ("R2 out 0 1k", ""),
     ("E1 gain 0 out 0 10", "")],
)  # fmt: skip
def test_a_node_with_one_part_is_told(line: str, says: str) -> None:
    notes = read_netlist(f"t\nV1 in 0 1\nR1 in out 1k\n{line}\nC1 out 0 1u\n").notes
    assert notes == ((says,) if says else ())


def test_a_pulse_may_be_longer_than_its_period_by_rounding() -> None:
    typed = "V1 a 0 PULSE(0 1 0 0.111111m 0.222222m 0.333334m 0.666666m)"
    assert read_netlist(f"t\n{typed}\nR1 a 0 1k\n").circuit.element("V1").waveform is not None
