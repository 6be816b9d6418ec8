"""Runs as the page asks for them: proposals, formulas over curves, readings, and bad input."""

from __future__ import annotations

import io
import math
import re
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import load_workbook

from lucidbench.core.analyses import (
    TransientSettings,
    Watch,
    decades,
    frequency_sweep,
    transient,
)
from lucidbench.core.devices.waves import read_points
from lucidbench.core.document.exercise import (
    Exercise,
    HandLine,
    LedgerRow,
    Marker,
    Pinned,
    Run,
    read_exercise,
)
from lucidbench.core.document.figure import AtMarker, BetweenMarkers, OfCurve
from lucidbench.core.errors import DocumentError, FormulaError
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.formula import Known, evaluate, parse
from lucidbench.core.formula.vectorised import dimension_of, evaluate_over
from lucidbench.core.netlist import read_netlist
from lucidbench.core.readings.registry import OVER_FREQUENCY, OVER_TIME
from lucidbench.core.runs import ANALYSES, RunLook, as_csv, as_xlsx, carry_out
from lucidbench.core.runs.decimate import thinned
from lucidbench.core.runs.present import figures_of
from lucidbench.core.runs.traces import over_frequency, over_time
from lucidbench.core.schematic.recorded import recorded
from lucidbench.core.units import parse_value
from lucidbench.core.units.dimensions import CURRENT, VOLTAGE

EXAMPLES = Path(__file__).parents[2] / "examples"


def exercise(name: str) -> Exercise:
    return read_exercise((EXAMPLES / f"{name}.json").read_text())


def ran(name: str, analysis: str, *show: str, **settings: str) -> RunLook:
    run = Run(id="r", analysis=analysis, show=list(show), settings=settings)
    return carry_out(exercise(name), run)


def rows_of(look: RunLook) -> list[list[str]]:
    return [line.split(",") for line in as_csv(look).splitlines()[1:]]


def read(look: RunLook, label: str, curve: int = 0, unit: str = "") -> float:
    text = next(f.exact for f in look.curves[curve].readings if f.label == label)
    return parse_value(text.replace("\u2212", "-"), unit).number


@pytest.mark.parametrize("path", sorted(EXAMPLES.glob("*.json")), ids=lambda p: p.stem)
@pytest.mark.parametrize("analysis", ANALYSES)
def test_every_run_of_every_exercise_shows_something_or_says_why(path: Path, analysis: str) -> None:
    look = carry_out(exercise(path.stem), Run(id="r", analysis=analysis))
    assert look.problem or look.curves or look.tables or look.formulas
    assert not (look.problem and look.curves)
    for curve in look.curves:
        assert len(curve.y) == len(look.x) >= 2
        assert curve.readings


def test_the_band_of_a_series_resonance() -> None:
    # f_0 = 1/(2π√(LC)) = 77.5 kHz, which C was chosen for; bandwidth R/(2πL): any circuits text.
    look = ran("time-signal-filter", "frequency_sweep", "V_out/V_in")
    assert read(look, "maximum at", unit="Hz") == pytest.approx(77.5e3, rel=1e-6)
    assert read(look, "bandwidth", unit="Hz") == pytest.approx(
        220 / (2 * math.pi * 2.2e-3), rel=1e-6
    )
    assert look.curves[0].unit == ""


