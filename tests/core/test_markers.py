"""Markers against closed forms, and against the readings of the same curve."""

from __future__ import annotations

import math

import numpy as np
import pytest

from lucidbench.core.analyses import TransientSettings, decades, frequency_sweep, transient
from lucidbench.core.document.exercise import Column, Marker, Record, Run
from lucidbench.core.formula import parse
from lucidbench.core.readings import frequency
from lucidbench.core.readings.curve import Curve, NoReading
from lucidbench.core.readings.markers import Jump, Mark, between, next_place
from lucidbench.core.runs.marks import at_marks
from lucidbench.core.runs.present import present
from lucidbench.core.runs.result import solve
from lucidbench.core.runs.traces import over_frequency, over_time
from tests.core.circuits import circuit
from tests.core.test_runs import exercise

R, C, F = 1e4, 1e-9, 5e3
CORNER = 1 / (2 * math.pi * R * C)
LOW_PASS = circuit("V1 in 0 SIN(0 2 5k) AC 2", "R1 in out 10k", "C1 out 0 1n")


def swept(text: str) -> Curve:
    return over_frequency(frequency_sweep(LOW_PASS, decades(1e2, 1e6, 10))).curve(
        parse(text), text, {}
    )


def timed(text: str) -> Curve:
    run = transient(LOW_PASS, TransientSettings(stop=2e-3, start=1e-3))
    return over_time(run, 1e-3, 2e-3).curve(parse(text), text, {})


def figures(a: Mark, b: Mark, period: float | None = None) -> dict[str, tuple[str, float]]:
    return {symbol: (words, float(figure)) for symbol, words, figure in between(a, b, period)}


def test_a_jump_lands_where_the_reading_says_between_the_points_too() -> None:
    """The corner of an RC low-pass, 1/(2πRC): any circuits textbook."""
    gain = swept("V_out/V_in")
    assert CORNER not in gain.grid
    corner = next_place(gain, "half_power", 1e3)
    assert corner == frequency.band(gain).upper
    assert corner == pytest.approx(CORNER, rel=1e-9)
    there = Mark(gain, corner).value
    assert there == pytest.approx(1 / (1 + 1j * corner / CORNER), rel=1e-9)
    assert abs(there) == pytest.approx(math.sqrt(0.5), rel=1e-9)  # of what it is at DC
    with pytest.raises(NoReading, match="no point of size one"):
        next_place(gain, "unity", 1e3)
    assert next_place(swept("V_out"), "unity", 1e2) == pytest.approx(
        CORNER * math.sqrt(3), rel=1e-9
    )


@pytest.mark.parametrize(
    ("kind", "after", "share"),
    [
        ("peak", 1e-3, 0.25),
        ("trough", 1e-3, 0.75),
        ("crossing", 1.02e-3, 0.5),
        ("peak", 1.06e-3, 1.25),
    ],
)
def test_a_jump_along_a_sine_finds_its_quarters(kind: Jump, after: float, share: float) -> None:
    assert next_place(timed("V_in"), kind, after) == pytest.approx(1e-3 + share / F, abs=1e-9)


def test_after_the_last_place_comes_the_first_and_a_level_top_begins_where_it_is_reached() -> None:
    grid = np.linspace(0, 4, 5)
    flat = Curve("x", "V", "s", grid, lambda x: np.interp(x, grid, [0.0, 2.0, 2.0, 2.0, 1.0]))
    assert next_place(flat, "peak", 3.5) == next_place(flat, "peak", 0.0) == 1.0


