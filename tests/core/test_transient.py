"""Transients against closed forms, matrix exponentials and a published test set; and what oscillates."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.linalg import expm

from lucidbench.core.analyses import (
    RunRefused,
    TransientSettings,
    Watch,
    operating_point,
    phasors,
    transient,
)
from lucidbench.core.analyses.fourier import harmonics, largest_output
from lucidbench.core.analyses.settled import oscillation, settled
from lucidbench.core.devices.temperature import thermal_voltage
from lucidbench.core.devices.waves import given_waveform, wave_parameters
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit, Element, read_netlist, write_netlist
from lucidbench.core.readings import time_curve
from lucidbench.core.readings.time import crossings, maximum, period
from lucidbench.core.units import parse_value
from tests.core.circuits import circuit
from tests.depth import examples

DIGITS = 1e-4  # "at least four correct digits" without the user choosing a step


def transistor_amplifier() -> Circuit:
    """The two-stage amplifier of the IVP Test Set, its exponentials those of NR → ∞ transistors."""
    base = 0.026 / thermal_voltage(300.15)
    return circuit(
        "VS in 0 SIN(0 0.1 100)", "VB ub 0 6", "R0 in 1 1k", "C1 1 2 1u IC=-3", "R1 2 0 9k",
        "R2 ub 2 9k", "C2 3 0 2u IC=3", "R3 3 0 9k", "Q1 4 2 3 m", "R4 ub 4 9k", "C3 4 5 3u IC=3",
        "R5 5 0 9k", "R6 ub 5 9k", "C4 6 0 4u IC=3", "R7 6 0 9k", "Q2 7 5 6 m", "R8 ub 7 9k",
        "C5 7 8 5u IC=6", "R9 8 0 9k", f".model m NPN(IS=0.99e-6 BF=99 NF={base!r} NR=1e12)",
    )  # fmt: skip


# Mazzia and Magherini, Test Set for IVP Solvers, release 2.4, 2008: y(0.2) of the transistor amplifier.
AMPLIFIER = [-0.005562, 3.006522, 2.849959, 2.926422, 2.704618, 2.761838, 4.770928, 1.236996]


def test_transistor_amplifier_of_the_test_set() -> None:
    run = transient(transistor_amplifier(), TransientSettings(0.2, from_given=True))
    end = [run.trace(f"V_{k}", np.array([0.2]))[0] for k in range(1, 9)]
    assert end == pytest.approx(AMPLIFIER, rel=DIGITS)


def test_rc_step_and_its_current() -> None:
    # v = V(1 - exp(-t/RC)): any circuits text. The current jumps at the step.
    run = transient(
        circuit("V1 a 0 PULSE(0 5 1m)", "R1 a b 1k", "C1 b 0 1u"),
        TransientSettings(6e-3, step=50e-6),
    )
    late = np.maximum(run.grid - 1e-3, 0)
    on = run.grid >= 1e-3
    traces = run.traces()
    assert traces["V_b"] == pytest.approx(5 * -np.expm1(-late / 1e-3), abs=5 * DIGITS / 10)
    assert traces["I_C1"] == pytest.approx(on * 5e-3 * np.exp(-late / 1e-3), abs=5e-3 * DIGITS)


@pytest.mark.parametrize("ohms", [20, 632.4555320336759, 5e3])
def test_series_rlc_below_at_and_above_critical_damping(ohms: float) -> None:
    # The matrix exponential of the same two equations, by scipy.linalg.expm.
    run = transient(
        circuit("V1 a 0 PULSE(0 1 0)", f"R1 a b {ohms}", "L1 b c 10m", "C1 c 0 100n"),
        TransientSettings(1e-3, step=10e-6),
    )
    a = np.array([[-ohms / 10e-3, -1 / 10e-3, 1 / 10e-3], [1 / 100e-9, 0, 0], [0, 0, 0]])
    exact = [expm(a * t) @ [0, 0, 1] for t in run.grid]
    assert run.traces()["V_c"] == pytest.approx([x[1] for x in exact], abs=DIGITS)
    scale = max(abs(x[0]) for x in exact)
    assert run.traces()["I_L1"] == pytest.approx([x[0] for x in exact], abs=DIGITS * scale)


def test_where_a_voltage_is_fixed_by_a_derivative() -> None:
    # A capacitor across a sine source leads by a quarter period, and an ideal op-amp differentiates
    # a triangle into a square: v = -RC·dv/dt.
    across = transient(
        circuit("V1 a 0 SIN(0 1 1k)", "C1 a 0 1u"), TransientSettings(3e-3, step=20e-6)
    )
    exact = 2e-3 * np.pi * np.cos(2e3 * np.pi * across.grid)
    assert across.traces()["I_C1"] == pytest.approx(exact, abs=DIGITS * 2e-3 * np.pi)
    triangle = "V1 a 0 PULSE(-1 1 0 1m 1m 0 2m)"
    run = transient(
        circuit(triangle, "C1 a n 100n", "R1 n out 10k", "Y1 0 n out opamp"),
        TransientSettings(4e-3),
    )
    times = np.array([0.3e-3, 0.9e-3, 1.1e-3, 1.9e-3, 2.1e-3])
    assert run.trace("V_out", times) == pytest.approx(np.array([-2, -2, 2, 2, -2]), rel=DIGITS)


def test_starting_values_and_starting_voltages() -> None:
    decay = transient(
        circuit("R1 a 0 1k", "C1 a 0 1u IC=3"), TransientSettings(2e-3, step=1e-3, from_given=True)
    )
    assert decay.traces()["V_a"] == pytest.approx(3 * np.exp([0, -1, -2]), rel=DIGITS)
    coil = transient(
        circuit("R1 a 0 10", "L1 a 0 10m IC=0.2"),
        TransientSettings(2e-3, step=1e-3, from_given=True),
    )
    assert coil.traces()["I_L1"] == pytest.approx(0.2 * np.exp([0, -1, -2]), rel=DIGITS)
    held = TransientSettings(1e-3, step=1e-3, node_voltages={"b": 2.0})
    run = transient(circuit("V1 a 0 5", "R1 a b 1k", "C1 b 0 1u"), held)
    assert run.traces()["V_b"] == pytest.approx([2, 5 - 3 * math.exp(-1)], rel=DIGITS)


def test_half_wave_rectifier_against_an_independent_solver() -> None:
    """scipy's Radau on the same equation, the diode's current by Lambert's function (Corless 1996)."""
    from scipy.integrate import solve_ivp
    from scipy.special import lambertw

    saturation, n_vt, series = 1e-9, 1.8 * thermal_voltage(300.15), 1.0

    def current(volts: float) -> float:
        x = saturation * series / n_vt * math.exp(min((volts + saturation * series) / n_vt, 600))
        return n_vt / series * float(np.real(lambertw(x))) - saturation

    def slope(t: float, v: np.ndarray) -> list[float]:
        return [(current(10 * math.sin(100 * math.pi * t) - v[0]) - v[0] / 1e3) / 100e-6]

    times = np.linspace(0, 0.06, 61)
    other = solve_ivp(slope, (0, 0.06), [0.0], "Radau", times, rtol=1e-9, atol=1e-10)
    run = transient(
        circuit("V1 a 0 SIN(0 10 50)", "D1 a b d", "R1 b 0 1k", "C1 b 0 100u",
                ".model d D(IS=1e-9 N=1.8 RS=1)"),
        TransientSettings(0.06, step=1e-3),
    )  # fmt: skip
    assert run.traces()["V_b"] == pytest.approx(other.y[0], abs=10 * DIGITS / 4)