def test_proposals_come_from_time_constants_and_sources() -> None:
    # Two RC sections, loaded: the time constants are the roots of
    # R1·C1·R2·C2·s² + (R1·C1 + R1·C2 + R2·C2)·s + 1 (any network theory text).
    r1, c1, r2, c2 = 10e3, 10e-9, 22e3, 4.7e-9
    roots = np.roots([r1 * c1 * r2 * c2, r1 * c1 + r1 * c2 + r2 * c2, 1])
    slowest = max(-1 / roots)
    once = exercise("anti-alias-ladder")
    del once.schematic.parts[0].values["period"]
    look = carry_out(once, Run(id="r", analysis="transient"))
    assert look.x[-1] == pytest.approx(5 * slowest, rel=0.1)
    assert look.x[-1] >= 5 * slowest
    assert "slowest time constant" in look.settings[0].because
    table = ran("anti-alias-ladder", "natural").tables[0]
    told = [row.cells[1].value for row in table.rows]
    assert told == pytest.approx(sorted(-1 / roots, reverse=True), rel=1e-3)
    driven = ran("hydrophone-stage", "transient")
    assert driven.settings[0].because.startswith("five periods of V1")
    assert driven.x[-1] == pytest.approx(5e-3)


def test_settled_current_leads_voltage_by_a_quarter_period() -> None:
    # v lags i by a quarter period in a capacitor; peak V = I/(ωC): any circuits text.
    look = ran("sounder-driver", "transient", "V_out", "I_C1", begin="settled", stop="1 ms")
    peak = 20e-3 / (2 * math.pi * 2e3 * 1e-6)
    assert read(look, "peak to peak", unit="V") == pytest.approx(2 * peak, rel=1e-4)
    t = np.array(look.x)
    v, i = (np.array(curve.y, float) for curve in look.curves)
    lag = t[np.argmax(v[t < 0.5e-3])] - t[np.argmax(i[t < 0.5e-3])]
    assert lag % 0.5e-3 == pytest.approx(0.125e-3, abs=5e-6)


def test_what_cannot_be_run_is_said_at_its_field() -> None:
    def problem(analysis: str, **settings: str) -> tuple[str, dict[str, str | None]]:
        look = ran("hydrophone-stage", analysis, **settings)
        return look.problem or "", {s.key: s.problem for s in look.settings}

    assert problem("transient", stop="-3 ms")[1]["stop"]
    assert problem("transient", stop="5 ms", start="9 ms")[1]["start"]
    assert problem("transient", stop="5 Hz")[1]["stop"]
    assert problem("frequency_sweep", **{"from": "0"})[1]["from"]
    assert "exchange" in problem("frequency_sweep", **{"from": "1 MHz", "to": "1 Hz"})[0]
    assert "decades" in problem("frequency_sweep", **{"from": "1", "to": "1e40"})[0]
    assert "V9" in problem("dc_sweep", subject="V9", **{"from": "0", "to": "1"})[0]
    assert "Shorten the run" in problem("transient", stop="1e6 s")[0]
    look = ran("hydrophone-stage", "transient", "V_out", "V_uot", "V_out + I_R1")
    assert [bool(s.problem) for s in look.shown] == [False, True, True]
    assert "did you mean V_out" in (look.shown[1].problem or "")
    assert len(look.curves) == 1  # what can be shown is


@given(
    st.sampled_from(
        ["V_a/V_b", "abs(V_a) - V_b", "dB(V_a/V_b)", "V_a*I_R", "sqrt(V_a^2 + V_b^2)", "-V_a/3 V",
         "exp(V_a/V_b)", "sin(V_a/V_b)", "lg(V_a^2/V_b^2)"]
    ),
    st.lists(st.floats(0.01, 50), min_size=1, max_size=6),
    st.floats(0.01, 50),
)  # fmt: skip
def test_a_formula_over_points_is_that_formula_at_each(
    text: str, values: list[float], other: float
) -> None:
    formula = parse(text)
    over = evaluate_over(formula, {"V_a": np.array(values), "V_b": other, "I_R": 2.0})
    for value, found in zip(values, np.broadcast_to(over, len(values)), strict=True):
        names = {
            "V_a": Known(value, VOLTAGE),
            "V_b": Known(other, VOLTAGE),
            "I_R": Known(2.0, CURRENT),
        }
        try:
            one = evaluate(formula, names)
        except FormulaError:
            continue  # too large a number for one; infinite over many
        assert found == pytest.approx(one.value, rel=1e-12)
        assert dimension_of(formula, names) == one.dimension


