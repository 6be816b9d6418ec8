"""Coils whose current is switched: converters, clamps, bridges, with ideal and with exponential parts."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

import numpy as np
from scipy.integrate import solve_ivp

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, family, within

FORMS = {
    "ideal": "Y{name} {a} {k} diode form=ideal",
    "constant_drop": "Y{name} {a} {k} diode form=constant_drop forward_voltage={drop}",
    "exponential": "{name} {a} {k} dx",
}


def diode(form: str, name: str, a: str, k: str, drop: float = 0.7) -> str:
    return FORMS[form].format(name=name, a=a, k=k, drop=drop)


MODELS = ".model dx D(IS=1e-12 N=1)\n.model sx SW(VT=0.5 VH=0 RON=1m ROFF=1e9)\n"


@dataclass(frozen=True)
class Converter:
    """A converter with one switch and one diode: `kind` is buck, boost or buck_boost; SI units."""

    kind: str
    supply: float
    henries: float
    farads: float
    load: float
    winding: float
    period: float
    duty: float
    drop: float
    on: float = 1e-3

    def slopes(self, i: float, v: float, mode: str) -> tuple[float, float]:
        """(di/dt, dv/dt) with the switch on, the diode on, or neither."""
        if mode == "neither":
            return 0.0, -v / self.load / self.farads
        lost = i * (self.winding + self.on)
        feeding = i
        if self.kind == "buck":
            across = (self.supply if mode == "switch" else -self.drop) - v
        elif self.kind == "boost":
            across = self.supply - (0.0 if mode == "switch" else v + self.drop)
            feeding = i if mode == "diode" else 0.0
        else:
            across = self.supply if mode == "switch" else -v - self.drop
            feeding = i if mode == "diode" else 0.0
        return (across - lost) / self.henries, (feeding - v / self.load) / self.farads

    def after(self, periods: int) -> tuple[float, float] | None:
        """(coil current, output voltage) after so many periods from rest, stretch by stretch; None where
        the switch once opens on a current that runs backwards, which the diode cannot take over."""
        state = np.zeros(2)
        for _ in range(periods):
            state = self._stretch(state, "switch", self.duty * self.period)
            if state[0] < 0:
                return None
            left = (1 - self.duty) * self.period
            conducts = state[0] > 0 or (self.kind == "boost" and self.supply - self.drop > state[1])
            if conducts:
                state, left = self._until_empty(state, left)
            state = self._stretch(state, "neither", left)
        return float(state[0]), float(state[1])

    def _stretch(self, state: np.ndarray, mode: str, span: float) -> np.ndarray:
        if span <= 0:
            return state
        return solve_ivp(
            lambda t, y: self.slopes(y[0], y[1], mode), (0, span), state, rtol=1e-8, atol=1e-12,
            method="DOP853",
        ).y[:, -1]  # fmt: skip

    def _until_empty(self, state: np.ndarray, span: float) -> tuple[np.ndarray, float]:
        def empty(t: float, y: np.ndarray) -> float:
            return y[0] if t > 1e-6 * span else 1.0

        empty.terminal, empty.direction = True, -1.0  # type: ignore[attr-defined]
        run = solve_ivp(
            lambda t, y: self.slopes(y[0], y[1], "diode"), (0, span), state, rtol=1e-8, atol=1e-12,
            events=empty, method="DOP853",
        )  # fmt: skip
        end = run.y[:, -1].copy()
        if len(run.t_events[0]):
            end[0] = 0.0
        return end, span - float(run.t[-1])

    def netlist(self, form: str, periods: int) -> str:
        edge = f"VG g 0 PULSE(0 1 0 0 0 {self.duty * self.period:.9g} {self.period:.9g})"
        coil = f"{self.henries:.6g} RSER={self.winding:.6g}"
        parts = {
            "buck": [f"L1 x out {coil}", "S1 in x g 0 sx", diode(form, "D1", "0", "x", self.drop)],
            "boost": [f"L1 in x {coil}", "S1 x 0 g 0 sx", diode(form, "D1", "x", "out", self.drop)],
            "buck_boost": [
                f"L1 x 0 {coil}", "S1 in x g 0 sx", diode(form, "D1", "out", "x", self.drop),
            ],
        }[self.kind]  # fmt: skip
        return "\n".join(
            [
                f"{self.kind} {form}", f"V1 in 0 {self.supply:.6g}", edge, *parts,
                f"C1 out 0 {self.farads:.6g}", f"RL out 0 {self.load:.6g}",
                f".tran {self.period / 20:.6g} {periods * self.period:.9g} uic", MODELS,
            ]
        )  # fmt: skip


def draw_converter(r: random.Random, drop: float) -> Converter:
    """In continuous or discontinuous mode, at 1 kHz to 500 kHz."""

    def six(x: float) -> float:
        return float(f"{x:.6g}")

    period = six(10 ** -r.uniform(3, 5.7))
    load = six(10 ** r.uniform(0.3, 2.7))
    duty = r.uniform(0.15, 0.8)
    critical = load * period * (1 - duty) / 2
    return Converter(
        r.choice(["buck", "boost", "buck_boost"]),
        six(r.uniform(3, 48)),
        six(critical * r.choice([0.1, 0.3, 1.0, 3.0, 10.0])),
        six(period / load * 10 ** r.uniform(0.3, 1.5)),
        load,
        six(load * r.choice([0, 0, 1e-3, 1e-2])),
        period,
        six(duty * period) / period,
        drop,
    )


@family
def converter(r: random.Random) -> Specimen:
    """Buck, boost and buck-boost against their own equations, stretch by stretch."""
    form = r.choice(["ideal", "constant_drop"])
    made = draw_converter(r, 0.0 if form == "ideal" else 0.7)
    periods = r.choice([5, 20, 60])
    wanted = made.after(periods)
    if wanted is None:
        return Specimen(made.netlist(form, periods), refusal=("L1", "nowhere to go"))
    current, volts = wanted

    def check(answers: list[Answer]) -> None:
        trace = answers[0].traces
        sign = -1.0 if made.kind == "buck_boost" else 1.0
        peak = float(np.abs(trace["I_L1"]).max())
        within(sign * trace["V_out"][-1], volts, 1e-3, 1e-3 + 1e-3 * peak, "V_out")
        within(trace["I_L1"][-1], current, 2e-3, 2e-3 * peak, "I_L1")

    return Specimen(made.netlist(form, periods), check)


@family
def converter_exponential(r: random.Random) -> Specimen:
    """The same with an exponential diode: near the one with a constant drop."""
    periods = r.choice([5, 20])
    wanted = None
    while wanted is None:
        made = draw_converter(r, 0.7)
        wanted = made.after(periods)
    volts = wanted[1]

    def check(answers: list[Answer]) -> None:
        trace = answers[0].traces
        sign = -1.0 if made.kind == "buck_boost" else 1.0
        within(sign * trace["V_out"][-1], volts, 0.05, 0.35, "V_out")

    return Specimen(made.netlist("exponential", periods), check, seconds=8)


@family
def clamp(r: random.Random) -> Specimen:
    """A relay's coil cut off through a clamp: i = (I + V/R)·exp(-t/τ) - V/R until it is nothing.

    The closed form of an RL circuit with an opposing voltage: any circuits text.
    """
    form = r.choice(["ideal", "constant_drop"])
    drop = 0.0 if form == "ideal" else 0.7
    supply = r.choice([5, 12, 24])
    ohms, henries = float(f"{10 ** r.uniform(1, 2.7):.4g}"), float(f"{10 ** r.uniform(-4, 0):.4g}")
    tau = henries / ohms
    opens = float(f"{r.uniform(1, 8) * tau:.4g}")
    resistor = r.random() < 0.3
    across = f"RD 0 x {10 * ohms:.5g}" if resistor else diode(form, "D1", "x", "vcc", drop)
    first = supply * (1 - math.exp(-opens / tau)) / ohms
    stop = opens + 3 * tau
    text = (
        f"relay\nV1 vcc 0 {supply}\nL1 vcc x {henries:.5g} RSER={ohms:.5g}\n"
        f"{across if not resistor else f'RD x vcc {10 * ohms:.5g}'}\n"
        f"YS x 0 timed_switch opens_at={opens:.9g}\n.tran {stop / 300:.6g} {stop:.9g} uic\n"
    )

    def check(answers: list[Answer]) -> None:
        axis = answers[0].axis
        assert axis is not None
        found = answers[0].traces["I_L1"]
        late = axis.values - opens
        if resistor:
            wanted = first * np.exp(-np.maximum(late, 0) / (henries / (11 * ohms)))
        else:
            against = drop / ohms
            wanted = np.maximum(
                (first + against) * np.exp(-np.maximum(late, 0) / tau) - against, 0.0
            )
        before = supply * (1 - np.exp(-axis.values / tau)) / ohms
        wanted = np.where(late < 0, before, wanted)
        worst = float(np.abs(found - wanted).max())
        assert worst < 2e-3 * first, f"the coil's current is off by {worst / first:.2%}"

    return Specimen(text, check)


@family
def coil_with_nowhere_to_go(r: random.Random) -> Specimen:
    """A switch opens in series with a coil, and nothing is across it: said, with the coil's name."""
    supply = r.choice([5, 12, 24])
    ohms, henries = 10 ** r.uniform(0, 3), 10 ** r.uniform(-5, 0)
    tau = henries / ohms
    text = (
        f"coil kick\nV1 a 0 {supply}\nR1 a b {ohms:.4g}\nL1 b c {henries:.4g}\n"
        f"YS c 0 timed_switch opens_at={3 * tau:.6g}\n.tran {tau / 10:.4g} {6 * tau:.6g} uic\n"
    )
    return Specimen(text, refusal=("L1",))