@examples(25)
@given(st.integers(0, 2**32 - 1))
def test_kirchhoff_and_tellegen_hold_at_every_moment(seed: int) -> None:
    """On random networks of R, L, C, diodes and sources: currents into each node add up to nothing,
    powers of all parts too.
    """
    random = np.random.default_rng(seed)
    lines = ["V1 n0 0 SIN(0 5 1k)"]
    for k in range(5):
        a, b = f"n{random.integers(0, k + 1)}", f"n{k + 1}"
        lines += [
            f"R{k} {a} {b} {10 ** random.uniform(1, 4)}",
            f"C{k} {b} 0 {10 ** random.uniform(-8, -6)}",
        ]
    lines += ["D1 n1 n3 d", "L1 n2 n4 10m", ".model d D(IS=1e-12 RS=1 CJO=10p TT=5n)"]
    run = transient(circuit(*lines), TransientSettings(2e-3))
    times = run.ends[run.lengths > 0]
    traces = run.traces(times)
    volts = {f"n{k}": traces[f"V_n{k}"] for k in range(6)} | {"0": np.zeros(len(times))}
    leaving = {node: np.zeros(len(times)) for node in volts}
    power = np.zeros(len(times))
    for element in run.circuit:
        a, b = element.nodes
        current = traces[f"I_{element.name}"]
        leaving[a] += current
        leaving[b] -= current
        power += (volts[a] - volts[b]) * current
    largest = max(abs(traces[f"I_{e.name}"]).max() for e in run.circuit)
    for node, sum_ in leaving.items():
        assert abs(sum_).max() < 3e-4 * largest, node
    assert abs(power).max() < 3e-4 * largest * 5


