"""Junctions: breakdown, reverse-biased strings, transistors that are cut off."""

from __future__ import annotations

import math
import random

import numpy as np
from scipy.optimize import brentq

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, family, within

BOLTZMANN_PER_CHARGE = 1.380649e-23 / 1.602176634e-19  # [V/K], CODATA 2018


def scale_at(celsius: float, emission: float = 1.0) -> float:
    """n·kT/q [V]."""
    return emission * BOLTZMANN_PER_CHARGE * (celsius + 273.15)


def saturation_at(nominal: float, celsius: float, emission: float = 1.0) -> float:
    """Of silicon (1.11 eV, exponent 3), stated at 27 °C [A]: Sze and Ng, 3rd ed., 2007, section 2.3."""
    ratio = (celsius + 273.15) / 300.15
    return (
        nominal
        * ratio ** (3 / emission)
        * math.exp((ratio - 1) * 1.11 / scale_at(celsius, emission))
    )


def junction_current(u: float, saturation: float, scale: float, bv: float, ibv: float) -> float:
    """Of an exponential junction with an exponential breakdown [A]."""
    forward = saturation * math.expm1(min(u / scale, 200.0))
    return forward - ibv * math.exp(min(-(u + bv) / scale, 200.0)) + 1e-18 * u


def solved_divider(volts: float, ohms: float, bulk: float, law) -> tuple[float, float]:
    """(current, voltage across the diode) of a source, a resistance and a diode."""

    def excess(u: float) -> float:
        return u + (ohms + bulk) * law(u) - volts

    span = abs(volts) + 2.0
    u = brentq(excess, -span, span, xtol=1e-15, rtol=8.9e-16, maxiter=500)
    i = law(u)
    if abs(u - volts) > 1e-6 * abs(volts):
        i = (volts - u) / (ohms + bulk)
    return i, volts - ohms * i


@family
def breakdown(r: random.Random) -> Specimen:
    """A Zener or rectifier behind a resistor at any voltage: a point, a sweep, a slow sine."""
    bv = 10 ** r.uniform(math.log10(2), 3)
    ibv = 10 ** r.uniform(-6, -2)
    saturation, n = 10 ** r.uniform(-15, -8), r.choice([1.0, 1.0, 1.7, 2.0])
    celsius = r.choice([-40.0, 0.0, 27.0, 27.0, 85.0, 125.0])
    ohms = 10 ** r.uniform(1, 5)
    bulk = r.choice([0.0, 0.5, 5.0, 30.0])
    stored = r.choice(
        ["", f"CJO={10 ** r.uniform(-12, -9.3):.3g} TT={10 ** r.uniform(-9, -5.5):.3g}"]
    )
    model = f"IS={saturation:.4g} N={n} BV={bv:.5g} IBV={ibv:.4g} RS={bulk} {stored}"
    saturation, bv, ibv = (
        float(f"{v:{f}}") for v, f in ((saturation, ".4g"), (bv, ".5g"), (ibv, ".4g"))
    )
    ohms = float(f"{ohms:.4g}")
    highest = bv * r.choice([0.3, 0.9, 1.2, 2.0])
    volts = -highest * r.choice([0.01, 0.1, 0.5, 0.9, 1.0])
    scale, warm = scale_at(celsius, n), saturation_at(saturation, celsius, n)

    def law(u: float) -> float:
        return junction_current(u, warm, scale, bv, ibv)

    kind = r.choice(["op", "dc", "tran"])
    wave = f"SIN(0 {highest:.6g} 50)" if kind == "tran" else ""
    asked = {
        "op": ".op",
        "dc": f".dc V1 {-highest:.6g} {r.choice([0.0, 2.0]):g} {highest / 37:.6g}",
        "tran": ".tran 0.1m 40m",
    }[kind]
    text = (
        f"breakdown\nV1 a 0 {volts:.6g} {wave}\nR1 a k {ohms:.4g}\nD1 k 0 m\n"
        f".model m D({model})\n.temp {celsius:g}\n{asked}\n"
    )

    def check(answers: list[Answer]) -> None:
        told = answers[0]
        if kind == "op":
            given, found = [float(f"{volts:.6g}")], [told.values["V_k"]]
        elif kind == "dc":
            assert told.axis is not None
            given, found = told.axis.values, told.traces["V_k"]
        else:
            if stored:  # it is somewhere between what its resistors and its charges make of it
                assert np.abs(told.traces["V_k"]).max() <= highest * 1.001 + 1, "voltage too large"
                return
            given, found = told.traces["V_a"][::7], told.traces["V_k"][::7]
        for volts_in, volts_out in zip(given, found, strict=True):
            _, wanted = solved_divider(float(volts_in), ohms, bulk, law)
            least = 1e-9 if kind != "tran" else 2e-5 * highest
            within(volts_out, wanted, 1e-6, least + 1e-10 * highest, f"V_k at {volts_in:.5g} V")

    return Specimen(text, check)


