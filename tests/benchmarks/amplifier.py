"""The two-stage transistor amplifier of the IVP Test Set against other solvers, at equal error.

Mazzia and Magherini, Test Set for IVP Solvers, release 2.4, 2008. The others have its eight equations
written out: SUNDIALS IDA with residual and Jacobian compiled, SciPy's Radau with a plain function of
the seven-dimensional implicit form made explicit.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import replace

import numba
import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import TransientSettings, transient
from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.rows import Row, middle
from tests.core.test_transient import transistor_amplifier

Array = npt.NDArray[np.float64]
ERRORS = (1e-3, 1e-4, 1e-5, 1e-6)
REFERENCE = np.array(
    [-0.005562145012262709, 3.006522471903042, 2.849958788608128, 2.926422536206241,
     2.704617865010554, 2.761837778393145, 4.770927631616772, 1.236995868091548]
)  # fmt: skip
START = np.array([0.0, 3, 3, 6, 3, 3, 6, 0])
SLOPE = np.array(
    [51.338775, 51.338775, -166.66666666666666, -24.9757667, -24.9757667, -83.33333333333333,
     -10.00564453, -10.00564453]
)  # fmt: skip
MASS = np.zeros((8, 8))
for _k, _c in ((0, 1e-6), (3, 3e-6), (6, 5e-6)):
    MASS[_k : _k + 2, _k : _k + 2] = [[_c, -_c], [-_c, _c]]
MASS[2, 2], MASS[5, 5] = 2e-6, 4e-6


@numba.njit(cache=True)
def residual(t, y, yp, r):  # type: ignore[no-untyped-def]
    g_1 = 1e-6 * (math.exp(min((y[1] - y[2]) / 0.026, 600.0)) - 1)
    g_2 = 1e-6 * (math.exp(min((y[4] - y[5]) / 0.026, 600.0)) - 1)
    r[0] = 1e-6 * (yp[0] - yp[1]) + (y[0] - 0.1 * math.sin(200 * math.pi * t)) / 1e3
    r[1] = 1e-6 * (yp[1] - yp[0]) + (2 * y[1] - 6) / 9e3 + 0.01 * g_1
    r[2] = 2e-6 * yp[2] + y[2] / 9e3 - g_1
    r[3] = 3e-6 * (yp[3] - yp[4]) + (y[3] - 6) / 9e3 + 0.99 * g_1
    r[4] = 3e-6 * (yp[4] - yp[3]) + (2 * y[4] - 6) / 9e3 + 0.01 * g_2
    r[5] = 4e-6 * yp[5] + y[5] / 9e3 - g_2
    r[6] = 5e-6 * (yp[6] - yp[7]) + (y[6] - 6) / 9e3 + 0.99 * g_2
    r[7] = 5e-6 * (yp[7] - yp[6]) + y[7] / 9e3


@numba.njit(cache=True)
def jacobian(t, y, yp, r, c, j):  # type: ignore[no-untyped-def]
    d_1 = 1e-6 / 0.026 * math.exp((y[1] - y[2]) / 0.026)
    d_2 = 1e-6 / 0.026 * math.exp((y[4] - y[5]) / 0.026)
    j[:, :] = 0.0
    j[0, 0], j[0, 1] = c * 1e-6 + 1e-3, -c * 1e-6
    j[1, 0], j[1, 1], j[1, 2] = -c * 1e-6, c * 1e-6 + 2 / 9e3 + 0.01 * d_1, -0.01 * d_1
    j[2, 1], j[2, 2] = -d_1, c * 2e-6 + 1 / 9e3 + d_1
    j[3, 1], j[3, 2], j[3, 3], j[3, 4] = 0.99 * d_1, -0.99 * d_1, c * 3e-6 + 1 / 9e3, -c * 3e-6
    j[4, 3], j[4, 4], j[4, 5] = -c * 3e-6, c * 3e-6 + 2 / 9e3 + 0.01 * d_2, -0.01 * d_2
    j[5, 4], j[5, 5] = -d_2, c * 4e-6 + 1 / 9e3 + d_2
    j[6, 4], j[6, 5], j[6, 6], j[6, 7] = 0.99 * d_2, -0.99 * d_2, c * 5e-6 + 1 / 9e3, -c * 5e-6
    j[7, 6], j[7, 7] = -c * 5e-6, c * 5e-6 + 1 / 9e3


def _error(y: Array) -> float:
    return float(np.max(np.abs(y - REFERENCE) / np.abs(REFERENCE)))


CIRCUIT = transistor_amplifier()


def ours(tolerance: float) -> Array:
    """From the circuit's parts to the result; a copy, so that nothing worked out before is of use."""
    run = transient(replace(CIRCUIT), TransientSettings(0.2, from_given=True, relative=tolerance))
    x = run.unknowns(np.array([0.2]))[:, 0]
    return np.array([x[run.system.rows[str(k)]] for k in range(1, 9)])


