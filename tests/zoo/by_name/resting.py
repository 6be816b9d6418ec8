"""Operating points of resistors, sources and amplifiers, and of one device each."""

from __future__ import annotations

import math
from collections.abc import Iterable

from scipy.special import lambertw

from tests.zoo import Specimen
from tests.zoo.by_name.wanted import VT, named, parallel
from tests.zoo.junctions import saturation_at, scale_at


def circuits() -> Iterable[tuple[str, Specimen]]:
    """Operating points."""
    yield "divider", named("V1 a 0 10\nR1 a b 1k\nR2 b 0 3k\n", {"V_b": 7.5, "I_R1": 2.5e-3})
    load = parallel(3e3, 10e3)
    yield (
        "divider, loaded",
        named("V1 a 0 10\nR1 a b 1k\nR2 b 0 3k\nRL b 0 10k\n", {"V_b": 10 * load / (1e3 + load)}),
    )
    source, across = parallel(100, 120), 10 * 120 / 220 - 5  # of the bridge's two halves
    yield (
        "bridge, unbalanced",
        named(
            "V1 a 0 10\nR1 a b 100\nR2 b 0 120\nR3 a c 100\nR4 c 0 100\nR5 b c 1meg\n",
            {"V_b": 10 * 120 / 220 - across * source / (1e6 + source + 50)},
        ),
    )
    rest = parallel(2e3, 1e3 + parallel(2e3, 3e3))
    yield (
        "R-2R ladder, one bit",
        named(
            "V1 a 0 8\nR1 a b 2k\nR2 b c 1k\nR3 c d 1k\nR4 d 0 2k\nR5 c 0 2k\nR6 b 0 2k\n",
            {"V_b": 8 * rest / (2e3 + rest)},
        ),
    )
    yield (
        "current divider",
        named("I1 0 a 6m\nR1 a 0 1k\nR2 a 0 2k\n", {"I_R1": 4e-3, "I_R2": 2e-3}),
    )
    yield (
        "two sources, superposed",
        named(
            "V1 a 0 9\nR1 a b 1k\nI1 0 b 2m\nR2 b 0 2k\n", {"V_b": 6 + 2e-3 * parallel(1e3, 2e3)}
        ),
    )
    yield (
        "a microohm beside a kilovolt",
        named("V1 a 0 1k\nR1 a b 1u\nR2 b 0 123k\n", {"I_R1": 1e3 / 123e3}),
    )
    yield "controlled voltage", named("V1 a 0 2\nR0 a 0 1\nE1 b 0 (a,0) 3\nR1 b 0 1k\n", {"V_b": 6})
    yield "controlled current", named("V1 a 0 2\nR0 a 0 1\nG1 0 b a 0 1m\nR1 b 0 1k\n", {"V_b": 2})
    yield (
        "current mirrored by F",
        named("V1 a 0 2\nR0 a 0 1k\nF1 0 b V1 5\nR1 b 0 1k\n", {"V_b": -10}),
    )
    yield "transresistance", named("V1 a 0 2\nR0 a 0 1k\nH1 b 0 V1 500\nR1 b 0 1k\n", {"V_b": -1})
    yield (
        "a formula senses a resistor's current",
        named("V1 a 0 2\nR0 a 0 1k\nB1 b 0 V={I(R0)*3k}\nR1 b 0 1k\n", {"V_b": 6}),
    )
    yield (
        "a square law resistor fed by a current",
        named("I1 0 a 9m\nB1 a 0 I={1m*V(a)*V(a)}\n", {"V_a": 3}),
    )
    yield (
        "inverting amplifier",
        named("V1 a 0 1\nR1 a n 1k\nR2 n o 4.7k\nY1 0 n o opamp\n", {"V_o": -4.7}),
    )
    yield "follower", named("V1 a 0 1.25\nY1 a o o opamp\nR1 o 0 1k\n", {"V_o": 1.25})
    yield (
        "difference amplifier",
        named(
            "V1 a 0 1\nV2 b 0 3\nR1 a n 1k\nR2 n o 10k\nR3 b p 1k\nR4 p 0 10k\nY1 p n o opamp\n",
            {"V_o": 20},
        ),
    )
    yield (
        "a drifting resistor",
        named("I1 0 a 1m\nR1 a 0 1k TC=0.004\n.temp 77\n", {"V_a": 1.2}),
    )
    # Corless et al., On the Lambert W Function, 1996: i = V_T/R·W(I_S·R/V_T·exp((V + I_S·R)/V_T)) - I_S.
    for ohms in (1e3, 1e5):
        inside = 1e-14 * ohms / VT * math.exp((5 + 1e-14 * ohms) / VT)
        i = VT / ohms * float(lambertw(inside).real) - 1e-14
        yield (
            f"diode behind {ohms:g} Ω",
            named(f"V1 a 0 5\nR1 a b {ohms:g}\nD1 b 0 d\n.model d D(IS=1e-14)\n", {"I_D1": i}),
        )
    for celsius in (-40.0, 27.0, 125.0):
        scale, saturation = scale_at(celsius), saturation_at(1e-14, celsius)
        yield (
            f"a diode's voltage at {celsius:g} °C",
            named(
                f"I1 0 a 1m\nD1 a 0 d\n.model d D(IS=1e-14)\n.temp {celsius:g}\n",
                {"V_a": scale * math.log1p(1e-3 / saturation)},
            ),
        )
    yield (
        "leakage read through the bulk",
        named("V1 a 0 -5\nD1 a 0 d\n.model d D(IS=1e-12 RS=2)\n", {"I_D1": -1e-12 - 5e-18}),
    )
    yield (
        "a Zener at its breakdown current",
        named("I1 0 a -5m\nD1 a 0 z\n.model z D(IS=1e-14 BV=5.1 IBV=5m)\n", {"V_a": -5.1}, 1e-6),
    )
    # Gummel and Poon, 1970: i_C = I_S/q_b·(e_F - e_R) - ..., q_b = q_1/2·(1 + sqrt(1 + 4·q_2)).
    for v_be, v_ce, knee in ((0.65, 5.0, math.inf), (0.72, 5.0, 1e-2), (0.8, 2.0, 1e-2)):
        e_f, e_r = math.expm1(v_be / VT), math.expm1((v_be - v_ce) / VT)
        q_1 = 1 / (1 - (v_be - v_ce) / 75)
        q_b = q_1 / 2 * (1 + math.sqrt(1 + 4 * 1e-14 * e_f / knee))
        shown = "" if math.isinf(knee) else f"IKF={knee}"
        yield (
            f"Gummel-Poon at {v_be} V and {v_ce} V",
            named(
                f"VB b 0 {v_be}\nVC c 0 {v_ce}\nQ1 c b 0 q\n"
                f".model q NPN(IS=1e-14 BF=100 BR=2 VAF=75 {shown})\n",
                {
                    "I_Q1.C": 1e-14 * (e_f - e_r) / q_b - 1e-14 * e_r / 2,
                    "I_Q1.B": 1e-14 * e_f / 100 + 1e-14 * e_r / 2,
                },
            ),
        )  # fmt: skip
    # Shichman and Hodges, 1968, with body effect: V_t = V_T0 + γ·(sqrt(2φ + v_SB) - sqrt(2φ)).
    for v_gs, v_ds, v_sb in ((3.0, 5.0, 0.0), (3.0, 0.5, 0.0), (4.0, 6.0, 2.0), (4.0, 1.0, 2.0)):
        drive = v_gs - (1 + 0.5 * (math.sqrt(0.7 + v_sb) - math.sqrt(0.7)))
        bare = (drive - v_ds / 2) * v_ds if v_ds < drive else drive * drive / 2
        yield (
            f"square law at {v_gs} V, {v_ds} V and {v_sb} V",
            named(
                f"VG g s {v_gs}\nVD d s {v_ds}\nVS s 0 {v_sb}\nM1 d g s 0 m W=20u L=2u\n"
                ".model m NMOS(VTO=1 KP=50u LAMBDA=0.02 GAMMA=0.5 PHI=0.7)\n",
                {"I_M1.D": 50e-6 * 10 * bare * (1 + 0.02 * v_ds)},
            ),
        )
    for v_gs in (0.0, -1.0):
        yield (
            f"a junction gate at {v_gs} V",
            named(
                f"VG g 0 {v_gs}\nVD d 0 8\nJ1 d g 0 j\n.model j NJF(VTO=-2 BETA=1m)\n",
                {"I_J1.D": 1e-3 * (v_gs + 2) ** 2},
                1e-6,
                1e-11,
            ),
        )
