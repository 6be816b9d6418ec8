"""Where curves repeat, against closed forms: driven ones, rings and oscillators with their start-up.

Closed forms: any text on circuits (series resonance, first order networks, phasors).
"""

from __future__ import annotations

import math

import numpy as np
import pytest

from lucidbench.core.analyses import TransientSettings, transient
from lucidbench.core.analyses.settled import settled
from lucidbench.core.readings import Curve, NoReading, time, time_curve
from lucidbench.core.readings.cycles import cycles, steady_part
from tests.core.circuits import circuit

SEEDS = range(100)


def curve(of, end: float, points: int = 2000, driven: tuple[float, ...] = ()) -> Curve:
    return Curve("x", "V", "s", np.linspace(0, end, points + 1), of, driven)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_ring_is_read_from_crest_to_crest(seed: int) -> None:
    random = np.random.default_rng(seed)
    inductance, capacitance = 10 ** random.uniform(-6, 0), 10 ** random.uniform(-11, -5)
    damping, step = 10 ** random.uniform(-2.3, -0.25), random.uniform(-10, 10)
    resistance = 2 * damping * math.sqrt(inductance / capacitance)
    period = 2 * math.pi * math.sqrt(inductance * capacitance / (1 - damping**2))
    parts = circuit(
        f"V1 a 0 PULSE(0 {step!r} 0)",
        f"R1 a b {resistance!r}",
        f"L1 b c {inductance!r}",
        f"C1 c 0 {capacitance!r}",
    )
    run = transient(parts, TransientSettings(random.uniform(2.2, 12) * period))
    for name in ("V_c", "I_L1"):
        assert time.period(time_curve(run, name)) == pytest.approx(period, rel=5e-4)
    swing = math.exp(-math.pi * damping / math.sqrt(1 - damping**2))
    if damping > 0.03:  # else so many cycles are like one another that it counts as steady
        assert time.overshoot(time_curve(run, "V_c")) == pytest.approx(swing, rel=1e-2)


@pytest.mark.parametrize("seed", SEEDS)
def test_what_is_driven_has_the_period_of_its_source_and_means_over_whole_ones(seed: int) -> None:
    random = np.random.default_rng(seed)
    frequency, mean = 10 ** random.uniform(1, 6), random.uniform(-3, 3)
    constant = 10 ** random.uniform(-1.5, -0.3) / frequency  # faded by the end
    shown = random.uniform(8, 30) / frequency
    at, passes_low = 2 * math.pi * frequency * constant, random.random() < 0.5
    first, second = ("R1 a b 1k", "C1 b 0") if passes_low else ("C1 a b", "R1 b 0 1k")
    capacitor = f" {constant / 1e3!r}"
    parts = circuit(
        f"V1 a 0 SIN({mean!r} 2 {frequency!r})",
        first + ("" if passes_low else capacitor),
        second + (capacitor if passes_low else ""),
    )
    told = time_curve(transient(parts, TransientSettings(shown)), "V_b")
    amplitude = 2 / math.hypot(1, at) * (1 if passes_low else at)
    level = mean if passes_low else 0.0
    assert time.period(told) == pytest.approx(1 / frequency, rel=1e-9)
    assert time.mean(told) == pytest.approx(level, abs=2e-3 * amplitude)
    assert time.rms(told) == pytest.approx(math.hypot(level, amplitude / math.sqrt(2)), rel=2e-3)
    assert time.duty(told) == pytest.approx(0.5, abs=3e-3)


@pytest.mark.parametrize("seed", SEEDS)
def test_an_oscillation_is_read_where_it_has_grown(seed: int) -> None:
    random = np.random.default_rng(seed)
    period, grows = 10 ** random.uniform(-6, 0), random.uniform(2, 6)
    third, angle, level = random.uniform(0, 0.5), random.uniform(0, 6), random.uniform(-5, 5)

    def of(t: np.ndarray) -> np.ndarray:
        turn = 2 * np.pi * t / period
        size = np.tanh(1e-3 * np.exp(np.minimum(t / (grows * period), 20)))
        return level * (1 - np.exp(-t / period)) + size * (
            np.sin(turn) + third * np.sin(3 * turn + angle)
        )

    shown = (12 * grows + random.uniform(4, 60)) * period
    told = curve(of, shown, points=int(60 * shown / period))
    assert time.period(told) == pytest.approx(period, rel=1e-5)
    assert time.mean(told) == pytest.approx(level, abs=4e-3)
    assert time.ac_rms(told) == pytest.approx(math.sqrt((1 + third**2) / 2), rel=4e-3)