@family
def regulator(r: random.Random) -> Specimen:
    """A Zener regulator with its load, swept from zero and pulsed."""
    bv = r.choice([2.4, 3.3, 5.1, 6.8, 12, 24, 75])
    ohms, load = 10 ** r.uniform(1.5, 3.5), 10 ** r.uniform(2, 5)
    top = round(bv * r.uniform(1.3, 3), 2)
    bulk = r.choice([0, 1, 8])
    caps = r.choice(["", "CJO=100p TT=10n"])
    text = (
        f"regulator\nV1 in 0 0 PULSE(0 {top:.6g} 1u 1u 1u 20u 50u)\nR1 in out {ohms:.4g}\n"
        f"D1 0 out z\nRL out 0 {load:.4g}\n.model z D(IS=1e-14 BV={bv} IBV=5m RS={bulk} {caps})\n"
        f".dc V1 0 {top:.6g} {top / 40:.12g}\n.tran 0.1u 100u\n"
    )

    def check(answers: list[Answer]) -> None:
        out = answers[0].traces["V_out"]
        assert np.all(np.diff(out) > -1e-9), "the output falls as the input rises"
        free = top * load / (ohms + load)
        expected = min(free, bv + 0.026 * math.log(max((top - bv) / ohms / 5e-3, 1e-9)) + 0.2)
        assert out[-1] <= expected + bulk * (top - bv) / ohms + 0.2, "the output is not held"
        assert abs(answers[1].traces["V_out"].max() - out[-1]) < 0.02 * abs(out[-1]) + 0.05, (
            "run and sweep differ"
        )

    return Specimen(text, check)


@family
def reverse_string(r: random.Random) -> Specimen:
    """Equal diodes in series the wrong way round share the voltage equally."""
    count = r.choice([2, 2, 3, 5, 10, 30])
    model = r.choice(
        [
            "IS=1e-18 N=2 RS=2",
            "IS=1e-24 N=2.2 RS=5",
            "IS=1e-14",
            "IS=4n N=1.9 RS=0.6",
            "IS=1e-14 RS=0.01",
        ]
    )
    if r.random() < 0.4:
        model += " CJO=5p TT=2n"
    volts = r.choice([1, 5, 12, 48, 230])
    ohms = r.choice([1, 47, 330, 10e3])
    moving = r.random() < 0.5
    wave = f"PULSE(0 {-volts} 1u 1u 1u 1 2)" if moving and "CJO" in model else ""
    if moving and not wave:
        wave = f"SIN({-volts} {0.2 * volts} 1k)"
    lines = [f"reverse string\nV1 n0 0 {-volts} {wave}\nR1 n0 n1 {ohms}"]
    lines += [f"D{k} n{k} {'0' if k == count else f'n{k + 1}'} m" for k in range(1, count + 1)]
    asked = ".op" + ("\n.tran 20u 2m" if moving else "")
    text = "\n".join(lines) + f"\n.model m D({model})\n{asked}\n"

    def check(answers: list[Answer]) -> None:
        for k in range(1, count + 1):
            share = -volts * (count + 1 - k) / count
            within(answers[0].values[f"V_n{k}"], share, 1e-4, 1e-9, f"V_n{k}")
            if moving:
                trace = answers[1].traces
                within(trace[f"V_n{k}"][-1], trace["V_n0"][-1] * (count + 1 - k) / count, 2e-3, 1e-6,
                       f"V_n{k} at the end")  # fmt: skip

    return Specimen(text, check)