@pytest.mark.parametrize(
    ("lines", "node", "expected", "within"),
    [
        # Collector-coupled astable: 2·ln 2·RC less the transistors' own voltages (V_CC 9 V, V_BE
        # 0.7 V): R·C·2·ln((2V_CC - V_BE - V_CE,sat)/(V_CC - V_BE)). Any electronics text.
        (
            ("VCC vcc 0 9", "RC1 vcc c1 1k", "RC2 vcc c2 1k", "RB1 vcc b1 47k", "RB2 vcc b2 47k",
             "C1 c1 b2 22n", "C2 c2 b1 22n", "Q1 c1 b1 0 q", "Q2 c2 b2 0 q",
             ".model q NPN(IS=1.2e-14 BF=180 CJE=14p CJC=5p TF=0.45n TR=60n)"),
            "c1", 2 * 47e3 * 22e-9 * math.log((18 - 0.7 - 0.1) / (9 - 0.7)), 0.03,
        ),
        # Wien bridge: 1/(2πRC) at the onset; limiting lowers it a little.
        (
            ("R1 out x 10k", "C1 x p 15.9155n", "R2 p 0 10k", "C2 p 0 15.9155n",
             "Y1 p n out opamp form=limited gain_bandwidth=10meg slew_rate=10meg", "RF out n 20.2k",
             "RG n 0 10k"),
            "out", 1e-3, 0.01,
        ),
        # LC oscillator, Colpitts: 2π·sqrt(L·C1·C2/(C1 + C2)).
        (
            ("VCC vcc 0 12", "RB1 vcc b 47k", "RB2 b 0 10k", "CB b 0 1u", "L1 vcc c 100u",
             "C1 c e 10n", "C2 e 0 47n", "RE e 0 1k", "Q1 c b e q",
             ".model q NPN(IS=1.2e-14 BF=180 CJE=14p CJC=5p TF=0.45n)"),
            "c", 2 * math.pi * math.sqrt(100e-6 * 10e-9 * 47 / 57), 0.01,
        ),
        # Unijunction relaxation: RC·ln((V - V_valley)/(V - V_peak)), with the peak at η·V_BB plus a
        # junction, and the valley near 2 V.
        (
            ("VCC vcc 0 20", "RT vcc e 100k", "CT e 0 100n", "Y1 e 0 b2 unijunction", "RB2 vcc b2 100"),
            "e", 100e3 * 100e-9 * math.log((20 - 2.0) / (20 - 0.65 * 20 * 7 / 7.1 - 0.4)), 0.05,
        ),
    ],
    ids=["astable", "Wien bridge", "Colpitts", "unijunction"],
)  # fmt: skip
def test_oscillators_start_by_themselves(
    lines: tuple[str, ...], node: str, expected: float, within: float
) -> None:
    state = oscillation(circuit(*lines), node, expected)
    assert state.period == pytest.approx(expected, rel=within)


@pytest.mark.parametrize("stop", [4.0, 20.0, 80.0])
def test_a_flasher_keeps_its_period_in_a_run_of_any_length(stop: float) -> None:
    """Its jump takes nanoseconds. RC·ln((V - V_low)/(V - V_high)) between the ends it reaches: any text."""
    flasher = circuit(
        "V1 bat 0 12", "R1 bat e 97.8k", "C1 e x 4.85u", "RS x 0 1.8", "CS e 0 2p",
        "Y1 e flash b2 unijunction", "R2 bat b2 470", "R3 flash 0 47",
    )  # fmt: skip
    run = transient(flasher, TransientSettings(stop))
    t = np.arange(0.5 * stop, stop, 1e-4)
    v = run.trace("V_e", t)
    falls = t[1:][(v[:-1] > 5) & (v[1:] <= 5)]
    swing = math.log((12 - v.min()) / (12 - v.max()))
    assert np.ptp(v) > 5
    assert np.diff(falls) == pytest.approx(97.8e3 * 4.85e-6 * swing, rel=5e-3)


def test_a_multivibrator_of_textbook_transistors_jumps_with_help() -> None:
    """Without any charge of its own, nothing says how fast it flips: told, and followed."""
    astable = circuit(
        "VCC vcc 0 9", "RC1 vcc c1 1k", "RC2 vcc c2 1k", "RB1 vcc b1 47k", "RB2 vcc b2 47k",
        "C1 c1 b2 22n", "C2 c2 b1 22n", "Q1 c1 b1 0 q", "Q2 c2 b2 0 q", ".model q NPN(IS=1e-14 BF=180)",
    )  # fmt: skip
    run = transient(astable, TransientSettings(5e-3))
    assert "the circuit jumps" in " ".join(run.notes)
    assert np.ptp(run.trace("V_c1")) > 8


def test_settled_states_in_closed_form() -> None:
    # A square wave on RC settles between ±V·tanh(T/4RC); its harmonics fall as 4/(πk): any text.
    rc = circuit("V1 a 0 PULSE(-1 1 0 0 0 0.5m 1m)", "R1 a b 10k", "C1 b 0 1u")
    state = settled(rc)
    edge = math.tanh(1e-3 / (4 * 10e-3))
    assert state.traces(4)["V_b"] == pytest.approx([-edge, -edge + edge, edge, 0, -edge], abs=4e-4)
    assert state.run.trace("V_b", np.array([state.begin]))[0] == pytest.approx(-edge, rel=DIGITS)
    found = harmonics(state, "V_a", 9)
    assert abs(found.phasors[1:]) == pytest.approx(
        [4 / (math.pi * k) * (k % 2) for k in range(1, 10)], abs=1e-9
    )
    assert found.distortion == pytest.approx(math.sqrt(1 / 9 + 1 / 25 + 1 / 49 + 1 / 81), rel=1e-6)