def test_between_two_curves_stand_lag_and_ratio() -> None:
    """arctan(2πfRC) behind, and smaller by its cosine: any circuits textbook."""
    angle = math.atan(F / CORNER)
    first, second = (
        Mark(curve, next_place(curve, "peak", 1e-3)) for curve in (timed("V_in"), timed("V_out"))
    )
    found = figures(first, second, 1 / F)
    late = angle / (2 * math.pi * F)
    assert found["d_t"][1] == pytest.approx(late, rel=3e-4)
    assert found["f"][1] == pytest.approx(1 / late, rel=3e-4)
    assert found["phi"][1] == pytest.approx(-math.degrees(angle), rel=3e-4)
    assert found["A"][1] == pytest.approx(math.cos(angle), rel=1e-5)
    assert found["A_dB"][1] == pytest.approx(20 * math.log10(math.cos(angle)), rel=1e-5)
    # Without a source that repeats, of the curve's own period; and never more than half a turn.
    assert figures(first, second)["phi"][1] == pytest.approx(found["phi"][1], rel=1e-5)
    late_by = Mark(second.curve, second.at + 0.7 / F)
    turned = figures(first, late_by, 1 / F)["phi"]
    assert turned[1] == pytest.approx(108 - math.degrees(angle), rel=1e-4)
    phasors = figures(Mark(swept("V_in"), F), Mark(swept("V_out"), F))
    assert phasors["phi"][1] == pytest.approx(-math.degrees(angle), rel=1e-9)
    assert phasors["A"][1] == pytest.approx(math.cos(angle), rel=1e-9)


@pytest.mark.parametrize(
    ("kind", "other"), [("peak", "trough"), ("trough", "peak"), ("crossing", "crossing")]
)
def test_a_crest_beside_a_trough_is_half_a_turn_away(kind: Jump, other: Jump) -> None:
    """An inverting stage with a corner: 180° less arctan(f/f_c); any circuits textbook."""
    angle = math.degrees(math.atan(F / CORNER))
    rise = Mark(timed("V_in"), next_place(timed("V_in"), kind, 1e-3))
    fall = Mark(timed("-V_out"), next_place(timed("-V_out"), other, rise.at))
    assert figures(rise, fall, 1 / F)["phi"][1] == pytest.approx(180 - angle, rel=3e-4)
    alike = Mark(timed("-V_in"), rise.at)
    words, turn = figures(rise, alike, 1 / F)["phi"]
    assert turn == pytest.approx(180)
    assert "reverse" in words
    reversed_ = figures(Mark(swept("V_in"), F), Mark(swept("-V_in"), F))["phi"]
    assert reversed_ == (words, pytest.approx(180))


def test_the_figures_at_markers_are_of_the_run_that_is_drawn() -> None:
    run = Run(id="r", analysis="frequency_sweep", show=["V_out/V_in"])
    result = solve(exercise("anti-alias-ladder"), run)
    [curve] = present(result).curves
    corner = next(f for f in curve.readings if f.key == "upper_cutoff")
    marker = Marker(curve="V_out/V_in", at=corner.value / 3)
    jumped = at_marks(result, [marker], "half_power")
    assert jumped.marks[0].at == corner.value
    [told] = jumped.values
    assert told.values[0] == pytest.approx(math.sqrt(0.5), rel=1e-9)  # of what it is at DC
    assert at_marks(result, [marker], "peak").problem or jumped.problem is None
    gone = at_marks(result, [Marker(curve="V_nowhere", at=1e99)])
    assert gone.marks[0].at == pytest.approx(max(present(result).x))


def test_a_marker_stands_on_what_was_measured_too() -> None:
    """Straight between its points, and between it and a simulated curve as between any two."""
    ladder = exercise("anti-alias-ladder")
    records = [
        Record(
            id="m1", name="By hand",
            columns=[
                Column(quantity="f", unit="Hz", values=[100.0, 1000.0]),
                Column(quantity="abs(V_out/V_in)", values=[1.0, 0.25]),
            ],
        )
    ]  # fmt: skip
    result = solve(ladder, Run(id="r", analysis="frequency_sweep", show=["V_out/V_in"]))
    dot = Marker(curve="bench(V_out/V_in)", member="m1", at=math.sqrt(100.0 * 1000.0))
    look = at_marks(result, [dot, Marker(curve="V_out/V_in", at=1000.0)], None, records)
    told = {(each.text, each.member): each.values for each in look.values}
    assert told["bench(V_out/V_in)", "m1"] == pytest.approx([0.5, 0.25])
    [ratio] = [figure for figure in look.between if figure.symbol == "A"]
    assert ratio.value == pytest.approx((told["V_out/V_in", ""][1] or 0) / 0.5)
    gone = at_marks(result, [dot])  # its record is thrown away: it goes to a curve there is
    assert [each.text for each in gone.values] == ["V_out/V_in"]
