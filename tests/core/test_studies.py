"""DC sweeps, sensitivities, families, tolerance and letters, against closed forms and SymPy."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import sympy

from lucidbench.core.analyses import (
    RunRefused,
    TransientSettings,
    dc_sweep,
    decades,
    frequency_sweep,
    operating_point,
    phasors,
    steps,
    transient,
)
from lucidbench.core.analyses.factored import factored_transfer
from lucidbench.core.analyses.families import family
from lucidbench.core.analyses.sensitivity import (
    phasor_sensitivities,
    reading_sensitivities,
    sensitivities,
)
from lucidbench.core.analyses.settled import settled
from lucidbench.core.analyses.symbolic import compare, dc_quantity, nodal_equations, transfer
from lucidbench.core.devices.temperature import thermal_voltage
from lucidbench.core.errors import CircuitError, FormulaError
from lucidbench.core.formula import Known, evaluate, parse
from lucidbench.core.netlist import Circuit
from lucidbench.core.netlist.parameters import resolve_parameters, value_by_parameters
from lucidbench.core.readings import curve_sensitivities, time_curve
from lucidbench.core.readings import frequency as over_frequency
from lucidbench.core.readings import time as over_time
from lucidbench.core.tolerance import NORMAL, monte_carlo, worst_case
from lucidbench.core.units.dimensions import CAPACITANCE, FREQUENCY
from tests.core.circuits import circuit


def toleranced(parts: Circuit, share: float = 0.05) -> Circuit:
    elements = tuple(
        replace(e, spreads={"resistance": share}) if e.kind == "resistor" else e for e in parts
    )
    return replace(parts, elements=elements)


def test_sweeps_of_a_source_a_resistor_a_parameter_and_temperature() -> None:
    divider = circuit("V1 a 0 10", "R1 a b {r}", "R2 b 0 3k", ".param r=1k")
    by_source = dc_sweep(divider, "V1", steps(0, 10, 2.5))
    assert by_source.traces["V_b"] == pytest.approx(0.75 * by_source.axis.values)
    ohms = steps(1e3, 3e3, 1e3)
    exact = 10 * 3e3 / (3e3 + ohms)
    for subject in ("R1", "r"):
        assert dc_sweep(divider, subject, ohms).traces["V_b"] == pytest.approx(exact)
    warm = dc_sweep(circuit("I1 0 a 1m", "R1 a 0 1k TC=4m"), "temp", steps(-73, 127, 100))
    assert warm.traces["V_a"] == pytest.approx([0.6, 1.0, 1.4])
    assert (warm.axis.name, warm.axis.unit) == ("temp", "°C")


def test_diode_curve_and_a_nested_family_of_transistor_curves() -> None:
    curve = dc_sweep(
        circuit("V1 a 0 0", "D1 a 0 d", ".model d D(IS=1e-14)"), "V1", steps(-1, 0.8, 0.05)
    )
    exact = 1e-14 * np.expm1(curve.axis.values / thermal_voltage(300.15))
    assert curve.traces["I_D1"] == pytest.approx(exact, rel=1e-6, abs=1e-17)
    q = circuit("VC c 0 5", "IB 0 b 10u", "Q1 c b 0 q", ".model q NPN(BF=100 VAF=50 IS=1e-15)")
    curves = dc_sweep(q, "VC", steps(1, 9, 4), outer=("IB", steps(10e-6, 30e-6, 10e-6)))
    assert curves.traces["I_Q1.C"].shape == (3, 3)
    v_be = curves.traces["V_b"]
    early = 1 + (curves.axis.values - v_be) / 50
    base = np.array([10e-6, 20e-6, 30e-6])[:, None]
    assert curves.traces["I_Q1.C"] == pytest.approx(100 * base * early, rel=1e-6)


STAGE = (
    "VCC a 0 12", "VS i 0 AC 1m", "C1 i b 1u", "R1 a b 47k", "R2 b 0 10k", "RC a c 2.2k", "RE e 0 470",
    "CE e 0 22u", "Q1 c b e q", ".model q NPN(BF=150 VAF=80 IS=1e-14 CJE=10p TF=1n)",
)  # fmt: skip


@pytest.mark.parametrize(
    ("figure", "reference"), [("V_c", None), ("V_c", "V_e"), ("I_RE", None), ("I_Q1.B", None)]
)
def test_sensitivities_are_derivatives(figure: str, reference: str | None) -> None:
    """The adjoint's answers against differences of whole solutions, in a circuit with a transistor."""

    def read(here: Circuit) -> float:
        values = operating_point(here).values
        return values[figure] - (values[reference] if reference else 0.0)

    stage = circuit(*STAGE)
    by_differences = {(f.element, f.parameter): f for f in reading_sensitivities(stage, read)}
    for found in sensitivities(stage, figure, reference):
        other = by_differences[found.element, found.parameter]
        assert found.relative == pytest.approx(other.relative, rel=1e-4, abs=1e-6)


