"""The circuits of the study: those of the demo exercises, as netlists, and more, with what is observed.

Their values are made up.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lucidbench.core import TransientSettings, read_netlist
from lucidbench.core.diagnosis import (
    AtRest,
    Block,
    Observed,
    OverFrequency,
    OverSource,
    OverTime,
    column_of,
)
from lucidbench.core.netlist import Circuit

POINTS = 50


@dataclass(frozen=True)
class Subject:
    """A circuit and how it is observed: `blocks` without values, which the study fills in."""

    name: str
    circuit: Circuit
    blocks: tuple[Block, ...]

    @property
    def observed(self) -> Observed:
        return Observed({"": self.circuit}, self.blocks)


def _columns(texts: str, count: int) -> tuple:
    empty = np.zeros(count)
    return tuple(column_of(text, empty, empty + 1.0) for text in texts.split())


def response(texts: str, low: float, high: float) -> Callable[[Circuit], Block]:
    f = np.geomspace(low, high, POINTS)
    return lambda circuit: OverFrequency(_columns(texts, POINTS), "response", frequencies=f)


def phasors(texts: str, frequency: float) -> Callable[[Circuit], Block]:
    f = np.array([frequency])
    return lambda circuit: OverFrequency(_columns(texts, 1), "phasors", frequencies=f)


def figures(texts: str) -> Callable[[Circuit], Block]:
    return lambda circuit: AtRest(_columns(texts, 1), "figures")


def record(texts: str, stop: float, count: int = 200) -> Callable[[Circuit], Block]:
    times = np.linspace(0, stop, count)
    return lambda circuit: OverTime(
        _columns(texts, count), "record", times=times, settings=TransientSettings(stop)
    )


def curve(texts: str, source: str, low: float, high: float) -> Callable[[Circuit], Block]:
    steps = np.linspace(low, high, 25)
    return lambda circuit: OverSource(_columns(texts, 25), "curve", swept=source, steps=steps)


_RC = "abs(V_out/V_in) arg(V_out/V_in)"
_TEXTS: list[tuple[str, str, list[Callable[[Circuit], Block]]]] = [
    ("battery sense", "V1 in 0 12\nR1 in out 150k tol=5%\nR2 out 0 47k tol=5%",
     [figures("V_in V_out")]),
    ("level bridge", "V1 p n 5\nR1 p a 1k tol=1%\nR2 p b 1k tol=1%\nR3 a n 1.1k tol=1%\nR4 b n 1k tol=1%\n"
     "R5 a b 4.7k tol=1%\nR6 n 0 10 tol=1%\nV2 b 0 2.5", [figures("V_p V_a V_b V_n V_a-V_b")]),
    ("lamp curve", "V1 in 0 5\nR1 in a 100 tol=5%\nD1 a 0 m\n.model m D(IS=1e-12 N=1.8)",
     [curve("V_a I_R1", "V1", 0.0, 5.0)]),
    ("feed line", "V1 n1 0 AC 12 0\nV2 n2 0 AC 11 -20\n"
     "YZ1 n1 feed impedance resistance=0 reactance=4 frequency=50\n"
     "YZ2 feed n2 impedance resistance=0 reactance=6 frequency=50\n"
     "YZ3 feed 0 impedance resistance=8 reactance=-3 frequency=50",
     [phasors("abs(V_n1) arg(V_n1) abs(V_n2) arg(V_n2) abs(V_feed) arg(V_feed)", 50.0)]),
    ("beacon flasher", "V1 bat 0 12\nR1 bat e 100k tol=5%\nC1 e 0 4.7u tol=20%\n"
     "YQ1 e flash n1 unijunction standoff=0.65 interbase_resistance=7k\n"
     "R2 bat n1 470 tol=5%\nR3 flash 0 47 tol=5%", [record("V_e", 1.2, 80)]),
    ("anti-alias ladder, response", "V1 in 0 AC 1\nR1 in a 10k tol=5%\nC1 a 0 10n tol=10%\n"
     "R2 a out 47k tol=5%\nC2 out 0 2.2n tol=10%", [response(_RC, 50, 50e3)]),
    ("anti-alias ladder, pulse", "V1 in 0 PULSE(0 1 0 1u 1u 0.7m 1.5m)\nR1 in a 10k tol=5%\n"
     "C1 a 0 10n tol=10%\nR2 a out 47k tol=5%\nC2 out 0 2.2n tol=10%", [record("V_a V_out", 1.5e-3)]),
    ("time-signal filter", "V1 in 0 AC 1\nL1 in a 10m tol=5%\nC1 a out 422n tol=5%\nR1 out 0 100 tol=5%",
     [response(_RC, 500, 12e3)]),
    ("charger", "V1 in 0 SIN(0 10 50)\nD1 in out m\nC1 out 0 470u tol=20%\nR1 out 0 220 tol=5%\n"
     ".model m D(IS=1e-9 N=1.7)", [record("V_out", 0.06)]),
    ("hydrophone stage, bias", "V1 cc 0 12\nR1 cc b 47k tol=5%\nR2 b 0 10k tol=5%\nR3 cc c 4.7k tol=5%\n"
     "R4 e 0 1k tol=5%\nQ1 c b e m\n.model m NPN(BF=180 IS=1e-14)", [figures("V_b V_c V_e V_cc")]),
    ("hydrophone stage, gain", "V1 cc 0 12\nV2 in 0 AC 1\nC1 in b 1u tol=20%\nR1 cc b 47k tol=5%\n"
     "R2 b 0 10k tol=5%\nR3 cc c 4.7k tol=5%\nR4 e 0 1k tol=5%\nC3 e 0 47u tol=20%\nC2 c out 1u tol=20%\n"
     "R5 out 0 10k tol=5%\nQ1 c b e m\n.model m NPN(BF=180 IS=1e-14)",
     [response(_RC, 10, 1e5), figures("V_b V_c V_e")]),
    ("flow integrator", "V1 in 0 AC 1\nR1 in n 10k tol=1%\nC1 n out 15n tol=5%\nR2 n out 100k tol=1%\n"
     "YU1 0 n out opamp", [response(_RC, 10, 1e5)]),
    ("attenuator chain", "V1 in 0 10\nR1 in a 1k tol=5%\nR2 a 0 1k tol=5%\nR3 a b 2k tol=5%\n"
     "R4 b 0 2k tol=5%\nR5 b out 4k tol=5%\nR6 out 0 4k tol=5%", [figures("V_in V_a V_b V_out")]),
    ("sounder driver", "I1 0 out AC 1m\nC1 out 0 220n tol=10%\nR1 out 0 1k tol=5%",
     [response("abs(V_out) arg(V_out)", 100, 1e4)]),
    ("parallel resonator", "V1 in 0 AC 1\nR1 in out 10k tol=5%\nL1 out 0 1m tol=5%\nC1 out 0 10n tol=5%",
     [response(_RC, 2e4, 1.2e5)]),
    ("RC low-pass", "V1 in 0 AC 1\nR1 in out 1k tol=5%\nC1 out 0 100n tol=10%", [response(_RC, 50, 5e4)]),
    ("RC high-pass", "V1 in 0 AC 1\nC1 in out 100n tol=10%\nR1 out 0 4.7k tol=5%", [response(_RC, 20, 2e4)]),
    ("RL step", "V1 in 0 PULSE(0 5 0 1u 1u 2m 4m)\nR1 in out 220 tol=5%\nL1 out 0 47m tol=10%",
     [record("V_out", 2e-3)]),
    ("RLC ring", "V1 in 0 PULSE(0 5 0 1u 1u 2m 4m)\nR1 in a 100 tol=5%\nL1 a out 22m tol=5%\n"
     "C1 out 0 100n tol=5%", [record("V_out", 2e-3)]),
    ("twin T", "V1 in 0 AC 1\nR1 in a 10k tol=1%\nR2 a out 10k tol=1%\nC3 a 0 30n tol=2%\n"
     "C1 in b 15n tol=2%\nC2 b out 15n tol=2%\nR3 b 0 5k tol=1%\nR4 out 0 1meg tol=5%",
     [response(_RC, 100, 1e4)]),
    ("second-order active low-pass", "V1 in 0 AC 1\nR1 in a 10k tol=1%\nR2 a b 10k tol=1%\n"
     "C1 a out 22n tol=5%\nC2 b 0 10n tol=5%\nYU1 b out out opamp", [response(_RC, 50, 2e4)]),
    ("inverting amplifier", "V1 in 0 AC 1\nR1 in n 1k tol=1%\nR2 n out 100k tol=1%\nYU1 0 n out opamp",
     [response(_RC, 100, 1e5)]),
    ("emitter follower", "V1 cc 0 9\nR1 cc b 100k tol=5%\nR2 b 0 100k tol=5%\nR3 e 0 1k tol=5%\n"
     "Q1 cc b e m\n.model m NPN(BF=150 IS=1e-14)", [figures("V_cc V_b V_e")]),
    ("current mirror", "V1 cc 0 10\nR1 cc a 10k tol=5%\nR2 cc out 4.7k tol=5%\nQ1 a a 0 m\n"
     "Q2 out a 0 m\n.model m NPN(BF=100 IS=1e-14 VAF=80)", [figures("V_cc V_a V_out")]),
    ("half-wave rectifier", "V1 in 0 SIN(0 5 50)\nD1 in out m\nR1 out 0 1k tol=5%\n"
     ".model m D(IS=1e-12 N=1.5)",
     [record("V_out", 0.04)]),
    ("ladder of three", "V1 in 0 AC 1\nR1 in a 1k tol=5%\nC1 a 0 100n tol=10%\nR2 a b 2.2k tol=5%\n"
     "C2 b 0 47n tol=10%\nR3 b out 4.7k tol=5%\nC3 out 0 22n tol=10%",
     [response("abs(V_out/V_in) arg(V_out/V_in) abs(V_a/V_in)", 50, 2e4)]),
]  # fmt: skip


def subjects() -> list[Subject]:
    found = []
    for name, text, blocks in _TEXTS:
        circuit = read_netlist(f"{name}\n{text}\n.end").circuit
        found.append(Subject(name, circuit, tuple(make(circuit) for make in blocks)))
    return found