@family
def output_stage(r: random.Random) -> Specimen:
    """The totem-pole output of a gate: low, with its upper transistor cut off against a diode."""
    supply = r.uniform(4.5, 5.5)
    resistances = r.choice(["", "RB=20 RC=4 RE=0.5"])
    driven = r.choice([0.1, supply - 1.5])
    load = 10 ** r.uniform(2.7, 5)
    text = (
        f"output stage\nVCC vcc 0 {supply:.4g}\nVIN in 0 {driven:.4g}\n"
        f"R1 vcc b1 4k\nQ1 b2 b1 in q\nQ2 c2 b2 e2 q\nR2 vcc c2 1.6k\nR3 e2 0 1k\n"
        f"R4 vcc c4 130\nQ4 c4 c2 e4 q\nD1 e4 out d\nQ3 out e2 0 q\nRL out 0 {load:.4g}\n"
        f".model q NPN(BF={r.choice([20, 50, 100])} BR=0.1 IS=1e-15 {resistances} CJE=1p CJC=0.5p TF=0.1n)\n"
        f".model d D(IS=1e-15 RS={r.choice([0, 10])})\n.op\n.tran 1n 50n\n"
    )

    def check(answers: list[Answer]) -> None:
        out = answers[0].values["V_out"]
        if driven > 1:
            assert 0 <= out < 0.3, f"low is {out:.4g} V"
        else:
            assert supply - 2.4 < out < supply - 0.9, f"high is {out:.4g} V"
        within(answers[1].traces["V_out"][-1], out, 1e-3, 1e-3, "V_out at the end")

    return Specimen(text, check)


@family
def bridge_at_rest(r: random.Random) -> Specimen:
    """A bridge whose winding is tied to ground by a large resistance, nothing driven."""
    tie = r.choice(["1k", "1meg", "100meg"])
    model = r.choice(["IS=1e-9 N=1.8 RS=0.05", "IS=1e-14 RS=10m CJO=20p", "IS=1e-14"])
    charge = r.choice([0.0, 12.0])
    text = (
        f"bridge at rest\nV1 a b SIN(0 0 50)\nRT b 0 {tie}\nD1 a p m\nD2 b p m\nD3 0 a m\nD4 0 b m\n"
        f"C1 p 0 100u IC={charge}\nRL p 0 1k\n.model m D({model})\n.op\n.tran 1m 100m uic\n"
    )

    def check(answers: list[Answer]) -> None:
        within(answers[0].values["V_p"], 0.0, 0, 1e-9, "V_p at rest")
        wanted = charge * math.exp(-1.0)
        within(answers[1].traces["V_p"][-1], wanted, 1e-3, 1e-6, "V_p after one time constant")

    return Specimen(text, check)


@family
def amplifier_of_many(r: random.Random) -> Specimen:
    """A two-stage op-amp of some twenty transistors, as a follower."""
    supply = r.choice([5, 12, 15])
    volts = r.uniform(-0.4, 0.4) * supply
    beta_n, beta_p = r.uniform(80, 300), r.uniform(30, 120)
    bulk = r.choice(["", "RB=100 RC=20 RE=1"])
    early = r.choice(["", "VAF=100"])
    ohms = (2 * supply - 1.4) / 10 ** r.uniform(-4.3, -3.5)
    text = f"""op-amp of transistors
VP vp 0 {supply}
VN vn 0 {-supply}
VI inp 0 {volts:.5g}
RF out inn 1
RREF vp ref {ohms:.5g}
Q1 ref ref vn n
Q2 tail ref vn n
Q3 c1 inn tail n
Q4 c2 inp tail n
Q5 c1 c1 vp p
Q6 c2 c1 vp p
Q7 e7 ref vn n
Q8 d9 o1 out n
Q9 d9 c2 vp p
Q10 d9b ref vn n
Q11 d9 d9 m1 n
Q12 d9b d9b m1 p
Q13 vp d9 o1 n
Q14 vn d9b o2 p
RO1 o1 out 22
RO2 out o2 22
Q15 e7 e7 vp p
Q16 s16 e7 vp p
RS16 s16 0 10k
Q17 s17 ref vn n
RS17 s17 0 10k
Q18 s18 s16 0 n
RS18 vp s18 47k
Q19 s19 s18 0 n
RS19 vp s19 47k
Q20 vp s19 e20 n
RE20 e20 vn 33k
CC d9 c2 30p
RL out 0 10k
.model n NPN(IS=1e-15 BF={beta_n:.4g} {bulk} {early})
.model p PNP(IS=1e-15 BF={beta_p:.4g} {bulk} {early})
.op
"""

    def check(answers: list[Answer]) -> None:
        within(answers[0].values["V_out"], volts, 0, 0.15, "V_out")
        total = sum(v for name, v in answers[0].values.items() if name.startswith("P_"))
        assert abs(total) < 1e-6, f"powers sum to {total:.3g} W"

    return Specimen(text, check)