def test_a_family_has_a_curve_for_each_value() -> None:
    # V = I/(ωC): ten times the capacitance, a tenth of the voltage.
    family = {"vary": "C_1", "over": "1 µF, 10u", "begin": "settled", "stop": "1 ms"}
    look = ran("sounder-driver", "transient", "V_out", **family)
    told = [(curve.member.key, curve.member.label) for curve in look.curves if curve.member]
    assert told == [(v, f"C_1 = {v}") for v in ("1\u00a0µF", "10\u00a0µF")]
    first, second = (read(look, "peak to peak", k, "V") for k in (0, 1))
    assert first == pytest.approx(10 * second, rel=1e-3)
    assert "zap" in (ran("sounder-driver", "transient", vary="C_1", over="1u, zap").problem or "")
    table = as_csv(look).splitlines()
    assert table[0].startswith("t [s],V_out (C_1 = 1\u00a0µF) [V],")
    assert len(table) == len(look.x) + 1


def test_more_is_read_off_when_it_is_asked_for() -> None:
    # Rise of an RC section: R·C·ln 9. Beyond its corner a first order falls 20 dB a decade, at it by
    # 45°: any circuits text; here by less than one part in a hundred less, one decade beyond.
    text = """rc\nV1 a 0 AC 1 PULSE(0 1 0 1n 1n 1 2)\nR1 a out 1k\nC1 out 0 1u\n"""
    drawn = read_netlist(text).circuit
    reads = ["rise_time", "midpoint", "fall_time"]
    notes: list[str] = []
    run = transient(drawn, TransientSettings(20e-3))
    curve = over_time(run, 0, 20e-3).curve(parse("V_out"), "V_out", {})
    found = {f.label: f.value for f in figures_of(curve, OVER_TIME, reads, notes)}
    assert found["rise time"] == pytest.approx(1e-3 * math.log(9), rel=1e-4)
    assert found["midpoint"] == pytest.approx(0.5, rel=1e-4)
    assert notes == ["Fall time: V_out does not fall."]
    # 2 V and a sine of 1 V, five whole periods: (1 V/√2)/2 V.
    lifted = read_netlist("t\nV1 out 0 SIN(2 1 1k)\nR1 out 0 1k\n").circuit
    swinging = over_time(transient(lifted, TransientSettings(5e-3)), 0, 5e-3)
    swing = swinging.curve(parse("V_out"), "V_out", {})
    [factor] = [f for f in figures_of(swing, OVER_TIME, ["ripple"], notes) if f.key == "ripple"]
    assert (factor.value, factor.unit) == (pytest.approx(100 / math.sqrt(8), rel=1e-4), "%")
    sweep = over_frequency(frequency_sweep(drawn, decades(1, 1e6, 20)))
    reads = ["slope_high", "phase_upper"]
    curve = sweep.curve(parse("V_out"), "V_out", {})
    found = {f.label: f.value for f in figures_of(curve, OVER_FREQUENCY, reads, notes)}
    assert found["slope at the high end"] == pytest.approx(-20, abs=1e-3)
    assert found["phase at the upper cutoff"] == pytest.approx(-45, abs=0.01)
    band = carry_out(
        exercise("time-signal-filter"),
        Run(id="r", analysis="frequency_sweep", show=["V_out/V_in"], reads=["band"]),
    ).curves[0].band  # fmt: skip
    assert band is not None  # a series RLC: R/(2πL) wide, 20 dB a decade on either side
    assert (band.upper or 0) - (band.lower or 0) == pytest.approx(
        220 / (2 * math.pi * 2.2e-3), rel=1e-3
    )
    assert (band.slope_below, band.slope_above) == pytest.approx((20, -20), abs=0.5)
    for analysis in ANALYSES.values():
        keys = [reading.key for reading in analysis.readings]
        assert len(set(keys)) == len(keys)


