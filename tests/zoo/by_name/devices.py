"""Junctions and transistors at rest, each against its own law written out here."""

from __future__ import annotations

import math
from collections.abc import Iterable

from scipy.optimize import brentq
from scipy.special import lambertw

from tests.zoo import Specimen
from tests.zoo.by_name.wanted import VT, Wanted, named
from tests.zoo.junctions import junction_current, saturation_at, scale_at, solved_divider

NPN = ".model q NPN(IS=1e-15 BF={beta} BR=2)\n"


def circuits() -> Iterable[tuple[str, Specimen]]:
    yield from zeners()
    yield from strings()
    yield from bipolar()
    yield from field_effect()


def zeners() -> Iterable[tuple[str, Specimen]]:
    """Behind 1 kΩ, swept from zero to 1.5 of their breakdown voltage and read at three places."""
    for bv in (2.0, 5.1, 12.0, 75.0, 400.0, 1000.0):
        for celsius in (-40.0, 27.0, 125.0):
            warm, scale = saturation_at(1e-12, celsius), scale_at(celsius)
            wanted: Wanted = {}
            for share in (0.1, 0.5, 1.5):
                volts = -share * bv

                def law(
                    u: float, bv: float = bv, warm: float = warm, scale: float = scale
                ) -> float:
                    return junction_current(u, warm, scale, bv, 1e-3)

                wanted["V_k", volts] = solved_divider(volts, 1e3, 0.0, law)[1]
            yield (
                f"Zener of {bv:g} V at {celsius:g} °C",
                named(
                    f"V1 a 0 0\nR1 a k 1k\nD1 k 0 z\n.model z D(IS=1e-12 BV={bv} IBV=1m)\n"
                    f".temp {celsius:g}\n.dc V1 0 {-1.5 * bv:.12g} {-0.05 * bv:.12g}\n",
                    wanted, 1e-6, 1e-8,
                ),
            )  # fmt: skip
    for load in (100.0, 1e3, 1e5):  # 5.1 V at 5 mA; the current of the rest runs into the load

        def left(u: float, load: float = load) -> float:
            return (12 - u) / 470 - u / load - 5e-3 * math.exp(min((u - 5.1) / VT, 200.0))

        yield (
            f"regulator loaded by {load:g} Ω",
            named(
                f"V1 a 0 12\nR1 a k 470\nD1 0 k z\nRL k 0 {load:g}\n"
                ".model z D(IS=1e-14 BV=5.1 IBV=5m)\n.op\n",
                {"V_k": brentq(left, 0, 12, xtol=1e-14)}, 1e-8,
            ),
        )  # fmt: skip


def strings() -> Iterable[tuple[str, Specimen]]:
    """Equal junctions the wrong way round share the voltage equally, by symmetry."""
    for count in (2, 3, 5, 10, 30):
        for what, model in (
            ("lamps", "IS=1e-18 N=2 RS=2"),
            ("rectifiers", "IS=4n N=1.9 RS=0.6 CJO=5p"),
        ):
            lines = ["V1 n0 0 -12", "R1 n0 n1 330"]
            lines += [
                f"D{k} n{k} {'0' if k == count else f'n{k + 1}'} m" for k in range(1, count + 1)
            ]
            middle = (count + 2) // 2
            yield (
                f"{count} {what} the wrong way round",
                named(
                    "\n".join(lines) + f"\n.model m D({model})\n.op\n",
                    {f"V_n{k}": -12 * (count + 1 - k) / count for k in (1, middle, count)}, 1e-4,
                ),
            )  # fmt: skip
    for volts in (-1.0, -5.0, -48.0):  # in a transient too
        yield (
            f"two lamps at {volts:g} V, in time",
            named(
                f"V1 a 0 PULSE(0 {volts:g} 1u 1u 1u 1 2)\nR1 a b 47\nD1 b c m\nD2 c 0 m\n"
                ".model m D(IS=1e-18 N=2 RS=2 CJO=5p)\n.tran 20u 2m\n",
                {("V_c", 2e-3): volts / 2}, 1e-3,
            ),
        )  # fmt: skip


