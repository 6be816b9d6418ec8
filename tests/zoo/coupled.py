"""Rectifiers behind coupled coils, and charge pumps: what is stored is handed on at once."""

from __future__ import annotations

import random
from collections.abc import Callable
from itertools import pairwise

import numpy as np
from scipy.integrate import solve_ivp

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, family, within
from tests.zoo.switched import FORMS

MODELS = ["IS=1e-14", "IS=1e-9 N=1.8 RS=0.1", "IS=1e-14 RS=0.5"]
ON = 1e-3  # [Ω] of such diodes
DROPS = {"ideal": 0.0, "constant_drop": 0.7}


def form_of(r: random.Random) -> tuple[str, float]:
    form = r.choice(["ideal", "constant_drop", "exponential"])
    return FORMS[form].replace("dx", "m"), DROPS.get(form, 0.7)


def drive_of(
    r: random.Random, peak: float, period: float
) -> tuple[str, Callable[[float], float], list[float]]:
    """A sine, a square or a triangle: as it is written, by time, and the places of its corners in a
    period."""
    edge, half = period / 100, period / 2
    rise, top = r.choice([(0.0, 0.0), (edge, half - edge), (half - edge, edge)])
    if not rise:
        return (
            f"SIN(0 {peak} {1 / period:.10g})",
            lambda t: peak * float(np.sin(2 * np.pi * t / period)),
            [0.0],
        )
    corners = [0.0, rise, rise + top, 2 * rise + top, period]
    levels = [-peak, peak, peak, -peak, -peak]
    return (
        f"PULSE({-peak} {peak} 0 {rise:.8g} {rise:.8g} {top:.8g} {period:.8g})",
        lambda t: float(np.interp(t % period, corners, levels)),
        corners[:-1],
    )


@family
def one_flux(r: random.Random) -> Specimen:
    """Half-wave, with coils that share all their flux: against two equations.

    The primary's voltage is what the source leaves over R, or, while the diode conducts, what the output
    forces through the turns; its integral is the current that magnetises.
    """
    period = 1 / r.choice([50, 400, 20e3, 100e3])
    peak, ratio = r.choice([10, 30, 325]), r.choice([0.1, 0.5, 1.0, 2.0])
    source = r.choice([0.5, 1.0, 10.0])
    henries = float(f"{r.choice([1, 3, 10]) * 50 * period:.4g}")
    load = float(f"{10 ** r.uniform(1, 4):.4g}")
    farads = float(f"{10 ** r.uniform(0, 1.3) * period / load:.4g}")
    form = r.choice(["ideal", "constant_drop"])
    drop = DROPS[form]
    diode = FORMS[form].format(name="D1", a="s", k="o", drop=drop)
    written, drive, corners = drive_of(r, peak, period)
    text = (
        f"one flux\nV1 a 0 {written}\nR0 a p {source}\nL1 p 0 {henries}\n"
        f"L2 s 0 {henries * ratio**2:.15g}\nK1 L1 L2 1\n{diode}\n"
        f"C1 o 0 {farads}\nRL o 0 {load}\n.tran {period / 100:.8g} {10 * period:.8g}\n"
    )

    def slopes(t: float, state: np.ndarray) -> list[float]:
        magnetises, out = state
        forced = (out + drop) / ratio
        own = (source * ratio**2 + ON) / ratio  # what the winding drives its current through
        into = max(0.0, drive(t) - source * magnetises - forced) / own
        across = drive(t) - source * (magnetises + ratio * into)
        return [across / henries, (into - out / load) / farads]

    def check(answers: list[Answer]) -> None:
        axis = answers[0].axis
        assert axis is not None
        # From corner to corner, as what drives it is smooth only between.
        turns = [k * period + at for k in range(10) for at in corners] + [10 * period]
        state, off = [drive(0.0) / source, 0.0], 0.0
        for begin, end in pairwise(turns):
            there = (axis.values >= begin) & (axis.values < end)
            found = solve_ivp(
                slopes, (begin, end), state, method="LSODA", t_eval=[*axis.values[there], end], rtol=1e-8,
                atol=1e-9 * peak, max_step=period / 100,
            ).y  # fmt: skip
            state = list(found[:, -1])
            if there.any():
                told = answers[0].traces["V_o"][there]
                off = max(off, float(np.abs(told - found[1, :-1]).max()))
        assert off < 2e-3 * peak * ratio, f"V_o is off by {off:.3g} V of {peak * ratio} V"

    return Specimen(text, check, seconds=2.0)


