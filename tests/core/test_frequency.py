"""Phasors, sweeps, natural frequencies and equivalents against filter theory and closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import signal

from lucidbench.core import readings
from lucidbench.core.analyses import (
    RunRefused,
    TransientSettings,
    decades,
    frequency_sweep,
    natural_frequencies,
    octaves,
    phasors,
    transient,
    zeros,
)
from lucidbench.core.analyses.equivalents import equivalent, two_port
from lucidbench.core.devices.temperature import thermal_voltage
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings import frequency as read
from tests.core.circuits import circuit
from tests.depth import examples


def test_butterworth_filter_between_equal_terminations() -> None:
    # Zverev, Handbook of Filter Synthesis, 1967: n = 4, elements 0.7654 1.8478 1.8478 0.7654; the
    # response is half of 1/sqrt(1 + w^8), exactly. The elements are 2·sin((2k - 1)π/8).
    g = [2 * math.sin((2 * k - 1) * math.pi / 8) for k in (1, 2, 3, 4)]
    assert g == pytest.approx([0.7654, 1.8478, 1.8478, 0.7654], abs=5e-5)
    lines = ("V1 s 0 AC 1", "RS s 1 1", f"C1 1 0 {g[0]}", f"L1 1 2 {g[1]}", f"C2 2 0 {g[2]}",
             f"L2 2 3 {g[3]}", "RL 3 0 1")  # fmt: skip
    w = np.geomspace(0.05, 20, 61)
    over = frequency_sweep(circuit(*lines), w / (2 * math.pi))
    assert abs(over.voltage("3")) == pytest.approx(0.5 / np.sqrt(1 + w**8), rel=1e-9)
    poles = natural_frequencies(circuit(*lines)).poles
    assert abs(np.array(poles)) == pytest.approx(np.ones(4), rel=1e-9)
    _, exact, _ = signal.buttap(4)  # scipy.signal
    assert sorted(p.real for p in poles) == pytest.approx(sorted(exact.real), rel=1e-9)


def test_sallen_and_key_low_pass() -> None:
    # Sallen and Key, A Practical Method of Designing RC Active Filters, IRE Transactions CT-2, 1955:
    # unity gain, w0 = 1/sqrt(R1·R2·C1·C2), Q = sqrt(R1·R2·C1·C2)/(C2·(R1 + R2)).
    parts = circuit(
        "V1 in 0 AC 1",
        "R1 in a 10k",
        "R2 a p 10k",
        "C1 a out 4.7n",
        "C2 p 0 1n",
        "Y1 p out out opamp",
    )
    (mode,) = natural_frequencies(parts).modes
    assert mode.frequency == pytest.approx(1 / (2 * math.pi * 1e4 * math.sqrt(4.7e-18)), rel=1e-9)
    assert mode.quality == pytest.approx(math.sqrt(4.7) / 2, rel=1e-9)
    b, a = [1.0], [1e8 * 4.7e-18, 1e-9 * 2e4, 1.0]
    f = decades(100, 1e6, 5)
    _, exact = signal.freqs(b, a, 2 * math.pi * f)  # scipy.signal
    assert frequency_sweep(parts, f).voltage("out") == pytest.approx(exact, rel=1e-9)


def test_twin_t_has_its_notch_where_the_closed_form_says() -> None:
    # Symmetric twin T: zero transmission at w = 1/RC; any text on active filters.
    parts = circuit(
        "V1 in 0 AC 1", "R1 in a 10k", "R2 a out 10k", "C3 a 0 20n", "C1 in b 10n", "C2 b out 10n",
        "R3 b 0 5k",
    )  # fmt: skip
    found = [z for z in zeros(parts, "out") if z.imag > 0]
    assert found[0] == pytest.approx(1j / (1e4 * 10e-9), rel=1e-9)
    notch = frequency_sweep(parts, [1 / (2 * math.pi * 1e-4)])
    assert abs(notch.voltage("out")[0]) < 1e-12


def test_series_resonance_read_as_on_paper() -> None:
    # f0 = 1/(2π·sqrt(LC)), Q = sqrt(L/C)/R, bandwidth f0/Q, impedance R at f0: any text.
    parts = circuit("V1 a 0 AC 1", "L1 a b 10m", "C1 b c 100n", "R1 c 0 50")
    f0, q = 1 / (2 * math.pi * math.sqrt(1e-9)), math.sqrt(10e-3 / 100e-9) / 50
    over = readings.frequency_curve(frequency_sweep(parts, decades(100, 1e6, 10)), "V_c")
    found = read.band(over)
    assert (read.peak(over).frequency, found.quality) == pytest.approx((f0, q), rel=1e-6)
    assert found.width == pytest.approx(f0 / q, rel=1e-9)
    assert phasors(parts, f0).impedance("V1") == pytest.approx(50, rel=1e-9)
    (mode,) = natural_frequencies(parts).modes
    assert (mode.quality, mode.frequency) == pytest.approx((q, f0), rel=1e-9)
    assert mode.time_constant == pytest.approx(2 * 10e-3 / 50)


def test_first_order_low_pass_as_everyone_knows_it() -> None:
    # -3 dB and -45° at the cutoff, 20 dB a decade beyond: common practice, no published source.
    parts = circuit("V1 in 0 AC 1", "R1 in out 1k", "C1 out 0 159.15494309189535n")
    over = readings.frequency_curve(frequency_sweep(parts, decades(10, 1e6, 3)), "V_out", "V_in")
    assert read.band(over, reference=1.0).upper == pytest.approx(1000, rel=1e-9)
    assert read.decibels(over, 1000) == pytest.approx(-3.0103, abs=1e-4)
    assert read.phase(over, 1000) == pytest.approx(-45)
    assert read.slope(over, 1e5, 1e6) == pytest.approx(-20, abs=0.001)
    with pytest.raises(readings.NoReading):
        read.unity_gain_frequency(over)


@pytest.mark.parametrize("seed", range(100))
def test_a_cutoff_refers_to_the_limit_wherever_the_sweep_begins(seed: int) -> None:
    # First order: f = 1/(2πRC) of the level at DC, or at the high end; any circuits text.
    random = np.random.default_rng(seed)
    corner, passes_low = 10 ** random.uniform(1, 7), random.random() < 0.5
    capacitor = f"{1 / (2 * math.pi * corner * 1e3)!r}"
    parts = (
        ["R1 in out 1k", f"C1 out 0 {capacitor}"]
        if passes_low
        else ["R1 out 0 1k", f"C1 in out {capacitor}"]
    )
    inner, outer = random.uniform(1.05, 3), random.uniform(5, 1e3)
    low, high = (corner / inner, corner * outer) if passes_low else (corner / outer, corner * inner)
    sweep = frequency_sweep(circuit("V1 in 0 AC 3", *parts), decades(low, high * 1.001, 50))
    found = read.band(readings.frequency_curve(sweep, "V_out", "V_in"))
    assert found.reference == pytest.approx(1, rel=1e-6)
    assert (found.upper if passes_low else found.lower) == pytest.approx(corner, rel=1e-6)
    assert (found.lower if passes_low else found.upper) is None


@pytest.mark.parametrize("quality", [0.8, 5, 300, 3000, 1e5])
@pytest.mark.parametrize("shift", [1.0, 1.013, 1.03])
def test_a_band_is_found_however_narrow(quality: float, shift: float) -> None:
    # Series resonance, across its resistance: f0 = 1/(2π·sqrt(LC)), B = f0/Q; any circuits text.
    f0, resistance = 1 / (2 * math.pi * math.sqrt(1e-9)), math.sqrt(10e-3 / 100e-9) / quality
    parts = circuit("V1 a 0 AC 1", "L1 a b 10m", "C1 b c 100n", f"R1 c 0 {resistance!r}")
    over = frequency_sweep(parts, decades(100 * shift, 1e6, 50))
    found = read.band(readings.frequency_curve(over, "V_c", "V_a"))
    assert found.width == pytest.approx(f0 / quality, rel=1e-6)
    assert found.quality == pytest.approx(quality, rel=1e-6)


def test_what_rises_without_end_has_no_cutoff() -> None:
    parts = circuit("V1 a 0 AC 1", "C1 a 0 100n", "R1 a 0 1k")
    over = readings.frequency_curve(frequency_sweep(parts, decades(1e4, 1e6, 10)), "I_C1")
    with pytest.raises(readings.NoReading, match="rises without end"):
        read.band(over)


def test_loop_gain_margins() -> None:
    # Three equal RC sections behind a gain of 4: the phase is -180° at sqrt(3)·w0, where the sections
    # pass 1/8 of it, so the gain margin is 2 (Barkhausen's condition; any text on feedback).
    lines = ["V1 in 0 AC 1"]
    for k in range(3):
        source = "in" if k == 0 else f"b{k}"
        lines += [
            f"E{k} e{k} 0 {source} 0 {4 if k == 0 else 1}",
            f"R{k} e{k} b{k + 1} 1k",
            f"C{k} b{k + 1} 0 1u",
        ]
    loop = readings.frequency_curve(frequency_sweep(circuit(*lines), decades(1, 1e5, 10)), "V_b3")
    assert read.gain_margin(loop) == pytest.approx(20 * math.log10(2), abs=1e-6)
    w = math.sqrt(4 ** (2 / 3) - 1)  # where its magnitude is one
    assert read.unity_gain_frequency(loop) == pytest.approx(w * 1e3 / (2 * math.pi), rel=1e-9)
    assert read.phase_margin(loop) == pytest.approx(180 - 3 * math.degrees(math.atan(w)), abs=1e-6)


def test_common_emitter_stage_agrees_with_its_hybrid_pi_circuit() -> None:
    # A_v = -g_m·(R_C || r_o), R_in = R_B || r_pi, with a bypassed emitter: any electronics text.
    stage = circuit(
        "VCC vcc 0 12", "VIN in 0 AC 1", "CIN in b 1000u", "R1 vcc b 47k", "R2 b 0 10k", "RC vcc c 2.2k",
        "RE e 0 1k", "CE e 0 1", "Q1 c b e q", ".model q NPN(IS=1e-14 BF=180 VAF=75)",
    )  # fmt: skip
    from lucidbench.core.analyses import operating_point
    from lucidbench.core.analyses.device_regions import device_states

    point = operating_point(stage)
    small = device_states(point)["Q1"].values
    seen = two_port(stage, "VIN", "c", frequency=1e4)
    load = 1 / (1 / 2200 + 1 / small["r_o"])
    assert seen.gain == pytest.approx(-small["g_m"] * load, rel=1e-3)
    assert seen.input_impedance == pytest.approx(
        1 / (1 / 47e3 + 1 / 10e3 + 1 / small["r_pi"]), rel=1e-3
    )
    assert seen.output_impedance == pytest.approx(load, rel=1e-3)
    assert small["g_m"] == pytest.approx(point.currents["Q1.C"] / thermal_voltage(300.15), rel=1e-2)


def test_transit_frequency_of_a_transistor() -> None:
    # |i_C/i_B| falls to one at f_T = g_m/(2π(C_pi + C_mu)): any electronics text.
    biased = circuit(
        "VC c 0 5",
        "IB 0 b DC 10u AC 1",
        "Q1 c b 0 q",
        ".model q NPN(IS=1e-14 BF=200 TF=0.4n CJE=10p CJC=3p)",
    )
    from lucidbench.core.analyses import operating_point
    from lucidbench.core.analyses.device_regions import device_states

    small = device_states(operating_point(biased))["Q1"].values
    f_t = small["g_m"] / (2 * math.pi * (small["C_pi"] + small["C_mu"]))
    over = frequency_sweep(biased, [f_t])
    assert abs(over.traces["I_Q1.C"][0]) == pytest.approx(1, rel=0.02)


@examples(40)
@given(st.integers(0, 2**32 - 1))
def test_random_networks_are_reciprocal_and_conserve_power(seed: int) -> None:
    """Any RLC network: the transfer impedance is the same both ways, complex powers sum to zero, and
    two sources together do what each does alone."""
    random = np.random.default_rng(seed)
    lines = [f"RG{k} {k} 0 {10 ** random.uniform(2, 5)}" for k in range(1, 6)]
    for k in range(9):
        a, b = random.choice(6, 2, replace=False)
        kind, low, high = [("R", 1, 5), ("L", -5, -2), ("C", -10, -6)][random.integers(0, 3)]
        lines.append(f"{kind}{k} {a} {b} {10 ** random.uniform(low, high)}")
    f = 10 ** random.uniform(1, 5)

    def driven(*sources: str) -> Circuit:
        return circuit(*lines, *sources)

    there = phasors(driven("I1 0 1 AC 1"), f)
    back = phasors(driven("I2 0 5 AC 1"), f)
    assert there.voltages["5"] == pytest.approx(back.voltages["1"], rel=1e-6, abs=1e-9)
    both = phasors(driven("I1 0 1 AC 1", "I2 0 5 AC 1"), f)
    for node in "12345":
        together = there.voltages[node] + back.voltages[node]
        assert both.voltages[node] == pytest.approx(together, rel=1e-6, abs=1e-9)
    largest = max(abs(s) for s in both.powers.values())
    assert abs(sum(both.powers.values())) < 1e-9 * largest


def test_equivalents() -> None:
    # Thévenin of a divider, at DC and of an RC at its cutoff; Norton of the same: any text.
    divider = circuit("V1 a 0 10", "R1 a b 1k", "R2 b 0 3k")
    found = equivalent(divider, "b")
    assert (found.voltage, found.impedance, found.current) == pytest.approx((7.5, 750, 0.01))
    rc = circuit("V1 a 0 AC 1", "R1 a b 1k", "C1 b 0 1u")
    at = equivalent(rc, "b", frequency=1000 / (2 * math.pi))
    assert at.voltage == pytest.approx(0.5 - 0.5j)
    assert at.impedance == pytest.approx(500 - 500j)
    held = equivalent(circuit("V1 a 0 10", "R1 a 0 1k"), "a")
    assert (held.impedance, held.current) == (0, None)


def test_modes_propose_how_long_to_run_and_what_to_sweep() -> None:
    rc = natural_frequencies(circuit("V1 a 0 1", "R1 a b 1k", "C1 b 0 1u"))
    assert rc.run_for == pytest.approx(
        5e-3
    )  # five time constants: common practice, no published source
    assert rc.band == pytest.approx((1.5915, 15915), rel=1e-4)
    assert rc.stable
    growing = natural_frequencies(circuit("R1 a 0 1k", "C1 a 0 1u", "G1 0 a a 0 2m"))
    assert not growing.stable
    assert growing.modes[0].s == pytest.approx(1000)
    assert natural_frequencies(circuit("V1 a 0 1", "R1 a 0 1k")).run_for is None


def test_spacings() -> None:
    assert octaves(1, 8, 1) == pytest.approx([1, 2, 4, 8])
    for wrong in ((0, 1, 10), (2, 1, 10), (1, 2, 0)):
        with pytest.raises(RunRefused):
            decades(*wrong)
    with pytest.raises(RunRefused, match="are the most"):
        decades(1, 1e6, 10**6)


def test_what_has_no_answer_says_why() -> None:
    lossless = circuit("I1 0 a AC 1", "L1 a 0 1", "C1 a 0 1")
    with pytest.raises(CircuitError, match="resonates without any loss"):
        frequency_sweep(lossless, [1 / (2 * math.pi)])
    given_at_one = circuit("V1 a 0 AC 1", "Y1 a 0 impedance resistance=1 reactance=2")
    with pytest.raises(CircuitError, match="Y1 is given as a reactance"):
        frequency_sweep(given_at_one, [1.0, 2.0])
    with pytest.raises(CircuitError, match="Y1 is given as a reactance"):
        natural_frequencies(given_at_one)
    with pytest.raises(CircuitError, match="no phasor"):
        frequency_sweep(circuit("V1 a 0 1", "R1 a 0 1"), [1.0]).ratio("a", "V1")


def test_the_current_of_a_source_that_begins_at_ground() -> None:
    """What it imposes is what it carries, whichever way round it is drawn: Kirchhoff's current law."""
    for nodes, sign in (("0 a", 1), ("a 0", -1)):
        here = circuit(f"I1 {nodes} DC 1m AC 2m SIN(1m 1m 1k)", "R1 a 0 1k", "C1 a 0 1n")
        sweep = frequency_sweep(here, [10.0, 1e3])
        assert sweep.traces["I_I1"] == pytest.approx(2e-3)
        run = transient(here, TransientSettings(1e-3))
        through = run.traces(np.array([0.25e-3]))
        assert through["I_I1"] == pytest.approx(2e-3)
        assert through["I_R1"] + through["I_C1"] == pytest.approx(sign * 2e-3, rel=1e-4)
