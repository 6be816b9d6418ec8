"""Tables as instruments and spreadsheets write them; those here are made up."""

from __future__ import annotations

import numpy as np
import pytest

from lucidbench.core.errors import DocumentError
from lucidbench.core.records.imported import ReadTable, TableChoices, imported

KNOWN = ("V_in", "V_out", "I_R1")


def read(text: str | bytes, **told: object) -> ReadTable:
    raw = text.encode() if isinstance(text, str) else text
    return imported(raw, TableChoices.model_validate(told), KNOWN)


def columns(table: ReadTable) -> list[tuple[str, str, list[float]]]:
    assert table.problem is None, table.problem
    return [(c.quantity, c.unit, [float(f"{v:.6g}") for v in c.values]) for c in table.columns]


TIMES, VOLTS = ("t", "s", [0.0, 1e-3, 2e-3]), ("V_out", "V", [0.5, 1.5, 2.5])


@pytest.mark.parametrize(
    "text",
    [
        "t [s],V_out [V]\n0,0.5\n0.001,1.5\n0.002,2.5\n",
        "Time (ms);V_out (mV)\n0;500\n1;1500\n2;2500\n",
        "time/ms\tout / V\n0,0\t0,5\n1,0\t1,5\n2,0\t2,5\n",
        "Skerry scope M1\nTrigger: ch 1\n\ntime,V_out\n(ms),(V)\n0,0.5\n1,1.5\n2,2.5\n",
        '"t [s]";"V_out [V]"\n"0";"0,5"\n"1e-3";"1,5"\n"2e-3";"2,5"\n',
        "t V_out\n0 0.5\n0.001 1.5\n0.002 2.5\n",
        "Sample Interval,1.0E-3\nPoints,3\nV_out [V]\n0.5\n1.5\n2.5\n",
        "Sampling rate: 1 kSa/s\nV_out [V]\n0.5\n1.5\n2.5\n",
    ],
    ids=["commas", "units", "decimal comma", "lines of units", "quoted", "spaces", "interval", "rate"],
)  # fmt: skip
def test_a_table_in_every_form(text: str) -> None:
    assert columns(read(text)) == [TIMES, VOLTS]


def test_a_table_in_another_encoding() -> None:
    text = "t [s];U_out [V];R [Ω]\n0;0,5;1\n0,001;1,5;1\n0,002;2,5;1\n"
    table = read(text.encode("utf-16"))
    assert [c.name for c in table.choices] == ["t [s]", "U_out [V]", "R [Ω]"]
    assert read("t;Spannung µV\n0;1\n1;2\n".encode("latin-1")).rows == 2


def test_gain_in_decibels_and_degrees() -> None:
    table = read("Frequency [kHz],Gain [dB],Phase [deg]\n1,-3.01,-45\n10,-20.04,-84.3\n")
    assert columns(table) == [
        ("f", "Hz", [1e3, 1e4]), ("dB(V_out/V_in)", "dB", [-3.01, -20.04]),
        ("arg(V_out/V_in)", "°", [-45.0, -84.3]),
    ]  # fmt: skip


def test_peak_to_peak_and_rms_become_peaks() -> None:
    """A sine's peak is half its peak-to-peak value and √2 times its RMS: any circuits text."""
    table = read("f [Hz],V_in Vpp,V_out RMS [V]\n10,2,0.7071068\n20,2,0.5\n")
    assert columns(table)[1:] == [
        ("abs(V_in)", "V", [1.0, 1.0]), ("abs(V_out)", "V", [1.0, 0.707107]),
    ]  # fmt: skip
    radians = read("f [Hz],V_out [V],phase [rad]\n10,1,-1.5707963\n20,1,0\n")
    assert columns(radians)[2] == ("arg(V_out)", "°", [-90.0, 0.0])


def test_uncertainty_from_a_column_and_from_a_statement() -> None:
    table = read("t [s],V_out [V],± [V]\n0,1,0.1\n1,2,0.2\n")
    assert table.columns[1].uncertainties == [0.1, 0.2]
    stated = read("t [s],V_out [V]\n0,1\n1,2\n", uncertainty="2 %")
    assert stated.columns[1].common == pytest.approx(0.02)
    fixed = read("t [s],V_out [V]\n0,1\n1,2\n", uncertainty="10 mV")
    assert fixed.columns[1].uncertainty == pytest.approx(0.01)


def test_uncertainty_from_the_scatter() -> None:
    """Three readings at each frequency: of 1.0, 1.1 and 1.2 the deviation is 0.1, of their mean 0.1/√3
    (JCGM 100:2008, 4.2.3), and twice that expanded."""
    text = "f [Hz],V_out [V]\n10,1.0\n20,2\n10,1.1\n20,2\n10,1.2\n20,2\n"
    (f, size) = read(text).columns
    assert list(f.values) == [10.0, 20.0]
    assert list(size.values) == pytest.approx([1.1, 2.0])
    assert list(size.uncertainties) == pytest.approx([0.2 / 3**0.5, 0.0], abs=1e-12)


def test_every_choice_can_be_told_otherwise() -> None:
    text = "x,CH1,CH2\n0,1,4\n1,2,5\n2,3,6\n"
    first = read(text)
    assert first.problem == "Column 2, CH1: say what it is of, as V_out, or leave it unused."
    told = [c.model_copy() for c in first.choices]
    told[0].unit, told[0].quantity = "ms", "t"
    told[1].given = "unused"
    told[2].quantity, told[2].unit = "V_out - V_in", "mV"
    found = columns(read(text, columns=[c.model_dump() for c in told]))
    assert found == [("t", "s", [0.0, 1e-3, 2e-3]), ("V_out - V_in", "V", [4e-3, 5e-3, 6e-3])]


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "The table is empty"),
        ("no numbers\nanywhere\n", "No row of numbers"),
        ("t,V_out\n0,1\n1,abc\n2,3\n", "Line 3 of the table holds “abc” where a number is meant"),
        ("t,V_out\n0,1\n1,2\n2,3,4\n", "Line 4 of the table has 3 numbers, and those above have 2"),
        ("t,V_out\n0,1\n1,NaN\n2,3\n", "Line 3 of the table holds what is no number"),
    ],
)
def test_what_is_no_table_says_where(text: str, told: str) -> None:
    with pytest.raises(DocumentError, match=told):
        read(text)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("t [s],V_out [V]\n0,1\n2,2\n1,3\n", "Time does not go forward from row 2 to row 3"),
        ("f [Hz],V_out [V]\n1,1\n1,2\n2,3\n", "The frequency does not go forward"),
        ("t [s],V_out [V],out [V]\n0,1,1\n1,2,2\n", "Two columns are of V_out"),
    ],
)
def test_what_cannot_be_meant_is_said_beside_the_table(text: str, told: str) -> None:
    assert told in (read(text).problem or "")


def test_a_million_rows_keep_their_extremes() -> None:
    """Of a long record fewer points are kept: those that a plot shows, the single spike among them."""
    y = np.sin(np.arange(1_000_000) / 5e4)
    y[654_321] = 7.0
    text = "t [us],V_out [V]\n" + "\n".join(f"{k},{v:.4f}" for k, v in enumerate(y))
    table = read(text)
    assert table.rows == 1_000_000
    (t, volts) = table.columns
    assert len(t.values) <= 20_000
    assert volts.values[np.argmax(volts.values)] == 7.0
    assert t.values[np.argmax(volts.values)] == pytest.approx(0.654321)
    with pytest.raises(DocumentError, match="more than 64 MB"):
        read(b"0,1\n" * 17_000_000)
