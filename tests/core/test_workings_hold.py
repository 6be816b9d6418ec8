"""Workings of some forty circuits, every line evaluated anew by Python's own arithmetic, and what they come
to held against the analyses of the circuit.

`workings.txt` has a circuit after the other, each as a netlist, with the figures that are worked out of it:
`? how figure`, where a frequency [Hz] may stand behind the how.
"""

from __future__ import annotations

import cmath
import math
import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from lucidbench.core.analyses import (
    TransientSettings,
    frequency_sweep,
    operating_point,
    transient,
)
from lucidbench.core.netlist import Circuit, read_netlist
from lucidbench.core.working import Told, workings
from lucidbench.core.working.field_effect import KINDS, plain_form

_PREFIXES = {"p": 1e-12, "n": 1e-9, "µ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "M": 1e6, "G": 1e9}
_NUMBER = re.compile(
    r"(j?)(\d+(?:\.\d+)?(?:[eE][+-]?\d+)?) ?([pnµmkMG]?)(?:Hz|V|A|Ω|S|F|H|s)(?!\w)"
)


def corpus() -> Iterator[tuple[str, str, str, float | None, str]]:
    """(name, netlist, how, frequency [Hz], figure)."""
    for block in (Path(__file__).parent / "workings.txt").read_text().split("\n\n"):
        lines = block.strip().splitlines()
        netlist = "\n".join(line for line in lines if not line.startswith("?"))
        for line in lines:
            if line.startswith("?"):
                _, how, figure = line.split(None, 2)
                how, _, frequency = how.partition("@")
                yield lines[0], netlist, how, float(frequency) if frequency else None, figure


CORPUS = list(corpus())


@pytest.mark.parametrize(
    ("netlist", "how", "frequency", "figure"),
    [row[1:] for row in CORPUS],
    ids=[f"{row[0]} {row[4]} {row[2]}" for row in CORPUS],
)
def test_every_line_holds(netlist: str, how: str, frequency: float | None, figure: str) -> None:
    circuit = read_netlist(netlist).circuit
    ways = [way for way in workings(circuit, figure, how, frequency) if way.steps]  # type: ignore[arg-type]
    assert ways
    for way in ways:
        found = evaluated(way, circuit)
        within = 4e-2 if any(e.kind in ("diode", "npn", "pnp") for e in circuit) else 1e-3
        if how != "gain":
            real = truth(circuit, how, frequency, figure, way)
            assert found == pytest.approx(real, rel=within, abs=2e-6)
        elif way.answer in ("A_v", "H_low"):
            real = truth(circuit, how, frequency, figure, way)
            assert found.real == pytest.approx(real.real, rel=max(within, 5e-3))


def evaluated(way: Told, circuit: Circuit) -> complex:
    """What the answer comes to by the lines alone, each of which has to hold."""
    assert way.names
    names: dict[str, complex] = {name: complex(known.value) for name, known in way.names.items()}
    names |= {e.name: complex(e.values[e.main_key]) for e in circuit if e.main_key in e.values}
    for step in way.steps:
        if not step.line:
            continue
        left, right = step.line.split(" = ")
        if step.value is not None:
            names[left] = calculated(right, names)
            assert names[left] == pytest.approx(complex(step.value.value), rel=2e-3, abs=2e-6)
            continue
        one, other = calculated(left, names), calculated(right, names)
        sizes = {name: complex(abs(value)) for name, value in names.items()}
        scale = abs(calculated(left.replace("-", "+"), sizes)) + abs(other)
        assert abs(one - other) <= 3e-4 * scale
    return names[way.answer]


def calculated(text: str, names: dict[str, complex]) -> complex:
    def number(match: re.Match[str]) -> str:
        turned, digits, prefix = match.groups()
        return f"({digits}*{_PREFIXES[prefix]}{'*1j' if turned else ''})"

    if beside := re.search(r"(\w+|\([^()]*\))(?: \|\| (?:\w+|\((?:[^()]|\([^()]*\))*\)))+", text):
        parts = re.split(r" \|\| ", beside[0])
        value = 1 / sum(1 / calculated(part, names) for part in parts)
        text, names = text.replace(beside[0], "beside_"), {**names, "beside_": value}
    size, _, angle = text.partition(" ∠ ")
    python = _NUMBER.sub(number, size).replace("^", "**")
    known = {"pi": math.pi, "j": 1j, "sqrt": cmath.sqrt, "exp": cmath.exp, "cos": cmath.cos,
             "sin": cmath.sin, "abs": abs, "arg": cmath.phase}  # fmt: skip
    value = complex(eval(python, {"__builtins__": {}}, known | names))
    turn = calculated(angle.removesuffix("°"), names) if angle else 0
    return value * cmath.exp(1j * math.radians(turn.real)) if angle else value


def truth(circuit: Circuit, how: str, frequency: float | None, figure: str, way: Told) -> complex:
    """What the analysis of the circuit comes to."""
    if any(e.kind in KINDS for e in circuit):
        circuit = plain_form(circuit)
    if how == "rest":
        return complex(combined(operating_point(circuit).values, figure))
    if how == "phasor":
        assert frequency
        sweep = frequency_sweep(circuit, [frequency])
        traces = {name: values[0] for name, values in sweep.traces.items()}
        if figure.startswith("P_"):
            part = circuit.element(figure[2:])
            across = traces[f"V_{part.nodes[0]}"] - traces.get(f"V_{part.nodes[1]}", 0)
            return complex(across * np.conj(traces[f"I_{part.name}"]) / 2)
        return complex(combined(traces, figure))
    if how == "gain":
        middle = 2e4 if way.answer == "A_v" else 1e-3
        sweep = frequency_sweep(circuit, [middle])
        source = next(e for e in circuit if e.values.get("magnitude"))
        values = {name: v[0] for name, v in sweep.traces.items()}
        return complex(values[figure] / values[f"V_{source.nodes[0]}"])
    assert way.names
    t = float(complex(way.names["t"].value).real)
    t += max(
        (e.values.get("closes_at", e.values.get("opens_at", 0.0)) for e in circuit), default=0.0
    )
    run = transient(circuit, TransientSettings(2 * t, from_given=stands_alone(circuit)))
    return complex(run.trace(figure, np.array([t]))[0])


def stands_alone(circuit: Circuit) -> bool:
    """Whether a run begins from starting values: nothing in it steps."""
    return not any(e.waveform or e.kind == "timed_switch" for e in circuit)


def combined(values: dict[str, complex], figure: str) -> complex:
    plus, _, minus = figure.partition(" - ")
    return values[plus] - (values.get(minus, 0) if minus else 0)