def test_a_family_of_what_is_told_in_tables() -> None:
    # Twice the resistance, half the Q and half the time constant of a series RLC: any circuits text.
    both = ran("time-signal-filter", "natural", vary="R1", over="110, 220").tables[0]
    assert [row.cells[1].text for row in both.rows] == ["R1 = 110\u00a0Ω", "R1 = 220\u00a0Ω"]
    (_, _, tau, _, _, q), (_, _, half, _, _, lower) = (
        [cell.value or 0 for cell in row.cells] for row in both.rows
    )
    assert tau == pytest.approx(2 * half)
    assert q == pytest.approx(2 * lower)
    # A divider of 5 % parts stays between the two worst cases.
    (table, *_) = ran("battery-sense", "operating_point", vary="tolerances", over="50").tables
    out = {row.subject: [cell.value for cell in row.cells[1:]] for row in table.rows}["V_out"]
    nominal, least, mean, largest, _ = (value or 0 for value in out)
    assert 12.6 * 256.5 / 1306.5 < least < mean < largest < 12.6 * 283.5 / 1233.5
    assert nominal == pytest.approx(12.6 * 270 / 1270)
    steady = {row.subject: row for row in table.rows}["V_bat"]
    assert steady.cells[-1].value == 0


def test_harmonics_of_a_square() -> None:
    # 4/(πk) of the amplitude at odd k, none at even ones: Fourier's own series.
    look = ran("flow-integrator", "fourier", trace="V_in")
    told = {row.key: row.cells[2].value or 0 for row in look.tables[1].rows if row.key != "0"}
    assert sorted(told, key=int) == [str(k) for k in range(1, 20, 2)]
    for k, size in told.items():
        assert size == pytest.approx(4 / (math.pi * int(k)), rel=2e-3)
    assert [bar.label for bar in look.bars][:2] == ["0", "1"]


def test_equivalent_and_formula() -> None:
    # Thévenin at the divider's output: V·R2/(R1+R2) behind R1 ‖ R2.
    table = ran("battery-sense", "equivalent", node="out").tables[0]
    rows = {row.key: row.cells[1].value for row in table.rows}
    assert rows["voltage"] == pytest.approx(2.679, rel=1e-3)
    assert rows["impedance"] == pytest.approx(270e3 / 1.27, rel=1e-3)
    told = {f.title: f.latex for f in ran("time-signal-filter", "symbolic").formulas}
    assert r"C_{1} R_{1} s}{C_{1} L_{1} s^{2} + C_{1} R_{1} s + 1}" in told["Transfer function"]
    assert "Currents at node out" in told
    # Too many letters: in numbers, and the same curve as the circuit's own.
    numbers = ran("hydrophone-stage", "symbolic")
    assert "told in numbers" in numbers.notes[0]
    (formula,) = numbers.formulas
    over = ran("hydrophone-stage", "frequency_sweep", formula.beside, formula.text)
    assert [curve.by_hand for curve in over.curves] == [False, True]
    own, in_numbers = (np.array([row[k] for row in rows_of(over)], float) for k in (1, 3))
    assert in_numbers == pytest.approx(own, rel=1e-4)


def test_thinning_keeps_every_peak() -> None:
    rng = np.random.default_rng(1)
    curve = rng.standard_normal(100_000)
    curve[[17, 50_001]] = 99, -99
    kept = thinned([curve], len(curve))
    assert len(kept) < 4_000
    assert {17, 50_001, 0, 99_999} <= set(kept.tolist())


