"""The compiled kernels on their own: factoring, sources in time, formulas with their slopes."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core.devices.laws.dispatch import MOST_CONTROLS, ROOM
from lucidbench.core.devices.laws.expression import expression
from lucidbench.core.devices.waveforms import (
    Exponential,
    Pieces,
    Sine,
    Waveform,
    piecewise_linear,
    pulse,
    samples,
    sawtooth,
    square,
    triangle,
)
from lucidbench.core.equations.compiled import compile_system, dense_plan, sparse_plan
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import LucidError
from lucidbench.core.kernels.evaluate import drive
from lucidbench.core.kernels.lu import factor, solve
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.netlist.expressions import compile_expression, parse_expression


@pytest.mark.parametrize("number", [float, complex])
@given(seed=st.integers(0, 2**32 - 1))
def test_factoring_dense_and_sparse_against_numpy(number: type, seed: int) -> None:
    """Random sparse matrices with zeros on the diagonal, as voltage sources put them there."""
    random = np.random.default_rng(seed)
    n = int(random.integers(2, 30))
    full = np.where(random.random((n, n)) < 0.25, random.normal(size=(n, n)), 0.0).astype(number)
    full += np.roll(np.diag(random.uniform(1, 2, n)), 1, axis=1)  # never singular on that diagonal
    full[0, 0] = 0.0
    if number is complex:
        full = full * np.exp(1j * random.uniform(0, 1, (n, n)))
    if np.linalg.cond(full) > 1e6:
        return
    r = random.normal(size=n).astype(number)
    exact = np.linalg.solve(full, r)
    pattern = np.argwhere((full != 0) | np.eye(n, dtype=bool)).astype(np.int32)
    rows, columns = np.ascontiguousarray(pattern[:, 0]), np.ascontiguousarray(pattern[:, 1])
    values = full[rows, columns]
    for plan in (dense_plan(n, rows, columns), sparse_plan(n, rows, columns, np.abs(values))):
        a = np.zeros(plan.size, number)
        for place, value in zip(plan.slot, values, strict=True):
            a[place] += value
        exchanges, scratch, x = np.zeros(2 * n, np.int64), np.zeros(n, number), r.copy()
        failed = factor(plan, n, a, exchanges, scratch)
        if failed >= 0:
            assert not plan.dense  # the fixed order may ask to be ordered anew, row exchange never
            continue
        solve(plan, n, a, exchanges, x, scratch)
        assert x == pytest.approx(exact, rel=1e-6, abs=1e-6 * np.abs(exact).max())


def test_a_singular_matrix_is_noticed() -> None:
    rows = np.array([0, 0, 1, 1], np.int32)
    columns = np.array([0, 1, 0, 1], np.int32)
    plan = dense_plan(2, rows, columns)
    assert factor(plan, 2, np.ones(4), np.zeros(2, np.int64), np.zeros(2)) == 1


SHAPES: list[Waveform] = [
    Sine(0.5, 2.0, 1e3, 1e-4, 300.0, 0.7),
    Exponential(1.0, 3.0, 1e-4, 2e-4, 1e-3, 5e-4),
    pulse(0, 5, 1e-4, 1e-5, 2e-5, 3e-4, 1e-3),
    pulse(1, 0, 2e-4),
    square(-1, 1, 1e3, 0.3),
    triangle(0, 2, 700),
    sawtooth(-1, 1, 900, 1e-4),
    piecewise_linear([(0, 0), (1e-3, 1), (1e-3, 3), (2e-3, 0)]),
    piecewise_linear([(1e-3, 2)]),
    samples([0, 1, 0, -1], 1e-4, repeats=True),
]


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: type(s).__name__)
def test_the_kernel_reads_every_shape_as_it_is_told(shape: Waveform) -> None:
    source = Element("V1", "voltage_source", ("a", "0"), {"voltage": 0.0}, waveform=shape)
    load = Element("R1", "resistor", ("a", "0"), {"resistance": 1.0})
    tables = compile_system(assemble(Circuit("one", (source, load))), moving=True).tables
    times = np.random.default_rng(1).uniform(0, 4e-3, 300)
    b = np.zeros(tables.n)
    told = []
    for t in times:
        drive(tables, float(t), b)
        told.append(b.max() if abs(b.max()) > abs(b.min()) else b.min())
    assert told == pytest.approx(shape.value(times), abs=1e-9)
    opposite = shape.scaled(-1.0)
    assert opposite.value(times) == pytest.approx(-shape.value(times))


@pytest.mark.parametrize("shape", SHAPES, ids=lambda s: type(s).__name__)
def test_between_corners_every_shape_is_smooth(shape: Waveform) -> None:
    breakpoints = np.concatenate([[0.0], shape.breakpoints(0.0, 4e-3), [4e-3]])
    for begin, end in itertools.pairwise(breakpoints):
        if end - begin < 1e-12:
            continue  # one corner, told twice by rounding
        inside = begin + (end - begin) * np.linspace(
            1e-9, 1 - 1e-9, 1001
        )  # rounding at the ends aside
        curve = shape.value(inside)
        bend = np.abs(np.diff(curve, 3))
        assert bend.max(initial=0.0) < 1e-4 * max(np.ptp(curve), 1e-9)


def test_periods_and_shapes_that_cannot_be() -> None:
    assert Sine(0, 1, 50).period == pytest.approx(0.02)
    assert Sine(0, 1, 50, damping=1).period is None
    assert square(0, 1, 100).period == pytest.approx(0.01)
    assert Pieces((0.0, 1.0), (2.0, 2.0), repeats=1.0).period is None
    for wrong in (
        lambda: pulse(0, 1, 0, 1, 1, 1, 2),
        lambda: pulse(0, 1, -1),
        lambda: piecewise_linear([]),
        lambda: piecewise_linear([(-1, 0), (0, 1)]),
        lambda: samples([1], 1e-3),
        lambda: square(0, 1, 1e9).breakpoints(0, 1.0),
    ):
        with pytest.raises(LucidError):
            wrong()


FORMULAS = {
    "2*V(a) - V(b)/3": lambda a, b, i, t: 2 * a - b / 3,
    "V(a,b)^2 + 1k*I(V1)": lambda a, b, i, t: (a - b) ** 2 + 1e3 * i,
    "exp(-V(a)^2)*sin(2*pi*time)": lambda a, b, i, t: math.exp(-(a**2)) * math.sin(2 * math.pi * t),
    "tanh(V(a)) + atan(V(b)) - abs(I(V1))": lambda a, b, i, t: math.tanh(a) + math.atan(b) - abs(i),
    "max(V(a), 1) + 3*min(V(b), V(a))": lambda a, b, i, t: max(a, 1) + 3 * min(b, a),
    "sqrt(1 + V(a)^2)/(2 + cos(V(b)))": lambda a, b, i, t: math.sqrt(1 + a**2) / (2 + math.cos(b)),
    "ln(2 + V(a)^2) - log10(3 + V(b)^2) + tan(I(V1)/9)": lambda a, b, i, t: (
        math.log(2 + a**2) - math.log10(3 + b**2) + math.tan(i / 9)
    ),
    "-V(a)^2 + pow(2, V(b)) + g*V(a)": lambda a, b, i, t: -(a**2) + 2**b + 5 * a,
}


@pytest.mark.parametrize("text", sorted(FORMULAS))
@given(a=st.floats(-3, 3), b=st.floats(-3, 3), i=st.floats(-3, 3), t=st.floats(0, 2))
def test_formulas_and_their_slopes(text: str, a: float, b: float, i: float, t: float) -> None:
    """The program against Python's own arithmetic, its slopes against differences."""
    nodes, currents, program = compile_expression(parse_expression(text), lambda name: 5.0)
    known = {"a": a, "b": b, "V1": i}
    u = np.array([known[name] for name in (*nodes, *currents)])
    p = np.array(program[2:])

    def told(at: np.ndarray) -> tuple[float, np.ndarray]:
        value, slopes = np.zeros(1), np.zeros((1, MOST_CONTROLS))
        expression(p, at, t, value, slopes, np.empty((ROOM[0], MOST_CONTROLS + 1)))
        return float(value[0]), slopes[0]

    value, slopes = told(u)
    assert value == pytest.approx(FORMULAS[text](a, b, i, t), rel=1e-12, abs=1e-12)
    for m in range(len(u)):
        step = 1e-6
        above, below = u.copy(), u.copy()
        above[m] += step
        below[m] -= step
        sides = [(told(above)[0] - value) / step, (value - told(below)[0]) / step]
        if abs(sides[0] - sides[1]) > 0.1:
            continue  # a corner of max, min or abs, where two slopes are right
        assert slopes[m] == pytest.approx(sum(sides) / 2, rel=1e-3, abs=1e-4)