def test_a_slow_rectifier_settles_at_once() -> None:
    """A time constant of fifty periods, closed by shooting; the long way round gives the same."""
    lines = (
        "V1 a 0 SIN(0 10 50)",
        "D1 a b d",
        "R1 b 0 1k",
        "C1 b 0 1000u",
        ".model d D(IS=1e-9 N=1.8 RS=0.5)",
    )
    state = settled(circuit(*lines))
    long_way = transient(circuit(*lines), TransientSettings(6.0, start=5.98))
    at = np.linspace(0, 0.02, 9)
    assert state.run.trace("V_b", state.begin + at) == pytest.approx(
        long_way.trace("V_b", 5.98 + at), rel=DIGITS
    )


def test_distortion_of_a_clipped_sine() -> None:
    """A limiter that is linear up to its knee: at 1 % distortion the output has just begun to clip."""
    clipper = circuit(
        "V1 a 0 SIN(0 1 1k)",
        "R1 a b 1k",
        "Y1 b 0 diode form=constant_drop",
        "Y2 0 b diode form=constant_drop",
    )
    found = largest_output(clipper, "V1", "V_b", 0.01, 2.0)
    assert 0.70 < found.amplitude < 0.76
    assert found.distortion == pytest.approx(0.01, rel=0.05)


CLASS_B = (
    "VP p 0 12", "VN n 0 -12", "V1 in 0 SIN(0 1 1k)", "RS in b 1k", "Q1 p b out qn", "Q2 n b out qp",
    "RL out 0 100", ".model qn NPN(BF=100 IS=1e-14)", ".model qp PNP(BF=100 IS=1e-14)",
)  # fmt: skip


def test_the_largest_output_of_a_stage_that_distorts_small_signals_most() -> None:
    """Crossover distortion falls with amplitude, clipping rises: any text on power stages."""
    stage = circuit(*CLASS_B)
    found = [largest_output(stage, "V1", "V_out", 0.05, highest) for highest in (16.5, 20, 70)]
    assert len({one.amplitude for one in found[1:]}) == 1
    for one in found:
        assert one.amplitude == pytest.approx(found[1].amplitude, rel=1e-3)
        assert one.distortion == pytest.approx(0.05, rel=0.02)
        assert 11.3 < one.output < 13
    # What leaks through where both are off is hardly distorted, and no output.
    with pytest.raises(RunRefused, match="at any amplitude"):
        largest_output(stage, "V1", "V_out", 0.001, 20)


@pytest.mark.parametrize("feedback", ["20.2k", "21k", "30k"])
def test_an_oscillation_is_told_once_it_has_grown(feedback: str) -> None:
    """A Wien bridge with a gain above three grows until its amplifier stops at ±10 V."""
    bridge = circuit(
        "R1 a p 10k", "C1 out a 15.9154943n", "R2 p 0 10k", "C2 p 0 15.9154943n", f"RF out m {feedback}",
        "RG m 0 10k", "Y1 p m out opamp form=limited highest=10 lowest=-10 slew_rate=100meg "
        "gain_bandwidth=1000meg output_resistance=0",
    )  # fmt: skip
    assert oscillation(bridge, "out", 1e-3).traces()["V_out"].max() == pytest.approx(10, rel=1e-4)


def test_a_settled_circuit_is_one_whose_switches_have_been_worked() -> None:
    switched = circuit(
        "V1 a 0 SIN(0 1 1k)", "R1 a b 1k", "C1 b 0 1u",
        "Y1 b 0 timed_switch closes_at=2.3m on_resistance=1k",
    )  # fmt: skip
    state = settled(switched)
    expected = abs(0.5 / (1 + 2j * math.pi * 1e3 * 500 * 1e-6))  # R ∥ R with C: any circuits text
    assert state.traces()["V_b"].max() == pytest.approx(expected, rel=DIGITS)
    of_time = circuit("V1 a 0 SIN(0 1 1k)", "B1 b 0 V={V(a)*time}", "R1 b c 1k", "C1 c 0 1u")
    with pytest.raises(RunRefused, match="formula of the time"):
        settled(of_time)


def test_a_switch_begins_as_it_is_told() -> None:
    """Closed, open and closed again by the clock; and within its hysteresis as ON or OFF says."""
    clocked = circuit(
        "V1 a 0 1", "R1 a b 1k", "Y1 b 0 timed_switch opens_at=1m closes_at=3m on_resistance=1"
    )
    run = transient(clocked, TransientSettings(5e-3))
    closed = 1 / 1001
    at = run.trace("V_b", np.array([0.5e-3, 2e-3, 4e-3]))
    assert at == pytest.approx([closed, 1, closed], rel=1e-5)
    for state, control, expected in (
        ("ON", 0.5, closed),
        ("OFF", 0.5, 1),
        ("", 0.5, 1),
        ("ON", 0.1, 1),
    ):
        told = circuit("V1 a 0 1", "R1 a b 1k", f"VC c 0 {control}", f"S1 b 0 c 0 m {state}",
                       ".model m SW(VT=0.5 VH=0.2 RON=1)")  # fmt: skip
        assert operating_point(told).values["V_b"] == pytest.approx(expected, rel=1e-6)
        again = read_netlist(write_netlist(told)).circuit
        assert operating_point(again).values["V_b"] == pytest.approx(expected, rel=1e-6)