@pytest.mark.parametrize("figure", ["V_c", "I_RC"])
def test_phasor_sensitivities_follow_the_operating_point(figure: str) -> None:
    """As above, of magnitude and phase, where every value also moves the transistor's slopes."""
    stage = circuit(*STAGE)
    adjoint = phasor_sensitivities(stage, 300.0, figure)
    readings = (
        (lambda f: f.magnitude, lambda p: math.log(abs(p))),
        (lambda f: math.radians(f.phase), lambda p: math.atan2(p.imag, p.real)),
    )
    for part, of in readings:
        for found in adjoint:
            value = stage.by_name[found.element].values[found.parameter]
            above, below = (
                of(
                    phasors(
                        stage.with_value(found.element, found.parameter, value * (1 + step)), 300.0
                    ).values[figure]
                )
                for step in (1e-4, -1e-4)
            )
            assert part(found) == pytest.approx((above - below) / 2e-4, rel=1e-4, abs=1e-6)


def test_phasor_sensitivities_of_a_low_pass_at_its_cutoff() -> None:
    # V = 1/(1 + jωRC): d ln|V|/d ln R = -1/2 and d arg V/d ln R = -1/2 rad at ωRC = 1, for C the same.
    low_pass = circuit("V1 a 0 AC 1", "R1 a b 1k", "C1 b 0 1u")
    found = phasor_sensitivities(low_pass, 1e3 / (2 * math.pi), "V_b")
    assert {f.element for f in found[:3]} == {"V1", "R1", "C1"}
    for part in found:
        if part.element != "V1":
            assert part.magnitude == pytest.approx(-0.5)
            assert part.phase == pytest.approx(math.degrees(-0.5))
            assert part.decibels == pytest.approx(-10 / math.log(10))


def test_sensitivities_of_readings_are_those_of_the_closed_forms() -> None:
    """Series RLC, any circuits text: width R/(2πL), Q √(L/C)/R, resonance 1/(2π√(LC)); the rise of an
    RC section from rest is R·C·ln 9; its settled amplitude at ωRC = 1 falls by half the value's share."""
    rlc = circuit("V1 a 0 AC 1", "R1 a b 220", "L1 b d 2.2m", "C1 d 0 1.9n")
    sweep = frequency_sweep(rlc, decades(1e3, 1e7, 20))
    for read, of_r, of_l, of_c in (
        (lambda curve: over_frequency.band(curve).width, 1, -1, 0),
        (lambda curve: over_frequency.band(curve).quality, -1, 0.5, -0.5),
        (lambda curve: over_frequency.peak(curve).frequency, 0, -0.5, -0.5),
    ):
        found = {f.element: f.relative for f in curve_sensitivities(sweep, "I_R1", read, "V_a")}
        for name, exact in (("R1", of_r), ("L1", of_l), ("C1", of_c)):
            assert found[name] == pytest.approx(exact, abs=5e-5)
    step = circuit("V1 a 0 PULSE(0 1 0 1n 1n 1 2)", "R1 a b 1k", "C1 b 0 1u")
    run = transient(step, TransientSettings(stop=20e-3))
    for found_one in curve_sensitivities(run, "V_b", over_time.rise_time)[:2]:
        assert found_one.relative == pytest.approx(1, abs=1e-4)
    driven = circuit(f"V1 a 0 SIN(0 1 {1e3 / (2 * math.pi)})", "R1 a b 1k", "C1 b 0 1u")
    for found_one in curve_sensitivities(settled(driven), "V_b", over_time.rms)[:2]:
        assert found_one.relative == pytest.approx(-0.5, abs=1e-4)