@family
def coupled_rectifier(r: random.Random) -> Specimen:
    """Half-wave, a tapped winding or a bridge, any coupling and drive: solved in time, no energy made."""
    period = 1 / r.choice([50, 400, 20e3, 100e3])
    peak, ratio = r.choice([10, 30, 325]), r.choice([0.1, 0.5, 1.0, 2.0])
    coupling = r.choice([1, 1, 0.999, 0.98, 0.9])
    source = r.choice([0.5, 1.0, 10.0])
    henries = float(f"{r.choice([1, 3, 10]) * 50 * period:.4g}")
    second = f"{henries * ratio**2:.15g}"
    load = 10 ** r.uniform(1, 4)
    farads = 10 ** r.uniform(0, 1.3) * period / load
    part, _ = form_of(r)
    drive, _, _ = drive_of(r, peak, period)
    kind = r.choice(["half", "tapped", "bridge"])
    lines = [
        "coupled", f"V1 a 0 {drive}", f"R0 a p {source}", f"L1 p 0 {henries}",
        f"K1 L1 L2 {coupling}",
    ]  # fmt: skip

    def put(name: str, a: str, k: str) -> None:
        lines.append(part.format(name=name, a=a, k=k, drop=0.7))

    put("D1", "s", "o")
    if kind == "bridge":
        lines.append(f"L2 s u {second}")
        for name, ends in (("D2", "uo"), ("D3", "0s"), ("D4", "0u")):
            put(name, *ends)
    else:
        lines.append(f"L2 s 0 {second}")
    if kind == "tapped":
        lines += [f"L3 0 u {second}", f"K2 L1 L3 {coupling}", f"K3 L2 L3 {coupling}"]
        put("D2", "u", "o")
    lines += [
        f"C1 o 0 {farads:.4g}", f"RL o 0 {load:.4g}", f".model m D({r.choice(MODELS)})",
        f".tran {period / 100:.8g} {20 * period:.8g}",
    ]  # fmt: skip

    def check(answers: list[Answer]) -> None:
        trace = answers[0].traces
        axis = answers[0].axis
        assert axis is not None
        drawn = -float(np.trapezoid(trace["V_a"] * trace["I_V1"], axis.values))
        stored = henries / 2 * float(trace["I_L1"][0]) ** 2
        given = float(np.trapezoid(trace["V_o"] ** 2, axis.values)) / load
        assert given <= 1.05 * (drawn + stored) + 1e-12, "more energy comes out than goes in"
        assert trace["V_o"].min() > -0.02 * peak * ratio - 0.1, "the reservoir is charged backwards"

    return Specimen("\n".join(lines) + "\n", check, seconds=4.0, notes=True)


@family
def charge_pump(r: random.Random) -> Specimen:
    """A chain of n diodes with capacitors to two clocks: V_in - V_D + (n - 1)·(V_clock - V_D - I/(f·C)).

    Dickson, On-chip high-voltage generation in MNOS integrated circuits, IEEE Journal of Solid-State
    Circuits 11, 1976.
    """
    count = r.choice([2, 3, 4, 5])
    period = 1 / r.choice([20e3, 200e3, 1e6])
    supply = r.choice([3.3, 5, 12])
    farads = float(f"{10 ** r.uniform(-9, -7):.4g}")
    load = min(2e7, float(f"{r.choice([30, 100, 300]) * period / farads:.4g}"))  # far below leaks
    part, drop = form_of(r)
    is_exact = "form" in part
    edge, half = period / r.choice([20, 100]), period / 2
    rest = f"0 {edge:.6g} {edge:.6g} {half - edge:.8g} {period:.8g}"
    nodes = ["in", *(f"a{k}" for k in range(1, count)), "o"]
    lines = [
        "pump",
        f"V1 in 0 {supply}",
        f"VP p 0 PULSE(0 {supply} {rest})",
        f"VQ q 0 PULSE({supply} 0 {rest})",
    ]
    lines += [
        part.format(name=f"D{k}", a=nodes[k], k=nodes[k + 1], drop=drop) for k in range(count)
    ]
    lines += [f"C{k} a{k} {'pq'[(k - 1) % 2]} {farads}" for k in range(1, count)]
    lines += [
        f"CO o 0 {farads}", f"RL o 0 {load}", f".model m D({r.choice(MODELS)})",
        f".tran {period / 20:.8g} {12 * count * period:.8g}",
    ]  # fmt: skip

    def check(answers: list[Answer]) -> None:
        out = answers[0].traces["V_o"]
        tail = out[-40:]
        current = float(tail.mean()) / load
        wanted = supply - drop + (count - 1) * (supply - drop - current * period / farads)
        tolerance = 0.03 * supply if is_exact else 0.55 * count
        within(float(tail.max()), wanted, 0.0, tolerance, "what the pump comes to")

    return Specimen("\n".join(lines) + "\n", check, seconds=3.0)