@pytest.mark.parametrize(
    ("settings_", "says"),
    [
        (TransientSettings(1.0, step=1e-12), "1e+12 points"),
        (TransientSettings(1e6), "would repeat 1e+09 times"),
        (TransientSettings(1.0, step=-1.0), "above 0 s"),
        (TransientSettings(1.0, start=2.0), "stop above its start"),
        (TransientSettings(float("inf")), "stop above its start"),
        (TransientSettings(1.0, longest=1e-12), "1e+12 points"),
    ],
)
def test_endless_runs_are_refused_before_they_start(
    settings_: TransientSettings, says: str
) -> None:
    with pytest.raises(RunRefused, match=says.replace("+", r"\+")):
        transient(circuit("V1 a 0 SIN(0 1 1k)", "R1 a 0 1k"), settings_)


def test_a_run_can_be_cancelled_and_followed() -> None:
    told: list[float] = []
    ring = circuit("V1 a 0 SIN(0 1 1meg)", "R1 a b 1k", "C1 b 0 1n")
    watch = Watch(tell=told.append, cancelled=lambda: len(told) > 2)
    with pytest.raises(RunRefused, match="was cancelled"):
        transient(ring, TransientSettings(50e-3), watch)
    assert 0 < told[0] < told[1] < 1
    with pytest.raises(RunRefused, match="longer than the"):
        transient(ring, TransientSettings(50e-3), Watch(seconds=0.01))


def test_unknown_starting_node_is_named() -> None:
    with pytest.raises(CircuitError, match="no node called x"):
        transient(circuit("V1 a 0 1", "R1 a 0 1"), TransientSettings(1.0, node_voltages={"x": 1.0}))


def test_large_ladder_stays_sparse() -> None:
    """A thousand sections: the end of a long RC line, whose mean delay is Elmore's sum R·C·n(n+1)/2."""
    n = 1000
    lines = [f"R{k} n{k} n{k + 1} 1" for k in range(n)] + [f"C{k} n{k + 1} 0 1n" for k in range(n)]
    ladder = circuit("V1 n0 0 PULSE(0 1 0)", *lines)
    delay = 1e-9 * n * (n + 1) / 2
    run = transient(ladder, TransientSettings(10 * delay))
    assert assemble(ladder).size == n + 2
    times = np.linspace(0, 10 * delay, 2001)
    # The mean of the impulse response is the area left under the step (Elmore, Journal of Applied
    # Physics 19, 1948).
    assert np.trapezoid(1 - run.trace(f"V_n{n}", times), times) == pytest.approx(delay, rel=1e-3)


def test_the_amplifiers_whole_waveform_against_sundials() -> None:
    """IDA on the eight equations written out, at tight tolerances (Hindmarsh and others, SUNDIALS, ACM
    Transactions on Mathematical Software 31, 2005)."""
    import sksundae

    from tests.benchmarks.amplifier import SLOPE, START, jacobian, residual

    times = np.linspace(0, 0.05, 26)
    solver = sksundae.ida.IDA(
        residual, jacfn=jacobian, rtol=1e-8, atol=1e-10, max_num_steps=1_000_000
    )
    other = solver.solve(times, START, SLOPE).y
    run = transient(transistor_amplifier(), TransientSettings(0.05, from_given=True))
    for k in range(8):
        swing = np.ptp(other[:, k])
        assert run.trace(f"V_{k + 1}", times) == pytest.approx(other[:, k], abs=DIGITS * swing)


def test_a_current_switched_into_an_inductor_gives_its_voltage() -> None:
    # v = L·di/dt of a ramp: the mirror image of a capacitor across a source; any circuits text.
    run = transient(
        circuit("I1 0 a PWL(0 0 1m 0 2m 0.1 3m 0.1)", "L1 a 0 10m", "R1 a 0 1meg"),
        TransientSettings(3e-3),
    )
    times = np.array([0.5e-3, 1.2e-3, 1.8e-3, 2.5e-3])
    assert run.trace("V_a", times) == pytest.approx(np.array([0, 1.0, 1.0, 0]), abs=2e-4)


def test_recording_may_begin_late_and_lasts_to_the_stop() -> None:
    lines = ("V1 a 0 SIN(0 1 1k)", "R1 a b 1k", "C1 b 0 1u")
    whole = transient(circuit(*lines), TransientSettings(20e-3, step=50e-6))
    late = transient(circuit(*lines), TransientSettings(20e-3, start=18e-3, step=50e-6))
    assert late.grid[0] == 18e-3
    assert len(late.ends) < len(whole.ends) / 4
    assert late.traces()["V_b"] == pytest.approx(whole.traces()["V_b"][-41:], abs=1e-5)
    assert late.cost.steps == pytest.approx(whole.cost.steps, rel=0.1)


