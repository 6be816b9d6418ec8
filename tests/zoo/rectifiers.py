"""Rectifiers with reservoirs, and voltage multipliers."""

from __future__ import annotations

import random

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, family
from tests.zoo.junctions import scale_at


@family
def bridge(r: random.Random) -> Specimen:
    """Four diodes, a reservoir, a winding tied to ground by a resistance; against one equation."""
    peak = r.choice([8.5, 17, 34, 325])
    hertz = r.choice([50, 60, 400])
    load = 10 ** r.uniform(1.5, 4)
    farads = 10 ** r.uniform(-1, 1.5) / (hertz * load)
    bulk = r.choice([0.0, 0.01, 0.1, 1.0])
    source = r.choice([0.0, 0.5, 5.0])
    saturation, n = r.choice([(1e-9, 1.8), (1e-14, 1.0), (4e-9, 1.9)])
    caps = r.choice(["", "", "CJO=20p", "CJO=100p TT=5u"])
    tie = r.choice(["1k", "100k", "1meg"])
    # What the tie takes of the reservoir is left out below.
    exact = 2e-2 if "TT" in caps else 1e-3 + 0.1 * load / {"1k": 1e3, "100k": 1e5, "1meg": 1e6}[tie]
    load, farads = float(f"{load:.4g}"), float(f"{farads:.4g}")
    winding = f"RW s a {source}" if source else "VW s a 0"
    text = (
        f"bridge\nV1 s b SIN(0 {peak} {hertz})\nRT b 0 {tie}\n{winding}\n"
        f"D1 a p m\nD2 b p m\nD3 0 a m\nD4 0 b m\nC1 p 0 {farads}\nRL p 0 {load}\n"
        f".model m D(IS={saturation} N={n} RS={bulk} {caps})\n.tran {1 / hertz / 50:.6g} {10 / hertz:.6g}\n"
    )

    def check(answers: list[Answer]) -> None:
        axis = answers[0].axis
        assert axis is not None
        out = answers[0].traces["V_p"]
        scale = scale_at(27.0, n)

        def current(drive: float) -> float:
            """Through two diodes and the winding, for what is left over the reservoir."""
            if drive <= 0:
                return 0.0
            most = drive / (source + 2 * bulk) if source + 2 * bulk > 0 else 1e6

            def excess(i: float) -> float:
                return 2 * scale * np.log1p(i / saturation) + (source + 2 * bulk) * i - drive

            return float(brentq(excess, 0.0, most + 1e-12, xtol=1e-13, rtol=1e-10))

        def slope(t: float, v: np.ndarray) -> list[float]:
            drive = abs(peak * np.sin(2 * np.pi * hertz * t)) - v[0]
            return [(current(drive) - v[0] / load) / farads]

        if source + 2 * bulk == 0.0 or tie == "1k":
            assert 0.4 * peak - 3.5 < out.max() < peak, "the reservoir does not fill"
            return
        wanted = solve_ivp(
            slope, (0, axis.values[-1]), [0.0], method="LSODA", t_eval=axis.values, rtol=1e-6,
            atol=1e-7 * peak, max_step=2e-3 / hertz,
        ).y[0]  # fmt: skip
        worst = float(np.abs(out - wanted).max())
        assert worst < exact * peak, f"V_p is off by {worst:.3g} V of {peak} V"

    return Specimen(text, check, seconds=2.0)


@family
def multiplier(r: random.Random) -> Specimen:
    """A cascade of n stages: it drops by I/(f·C)·(2n³/3 + n²/2 - n/6) under load.

    Cockcroft and Walton, Proceedings of the Royal Society A 136, 1932; the drop as any high-voltage
    text has it, for an average output of the last stage.
    """
    stages = r.choice([1, 2, 3, 4])
    peak, hertz = r.choice([10, 100, 325]), r.choice([50, 1000, 20e3])
    farads = 10 ** r.uniform(-8, -5)
    model = r.choice(["IS=1e-9 N=1.8 RS=0.1", "IS=1e-9 N=1.8 RS=1 CJO=10p", "IS=1e-14"])
    drop_at_full = 2 * stages * peak * r.choice([0.01, 0.05])
    shape = 2 * stages**3 / 3 + stages**2 / 2 - stages / 6
    current = drop_at_full * hertz * farads / shape
    load = 2 * stages * peak / current
    periods = 15
    lines = ["multiplier", f"V1 a0 0 SIN(0 {peak} {hertz})"]
    for k in range(1, stages + 1):
        low = "0" if k == 1 else f"b{k - 1}"
        high = "a0" if k == 1 else f"a{k - 1}"
        lines += [
            f"CA{k} {high} a{k} {farads:.5g}", f"CB{k} {low} b{k} {farads:.5g}",
            f"DA{k} {low} a{k} m", f"DB{k} a{k} b{k} m",
        ]  # fmt: skip
    lines += [
        f"RL b{stages} 0 {load:.5g}", f".model m D({model})",
        f".tran {1 / hertz / 20:.6g} {periods / hertz:.6g}",
    ]  # fmt: skip

    def check(answers: list[Answer]) -> None:
        out = answers[0].traces[f"V_b{stages}"]
        assert out.max() < 2 * stages * peak, "more than twice the peak from each stage"
        assert np.all(np.isfinite(out)), "not finite"
        if stages == 1:
            assert out[-1] > 2 * (peak - 1.2) - 2.5 * drop_at_full - 0.1 * peak, "too low"

    return Specimen("\n".join(lines) + "\n", check, seconds=2.0)


@family
def half_wave(r: random.Random) -> Specimen:
    """A half-wave rectifier, with or without reservoir, in every form of diode: no note, bounded."""
    peak, hertz = r.choice([5, 17, 325]), r.choice([50, 1000])
    load = 10 ** r.uniform(2, 5)
    reservoir = f"C1 p 0 {10 ** r.uniform(-1, 2) / hertz / load:.4g}" if r.random() < 0.6 else ""
    part = r.choice(
        [
            "D1 a p m",
            "YD1 a p diode form=ideal",
            "YD1 a p diode form=constant_drop forward_voltage=0.7",
        ]
    )
    model = r.choice(["IS=1e-14", "IS=1e-9 N=1.8 RS=0.1 CJO=20p TT=1u BV=400 IBV=10u"])
    text = (
        f"half wave\nV1 a 0 SIN(0 {peak} {hertz})\n{part}\n{reservoir}\nRL p 0 {load:.4g}\n"
        f".model m D({model})\n.tran {1 / hertz / 50:.6g} {10 / hertz:.6g}\n"
    )

    def check(answers: list[Answer]) -> None:
        out = answers[0].traces["V_p"]
        assert 0.97 * peak - 1.5 < out.max() <= peak * (1 + 1e-6), f"its peak is {out.max():.4g} V"
        if reservoir:
            assert out.min() > -1e-3 * peak, "the reservoir is charged backwards"

    return Specimen(text, check, seconds=2.0)
