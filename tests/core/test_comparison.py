"""Verdicts: when two voices agree, and what is said where they do not."""

from __future__ import annotations

import pytest

from lucidbench.core.comparison import (
    BenchEntry,
    Counting,
    Estimate,
    State,
    Voice,
    Voices,
    as_counted,
    combined,
    compare,
    ledger,
    read_reading,
    turned_in,
)
from lucidbench.core.errors import ValueTextError
from lucidbench.core.formula import Known, parse
from lucidbench.core.units.dimensions import CURRENT, NUMBER, VOLTAGE


@pytest.mark.parametrize(
    ("text", "value", "uncertainty"),
    [
        ("2.61 V ± 0.02 V", 2.61, 0.02),
        ("2.61 ± 20m", 2.61, 0.02),
        ("2.5V +/- 2 %", 2.5, 0.05),
        ("-3 V", -3, None),
    ],
)
def test_readings(text: str, value: float, uncertainty: float | None) -> None:
    reading = read_reading(text, "V")
    assert reading.value == pytest.approx(value)
    assert reading.uncertainty == (None if uncertainty is None else pytest.approx(uncertainty))


@pytest.mark.parametrize("text", ["", "±", "2 V ± 1 ± 1", "2 A", "2 V ± -1"])
def test_readings_refused(text: str) -> None:
    with pytest.raises(ValueTextError):
        read_reading(text, "V")


@pytest.mark.parametrize(
    ("bench", "simulated", "state"),
    [
        # |E_n| = |d| / sqrt(U1² + U2²) against 1 (ISO 13528:2022, 9.7)
        ((5.04, 0.03), (5.0, 0.03), State.AGREE),  # 0.94
        ((5.05, 0.03), (5.0, 0.03), State.GAP),  # 1.18
        ((5.04, 0.0), (5.0, 0.05), State.AGREE),
        ((0.0, 0.0), (0.0, 0.0), State.AGREE),
        # no uncertainty known at all: three-figure working
        ((5.04, 0.0), (5.0, 0.0), State.AGREE),
        ((5.2, 0.0), (5.0, 0.0), State.NEAR),
        ((5.5, 0.0), (5.0, 0.0), State.GAP),
    ],
)
def test_agreement(
    bench: tuple[float, float], simulated: tuple[float, float], state: State
) -> None:
    voices = [
        Voice(name, Estimate(value, VOLTAGE, {name: spread}))
        for name, (value, spread) in (("bench", bench), ("simulated", simulated))
    ]
    difference = compare(*voices, "V")
    assert difference.state is state


def test_the_ledger_has_a_row_for_each_quantity_and_its_gravest_difference_in_words() -> None:
    simulated = {
        name: Estimate(value, VOLTAGE, {"R1": 0.1})
        for name, value in (("V_a", 10.0), ("V_b", 5.0), ("V_c", 1.0))
    }
    hand = {"V_b": Known(5.0, VOLTAGE), "V_ghost": Known(1.0, VOLTAGE)}
    bench = [BenchEntry("V_a", "9 V ± 0.1 V"), BenchEntry("V_b", "5.05 V"), BenchEntry("V_c", "x")]
    rows = {row.quantity: row for row in ledger(Voices(hand, simulated, bench))}
    assert list(rows) == ["V_b", "V_ghost", "V_a", "V_c"]
    assert rows["V_a"].state is State.GAP
    assert rows["V_a"].sentence == (
        "Bench lies 1\u00a0V (10\u00a0%) below simulated; tolerances and reading explain "
        "±140\u00a0mV of it."
    )
    assert rows["V_b"].state is State.AGREE
    assert "within the ±100\u00a0mV" in (rows["V_b"].sentence or "")
    assert rows["V_ghost"].state is State.OPEN
    assert "does not begin with a number" in (rows["V_c"].bench_problem or "")


def test_readings_follow_the_working_whichever_way_the_leads_were() -> None:
    """A source's may have either sign; of a resistor's current one by the arrow is right, one against it is
    not; a diode shows which way it counts."""
    names = ("I_V1", "I_R1", "I_R2", "I_D1")
    voices = Voices(
        {"I_V1": Known(0.01, CURRENT)},
        {
            name: Estimate(value, CURRENT, limits={"R1": 1e-4})
            for name, value in zip(names, (-0.01, -0.01, 0.01, -0.01), strict=True)
        },
        [
            BenchEntry("I_V1", "-10.05 mA"),
            BenchEntry("I_R1", "10.05 mA"),
            BenchEntry("I_R2", "-10.05 mA"),
            BenchEntry("I_D1", "10.05 mA"),
        ],
    )
    counting = Counting(frozenset(["I_V1"]), frozenset(["I_R1", "I_R2"]))
    turned = turned_in(voices, counting)
    assert turned == {"I_V1", "I_R1"}
    rows = {row.quantity: row for row in ledger(as_counted(voices, turned, counting))}
    assert {name for name in names if rows[name].state is State.AGREE} == turned
    assert all(rows[name].state is State.GAP for name in ("I_R2", "I_D1"))


def test_the_budget_of_the_end_gauge() -> None:
    """JCGM 100:2008, H.1, equation H.3 and table H.1 (from memory): contributions of 25, 9.7, 2.9 and
    16.6 nm, two of none, u_c = 32 nm. Lengths in millimetres; each expanded by k = 2 here."""
    told = {
        "l_S": (50.000623, 25e-6),
        "d": (215e-6, 9.7e-6),
        "da": (0.0, 0.58e-6),
        "th": (-0.1, 0.41),
        "a_S": (11.5e-6, 1.2e-6),
        "dth": (0.0, 0.029),
    }
    names = {
        name: Estimate(value, NUMBER, {name: 2 * spread}) for name, (value, spread) in told.items()
    }
    length = combined(parse("l_S + d - l_S*(da*th + a_S*dth)"), names)
    assert length.value == pytest.approx(50.000838, abs=1e-9)
    assert length.uncertainty / 2 == pytest.approx(32e-6, abs=0.5e-6)
    budget = {name: round(abs(size) / 2 * 1e6, 1) for name, size in length.budget.items()}
    assert budget == {"l_S": 25.0, "d": 9.7, "da": 2.9, "th": 0.0, "a_S": 0.0, "dth": 16.7}
    assert length.drawn is None


def test_a_formula_that_bends_is_worked_out_by_draws() -> None:
    """x² of x = 0 ± 2 (k = 2): one degree of freedom of chi-square, whose root mean square is √3, where a
    straight line would say that nothing moves (JCGM 101:2008)."""
    square = combined(parse("x^2"), {"x": Estimate(0.0, NUMBER, {"R1": 2.0})})
    assert square.budget["R1"] == 0
    assert square.uncertainty == pytest.approx(2 * 3**0.5, rel=0.1)