def test_an_own_step_is_kept_and_a_longest_step_obeyed() -> None:
    lines = ("V1 a 0 SIN(0 1 1k)", "R1 a 0 1k")
    free = transient(circuit(*lines), TransientSettings(5e-3))
    bound = transient(circuit(*lines), TransientSettings(5e-3, longest=10e-6))
    assert bound.lengths.max() <= 10e-6 * (1 + 1e-12)
    assert bound.cost.steps > free.cost.steps
    assert free.grid[-1] == 5e-3
    assert np.all(np.diff(free.grid) > 0)


def test_what_has_died_away_along_a_ladder_is_nothing() -> None:
    # In the first steps the far end is below the least normal number, where arithmetic crawls; at the end
    # the beginning follows the diffusion v = erfc(x/(2·√(t/rc))): Carslaw and Jaeger, 2nd ed., 1959, 2.5.
    parts = [f"R{k} n{k} n{k + 1} 1\nC{k} n{k + 1} 0 1n" for k in range(1, 1000)]
    ladder = circuit("V1 n1 0 PULSE(0 1 0)", *parts, "RL n1000 0 1meg")
    run = transient(ladder, TransientSettings(1e-6))
    reached = np.abs(run.stages)
    assert np.any(reached == 0)
    assert np.all((reached == 0) | (reached >= np.finfo(float).tiny))
    end = run.unknowns(np.array([1e-6]))[:, 0]
    for k in (5, 20, 40):
        expected = math.erfc(k / (2 * math.sqrt(1e-6 / 1e-9)))
        assert end[run.system.rows[f"n{k + 1}"]] == pytest.approx(expected, rel=1e-4)


def test_a_linear_circuit_that_nothing_drives_at_rest_starts_from_zero() -> None:
    """A coil between two sources, and a capacitor fed a current, have no single state at DC: from zero,
    either is the integral of a sine (any circuits text)."""
    times = np.linspace(0, 0.04, 41)
    wanted = (1 - np.cos(100 * math.pi * times)) * 5 / (100 * math.pi * 10e-3)
    coil = circuit("V1 a 0 SIN(0 10 50)", "V2 b 0 SIN(0 5 50)", "L1 a b 10m")
    assert operating_point(coil).currents["L1"] == 0.0
    run = transient(coil, TransientSettings(0.04))
    assert run.trace("I_L1", times) == pytest.approx(wanted, abs=1e-5)
    fed = circuit("I1 0 a SIN(0 5 50)", "C1 a 0 10m")
    run = transient(fed, TransientSettings(0.04))
    assert run.trace("V_a", times) == pytest.approx(wanted, abs=1e-5)
    # With a direct share nothing rests: the run begins with what is stored, as if that were given.
    lasting = circuit("V1 a 0 SIN(1 10 50)", "V2 b 0 SIN(0 5 50)", "L1 a b 10m")
    with pytest.raises(CircuitError, match="plain wire"):
        operating_point(lasting)
    run = transient(lasting, TransientSettings(0.04))
    assert run.notes
    assert run.trace("I_L1", times) == pytest.approx(wanted + times / 10e-3, abs=1e-5)
    given = transient(lasting, TransientSettings(0.04, from_given=True))
    assert not given.notes
    assert given.trace("I_L1", times) == pytest.approx(wanted + times / 10e-3, abs=1e-5)


def test_a_sine_across_coupled_coils_rests_at_zero() -> None:
    """A coil straight across a source of 0 V at rest, and a rectifier behind it."""
    of = circuit(
        "V1 a 0 SIN(0 10 1k)", "L1 a 0 10m", "L2 s 0 10m", "K1 L1 L2 0.9", "D1 s o m", "R1 o 0 1k",
        ".model m d(is=1e-14)",
    )  # fmt: skip
    assert not any(operating_point(of).values.values())
    run = transient(of, TransientSettings(2e-3))
    assert not run.notes
    assert run.trace("V_o", np.linspace(0, 2e-3, 2001)).max() == pytest.approx(8.3, abs=0.1)


def test_a_relaxation_oscillator_begins_with_what_is_stored() -> None:
    """A switch with hysteresis across a capacitor: no state can last, and the period is that of two
    exponentials between its thresholds (any circuits text)."""
    of = circuit(
        "V1 a 0 10", "R1 a b 10k", "C1 b 0 100n", "S1 b 0 b 0 s",
        ".model s SW(VT=5 VH=2 RON=100 ROFF=1e9)",
    )  # fmt: skip
    with pytest.raises(CircuitError):
        operating_point(of)
    run = transient(of, TransientSettings(5e-3))
    assert run.notes
    times = np.linspace(0, 5e-3, 200_001)
    volts = run.trace("V_b", times)
    falls = times[:-1][(volts[:-1] > 6) & (volts[1:] <= 6)]
    low, tau = 10 * 100 / 10_100, 100e-9 / (1 / 100 + 1 / 10e3)
    period = 1e-3 * math.log(7 / 3) + tau * math.log((7 - low) / (3 - low))
    assert np.diff(falls) == pytest.approx(period, rel=1e-4)