def bipolar() -> Iterable[tuple[str, Specimen]]:
    # Ebers and Moll, 1954: V_CE = V_T·ln((1/α_R + (i_C/i_B)/β_R) / (1 - (i_C/i_B)/β_F)) when saturated.
    for forced in (1.0, 10.0, 50.0):
        reverse = (3 / 2 + forced / 2) / (1 - forced / 100)
        yield (
            f"saturated, collector current {forced:g} times the base's",
            named(
                f"IB 0 b 100u\nIC 0 c {forced * 100}u\nQ1 c b 0 q\n{NPN.format(beta=100)}",
                {"V_c": VT * math.log(reverse)}, 1e-6,
            ),
        )  # fmt: skip
    # Gray, Hurst, Lewis and Meyer, 4th ed., 2001, section 4.2: I_out = I_in/(1 + 2/β); with a buffer
    # transistor 2/(β·(β + 1)) instead; section 3.5: a pair's difference is α·I·tanh(V/2V_T).
    for beta in (20.0, 100.0, 400.0):
        yield (
            f"mirror of two, β = {beta:g}",
            named(
                f"I1 0 a 1m\nQ1 a a 0 q\nQ2 c a 0 q\nVC c 0 {VT * 20}\n{NPN.format(beta=beta)}",
                {"I_Q2.C": 1e-3 / (1 + 2 / beta)}, 1e-6,
            ),
        )  # fmt: skip
        yield (
            f"mirror with a buffer, β = {beta:g}",
            named(
                "I1 0 a 1m\nQ1 a b 0 q\nQ2 c b 0 q\nQ3 d a b q\nVC c 0 2\nVD d 0 5\n"
                f"{NPN.format(beta=beta)}",
                {"I_Q2.C": 1e-3 / (1 + 2 / (beta * (beta + 1)))}, 1e-6,
            ),
        )  # fmt: skip
    for millivolts in (0.0, 10.0, 60.0, -200.0):
        share = 0.5 * (1 + math.tanh(millivolts * 1e-3 / (2 * VT)))
        yield (
            f"a pair driven by {millivolts:g} mV",
            named(
                f"VB b1 0 {millivolts}m\nV2 b2 0 0\nQ1 c1 b1 e q\nQ2 c2 b2 e q\nVC1 c1 0 5\nVC2 c2 0 5\n"
                f"I1 e 0 1m\n{NPN.format(beta=100)}",
                {"I_Q1.C": 100 / 101 * 1e-3 * share}, 1e-6,
            ),
        )  # fmt: skip
    # The same text, section 4.4: I_out·R = V_T·ln(I_in/I_out), for large β.
    for ohms in (1e3, 10e3):
        out = VT / ohms * float(lambertw(1e-3 * ohms / VT).real)
        yield (
            f"a small current by {ohms:g} Ω in the emitter",
            named(
                f"I1 0 a 1m\nQ1 a a 0 q\nQ2 c a e q\nRE e 0 {ohms}\nVC c 0 5\n{NPN.format(beta='1e9')}",
                {"I_Q2.C": out}, 1e-6,
            ),
        )  # fmt: skip
    for form in (
        "",
        "RB=100 RC=10 RE=1",
    ):  # the same voltages, with the resistances' drops in the equation
        rb, re = (100.0, 1.0) if form else (0.0, 0.0)

        def left(i_b: float, rb: float = rb, re: float = re) -> float:
            v_be = VT * math.log1p(i_b * 100 / 1e-15)
            return 5 - i_b * (100e3 + rb) - v_be - 101 * i_b * re

        i_b = brentq(left, 1e-9, 1e-3, xtol=1e-18)
        yield (
            f"base current by 100 kΩ{', with resistances' if form else ''}",
            named(
                f"V1 p 0 5\nRB1 p b 100k\nRC1 p c 100\nQ1 c b 0 q\n"
                f".model q NPN(IS=1e-15 BF=100 BR=2 {form})\n",
                {"V_c": 5 - 100 * 100 * i_b}, 1e-6,
            ),
        )  # fmt: skip
    for down in (0.2, 3.5):
        # A gate's output, high: its upper transistor follows, and the lower ones leak nothing worth it.
        def beyond(i: float) -> float:
            two = VT * math.log1p(i * 50 / 1e-15) + VT * math.log1p(51 * i / 1e-15)
            return 5 - 1600 * i - two - 51 * i * 1e3

        i_b = brentq(beyond, 1e-12, 1e-2, xtol=1e-18)
        out = 51 * i_b * 1e3
        yield (
            f"a gate's output behind its diode, its lower side off at {down:g} V",
            named(
                f"V1 p 0 5\nR2 p b 1.6k\nR4 p c 130\nQ4 c b e q\nD1 e o d\nRL o 0 1k\nV2 x 0 {down}\n"
                "Q3 x y 0 q\nRY y 0 1k\n.model q NPN(IS=1e-15 BF=50 BR=0.1)\n.model d D(IS=1e-15)\n",
                {"V_o": out}, 1e-5,
            ),
        )  # fmt: skip