@family
def half_wave_coil(r: random.Random) -> Specimen:
    """A half-wave rectifier with R and L: i from the closed form until extinction."""
    form = r.choice(["ideal", "constant_drop", "exponential"])
    ohms = float(f"{10 ** r.uniform(0.5, 3):.4g}")
    hertz = r.choice([50, 60, 400])
    omega = 2 * math.pi * hertz
    henries = float(f"{ohms / omega * 10 ** r.uniform(-1, 1):.4g}")
    peak = r.choice([10, 24, 325])
    text = (
        f"half wave with coil\nV1 a 0 SIN(0 {peak} {hertz})\n{diode(form, 'D1', 'a', 'b')}\n"
        f"L1 b c {henries:.5g}\nR1 c 0 {ohms:.5g}\n.tran {1 / hertz / 100:.6g} {3 / hertz:.6g}\n{MODELS}"
    )

    def check(answers: list[Answer]) -> None:
        axis = answers[0].axis
        assert axis is not None
        drop = 0.0 if form == "ideal" else 0.7
        z, phi, tau = (
            math.hypot(ohms, omega * henries),
            math.atan2(omega * henries, ohms),
            henries / ohms,
        )
        begin = math.asin(drop / peak) / omega
        t = axis.values[: len(axis.values) // 3 + 1]
        late = np.maximum(t - begin, 0)
        at = drop / ohms - peak / z * math.sin(omega * begin - phi)
        wanted = peak / z * np.sin(omega * t - phi) - drop / ohms + at * np.exp(-late / tau)
        wanted = np.where(t < begin, 0.0, wanted)
        gone = np.flatnonzero((wanted < 0) & (t > begin + 0.25 / hertz))
        if len(gone):
            wanted[gone[0] :] = 0.0
        found = answers[0].traces["I_L1"]
        worst = float(np.abs(found[: len(t)] - wanted).max()) / float(wanted.max())
        assert worst < (2e-3 if form != "exponential" else 0.06), f"current off by {worst:.2%}"
        assert found.min() > -2e-3 * wanted.max(), "current runs backwards through the diode"

    return Specimen(text, check)


@family
def half_bridge(r: random.Random) -> Specimen:
    """Two switches with diodes and a dead time feed a coil and a load: bounded, and no energy made."""
    bus = r.choice([12, 48, 320])
    period = 10 ** -r.uniform(3, 5)
    dead = period * r.choice([1e-4, 2e-3, 0.02])
    ohms = 10 ** r.uniform(0, 2)
    henries = ohms * period * 10 ** r.uniform(-1, 1)
    form = r.choice(["ideal", "constant_drop", "exponential"])
    on = period / 2 - dead
    text = (
        f"half bridge\nV1 p 0 {bus / 2}\nV2 0 n {bus / 2}\n"
        f"VH gh 0 PULSE(0 1 {dead:.6g} 0 0 {on:.6g} {period:.9g})\n"
        f"VL gl 0 PULSE(0 1 {dead + period / 2:.6g} 0 0 {on:.6g} {period:.9g})\n"
        f"S1 p x gh 0 sx\nS2 x n gl 0 sx\n{diode(form, 'D1', 'x', 'p')}\n{diode(form, 'D2', 'n', 'x')}\n"
        f"L1 x y {henries:.5g}\nR1 y 0 {ohms:.5g}\n.tran {period / 40:.6g} {10 * period:.6g} uic\n{MODELS}"
    )

    def check(answers: list[Answer]) -> None:
        trace = answers[0].traces
        assert np.abs(trace["V_x"]).max() <= bus / 2 + 1.5, "the bridge leaves its rails"
        assert np.abs(trace["I_L1"]).max() <= (bus / 2 + 1.5) / ohms, "too large a current"

    return Specimen(text, check)


@family
def flyback(r: random.Random) -> Specimen:
    """Coupled coils: what the primary stores the secondary gives, but for what leaks."""
    period = 10 ** -r.uniform(4, 5.3)
    coupling = r.choice([1.0, 1.0, 0.99, 0.95])
    snubber = coupling < 1 and r.random() < 0.5
    supply, ratio = r.choice([12, 48]), r.choice([0.3, 1.0, 3.0])
    primary = 10 ** r.uniform(-5, -3)
    duty = r.uniform(0.2, 0.6)
    load = 10 ** r.uniform(0.7, 2.5)
    form = r.choice(["ideal", "constant_drop"])
    drop = 0.0 if form == "ideal" else 0.7
    farads = 20 * period / load
    periods = 40
    lines = [
        "flyback", f"V1 in 0 {supply}", f"VG g 0 PULSE(0 1 0 0 0 {duty * period:.8g} {period:.8g})",
        f"L1 in x {primary:.6g}", f"L2 0 s {primary * ratio**2:.6g}", f"K1 L1 L2 {coupling}",
        "S1 x 0 g 0 sx", diode(form, "D1", "s", "out", drop), f"C1 out 0 {farads:.6g}",
        f"RL out 0 {load:.6g}",
    ]  # fmt: skip
    if snubber:
        lines += [
            diode("ideal", "D2", "x", "c"),
            f"CS c in {farads:.6g}",
            f"RS c in {20 * load:.6g}",
        ]
    lines += [f".tran {period / 400:.6g} {periods * period:.8g} uic", MODELS]

    def check(answers: list[Answer]) -> None:
        trace = answers[0].traces
        axis = answers[0].axis
        assert axis is not None
        drawn = -np.trapezoid(trace["I_V1"], axis.values) * supply
        given = np.trapezoid(trace["V_out"] ** 2, axis.values) / load
        kept = farads / 2 * trace["V_out"][-1] ** 2
        assert given + kept <= drawn * 1.05 + 1e-9, "more energy comes out than goes in"
        if coupling == 1 and form == "ideal":
            stored = primary / 2 * trace["I_L1"].max() ** 2 * 2
            assert given + kept >= 0.85 * drawn - stored, "energy is lost that nothing takes"

    return Specimen("\n".join(lines), check, notes=coupling < 1)


@family
def two_capacitors(r: random.Random) -> Specimen:
    """A switch joins two charged capacitors: charge is kept, half the energy or more is not."""
    one, other = (float(f"{10 ** r.uniform(-9, -3):.4g}") for _ in range(2))
    first, second = (float(f"{r.uniform(-20, 20):.4g}") for _ in range(2))
    ohms = r.choice(["1m", "1", "10"])
    text = (
        f"two capacitors\nC1 a 0 {one} IC={first}\nC2 b 0 {other} IC={second}\n"
        f"YS a b timed_switch closes_at=1m on_resistance={ohms} off_resistance=1e15\n.tran 0.1m 1 uic\n"
    )

    def check(answers: list[Answer]) -> None:
        wanted = (one * first + other * second) / (one + other)
        for name in ("V_a", "V_b"):
            within(answers[0].traces[name][-1], wanted, 1e-4, 1e-4, name)

    return Specimen(text, check)