@pytest.mark.parametrize("name", ["V_c", "I_Q1.B"])
@pytest.mark.parametrize("window", [0.0, 1e-3])
def test_sensitivities_of_a_run_are_derivatives(name: str, window: float) -> None:
    """The linearised steps against whole runs on either side, a transistor's charges and bias and all."""
    stage = circuit(*(line.replace("AC 1m", "SIN(0 10m 1k)") for line in STAGE))
    run = transient(stage, TransientSettings(stop=3e-3, start=window))

    def read(here: Circuit) -> float:
        return over_time.mean(time_curve(transient(here, run.settings), name))

    by_differences = {(f.element, f.parameter): f for f in reading_sensitivities(stage, read)}
    assert len(by_differences) == 12
    for found in curve_sensitivities(run, name, over_time.mean):
        other = by_differences[found.element, found.parameter]
        assert found.relative == pytest.approx(other.relative, rel=1e-4, abs=1e-5)


def test_sensitivities_of_a_run_with_a_switch_are_told_all_the_same() -> None:
    # The switch is thrown as V_b passes 5 V: at R·C·ln 2, any circuits text; so is the peak of its load.
    lines = "V1 a 0 PULSE(0 10 0 1n 1n 1 2)", "R1 a b 1k", "C1 b 0 1u", "V2 d 0 1", "RL e 0 1k"
    thrown = circuit(*lines, "S1 d e b 0 s", ".model s SW(VT=5 VH=0 RON=1 ROFF=1meg)")
    run = transient(thrown, TransientSettings(stop=3e-3))
    read = curve_sensitivities(run, "V_e", lambda v: over_time.crossings(v, 0.5, 1)[0])
    assert {f.element: f.relative for f in read}["C1"] == pytest.approx(1, abs=1e-3)


def test_tolerance_study_of_a_divider() -> None:
    parts = toleranced(circuit("V1 a 0 10", "R1 a b 1k", "R2 b 0 3k"))
    worst = worst_case(parts, "V_b")
    assert worst.lowest == pytest.approx(10 * 2850 / (2850 + 1050))
    assert worst.highest == pytest.approx(10 * 3150 / (3150 + 950))
    study = monte_carlo(parts, 20_000, seed=7)
    # First order: two rectangular shares of a/√3 each (JCGM 100:2008, 4.3.7), slope 10·R1·R2/(R1+R2)².
    expected = 10 * 1e3 * 3e3 / 4e3**2 * 0.05 * math.sqrt(2 / 3)
    assert study.deviation("V_b") == pytest.approx(expected, rel=0.02)
    assert worst.lowest <= study.traces["V_b"].min()
    assert study.traces["V_b"].max() <= worst.highest
    assert study.traces["I_R1"] == pytest.approx((10 - study.traces["V_b"]) / 1e3, rel=0.06)
    again = monte_carlo(parts, 20_000, seed=7)
    assert np.array_equal(again.traces["V_b"], study.traces["V_b"])
    narrow = monte_carlo(parts, 20_000, seed=7, distribution=NORMAL)
    assert narrow.deviation("V_b") == pytest.approx(expected * math.sqrt(3) / 3, rel=0.03)
    biased = toleranced(circuit("V1 a 0 10", "R1 a b 1k", "D1 b 0 d", ".model d D(IS=1e-14)"))
    drawn = monte_carlo(biased, 50, seed=1)
    assert (
        drawn.within("I_D1")[0] < operating_point(biased).currents["D1"] < drawn.within("I_D1")[1]
    )