def ida(tolerance: float) -> Array:
    import sksundae

    solver = sksundae.ida.IDA(
        residual, jacfn=jacobian, rtol=tolerance, atol=1e-2 * tolerance, max_num_steps=1_000_000
    )
    return np.asarray(solver.solve(np.array([0.0, 0.2]), START, SLOPE).y[-1])


def _explicit() -> Callable[[float, Array], Array]:
    """The same as an explicit system for SciPy: the three algebraic rows keep a trace of capacitance.

    1e-6 of C_1 to ground at nodes 2, 5 and 8 moves the result by less than the errors compared here.
    """
    mass = MASS.copy()
    for node in (1, 4, 7):
        mass[node, node] += 1e-12
    inverse = np.linalg.inv(mass)

    def slope(t: float, y: Array) -> Array:
        f = np.zeros(8)
        residual.py_func(t, y, np.zeros(8), f)
        return np.asarray(-inverse @ f)

    return slope


def scipy_radau(tolerance: float) -> Array:
    from scipy.integrate import solve_ivp

    run = solve_ivp(_explicit(), (0, 0.2), START, "Radau", rtol=tolerance, atol=1e-2 * tolerance)
    return np.asarray(run.y[:, -1])


def work_precision(
    *solvers: tuple[Callable[[float], Array], Array], rounds: int = repeated(9, 1)
) -> list[tuple[Array, Array]]:
    """(errors, seconds) of each solver, shapes (k,) and (rounds, k), over its k tolerances."""
    errors = [np.array([_error(solve(t)) for t in tolerances]) for solve, tolerances in solvers]
    seconds = [np.empty((rounds, len(tolerances))) for _, tolerances in solvers]
    for here in range(rounds):
        for (solve, tolerances), taken in zip(solvers, seconds, strict=True):
            for k, tolerance in enumerate(tolerances):
                began = time.perf_counter()
                solve(float(tolerance))
                taken[here, k] = time.perf_counter() - began
    return list(zip(errors, seconds, strict=True))


def seconds_for(errors: Array, seconds: Array, wanted: float) -> Array:
    """Round by round, the least time with an error of at most `wanted`; infinite where none had it."""
    return np.min(np.where(errors <= wanted, seconds, np.inf), axis=1)


def rows() -> list[Row]:
    ours(1e-3)
    ida(1e-3)
    own, compiled = work_precision(
        (ours, np.geomspace(1e-1, 1e-6, repeated(31, 2))),
        (ida, np.geomspace(1e-2, sized(1e-7, 1e-4), repeated(21, 2))),
    )
    again, plain = work_precision(
        (ours, np.geomspace(1e-1, 1e-6, repeated(31, 2))),
        (scipy_radau, np.array(sized([1e-3, 1e-5], [1e-1]))),
        rounds=repeated(3, 1),
    )
    against_compiled = [row(error, "SUNDIALS IDA, compiled", own, compiled, 10) for error in ERRORS]
    against_plain = [
        row(error, "SciPy Radau, Python right-hand side", again, plain, 100)
        for error in (1e-3, 1e-5)
        if np.any(plain[0] <= error)
    ]
    return against_compiled + against_plain


def row(
    error: float, against: str, own: tuple[Array, Array], other: tuple[Array, Array], reach: float
) -> Row:
    pairs = zip(seconds_for(*own, error), seconds_for(*other, error), strict=True)
    mine, theirs = middle([(float(a), float(b)) for a, b in pairs])
    work = f"transient, transistor amplifier, error below {error:g}"
    return Row(work, against, mine, theirs, reach, faster=True)