def test_largest_output_of_a_transistor_stage() -> None:
    # Of a current that follows exp(v/V_T), the second harmonic is a quarter of v/V_T beside the first
    # (I_2/I_1 of the modified Bessel functions): any text on nonlinear electronics. So 1 % is met
    # at v = 0.04·V_T, by little more where the base resistance of the source counts.
    look = ran("hydrophone-stage", "largest_output")
    figures = {row.key: row.cells[1].value or 0 for row in look.tables[0].rows}
    assert figures["source"] == pytest.approx(0.04 * 25.865e-3, rel=0.2)
    assert figures["thd"] == pytest.approx(1, abs=0.01)
    assert "between 0 and 100" in (
        ran("hydrophone-stage", "largest_output", limit="0").problem or ""
    )


def test_poles_and_zeros_in_the_plane() -> None:
    # H = s·R/L / (s² + s·R/L + 1/(LC)): poles at -R/(2L) ± j√(1/(LC) - (R/2L)²), a zero at nothing.
    look = ran("time-signal-filter", "natural", output="out")
    decay = 220 / 2 / 2.2e-3
    poles = [(r.re, abs(r.im)) for r in look.roots if r.kind == "pole"]
    ringing = math.sqrt((2 * math.pi * 77.5e3) ** 2 - decay**2)
    assert len(poles) == 2
    for pole in poles:
        assert pole == pytest.approx((-decay, ringing), rel=1e-3)
    assert [(r.re, r.im) for r in look.roots if r.kind == "zero"] == [(0, 0)]


@pytest.mark.parametrize("path", sorted(EXAMPLES.glob("*.json")), ids=lambda p: p.stem)
def test_every_kirchhoff_sum_of_phasors_closes(path: Path) -> None:
    """Kirchhoff's laws, 1845: laid head to tail, the arrows come back to where they began."""
    look = carry_out(exercise(path.stem), Run(id="r", analysis="phasor"))
    offered = next((s.choices for s in look.settings if s.key == "sum"), [])
    if look.problem:
        return
    assert len(offered) > 2
    for key, _ in offered[1:]:
        run = Run(id="r", analysis="phasor", settings={"sum": key})
        [figure] = carry_out(exercise(path.stem), run).phasors
        largest = max(math.dist(a.start, a.end) for a in figure.arrows)
        assert figure.closed
        assert math.hypot(*figure.arrows[-1].end) <= 1e-9 * largest
        for before, after in pairwise(figure.arrows):
            assert before.end == after.start


def test_a_tolerance_study_keeps_to_the_tolerances() -> None:
    # The bandwidth R/(2πL) moves with R by 1 % at most and with L by 2 %.
    look = ran("time-signal-filter", "frequency_sweep", "V_out", vary="tolerances", over="60")
    rows = {row.key: [cell.value or 0 for cell in row.cells[1:]] for row in look.tables[0].rows}
    nominal, least, mean, largest, _ = rows["bandwidth"]
    assert nominal * 0.99 / 1.02 <= least < mean < largest <= nominal * 1.01 / 0.98
    assert least < 0.98 * nominal
    assert largest > 1.02 * nominal
    assert len(look.curves) == 21  # the nominal one and as many as are drawn
    assert "whole number" in (
        ran("time-signal-filter", "frequency_sweep", vary="tolerances", over="1k").problem or ""
    )