def test_families_over_a_grid() -> None:
    parts = circuit("V1 a 0 10", "R1 a b 1k", "R2 b 0 1k")
    members = list(family(parts, {"V1": [1, 2], "R2": [1e3, 3e3]}, operating_point))
    assert [m.result.voltages["b"] for m in members] == pytest.approx([0.5, 0.75, 1.0, 1.5])
    assert members[3].values == {"V1": 2, "R2": 3e3}


@pytest.mark.parametrize(
    ("attempt", "says"),
    [
        (lambda c: monte_carlo(c, 100), "No part has a tolerance"),
        (lambda c: monte_carlo(toleranced(c), 1), "two draws or more"),
        (lambda c: monte_carlo(toleranced(c), 10**9), "are the most"),
        (lambda c: monte_carlo(toleranced(c), 10, distribution="flat"), "no distribution"),
        (lambda c: dc_sweep(c, "R9", steps(0, 1, 1)), "no element called R9"),
        (lambda c: dc_sweep(c, "V1", steps(0, 1, -1)), "never lead from"),
        (lambda c: dc_sweep(c, "V1", steps(0, 1, 1e-12)), "1e\\+12 points"),
        (lambda c: sensitivities(c, "V_q"), "no node called q"),
        (lambda c: transfer(c, "R1", "b"), "no independent source"),
        (lambda c: transfer(c, "V1", "q"), "no node called q"),
    ],
)
def test_refusals(attempt, says: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises((CircuitError, RunRefused), match=says):
        attempt(circuit("V1 a 0 10", "R1 a b 1k", "R2 b 0 1k"))


def test_transfer_functions_in_letters() -> None:
    rlc = circuit("V1 a 0 AC 1", "R1 a b 1k", "L1 b c 10m", "C1 c 0 100n")
    found = transfer(rlc, "V1", "c")
    r, inductance, c = sympy.symbols("R1 L1 C1", positive=True, real=True)
    assert (
        sympy.simplify(found.expression - 1 / (1 + found.s * r * c + found.s**2 * inductance * c))
        == 0
    )
    for pole in found.poles or ():
        assert sympy.simplify(found.denominator.subs(found.s, pole)) == 0
    assert "C_{1}" in found.latex
    assert found.at(0) == pytest.approx(1)
    divider = dc_quantity(circuit("V1 a 0 10", "R1 a b 1k", "R2 b 0 3k", "I1 0 b 1m"), "b")
    assert str(sympy.factor(divider.expression)) == "R2*(I1*R1 + V1)/(R1 + R2)"


def test_a_formula_is_checked_for_equivalence_not_for_its_looks() -> None:
    exact = transfer(circuit("V1 a 0 AC 1", "R1 a b 1k", "C1 b 0 1u"), "V1", "b")
    assert compare(exact, "(1/(s*C1)) / (R1 + 1/(s*C1))").equivalent
    wrong = compare(exact, "1/(1 + 2*s*R1*C1)")
    assert not wrong.equivalent
    assert wrong.error == pytest.approx(abs(1 - (1 + 1j) / (1 + 2j)), rel=1e-6)
    with pytest.raises(RunRefused, match="nothing is called “R9”"):
        compare(exact, "1/R9")


def test_a_ladder_of_eight_in_letters() -> None:
    """Against its chain matrices (two-port theory) at several frequencies; and its middle against its end."""
    lines = ["V1 n0 0 AC 1"]
    for k in range(8):
        lines += [f"R{k + 1} n{k} n{k + 1} {k + 1}k", f"C{k + 1} n{k + 1} 0 {9 - k}n"]
    ladder = circuit(*lines)
    whole, between = transfer(ladder, "V1", "n8"), transfer(ladder, "V1", "n4", "n8")
    for s in (0, 100, 3e4j, 1e5 + 1e5j):
        volts, current, nodes = 1.0 + 0j, 0j, [1.0 + 0j]
        for k in reversed(range(8)):  # from an end of 1 V
            current += s * (9 - k) * 1e-9 * volts
            volts += (k + 1) * 1e3 * current
            nodes.append(volts)
        assert whole.at(s) == pytest.approx(1 / volts)
        assert between.at(s) == pytest.approx((nodes[4] - 1) / volts)


def test_a_transistor_stage_in_letters_agrees_with_its_numbers() -> None:
    stage = circuit(
        "VCC vcc 0 12", "V1 b 0 DC 1.9 AC 1", "RC vcc c 2.2k", "RE e 0 470", "Q1 c b e q",
        ".model q NPN(BF=100 VAF=75 IS=1e-14)",
    )  # fmt: skip
    found = transfer(stage, "V1", "c")
    names = {str(symbol) for symbol in found.values}
    assert {"RC", "RE", "g_m_Q1", "r_pi_Q1", "r_o_Q1"} == names
    low = dict(found.values.items())
    from lucidbench.core.analyses.equivalents import two_port

    assert complex(found.expression.subs(low)) == pytest.approx(
        two_port(stage, "V1", "c").gain, rel=1e-6
    )


def test_nodal_equations_as_a_student_writes_them() -> None:
    (at_a, at_b, law) = nodal_equations(circuit("V1 a 0 10", "R1 a b 1k", "R2 b 0 3k"))
    assert (at_a.at, at_b.at, law.at) == ("V_a", "V_b", "I_V1")
    assert str(at_b.equation.lhs) == "V_b/R2 + (-V_a + V_b)/R1"
    assert str(law.equation.lhs) == "-V1 + V_a"


def test_a_transfer_function_in_numbers() -> None:
    # Parallel RLC: s·L/(1 + s·L/R + s²·L·C), any circuits text.
    tank = factored_transfer(
        circuit("I1 0 a AC 5", "R1 a 0 1k", "L1 a 0 10m", "C1 a 0 100n"), "I1", "a"
    )
    (pole,) = [p for p in tank.poles if p.imag > 0]
    assert abs(pole) == pytest.approx(1 / math.sqrt(10e-3 * 100e-9))
    assert pole.real == pytest.approx(-1 / (2 * 1e3 * 100e-9))
    assert (tank.order, tank.zeros, tank.of) == (1, (), "Ω")
    assert tank.at(1e4j) == pytest.approx(1e4j * 10e-3 / (1 + 1e4j * 1e-5 - 1e8 * 1e-9))
    # A transistor stage of too many letters, against the matrix solved at each frequency.
    stage = circuit(*STAGE)
    found = factored_transfer(stage, "VS", "c")
    sweep = frequency_sweep(stage, decades(0.1, 1e9, 2))
    exact = sweep.ratio("c", "VS")
    told = [found.at(2j * math.pi * f) for f in sweep.frequencies]
    assert told == pytest.approx(exact, rel=1e-6)
    named = {"s": Known(2j * math.pi * 1e3, FREQUENCY)}
    written = evaluate(parse(found.text), named).value
    assert written == pytest.approx(found.at(2j * math.pi * 1e3), rel=1e-5)


def test_too_large_for_letters() -> None:
    ladder = circuit("V1 n0 0 1", *(f"R{k} n{k} n{k + 1} 1" for k in range(20)), "RL n20 0 1")
    with pytest.raises(RunRefused, match="too many for letters"):
        transfer(ladder, "V1", "n20")


def test_circuit_parameters_with_units() -> None:
    found = resolve_parameters(
        {"C": "1/(2*pi*f_c*R_1)", "R_1": "10 kΩ", "f_c": "1 kHz", "R_2": "2*R_1"}
    )
    assert found["C"].value == pytest.approx(15.9155e-9, rel=1e-5)
    assert found["C"].dimension == CAPACITANCE
    assert value_by_parameters("R3", "R_2/4", "Ω", found) == pytest.approx(5e3)
    for texts, says in (
        ({"a": "b", "b": "c", "c": "a"}, "in a circle: a → b → c → a"),
        ({"a": "1 V + 1 A"}, "a: "),
        ({"a": "x"}, "nothing is called “x”"),
    ):
        with pytest.raises(FormulaError, match=says):
            resolve_parameters(texts)
    with pytest.raises(FormulaError, match="R3: a resistance is wanted"):
        value_by_parameters("R3", "C", "Ω", found)
