"""Transients, against closed forms."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from tests.zoo import Specimen
from tests.zoo.by_name.wanted import named


def circuits() -> Iterable[tuple[str, Specimen]]:
    """Transients."""
    yield (
        "RC charging",
        named(
            "V1 a 0 PULSE(0 1 0)\nR1 a b 1k\nC1 b 0 1u\n.tran 10u 3m\n",
            {("V_b", 1e-3): 1 - math.exp(-1), ("V_b", 3e-3): 1 - math.exp(-3)}, 1e-5,
        ),
    )  # fmt: skip
    yield (
        "RL charging",
        named(
            "V1 a 0 PULSE(0 1 0)\nR1 a b 10\nL1 b 0 10m\n.tran 10u 3m\n",
            {("I_L1", 1e-3): 0.1 * (1 - math.exp(-1)), ("V_b", 2e-3): math.exp(-2)}, 1e-5,
        ),
    )  # fmt: skip
    for ohms, word in ((20.0, "rings"), (200.0, "is critically damped"), (1000.0, "creeps")):
        alpha, omega = ohms / (2 * 1e-3), 1e5
        t = 30e-6
        root = complex(alpha * alpha - omega * omega) ** 0.5
        if abs(root) < 1e-3:
            v = 1 - math.exp(-alpha * t) * (1 + alpha * t)
        else:
            s1, s2 = -alpha + root, -alpha - root
            v = (1 + (s2 * np.exp(s1 * t) - s1 * np.exp(s2 * t)) / (s1 - s2)).real
        yield (
            f"series RLC that {word}",
            named(
                f"V1 a 0 PULSE(0 1 0)\nR1 a b {ohms}\nL1 b c 1m\nC1 c 0 100n\n.tran 1u 60u\n",
                {("V_c", t): float(v)}, 1e-5,
            ),
        )  # fmt: skip
    yield (
        "lossless LC, ten periods on",
        named(
            "C1 a 0 1u IC=1\nL1 a 0 1m\n.tran 1u 1.98692m uic\n",
            {("V_a", 1.986918e-3): math.cos(1.986918e-3 / math.sqrt(1e-9))}, 1e-4, 1e-4,
        ),
    )  # fmt: skip
    yield (
        "integrator of a constant",
        named(
            "V1 a 0 PULSE(0 1 0)\nR1 a n 10k\nC1 n o 10n\nY1 0 n o opamp\n.tran 10u 1m uic\n",
            {("V_o", 0.5e-3): -5.0}, 1e-5,
        ),
    )  # fmt: skip
    yield (
        "a sine through RC, settled by its start",
        named(
            "V1 a 0 SIN(0 1 1k)\nR1 a b 1k\nC1 b 0 159.154943n\n.tran 5u 20m 19m\n",
            {("V_b", 20e-3): math.sin(-math.pi / 4) / math.sqrt(2)}, 1e-4,
        ),
    )  # fmt: skip
    yield (
        "coupled coils, secondary open",
        named(
            "V1 a 0 SIN(0 1 1k)\nR1 a b 1m\nL1 b 0 10m\nL2 c 0 40m\nK1 L1 L2 0.5\nR2 c 0 1g\n"
            ".tran 5u 1m\n",
            {("V_c", 0.25e-3): 1.0}, 1e-3,
        ),
    )  # fmt: skip
    # An RL circuit cut off through a clamp: i = (I + V/R)·exp(-t/τ) - V/R (any circuits text).
    yield (
        "a relay's coil through its clamp",
        named(
            "V1 p 0 12\nL1 p x 0.1 RSER=100\nYD1 x p diode form=constant_drop forward_voltage=0.7\n"
            "YS1 x 0 timed_switch opens_at=10m\n.tran 10u 12m\n",
            {("I_L1", 11e-3): (0.12 + 0.007) * math.exp(-1) - 0.007}, 1e-3,
        ),
    )  # fmt: skip
    # Cockcroft and Walton, 1932; the drop of a cascade of n stages, as any high-voltage text has it:
    # I/(f·C)·(2n³/3 + n²/2 - n/6), about, of the average.
    for stages in (1, 2):
        cascade = ["V1 a0 0 SIN(0 100 1k)"]
        for k in range(1, stages + 1):
            low, high = ("0" if k == 1 else f"b{k - 1}"), f"a{k - 1}"
            cascade += [
                f"CA{k} {high} a{k} 10u", f"CB{k} {low} b{k} 10u",
                f"YDA{k} {low} a{k} diode form=ideal", f"YDB{k} a{k} b{k} diode form=ideal",
            ]  # fmt: skip
        load = 200 * stages / 10e-3
        drop = 10e-3 / (1e3 * 10e-6) * (2 * stages**3 / 3 + stages**2 / 2 - stages / 6)
        yield (
            f"a cascade of {stages} under load",
            named(
                "\n".join([*cascade, f"RL b{stages} 0 {load}", ".tran 1m 0.2"]) + "\n",
                {(f"V_b{stages}", 0.2): 200 * stages - drop}, 0.02,
            ),
        )  # fmt: skip
    yield from edges()
    yield from rectified()
    for one, other, first in ((1e-6, 1e-6, 10.0), (1e-6, 3e-6, 8.0)):
        yield (
            f"two capacitors joined, {other / one:g} to one",
            named(
                f"C1 a 0 {one} IC={first}\nC2 b 0 {other} IC=0\n"
                "YS a b timed_switch closes_at=1m on_resistance=1 off_resistance=1e15\n.tran 0.1m 10m uic\n",
                {("V_a", 10e-3): first * one / (one + other), ("V_b", 10e-3): first * one / (one + other)},
                1e-5,
            ),
        )  # fmt: skip
    # A gate's load discharged by one transistor that stays saturated: i = K/2·(5 - 1)², Shichman-Hodges.
    current = 0.5 * 1e-3 * 16
    yield (
        "an inverter's load while its lower transistor is saturated",
        named(
            "VDD p 0 5\nVIN a 0 PULSE(0 5 1u 0 0 1 2)\nMP o a p p mp W=1u L=1u\nMN o a 0 0 mn W=1u L=1u\n"
            "CL o 0 10n\n.model mn NMOS(VTO=1 KP=1m)\n.model mp PMOS(VTO=-1 KP=1m)\n.tran 10n 2u\n",
            {("V_o", 1.5e-6): 5 - current * 0.5e-6 / 10e-9, ("V_o", 1.9e-6): 5 - current * 0.9e-6 / 10e-9},
            1e-4,
        ),
    )  # fmt: skip


def edges() -> Iterable[tuple[str, Specimen]]:
    """Edges far shorter than the run, and a formula that is nothing but for one short pulse."""
    for edge, begin in ((1e-12, 0.2), (1e-9, 10.0), (1e-8, 3600.0)):
        tau = begin / 100
        yield (
            f"an edge of {edge:g} s at {begin:g} s",
            named(
                f"V1 a 0 PULSE(0 1 {begin} {edge} {edge} {begin})\nR1 a b 1k\nC1 b 0 {tau / 1e3}\n"
                f".tran {tau / 10} {begin + 3 * tau}\n",
                {
                    ("V_b", begin - tau): 0.0,
                    ("V_b", begin + tau): 1 - math.exp(-1),
                    ("V_b", begin + 3 * tau): 1 - math.exp(-3),
                },
                1e-4, 1e-9,
            ),
        )  # fmt: skip
    yield (
        "a pulse of 10 ms by formula in 10 s",
        named(
            "B1 a 0 V={max(0, min(1, 1e6*(time-4))) - max(0, min(1, 1e6*(time-4.01)))}\nR1 a b 1k\n"
            "C1 b 0 10u\n.tran 1m 10\n",
            {("V_b", 4.01): 1 - math.exp(-1), ("V_b", 4.02): (1 - math.exp(-1)) * math.exp(-1)}, 1e-3,
        ),
    )  # fmt: skip
    for ratio in (0.1, 1.0, 5.0):  # of half a period to the time constant
        tau = 0.5e-3 / ratio
        yield (
            f"a square wave settled through RC, half a period of {ratio:g} time constants",
            named(
                f"V1 a 0 PULSE(-1 1 0 0 0 0.5m 1m)\nR1 a b 1k\n"
                f"C1 b 0 {tau / 1e3} IC={-math.tanh(ratio / 2)}\n"
                ".tran 10u 20m uic\n",
                {("V_b", 19.5e-3): math.tanh(ratio / 2), ("V_b", 20e-3): -math.tanh(ratio / 2)}, 1e-4,
            ),
        )  # fmt: skip


def rectified() -> Iterable[tuple[str, Specimen]]:
    """Ideal diodes on 10 V at 50 Hz."""
    omega = 100 * math.pi
    for ohms, henries in ((10.0, 0.01), (10.0, 0.1)):
        z, phi = math.hypot(ohms, omega * henries), math.atan2(omega * henries, ohms)
        t = 6e-3  # while it conducts: any power electronics text
        i = 10 / z * (math.sin(omega * t - phi) + math.sin(phi) * math.exp(-t * ohms / henries))
        yield (
            f"half a wave into {ohms:g} Ω and {henries:g} H",
            named(
                f"V1 a 0 SIN(0 10 50)\nYD1 a b diode form=ideal\nL1 b c {henries}\nR1 c 0 {ohms}\n"
                ".tran 0.1m 20m\n",
                {("I_L1", t): i, ("I_L1", 19.9e-3): 0.0}, 1e-4, 1e-6,
            ),
        )  # fmt: skip
    for microfarads in (100.0, 1000.0):
        # A bridge's reservoir leaves the sine where that falls faster, and empties into the load.
        tau = 1e3 * microfarads * 1e-6
        leaves = (math.pi - math.atan(omega * tau)) / omega
        late = 9.5e-3
        v = 10 * math.sin(omega * leaves) * math.exp(-(late - leaves) / tau)
        yield (
            f"a bridge with a reservoir of {microfarads:g} µF",
            named(
                "V1 a b SIN(0 10 50)\nRT b 0 1meg\nYD1 a p diode form=ideal\nYD2 b p diode form=ideal\n"
                "YD3 0 a diode form=ideal\nYD4 0 b diode form=ideal\n"
                f"C1 p 0 {microfarads}u\nRL p 0 1k\n.tran 0.1m 10m\n",
                {("V_p", late): v}, 1e-3,
            ),
        )  # fmt: skip