def test_a_figure_in_the_ledger_beside_its_formula() -> None:
    emptied: dict[str, list[object]] = {"hand": [], "runs": [], "ledger": [], "records": []}
    document = exercise("time-signal-filter").model_copy(update=emptied)
    look_at = carry_out(document, Run(id="r", analysis="frequency_sweep", show=["V_out/V_in"]))
    figure = next(f for f in look_at.curves[0].readings if f.label == "bandwidth")
    assert figure.symbol == "B"
    of_run = OfCurve(curve="V_out/V_in", run="r", reading=figure.key)
    document.ledger.append(
        LedgerRow(
            id="t", name="B", figure=of_run, label="bandwidth",
            pinned=Pinned(value=figure.value, unit=figure.unit, conditions=look_at.conditions,
                          fingerprint=look_at.circuit),
        )
    )  # fmt: skip
    document.hand.append(HandLine(id="h", text="B = R1/(2*pi*L1)"))
    row = next(r for r in evaluation_of(document).ledger if r.quantity == "B")
    assert (row.verdict, row.stale, row.conditions) == ("agree", False, look_at.conditions)
    # Another resistor: the figure is of the circuit as it was, and says so.
    next(p for p in document.schematic.parts if p.name == "R1").values["resistance"] = "1k"
    row = next(r for r in evaluation_of(document).ledger if r.quantity == "B")
    assert (row.verdict, row.stale) == ("gap", True)
    # With its run at hand it follows the circuit, as the hand line does.
    document.runs.append(Run(id="r", analysis="frequency_sweep", show=["V_out/V_in"]))
    row = next(r for r in evaluation_of(document).ledger if r.quantity == "B")
    assert (row.verdict, row.stale) == ("agree", False)
    # What stands at markers does too: half the power at the band's edges, which are its width apart.
    run = document.runs[-1]
    edges = [r for r in carry_out(document, run).curves[0].readings if "cutoff" in r.key]
    markers = [Marker(curve="V_out/V_in", at=edge.value) for edge in edges]
    document.runs[-1] = run.model_copy(update={"markers": markers})
    half = AtMarker(curve="V_out/V_in", run="r", marker="B")
    apart = BetweenMarkers(run="r", reading="d_f")
    document.ledger.append(LedgerRow(id="half", name="A_B", figure=half))
    document.ledger.append(LedgerRow(id="apart", name="d_f", figure=apart))
    document.hand.append(HandLine(id="h2", text="A_B = 1/sqrt(2)"))
    document.hand.append(HandLine(id="h3", text="d_f = B"))
    rows = {r.quantity: r.verdict for r in evaluation_of(document).ledger}
    assert (rows["A_B"], rows["d_f"]) == ("agree", "agree")
    document.hand[0] = HandLine(id="h", text="B = L1/R1")
    row = next(r for r in evaluation_of(document).ledger if r.quantity == "B")
    assert "a time in the working" in (row.hand_problem or "")


def test_a_run_is_followed_and_cancelled() -> None:
    shares: list[float] = []
    watch = Watch(60.0, shares.append, lambda: len(shares) > 20)
    run = Run(id="r", analysis="transient", settings={"stop": "100 s"})
    answer = carry_out(exercise("hydrophone-stage"), run, watch)
    assert "was cancelled" in (answer.problem or "")
    assert shares == sorted(shares)


def test_a_workbook_has_what_the_run_told() -> None:
    answer = ran("time-signal-filter", "frequency_sweep", "V_out/V_in")
    book = load_workbook(io.BytesIO(as_xlsx(answer)))
    assert book.sheetnames == ["Curves", "Readings", "Conditions"]
    rows = list(book["Curves"].values)
    assert len(rows) == len(answer.x) + 1
    assert rows[1][:2] == pytest.approx((answer.x[0], answer.curves[0].y[0]), rel=1e-12)
    assert ("V_out/V_in", "Q", pytest.approx(4.869, rel=1e-3), None) in list(
        book["Readings"].values
    )


def test_a_transfer_function_by_hand_lies_on_the_simulated_one() -> None:
    told = {f.title: f for f in ran("anti-alias-ladder", "symbolic").formulas}["Transfer function"]
    look = ran("anti-alias-ladder", "frequency_sweep", told.beside, told.text)
    simulated, by_hand = (np.array(curve.y, float) for curve in look.curves)
    assert by_hand == pytest.approx(simulated, rel=1e-9)
    # Time itself is there to write formulas with.
    look = ran("sounder-driver", "transient", "V_out", "t*1 V/(1 s)")
    assert look.curves[1].y == pytest.approx(look.x)


