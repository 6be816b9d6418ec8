"""Gates and two-state circuits of field-effect and bipolar transistors."""

from __future__ import annotations

import random

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, family, within


@family
def inverters(r: random.Random) -> Specimen:
    """A chain of inverters with gate capacitances, driven by a pulse of any edge."""
    count = r.choice([1, 2, 3, 5])
    supply = r.choice([1.8, 3.3, 5, 15])
    edge = r.choice([0, 1e-12, 1e-10, 1e-9, 1e-8])
    width = r.choice([2e-8, 1e-7, 1e-6])
    cgs, cgd = r.choice([(5e-15, 1e-15), (1e-12, 0.3e-12), (40e-12, 6e-12), (1e-12, 0)])
    load = r.choice([0, 1e-15, 1e-12, 50e-12])
    kp = r.choice([20e-6, 100e-6, 2e-3, 0.12])
    aspect = r.choice([1, 10])
    modulation = r.choice([0, 0.01, 0.05])
    body = r.choice(["", "GAMMA=0.4 PHI=0.65"])
    threshold = 0.2 * supply
    lines = [
        "inverters", f"VDD vdd 0 {supply}",
        f"VIN n0 0 PULSE(0 {supply} {width / 4:.4g} {edge} {edge} {width:.4g} {2.5 * width:.4g})",
    ]  # fmt: skip
    for k in range(1, count + 1):
        lines += [
            f"MP{k} n{k} n{k - 1} vdd vdd p W={2 * aspect}u L=1u",
            f"MN{k} n{k} n{k - 1} 0 0 n W={aspect}u L=1u",
        ]
    if load:
        lines.append(f"CL n{count} 0 {load}")
    caps = f"CGS={cgs} CGD={cgd} LAMBDA={modulation} {body}"
    lines += [
        f".model n NMOS(VTO={threshold:.4g} KP={kp} {caps})",
        f".model p PMOS(VTO={-threshold:.4g} KP={kp / 2} {caps})",
        f".tran {width / 50:.4g} {width * 5:.4g}",
    ]  # fmt: skip

    def check(answers: list[Answer]) -> None:
        trace = answers[0].traces
        for k in range(1, count + 1):
            within(trace[f"V_n{k}"][0], supply if k % 2 else 0.0, 0, 0.01 * supply, f"V_n{k} at 0")
            assert trace[f"V_n{k}"].max() < 2.5 * supply, f"n{k} rises far above its supply"
            assert trace[f"V_n{k}"].min() > -1.5 * supply, f"n{k} falls far below ground"

    return Specimen("\n".join(lines) + "\n", check)


@family
def bistable(r: random.Random) -> Specimen:
    """Two cross-coupled transistors begin in the state that .ic gives them."""
    supply = r.choice([5, 9, 12])
    collector, base = r.choice([("1k", "10k"), ("2.2k", "47k"), ("470", "22k")])
    first = r.random() < 0.5
    low, high = ("c1", "c2") if first else ("c2", "c1")
    named = r.choice(
        [f".ic V({low})=0", f".ic V({high})={supply}", f".nodeset V({low})=0.1 V({high})={supply}"]
    )
    caps = r.choice(["", "CJE=5p CJC=2p TF=0.3n"])
    text = (
        f"bistable\nVCC vcc 0 {supply}\nRC1 vcc c1 {collector}\nRC2 vcc c2 {collector}\n"
        f"RB1 c2 b1 {base}\nRB2 c1 b2 {base}\nQ1 c1 b1 0 q\nQ2 c2 b2 0 q\n"
        f".model q NPN(IS=1e-14 BF=100 {caps})\n{named}\n.tran 10u 1m\n"
    )

    def check(answers: list[Answer]) -> None:
        for at in (0, -1):
            found = {node: answers[0].traces[f"V_{node}"][at] for node in ("c1", "c2")}
            assert found[low] < 0.35, f"{low} is at {found[low]:.3g} V and should be low"
            assert found[high] > 0.6 * supply, (
                f"{high} is at {found[high]:.3g} V and should be high"
            )

    return Specimen(text, check)


@family
def trigger(r: random.Random) -> Specimen:
    """A comparator with hysteresis by an op-amp that stops at its limits, swept by a triangle."""
    limit = r.choice([5, 10, 13.5])
    top, bottom = 10 ** r.uniform(3, 5), 10 ** r.uniform(3, 5)
    share = bottom / (top + bottom)
    hertz = r.choice([10, 100])
    swing = 1.5 * limit * share + 0.5
    text = (
        f"trigger\nVIN in 0 PULSE({-swing:.5g} {swing:.5g} 0 {0.5 / hertz} {0.5 / hertz} 0 {1 / hertz})\n"
        f"YA p in out opamp form=limited highest={limit} lowest={-limit} slew_rate=10meg\n"
        f"R1 out p {top:.4g}\nR2 p 0 {bottom:.4g}\n.tran {1 / hertz / 200:.4g} {2 / hertz:.4g}\n"
    )

    def check(answers: list[Answer]) -> None:
        out = answers[0].traces["V_out"]
        assert out.max() <= limit + 0.05, "above its limit"
        assert out.min() >= -limit - 0.05, "below its limit"
        assert out.max() > 0.95 * limit, "it does not swing up"
        assert out.min() < -0.95 * limit, "it does not swing down"

    return Specimen(text, check)


@family
def multivibrator(r: random.Random) -> Specimen:
    """Two transistors that take turns: T = 2·ln 2·R·C (common practice, no published source)."""
    supply = r.choice([5, 9])
    base, farads = r.choice([22e3, 47e3, 100e3]), 10 ** r.uniform(-9, -6)
    period = 2 * 0.6931 * base * farads
    text = (
        f"multivibrator\nVCC vcc 0 {supply}\nRC1 vcc c1 1k\nRC2 vcc c2 1k\nRB1 vcc b1 {base}\n"
        f"RB2 vcc b2 {base}\nC1 c1 b2 {farads:.5g}\nC2 c2 b1 {farads:.5g}\nQ1 c1 b1 0 q\nQ2 c2 b2 0 q\n"
        f".model q NPN(IS=1e-14 BF=150 {r.choice(['', 'CJE=8p CJC=3p TF=0.4n'])})\n"
        f".ic V(c1)=0.1\n.tran {period / 100:.5g} {6 * period:.5g}\n"
    )

    def check(answers: list[Answer]) -> None:
        axis = answers[0].axis
        assert axis is not None
        out = answers[0].traces["V_c2"]
        rises = [k for k in range(1, len(out)) if out[k - 1] < supply / 2 <= out[k]]
        assert len(rises) >= 4, f"it swings {len(rises)} times"
        found = (axis.values[rises[-1]] - axis.values[rises[1]]) / (len(rises) - 2)
        within(found, period, 0.2, 0, "its period")

    return Specimen(text, check, notes=True)
