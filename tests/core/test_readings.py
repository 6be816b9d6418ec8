"""Readings of curves over time against closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest

from lucidbench.core import readings
from lucidbench.core.analyses import TransientSettings, transient
from lucidbench.core.analyses.settled import settled
from lucidbench.core.readings import Curve, NoReading, time, time_curve
from tests.core.circuits import circuit


@pytest.fixture(scope="module")
def sines() -> tuple[Curve, Curve]:
    """An RC low-pass at its cutoff, settled: 1 V and 0.707 V, 45° apart."""
    state = settled(
        circuit("V1 a 0 SIN(0.5 1 1k)", "R1 a b 1k", "C1 b 0 159.15494309189535n"), periods=3
    )
    return time_curve(state, "V_a"), time_curve(state, "V_b")


def test_readings_of_a_sine(sines: tuple[Curve, Curve]) -> None:
    # A circuits text: mean, RMS, peaks, period; at its cutoff a low-pass lags 45°, an eighth period.
    source, output = sines
    assert time.mean(source) == pytest.approx(0.5, abs=1e-6)
    assert time.rms(source) == pytest.approx(math.sqrt(0.25 + 0.5), rel=1e-5)
    assert time.peak_to_peak(output) == pytest.approx(math.sqrt(2), rel=1e-5)
    assert time.midpoint(output) == pytest.approx(0.5, abs=1e-5)
    assert time.period(source) == pytest.approx(1e-3, rel=1e-6)
    assert time.frequency(output) == pytest.approx(1e3, rel=1e-5)
    assert time.duty(source) == pytest.approx(0.5, abs=1e-5)
    assert time.time_shift(source, output) == pytest.approx(1e-3 / 8, rel=1e-4)
    assert time.phase(source, output) == pytest.approx(-45, abs=0.01)
    start = source.grid[0]
    assert time.derivative(source, start + 1e-3) == pytest.approx(2e3 * math.pi, rel=1e-3)
    half = source.part(start, start + 0.5e-3)
    assert time.integral(half) == pytest.approx(0.5 * 0.5e-3 + 1e-3 / math.pi, rel=1e-5)
    for reading, unit in (
        (time.rms, "V"), (time.period, "s"), (time.frequency, "Hz"), (time.duty, ""), (time.integral, "V·s")
    ):  # fmt: skip
        assert reading(source).unit == unit
    assert time.derivative(source, start).unit == "V·s⁻¹"
    assert time.phase(source, output).echo == "−45\u00a0°"
    ups = time.crossings(source, 1.0, 1)
    assert len(ups) == 3
    assert (ups[0] - start) % 1e-3 == pytest.approx(1e-3 / 12, rel=1e-4)
    assert len(time.crossings(source, 1.0)) == 6


def test_a_jump_is_a_jump() -> None:
    # Behind a step of 3.3 V a capacitor takes V/R at once and then fades: any circuits text.
    parts = circuit("V1 a 0 PULSE(0 3.3 100u)", "R1 a b 10k", "C1 b 0 10n")
    run = transient(parts, TransientSettings(1e-3))
    current, step = time_curve(run, "I_R1"), time_curve(run, "V_a")
    assert time.maximum(current) == pytest.approx(330e-6, rel=1e-4)
    assert time.extreme(current, 1)[0] == pytest.approx(100e-6, rel=1e-4)
    # Drawn upright: no two neighbouring points lie apart in time and on either side of it.
    (edge,) = np.flatnonzero(np.diff(step.values) > 1)
    assert np.diff(step.grid)[edge] < 1e-6 * 100e-6


def test_readings_of_a_step() -> None:
    # First order: rise 10 % to 90 % in RC·ln 9, within 2 % after RC·ln 50. Second order: overshoot
    # exp(-πζ/sqrt(1 - ζ²)). Any text on control or pulses.
    rc = time_curve(
        transient(
            circuit("V1 a 0 PULSE(0 2 0)", "R1 a b 1k", "C1 b 0 1u"), TransientSettings(20e-3)
        ),
        "V_b",
    )
    assert time.rise_time(rc, 0, 2) == pytest.approx(1e-3 * math.log(9), rel=1e-4)
    assert time.settling_time(rc, first=0, last=2) == pytest.approx(1e-3 * math.log(50), rel=1e-4)
    assert time.overshoot(rc, 0, 2) == 0
    assert time.value(rc, 1e-3) == pytest.approx(2 * (1 - math.exp(-1)), rel=1e-4)
    rlc = time_curve(
        transient(
            circuit("V1 a 0 PULSE(0 1 0)", "R1 a b 100", "L1 b c 10m", "C1 c 0 100n"),
            TransientSettings(5e-3),
        ),
        "V_c",
    )
    zeta = 50 * math.sqrt(100e-9 / 10e-3)
    swing = math.exp(-math.pi * zeta / math.sqrt(1 - zeta**2))
    assert time.overshoot(rlc, 0, 1) == pytest.approx(swing, rel=1e-5)
    when, _ = time.extreme(rlc, 1)
    assert when == pytest.approx(math.pi * math.sqrt(1e-9) / math.sqrt(1 - zeta**2), rel=1e-4)
    fall = time_curve(
        transient(
            circuit("V1 a 0 PULSE(2 0 0)", "R1 a b 1k", "C1 b 0 1u"), TransientSettings(20e-3)
        ),
        "V_b",
    )
    assert time.fall_time(fall, 2, 0) == pytest.approx(1e-3 * math.log(9), rel=1e-4)


def test_what_cannot_be_read_is_said(sines: tuple[Curve, Curve]) -> None:
    flat = time_curve(
        transient(circuit("V1 a 0 1", "R1 a b 1k", "C1 b 0 1u"), TransientSettings(1e-3)), "V_b"
    )
    for attempt in (
        lambda: time.period(flat),
        lambda: time.duty(flat),
        lambda: time.rise_time(flat),
        lambda: time.overshoot(flat),
        lambda: time.value(flat, 5.0),
        lambda: flat.part(2.0, 1.0),
        lambda: time.time_shift(sines[0], flat),
    ):
        with pytest.raises(NoReading):
            attempt()
    assert np.all(flat.values == pytest.approx(1))
    assert readings.kind_of("I_Q1.C") == ("current", "Q1.C", readings.kind_of("I_R1")[2])  # type: ignore[index]