def test_a_window_has_all_its_points() -> None:
    document, run = exercise("hydrophone-stage"), Run(id="r", analysis="transient")
    run.settings["stop"] = "200 ms"
    thin, whole = carry_out(document, run), carry_out(document, run, whole=True)
    near = carry_out(document, run, window=(0.05, 0.06))
    inside = [x for x in whole.x if 0.05 <= x <= 0.06]
    assert thin.is_thinned
    assert not near.is_thinned
    assert near.x[1:-1] == inside
    assert len([x for x in thin.x if 0.05 <= x <= 0.06]) < len(inside)


def test_a_recorded_column_becomes_a_source() -> None:
    rows = "\n".join(
        f"{k / 1000};{math.sin(k / 50):.4f};1".replace(".", ",") for k in range(1, 900)
    )
    found = recorded(f"logged in the lab\ntime;mic;ref\n{rows}\n")
    assert (found.columns, found.column, found.form) == (["time", "mic", "ref"], 1, "samples")
    assert read_points(found.values["samples"])[48] == pytest.approx(math.sin(49 / 50), abs=1e-4)
    assert parse_value(found.values["interval"], "s").number == pytest.approx(1e-3)
    assert recorded("0,1\n1,2\n5,0").values == {"points": "0 1, 1 2, 5 0"}
    long = "\n".join(f"{k},{k % 7}" for k in range(20_001))
    assert "one in" in recorded(long).notes[0]
    for text, said in (
        ("", "a column of times"), ("0,1\n0,2", "must rise"), ("0,1\n1,2,3", "Line 2"),
        ("t,v\n0,1\n1,2\nend,3", "Line 4"), ("0,nan\n1,2", "two rows"),
    ):  # fmt: skip
        with pytest.raises(DocumentError, match=said):
            recorded(text)


def test_the_feed_line_at_another_frequency() -> None:
    """Millman's theorem by hand (any circuits text); twice the frequency is twice a coil's reactance and
    half a capacitor's. Its loop of coils and sources stops nothing: at DC there is nothing in it.
    """
    told = ran("feed-line", "phasor", frequency="100 Hz")
    first, second = 12, 11 * np.exp(-1j * math.radians(20))
    node = (first / 8j + second / 12j) / (1 / 8j + 1 / 12j + 1 / (8 - 1.5j))
    rows = {row.subject: row.cells for row in told.tables[0].rows}
    assert parse_value(rows["V_feed"][1].text, "V").number == pytest.approx(abs(node), rel=1e-3)
    swept = ran("feed-line", "frequency_sweep", "V_feed", **{"from": "50 Hz", "to": "200 Hz"})
    assert swept.problem is None
    assert evaluation_of(exercise("feed-line")).unsolved is None


def test_rounding_is_told_as_nothing() -> None:
    """At resonance the current is in phase with the source (any circuits text); behind an ideal op-amp
    the summing node does not move."""
    rows = ran("time-signal-filter", "phasor").tables[1].rows
    assert {row.cells[2].text for row in rows} == {"0\u00a0°", "180\u00a0°"}
    (still,) = ran("flow-integrator", "transient", "V_s").curves
    assert [(f.label, f.text) for f in still.readings] == [("constant at", "0\u00a0V")]


def test_what_makes_a_part_practical_is_in_letters_too() -> None:
    (transfer, *_) = ran("sounder-driver", "symbolic").formulas
    assert "R_p_C1" in transfer.text
    (transfer, *_) = ran("feed-line", "symbolic").formulas
    assert {"L_Z1", "L_Z2", "R_Z3", "C_Z3"} < set(re.findall(r"\w+", transfer.text))


@pytest.mark.parametrize(
    ("name", "subject"), [("battery-sense", "R1"), ("time-signal-filter", "R_1")]
)
def test_a_family_over_a_value_that_cannot_be(name: str, subject: str) -> None:
    problem = ran(name, "transient", vary=subject, over="1k, 0").problem
    assert problem == "R1: its resistance is zero; it must be above 0\u00a0Ω."
