"""Rectifiers and converters: against SUNDIALS IDA at equal error, and against the clock."""

from __future__ import annotations

import math
import time
from collections.abc import Callable

import numba
import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import TransientSettings, Watch, transient
from lucidbench.core.netlist import read_netlist
from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.rows import Row, side_by_side
from tests.zoo.junctions import scale_at
from tests.zoo.switched import Converter

Array = npt.NDArray[np.float64]
PEAK, HERTZ, PERIODS = 17.0, 50.0, sized(10, 1)
STOP = PERIODS / HERTZ
SATURATION, SCALE = 1e-9, scale_at(27.0, 1.8)
TIE, LOAD, RESERVOIR = 1e5, 1e3, 100e-6
ALLOWED = 1e-4 * PEAK  # [V], of the reservoir at the end

BRIDGE = read_netlist(
    f"""bridge with reservoir
V1 a b SIN(0 {PEAK} {HERTZ})
RT b 0 {TIE}
D1 a p d
D2 b p d
D3 0 a d
D4 0 b d
C1 p 0 {RESERVOIR}
RL p 0 {LOAD}
.model d D(IS={SATURATION} N=1.8)
"""
).circuit


@numba.njit(cache=True)
def junction(v: float) -> tuple[float, float]:
    """(current, conductance), straight beyond an exponent of 80."""
    x = v / SCALE
    e = math.exp(min(x, 80.0))
    return SATURATION * (e * max(1.0, x - 79.0) - 1.0), SATURATION / SCALE * e


@numba.njit(cache=True)
def residual(t, y, yp, r):  # type: ignore[no-untyped-def]
    b, p, i = y
    a = b + PEAK * math.sin(2 * math.pi * HERTZ * t)
    d1, d2, d3, d4 = junction(a - p)[0], junction(b - p)[0], junction(-a)[0], junction(-b)[0]
    r[0] = d1 - d3 + i
    r[1] = b / TIE + d2 - d4 - i
    r[2] = RESERVOIR * yp[1] + p / LOAD - d1 - d2


@numba.njit(cache=True)
def jacobian(t, y, yp, r, c, j):  # type: ignore[no-untyped-def]
    b, p, _ = y
    a = b + PEAK * math.sin(2 * math.pi * HERTZ * t)
    g1, g2, g3, g4 = junction(a - p)[1], junction(b - p)[1], junction(-a)[1], junction(-b)[1]
    j[0, 0], j[0, 1], j[0, 2] = g1 + g3, -g1, 1.0
    j[1, 0], j[1, 1], j[1, 2] = 1 / TIE + g2 + g4, -g2, -1.0
    j[2, 0], j[2, 1], j[2, 2] = -g1 - g2, RESERVOIR * c + 1 / LOAD + g1 + g2, 0.0


def ida(tolerance: float) -> float:
    import sksundae

    solver = sksundae.ida.IDA(
        residual, jacfn=jacobian, rtol=tolerance, atol=tolerance, max_num_steps=1_000_000
    )
    run = solver.solve(np.array([0.0, STOP]), np.zeros(3), np.zeros(3))
    return float(run.y[-1][1]) if run.status >= 0 else math.nan


def ours(tolerance: float) -> float:
    run = transient(BRIDGE, TransientSettings(STOP, relative=tolerance))
    return float(run.trace("V_p", np.array([STOP]))[0])


def loosest(solve: Callable[[float], float], exact: float) -> float:
    """The loosest tolerance down from which the error stays below what is allowed."""
    found = 1e-8
    for tolerance in np.geomspace(1e-8, 1e-2, repeated(25, 2)):
        if not abs(solve(float(tolerance)) - exact) <= ALLOWED:
            break
        found = float(tolerance)
    return found


def bridge_row() -> Row:
    exact = ours(1e-9)
    mine, theirs = loosest(ours, exact), loosest(ida, exact)
    return Row(
        "transient, bridge rectifier with reservoir, 10 periods, error below 0.0001",
        "SUNDIALS IDA, compiled",
        *side_by_side(lambda: ours(mine), lambda: ida(theirs), 9),
        5,
        faster=True,
    )


def buck_row() -> Row:
    made = Converter("buck", 12.0, 100e-6, 100e-6, 5.0, 0.0, 10e-6, 0.4, 0.0)
    periods = sized(500, 10)
    circuit = read_netlist(made.netlist("ideal", periods)).circuit
    settings = TransientSettings(periods * made.period, from_given=True)
    return Row("transient, buck converter, 500 periods, ideal parts", "1 s",
               _seconds(lambda: transient(circuit, settings)), 1.0, 1)  # fmt: skip


def many_periods_row() -> Row:
    circuit = read_netlist("RC\nV1 a 0 SIN(0 1 1k)\nR1 a b 1k\nC1 b 0 100n\n").circuit
    transient(circuit, TransientSettings(1e-2))
    end = sized(100.0, 0.1)
    settings = TransientSettings(end, start=end - 0.01)
    return Row("transient, 100,000 periods of a sine, RC", "8 s",
               _seconds(lambda: transient(circuit, settings, Watch(seconds=120.0))), 8.0, 1)  # fmt: skip


def _seconds(work: Callable[[], object]) -> float:
    work()
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def rows() -> list[Row]:
    return [bridge_row(), buck_row(), many_periods_row()]
