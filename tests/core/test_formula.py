"""The textbook language: values, units, messages that point at the place."""

from __future__ import annotations

import math

import pytest
import sympy
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Known, evaluate, latex, parse, work_out
from lucidbench.core.units.dimensions import RESISTANCE, VOLTAGE

PARTS = {
    "V1": Known(12.6, VOLTAGE),
    "R1": Known(1e6, RESISTANCE),
    "R2": Known(270e3, RESISTANCE),
}


def value(text: str) -> tuple[float, str]:
    known = evaluate(parse(text), PARTS)
    return complex(known.value).real, known.dimension.unit


@pytest.mark.parametrize(
    ("text", "number", "unit"),
    [
        ("V1*R2/(R1+R2)", 12.6 * 27 / 127, "V"),
        ("R1*R2/(R1+R2)", 27e6 / 127, "Ω"),
        ("V1^2/R1", 12.6**2 / 1e6, "W"),
        ("V1 - 0.7 V", 11.9, "V"),
        ("2 mA * 4k7", 9.4, "A"),  # 4k7 without a unit is a plain number
        ("2 mA * 4.7 kΩ", 9.4, "V"),
        ("-2^2", -4, ""),
        ("2^3^2", 512, ""),
        ("2^-1", 0.5, ""),
        ("10 - 4 - 3", 3, ""),
        ("lg(1000)", 3, ""),
        ("ln(exp(2))", 2, ""),
        ("dB(V1/(2*V1))", 20 * math.log10(0.5), ""),
        ("sqrt(V1^2 + (3 V)^2)", math.hypot(12.6, 3), "V"),
        ("abs(-3 V)", 3, "V"),
        ("1/(2*pi*1 kΩ*100 nF)", 1591.549430918953, "Hz"),
    ],
)
def test_value_and_unit(text: str, number: float, unit: str) -> None:
    assert value(text) == (pytest.approx(number, rel=1e-12), unit)


@pytest.mark.parametrize(
    ("text", "at", "says"),
    [
        ("V1 - 0.7", 3, "write the unit, 0.7 V"),
        ("V1 + R1", 3, "a voltage cannot be added to a resistance"),
        ("R3*2", 0, "did you mean R2"),
        ("2 R1", 2, "operator is missing"),
        ("(R1+R2", 0, "not closed"),
        ("R1)", 2, "closes none"),
        ("V1/(R1-R1)", 2, "division by zero"),
        ("ln(V1)", 3, "plain number"),
        ("V1^V1", 3, "exponent"),
        ("R1 + $", 5, "no meaning"),
        ("__import__('os')", 0, "no meaning"),
        ("(" * 60 + "1" + ")" * 60, 40, "nested too deeply"),
        ("", 0, "missing"),
    ],
)
def test_message_points_at_the_place(text: str, at: int, says: str) -> None:
    with pytest.raises(FormulaError, match=says) as error:
        value(text)
    assert error.value.at == at


_operands = st.sampled_from(["a", "b", "c", "2", "0.5"])
_expressions = st.recursive(
    _operands,
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda t: f"({t[0]}{t[1]}{t[2]})"),
        st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda t: f"{t[0]}{t[1]}{t[2]}"),
        inner.map(lambda e: f"-({e})"),
        inner.map(lambda e: f"({e})^2"),
    ),
    max_leaves=8,
)


@given(_expressions)
def test_same_as_sympy(text: str) -> None:
    """Precedence and association as SymPy's own parser reads them."""
    numbers = {"a": 1.25, "b": -3.5, "c": 7.0}
    names = {name: Known(number, (VOLTAGE / VOLTAGE)) for name, number in numbers.items()}
    expected = sympy.sympify(text.replace("^", "**")).subs(numbers)
    try:
        known = evaluate(parse(text), names)
    except FormulaError as error:
        assert "division by zero" in str(error) or "too large" in str(error)  # noqa: PT017
        return
    assert complex(known.value).real == pytest.approx(float(expected), rel=1e-9, abs=1e-9)


def test_typeset_with_values_put_in() -> None:
    formula = parse("V1*R2/(R1+R2)")
    assert latex(formula.body) == (
        r"\frac{V_{\mathrm{1}} \cdot R_{\mathrm{2}}}{R_{\mathrm{1}} + R_{\mathrm{2}}}"
    )
    assert r"12.6\,\mathrm{V} \cdot 270\,\mathrm{k\Omega}" in latex(formula.body, PARTS)
    assert latex(parse("R1*(R1-R2)").body).endswith(r"\left(R_{\mathrm{1}} - R_{\mathrm{2}}\right)")


def test_a_page_of_working() -> None:
    """Later lines see earlier ones; a simulated figure never passes for a hand value."""
    simulated = {"V_out": Known(2.5, VOLTAGE, simulated=True)}
    lines = ["V_out = V1/2", "I_R2 = V_out/R2", "V_half = I_R2*V1", "R1 = 3", "V_out = 1 V"]
    first, second, wrong_unit, part, again = work_out(lines, PARTS, simulated)
    assert first.result == Known(6.3, VOLTAGE)
    assert second.result
    assert second.result.value == pytest.approx(6.3 / 270e3)
    assert "should be a voltage" in str(wrong_unit.error)
    assert "is a part on the drawing" in str(part.error)
    assert "already worked out in line 1" in str(again.error)
    (borrowed,) = work_out(["V_x = V_out*2"], PARTS, simulated)
    assert borrowed.result
    assert borrowed.result.simulated
    # A line that fails must not let the simulation answer for it further down.
    _, after = work_out(["V_out = V1/0", "V_y = V_out"], PARTS, simulated)
    assert "nothing is called “V_out”" in str(after.error)
