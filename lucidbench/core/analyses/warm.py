"""Compile every kernel, into the cache: `python -m lucidbench.core.analyses.warm`."""

from __future__ import annotations

from lucidbench.core.analyses import (
    TransientSettings,
    decades,
    frequency_sweep,
    operating_point,
    transient,
)
from lucidbench.core.netlist import read_netlist

_TEXT = """one of each
V1 a 0 DC 1 AC 1 SIN(0 1 1k)
R1 a b 1k
D1 b 0 d
C1 b 0 1n
.model d D(IS=1e-14 CJO=1p)
"""


def warm() -> None:
    circuit = read_netlist(_TEXT).circuit
    operating_point(circuit)
    frequency_sweep(circuit, decades(1e3, 1e4, 1)).voltage("b")
    run = transient(circuit, TransientSettings(1e-3))
    run.traces()
    run.trace("V_b")


if __name__ == "__main__":
    warm()