def test_coils_with_unlike_currents_along_one_path_keep_its_flux() -> None:
    """(L1·I1 - L2·I2)/(L1 + L2), with the second against the first (flux linkage is kept)."""
    of = circuit("L1 a b 10m ic=1", "L2 0 b 20m ic=0.2", "R1 a 0 10")
    run = transient(of, TransientSettings(10e-3, from_given=True))
    times = np.linspace(1e-5, 10e-3, 21)
    wanted = (10e-3 - 4e-3) / 30e-3 * np.exp(-times * 10 / 30e-3)
    assert run.trace("I_L1", times) == pytest.approx(wanted, rel=1e-4)
    assert "L1 and L2" in run.notes[0]
    cut = circuit("L1 a b 10m ic=1", "L2 b c 20m ic=1", "R1 a 0 10", "R2 c 0 1g")
    with pytest.raises(CircuitError, match="nowhere to go"):
        transient(cut, TransientSettings(1e-3, from_given=True))


@pytest.mark.parametrize(("across", "spikes"), [("", True), ("YD1 0 a diode form=ideal", False)])
def test_a_coil_that_is_cut_off_makes_what_the_open_contact_lets_it(
    across: str, spikes: bool
) -> None:
    """Its current I goes on through the R of the contact, and fades with L/R: -I·R·exp(-t·R/L) (Kirchhoff's
    laws); with a diode across the coil nothing is above the source."""
    lines = [
        "V1 in 0 10", "VG g 0 PULSE(1 0 1m 1n 1n 10 20)", "S1 in a g 0 sx", "L1 a b 10m", "R1 b 0 100",
        ".model sx SW(RON=1m ROFF=1MEG VT=0.5)",
    ]  # fmt: skip
    run = transient(circuit(*lines, *([across] if across else [])), TransientSettings(2e-3))
    volts = run.stages[:, 2, run.system.row("a")]
    assert bool(run.notes) == spikes
    if not spikes:
        assert volts.min() > -1e-3
        return
    assert "100\xa0mA through L1" in run.notes[0]
    assert "100\xa0kV" in run.notes[0]
    assert volts.min() == pytest.approx(10 - 0.1 * 1e6, rel=1e-3)
    begun = run.ends[np.argmin(volts)]
    late = np.array([5e-9, 10e-9, 30e-9])
    wanted = 1e-5 + (0.1 - 1e-5) * np.exp(-late * 1e6 / 10e-3)
    assert run.trace("I_L1", begun + late) == pytest.approx(wanted, rel=2e-3)


@pytest.mark.parametrize("coupling", [1, -1])
def test_windings_of_one_flux_that_resist(coupling: int) -> None:
    """Three on one core, each with the resistance of its wire, settled: against the phasors."""
    ohms = {"L1": 1.0, "L2": 3.0, "L3": 2.0}
    of = circuit(
        "V1 a 0 SIN(0 10 50) AC 10", "L1 a 0 1", "L2 s 0 4", "L3 u s 9", f"K1 L1 L2 {coupling}",
        f"K2 L1 L3 {coupling}", "K3 L2 L3 1", "R1 s 0 100", "R2 u 0 50", "C1 u 0 10u",
    )  # fmt: skip
    for name, each in ohms.items():
        of = of.with_value(name, "series_resistance", each)
    state, wanted = settled(of), phasors(of, 50).values
    times, traces = state.times(), state.traces()
    turn = 2j / 0.02 * np.exp(-2j * np.pi * 50 * times)
    for name in ("V_s", "V_u", "I_L1", "I_L2", "I_L3"):
        assert np.trapezoid(traces[name] * turn, times) == pytest.approx(wanted[name], rel=1e-6)


def test_a_forward_converter_settles_that_shares_all_its_flux() -> None:
    """With its coil empty at times: 2·V/(1 + √(1 + 4·K/D²)), K = 2·L/(R·T) (Erickson and Maksimović,
    Fundamentals of Power Electronics, 2nd ed., 2001, chapter 5)."""
    of = circuit(
        "V1 a 0 24", "VG g 0 PULSE(0 1 0 1n 1n 4u 10u)", "S1 d 0 g 0 sx", "L1 a d 1m", "L2 s 0 1m",
        "L3 r a 1m", "K1 L1 L2 1", "K2 L1 L3 1", "K3 L2 L3 1", "YD1 s x diode form=ideal",
        "YD2 0 x diode form=ideal", "YD3 0 r diode form=ideal", "L4 x o 100u", "C1 o 0 100u", "R1 o 0 1k",
        ".model sx SW(RON=1m ROFF=1G VT=0.5)",
    )  # fmt: skip
    state = settled(of, 1)
    share = 2 * 100e-6 / (1000 * 10e-6) / 0.4**2
    wanted = 2 * 24 / (1 + math.sqrt(1 + 4 * share))
    assert state.traces()["V_o"].mean() == pytest.approx(wanted, rel=3e-3)