def test_an_integrator_that_drifts_has_the_period_of_what_drives_it() -> None:
    for offset in (0.0, 0.4):
        parts = circuit(f"I1 0 a SIN({offset}m 1m 1k)", "C1 a 0 1u")
        run = transient(parts, TransientSettings(7.3e-3, from_given=True))
        told = time_curve(run, "V_a")
        assert time.period(told) == pytest.approx(1e-3, rel=1e-9)
        assert cycles(told).is_steady == (offset == 0)


def test_what_goes_faster_or_slower_than_its_source() -> None:
    ripple = curve(lambda t: np.abs(np.sin(100 * np.pi * t)), 0.1, driven=(0.02,))
    assert time.period(ripple) == pytest.approx(0.01, rel=1e-9)
    halved = curve(lambda t: np.sign(np.sin(500 * np.pi * t)), 0.02, driven=(1e-3, 2e-3))
    assert time.period(halved) == pytest.approx(4e-3, rel=1e-9)
    both = curve(lambda t: np.sin(2e3 * np.pi * t) + np.sin(3e3 * np.pi * t), 0.01)
    assert time.period(both) == pytest.approx(2e-3, rel=1e-9)
    # A pulse that has long been over when the next comes, and ends within what is shown.
    late = curve(lambda t: np.exp(-(t % 1e-3) / 5e-5), 6.9e-3, driven=(1e-3,))
    assert time.period(late) == pytest.approx(1e-3, rel=1e-9)


def test_a_settled_circuit_repeats_even_where_one_period_is_shown() -> None:
    told = time_curve(settled(circuit("V1 a 0 SIN(1 2 50)", "R1 a b 1k", "C1 b 0 1u")), "V_b")
    assert time.period(told) == pytest.approx(0.02, rel=1e-12)
    assert time.mean(told) == pytest.approx(1.0, rel=1e-6)


def test_edges_are_timed_between_the_levels_of_a_pulse_and_the_crests_of_a_sine() -> None:
    pulses = circuit("V1 a 0 PULSE(1 5 100u 80u 40u 300u 1m)", "R1 a 0 1k")
    told = time_curve(transient(pulses, TransientSettings(4.2e-3)), "V_a")
    assert time.rise_time(told) == pytest.approx(64e-6, rel=1e-6)
    assert time.fall_time(told) == pytest.approx(32e-6, rel=1e-6)
    assert time.overshoot(told) == pytest.approx(0, abs=1e-9)
    assert time.duty(told) == pytest.approx(0.36, rel=1e-6)
    sine = curve(lambda t: np.sin(2e3 * np.pi * t), 5e-3)
    between = (math.asin(0.8) - math.asin(-0.8)) / (2e3 * math.pi)
    assert time.rise_time(sine) == pytest.approx(between, rel=1e-5)


def test_a_recorded_wave_repeats_within_its_noise() -> None:
    random = np.random.default_rng(1)
    x = np.linspace(0, 5e-3, 2500)
    values = np.sin(2e3 * np.pi * x) + 0.01 * random.normal(size=len(x))
    told = Curve("x", "V", "s", x, lambda t: np.interp(t, x, values))
    assert time.period(told) == pytest.approx(1e-3, rel=3e-4)


@pytest.mark.parametrize(
    "of",
    [lambda t: 1 - np.exp(-t / 1e-3), lambda t: 1.0 * ((t > 1e-3) & (t < 2e-3)), lambda t: 3 * t,
     lambda t: np.sin(800 * np.pi * t**1.5 * 30)],
)  # fmt: skip
def test_what_does_not_repeat_has_no_period(of) -> None:
    told = curve(of, 5e-3, driven=(1e-5,))
    with pytest.raises(NoReading):
        time.period(told)
    assert steady_part(told) is told
