"""Values as people type them, and as they are written back."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core.errors import ValueTextError
from lucidbench.core.units import engineering, nearest_preferred, parse_value
from lucidbench.core.units.engineering import MINUS, NO_BREAK_SPACE
from lucidbench.core.units.preferred import SERIES


@pytest.mark.parametrize(
    ("text", "unit", "number"),
    [
        ("4.7k", "Ω", 4700),
        ("4.7 kΩ", "Ω", 4700),
        ("4.7K", "Ω", 4700),
        ("1M", "Ω", 1e6),
        ("1m", "Ω", 1e-3),
        ("2.2e3", "Ω", 2200),
        ("22u", "F", 22e-6),
        ("22µ", "F", 22e-6),
        ("22μF", "F", 22e-6),  # the Greek letter
        ("-12.5 mV", "V", -12.5e-3),
        ("−3", "V", -3),
        ("5 %", "%", 0.05),
        # IEC 60062:2016, the letter-and-digit code (from memory)
        ("R47", "Ω", None),
        ("4R7", "Ω", 4.7),
        ("47R", "Ω", 47),
        ("4k7", "Ω", 4700),
        ("1M5", "Ω", 1.5e6),
        ("3p3", "F", 3.3e-12),
        ("3950 K", "K", 3950),  # kelvin, and no prefix
        ("25 °C", "°C", 25),
        ("-40", "°C", -40),
        ("25 k", "°C", None),
    ],
)
def test_reading(text: str, unit: str, number: float | None) -> None:
    if number is None:
        with pytest.raises(ValueTextError):
            parse_value(text, unit)
    else:
        assert parse_value(text, unit).number == pytest.approx(number, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "unit", "place", "offer"),
    [
        ("22U", "F", 2, "22µ"),
        ("100N", "F", 3, "100n"),
        ("10MEG", "Ω", 2, "10M"),
        ("4,7k", "Ω", 1, "4.7k"),
        ("5V", "Ω", 1, None),
        ("abc", "Ω", 0, None),
        ("1k2k", "Ω", 2, None),
        ("", "V", 0, None),
        ("1e999", "V", 0, None),
    ],
)
def test_refusal_points_at_the_place_and_offers_a_mend(
    text: str, unit: str, place: int, offer: str | None
) -> None:
    with pytest.raises(ValueTextError) as refusal:
        parse_value(text, unit)
    assert [o.text for o in refusal.value.offers] == ([offer] if offer else [])
    assert refusal.value.at >= min(place, 1)
    if offer:
        parse_value(offer, unit)


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [
        (4700, "Ω", "4.7 kΩ"),
        (1200, "°C", "1200 °C"),
        (999.96, "Ω", "1 kΩ"),
        (0.0000022, "F", "2.2 µF"),
        (-0.05, "A", "−50 mA"),
        (0, "V", "0 V"),
        (1e-20, "A", "1·10⁻²⁰ A"),
        (12.5, "%", "12.5 %"),
    ],
)
def test_engineering_notation(value: float, unit: str, text: str) -> None:
    assert engineering(value, unit) == text.replace(" ", NO_BREAK_SPACE)


@given(st.floats(1e-14, 1e14), st.sampled_from([1, -1]))
def test_what_is_echoed_reads_back_as_the_same(size: float, sign: int) -> None:
    echo = engineering(sign * size, "Ω", digits=7)
    assert parse_value(echo.replace(MINUS, "-"), "Ω").number == pytest.approx(sign * size, rel=1e-6)


@given(st.text(max_size=70))
def test_junk_is_refused_by_name(text: str) -> None:
    try:
        parse_value(text, "Ω")
    except ValueTextError as refusal:
        assert str(refusal)  # noqa: PT017, either outcome is right, a bare error is not


def test_preferred_numbers() -> None:
    """IEC 60063:2015, tables 1 and 2 (a few entries of each series, from memory)."""
    assert SERIES["E6"] == (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
    assert {2.7, 5.6, 8.2} <= set(SERIES["E12"])
    assert {5.11, 6.34, 9.76} <= set(SERIES["E96"])
    assert len(SERIES["E48"]) == 48
    assert nearest_preferred(4600) == 4700
    assert nearest_preferred(9.8) == 10