@pytest.mark.parametrize("form", ["ideal", "constant_drop forward_voltage=0.7"])
def test_a_converter_settles_with_its_coil_empty(form: str) -> None:
    """A buck converter in discontinuous conduction: what it takes in a period it gives (energy balance of
    ideal parts; Erickson and Maksimović, Fundamentals of Power Electronics, 2nd ed., 2001, chapter 5)."""
    of = circuit(
        "V1 a 0 12", "VG g 0 PULSE(0 1 0 1n 1n 2u 10u)", "S1 a s g 0 sx",
        f"YD1 0 s diode form={form}", "L1 s o 20u", "C1 o 0 100u", "R1 o 0 50",
        ".model sx SW(VT=0.5 VH=0 RON=1m ROFF=1e9)",
    )  # fmt: skip
    state = settled(of)
    out, drop = float(np.mean(state.traces()["V_o"])), 0.0 if form == "ideal" else 0.7
    # The coil's charge in a period, rise and fall of its triangle, is what the load takes.
    peak = (12 - out) * 2.001e-6 / 20e-6
    charge = peak / 2 * (2.001e-6 + peak * 20e-6 / (out + drop))
    assert charge == pytest.approx(out / 50 * 10e-6, rel=2e-3)
    assert state.traces()["I_L1"][0] == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize("coupling", [1, 0.99])
def test_a_rectifier_behind_coupled_coils_settles(coupling: float) -> None:
    """As it does after many periods: no state may move further."""
    of = circuit(
        "V1 a 0 SIN(0 10 1k)", "R0 a p 10", "L1 p 0 20m", "L2 s 0 20m", f"K1 L1 L2 {coupling}",
        "YD1 s o diode form=constant_drop forward_voltage=0.7", "C1 o 0 2u", "R1 o 0 1k",
    )  # fmt: skip
    times = np.linspace(0, 1e-3, 101)
    long = transient(of, TransientSettings(61e-3, start=60e-3)).trace("V_o", 60e-3 + times)
    state = settled(of)
    assert state.run.trace("V_o", state.begin + times) == pytest.approx(long, abs=2e-3)


@pytest.mark.parametrize(
    "form",
    ["step", "pulse", "square", "triangle", "sawtooth", "exponential", "piecewise", "samples"],
)
def test_a_run_begins_at_the_operating_point_that_is_drawn(form: str) -> None:
    """A source has one value at rest, in the operating point and in the run from it."""
    values = {p.key: parse_value(p.default, p.unit).number for p in wave_parameters("V")
              if form in p.forms and p.default and p.reads == "quantity"}  # fmt: skip
    texts = {p.key: p.default for p in wave_parameters("V") if p.reads == "points"}
    own, wave = given_waveform(
        form, {**values, "low": -1.0, "high": 4.0, "from_level": -1.0}, texts
    )
    source = Element("V1", "voltage_source", ("a", "0"), {"voltage": own["dc"]}, waveform=wave)
    parts = circuit("R1 a b 1k", "C1 b 0 1u").with_element(source)
    at_rest = operating_point(parts).values["V_b"]
    run = transient(parts, TransientSettings(1e-3))
    assert run.trace("V_b", np.zeros(1))[0] == pytest.approx(at_rest, abs=1e-7)
    if form not in ("step", "pulse", "square"):  # which jump at once
        assert run.trace("V_a", np.zeros(1))[0] == pytest.approx(own["dc"], abs=1e-7)


@pytest.mark.parametrize("relative", [1e-5, 1e-6, 1e-7])
@pytest.mark.parametrize("comparator", ["slew_rate=1e9 gain_bandwidth=1e8 gain=1e5",
                                        "slew_rate=1000meg gain_bandwidth=1000meg"])  # fmt: skip
def test_a_comparator_tips_over_where_it_does(comparator: str, relative: float) -> None:
    """A triangle generator: between ±10 V·R3/R2, with a period of 4·R1·C1·R3/R2; any text on op-amps."""
    generator = circuit(
        "R2 sq p 20k", "R3 tri p 10k", "R1 sq m 10k", "C1 m tri 100n", "Y2 0 m tri opamp",
        f"Y1 p 0 sq opamp form=limited highest=10 lowest=-10 output_resistance=0 {comparator}",
    )  # fmt: skip
    run = transient(generator, TransientSettings(20e-3, start=8e-3, relative=relative))
    triangle = time_curve(run, "V_tri")
    assert period(triangle) == pytest.approx(2e-3, rel=4e-4)
    assert maximum(triangle) == pytest.approx(5, rel=4e-4)


@pytest.mark.parametrize("ramp", [1e-3, 0.1, 10])
def test_a_trigger_tips_over_at_its_thresholds_however_slow_the_ramp(ramp: float) -> None:
    trigger = circuit(
        f"V1 in 0 PWL(0 -8 {ramp} 8 {2 * ramp} -8)", "R2 sq p 20k", "R3 in p 10k",
        "Y1 p 0 sq opamp form=limited highest=10 lowest=-10 output_resistance=0 "
        "slew_rate=1e9 gain_bandwidth=1e8 gain=1e5",
    )  # fmt: skip
    run = transient(trigger, TransientSettings(2 * ramp))
    at = crossings(time_curve(run, "V_sq"), 0.0)
    assert run.trace("V_in", at) == pytest.approx([5, -5], rel=4e-4)