def field_effect() -> Iterable[tuple[str, Specimen]]:
    """Shichman and Hodges, 1968: i = K/2·(v_GS - V_t)² where it is saturated."""
    model = ".model n NMOS(VTO=1 KP=200u)\n.model p PMOS(VTO=-1 KP=200u)\n"
    factor = 200e-6 * 10
    for micro in (10.0, 1000.0):
        yield (
            f"its own gate's voltage at {micro:g} µA",
            named(
                f"I1 0 a {micro}u\nM1 a a 0 0 n W=10u L=1u\n{model}",
                {"V_a": 1 + math.sqrt(2 * micro * 1e-6 / factor)}, 1e-6,
            ),
        )  # fmt: skip
    yield (
        "a mirror of one to four",
        named(
            f"I1 0 a 50u\nM1 a a 0 0 n W=10u L=1u\nM2 c a 0 0 n W=40u L=1u\nVC c 0 3\n{model}",
            {"I_M2.D": 200e-6}, 1e-6,
        ),
    )  # fmt: skip
    for volts, out in ((0.5, 5.0), (4.5, 0.0), (2.0, None), (3.0, None)):
        # Two of a kind: where the n-channel one is saturated the p-channel one is not, and the reverse.
        if out is None:
            n_drive, p_drive = volts - 1, 4 - volts
            small, large = min(n_drive, p_drive), max(n_drive, p_drive)
            across = large - math.sqrt(large * large - small * small)
            out = 5 - across if p_drive > n_drive else across
        yield (
            f"an inverter given {volts:g} V",
            named(
                f"VDD p 0 5\nVIN a 0 {volts}\nMP o a p p p W=10u L=1u\nMN o a 0 0 n W=10u L=1u\n{model}",
                {"V_o": out}, 1e-6, 1e-6,
            ),
        )  # fmt: skip
    for ohms in (1e3, 10e3):
        # A follower: K/2·(5 - 1 - v)² = v/R.
        v = brentq(lambda v, ohms=ohms: factor / 2 * (4 - v) ** 2 - v / ohms, 0, 4, xtol=1e-14)
        yield (
            f"a follower on {ohms:g} Ω, its body at its source",
            named(f"VDD p 0 9\nVG g 0 5\nM1 p g s s n W=10u L=1u\nR1 s 0 {ohms}\n{model}", {"V_s": v}, 1e-6),
        )  # fmt: skip
    for ohms in (500.0, 2e3):
        # A junction gate biased by its source's resistor: β·(2 - i·R)² = i.
        i = brentq(lambda i, ohms=ohms: 1e-3 * (2 - i * ohms) ** 2 - i, 0, 2 / ohms, xtol=1e-18)
        yield (
            f"a junction gate biased by {ohms:g} Ω",
            named(
                f"VDD p 0 15\nRD p d 1k\nJ1 d 0 s j\nRS s 0 {ohms}\n.model j NJF(VTO=-2 BETA=1m IS=1e-18)\n",
                {"V_d": 15 - 1e3 * i}, 1e-6,
            ),
        )  # fmt: skip
