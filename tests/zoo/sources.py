"""Sources with edges far shorter than the run, and formulas of time."""

from __future__ import annotations

import math
import random

import numpy as np

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, family


def charging(t: np.ndarray, begin: float, tau: float, volts: float) -> np.ndarray:
    return np.where(t > begin, volts * -np.expm1(-np.maximum(t - begin, 0) / tau), 0.0)


@family
def short_edge(r: random.Random) -> Specimen:
    """A step or pulse with an edge from a femtosecond up, at any time up to an hour, into an RC."""
    begin = r.choice([0.2, 1.0, 10.0, 3600.0, 1e-3])
    edge = r.choice([0.0, 1e-15, 1e-12, 1e-9, 1e-8, 1e-6])
    stop = begin * r.choice([1.05, 2.0])
    tau = (stop - begin) * r.choice([1e-4, 1e-2, 0.3])
    width = tau * r.choice([1, 5, 1e9])
    volts = r.uniform(1, 10)
    text = (
        f"short edge\nV1 a 0 PULSE(0 {volts:.5g} {begin} {edge} {edge} {width:.6g})\n"
        f"R1 a b 1k\nC1 b 0 {tau / 1e3:.6g}\n.tran {stop / 500:.6g} {stop:.6g}\n"
    )

    def check(answers: list[Answer]) -> None:
        axis = answers[0].axis
        assert axis is not None
        t = axis.values
        wanted = charging(t, begin + edge / 2, tau, volts)
        wanted -= charging(t, begin + 1.5 * edge + width, tau, volts)
        worst = float(np.abs(answers[0].traces["V_b"] - wanted).max())
        slack = 3e-3 + edge / tau
        assert worst < slack * volts, f"V_b is off by {worst:.3g} V of {volts:.3g} V"

    return Specimen(text, check)


@family
def timed_formula(r: random.Random) -> Specimen:
    """A formula of time that is nothing but for one short pulse late in a long run."""
    stop = r.choice([1.0, 10.0, 100.0])
    width = stop * r.choice([1e-4, 1e-3, 1e-2])
    begin = stop * r.uniform(0.1, 0.8)
    slope = 4 / width
    text = (
        f"timed formula\nB1 a 0 V={{max(0, min(1, {slope:.9g}*(time-{begin:.9g})))"
        f" - max(0, min(1, {slope:.9g}*(time-{begin + width:.9g})))}}\n"
        f"R1 a b 1k\nC1 b 0 {width / 4e3:.6g}\n.tran {width / 10:.6g} {stop:.6g}\n"
    )

    def check(answers: list[Answer]) -> None:
        axis = answers[0].axis
        assert axis is not None
        a, b = answers[0].traces["V_a"], answers[0].traces["V_b"]
        assert abs(a.max() - 1) < 1e-3, f"the pulse reaches {a.max():.3g} V instead of 1 V"
        # Charging by a ramp of width/4 and a rest, tau = width/4.
        peak = 1 - (math.e - 1) * math.exp(-(width / (width / 4)))
        assert abs(b.max() - peak) < 0.02, f"V_b peaks at {b.max():.4g} V instead of {peak:.4g} V"

    return Specimen(text, check)


@family
def many_periods(r: random.Random) -> Specimen:
    """A sine or square through an RC for some thousand periods: bounded and steady."""
    hertz = 10 ** r.uniform(2, 6)
    shape = r.choice(
        [f"SIN(0 1 {hertz:.6g})", f"PULSE(-1 1 0 0 0 {0.5 / hertz:.8g} {1 / hertz:.8g})"]
    )
    corner = 10 ** r.uniform(-1, 1)
    text = (
        f"many periods\nV1 a 0 {shape}\nR1 a b 1k\nC1 b 0 {corner / (2e3 * math.pi * hertz):.6g}\n"
        f".tran {0.05 / hertz:.6g} {2000 / hertz:.6g} {1990 / hertz:.8g}\n"
    )

    def check(answers: list[Answer]) -> None:
        out = answers[0].traces["V_b"]
        if "SIN" in shape:
            wanted = 1 / math.hypot(1, corner)
            assert abs(out.max() - wanted) < 0.02 * wanted, f"its peak is {out.max():.4g}"
        else:
            wanted = math.tanh(math.pi / (2 * corner))
            assert abs(out.max() - wanted) < 0.02 * wanted, f"its peak is {out.max():.4g}"

    return Specimen(text, check)
