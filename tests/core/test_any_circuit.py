"""Whatever is wired up: an answer, or a named error. Never anything else, and never for long."""

from __future__ import annotations

import math

from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core import (
    LucidError,
    NetlistError,
    TransientSettings,
    Watch,
    frequency_sweep,
    operating_point,
    read_netlist,
    transient,
)
from tests.depth import examples

NODES = st.sampled_from(["0", "a", "b", "c", "d"])
VALUES = st.sampled_from(["1", "1k", "1meg", "1u", "1n", "10", "{r}", "0.5"])
MODELS = """.model d D(IS=1e-14 RS=1 CJO=1p)
.model q NPN(BF=100 VAF=50 CJE=1p TF=1n)
.model p PNP(BF=50)
.model m NMOS(VTO=1 KP=1m)
.model j NJF(VTO=-2 BETA=1m)
.model s SW(VT=1 VH=0.2)
.param r=2k
"""
SHAPES = {
    "R": (2, "{0}"), "C": (2, "{0}"), "L": (2, "{0}"), "D": (2, "d"), "Q": (3, "q"), "J": (3, "j"),
    "M": (4, "m"), "S": (4, "s"), "E": (4, "{0}"), "G": (4, "1m"),
    "V": (2, "DC {0} AC 1 SIN(0 1 1k)"), "I": (2, "PULSE(0 1m 1u 1u 1u 10u 30u)"),
    "B": (2, "I={{1m*tanh(V(a)-V(b))}}"), "Y": (3, "opamp form=limited"),
}  # fmt: skip


@st.composite
def texts(draw: st.DrawFn) -> str:
    lines = ["any circuit", "V0 a 0 5"]
    for k in range(draw(st.integers(1, 9))):
        letter = draw(st.sampled_from(sorted(SHAPES)))
        pins, rest = SHAPES[letter]
        nodes = " ".join(draw(NODES) for _ in range(pins))
        lines.append(f"{letter}{k + 1} {nodes} {rest.format(draw(VALUES))}")
    return "\n".join(lines) + "\n" + MODELS


@examples(150)
@given(texts())
def test_any_circuit_has_an_answer_or_a_named_error(text: str) -> None:
    try:
        circuit = read_netlist(text).circuit
    except NetlistError:  # a formula of a node that nothing else is joined to
        return
    for work in (
        lambda: operating_point(circuit).values,
        lambda: frequency_sweep(circuit, [1e3]).traces,
        lambda: transient(circuit, TransientSettings(1e-4, step=1e-5), Watch(seconds=2)).traces(),
    ):
        try:
            values = work()
        except LucidError as error:
            assert str(error).endswith(".")  # noqa: PT017
            continue
        for value in values.values():
            assert math.isfinite(abs(value) if isinstance(value, float) else abs(value).max())
