"""Newton's iteration on f(x) + s·(q(x) - q_0) = b, with the controls of junctions limited.

Where region boundaries keep it from settling, each step ends at the first it would pass, so that the
residual shrinks along a line through regions that are linear (Katzenelson, An algorithm for solving nonlinear
resistor networks, Bell System Technical Journal 44, 1965).
"""

from __future__ import annotations

import numpy as np

from lucidbench.core.devices.laws.compiler import compiled, kernel
from lucidbench.core.devices.laws.dispatch import ROOM
from lucidbench.core.kernels.evaluate import evaluate, sizes_of_terms, throw_switches
from lucidbench.core.kernels.lu import factor, solve
from lucidbench.core.kernels.region_boundaries import boundary_ahead

RELATIVE = 1e-8  # of an unknown: its last change at convergence; the error left is its square
LEAST_VOLTAGE = 1e-10  # [V]
LEAST_CURRENT = 1e-12  # [A]; rounding at a boundary of 1 mΩ is a tenth of it
_MOST_THROWS = 60  # of switches, before they are taken not to settle
_PLAIN = 8  # iterations before steps end at boundaries
_UNHURRIED = 12  # iterations before a residual of mere rounding is looked for
_ROUNDING = 8 * 2.0**-52  # of the sizes that add up to a row: what is left below it is rounding
_NO_CURRENT, _NO_VOLTAGE = (
    1e-22,
    1e-13,
)  # [A], [V]: left of a row, it is nothing however small the terms
NOT_SETTLED = -1
SINGULAR = -2


@kernel
def is_rounding(tables, left, sizes):
    """Whether what is left of each row, shape (n,), is rounding of the terms of these sizes."""
    for k in range(tables.n):
        floor = _NO_CURRENT if tables.is_node[k] else _NO_VOLTAGE
        if abs(left[k]) > _ROUNDING * sizes[k] + floor:
            return False
    return True


@compiled
def newton(tables, plan, x, t, b, q_0, s, kappa, reference, most, moved, places):
    """Iterate from `x` in place. Returns the iterations taken, NOT_SETTLED, or SINGULAR - row.

    `kappa` [S] ties every node to `reference`, shape (n,): with zeros it is gmin, with the point
    before it is a pseudo-transient. `moved` receives each unknown's last change. `places`, shape
    (2, m), is room for G and C, which are those of the last point evaluated.
    """
    n = tables.n
    f, q = np.empty(n), np.empty(n)
    r, scratch = np.empty(n), np.zeros(n)
    left, sizes = np.empty(n), np.empty(n)
    a = np.empty(plan.size)
    room = np.empty(ROOM)
    exchanges = np.empty(2 * n, np.int64)
    throws = 0
    for iteration in range(most):
        limited = evaluate(tables, x, t, True, True, f, q, places[0], places[1], room)
        a[:] = 0.0
        for k in range(len(tables.rows)):
            a[plan.slot[k]] += places[0, k] + s * places[1, k]
        for k in range(n):
            r[k] = b[k] - f[k] - s * (q[k] - q_0[k])
            if kappa > 0.0 and tables.is_node[k]:
                r[k] -= kappa * (x[k] - reference[k])
                a[plan.slot[tables.diagonal[k]]] += kappa
            left[k] = abs(r[k])
        row = factor(plan, n, a, exchanges, scratch)
        if row >= 0:
            return SINGULAR - row
        solve(plan, n, a, exchanges, r, scratch)
        settled = not limited
        for k in range(n):
            least = LEAST_VOLTAGE if tables.is_node[k] else LEAST_CURRENT
            if not abs(r[k]) <= RELATIVE * abs(x[k]) + least:
                settled = False
                break
        share = 1.0
        if not settled and not limited and iteration >= _UNHURRIED:
            # Parts that hardly conduct beside others that do: the step is rounding over nearly nothing.
            sizes_of_terms(tables, x, t, b, q_0, s, sizes, room)
            for k in range(n):
                sizes[k] += kappa * abs(x[k])
            if is_rounding(tables, left, sizes):
                settled = True
                share = 0.0
        if not settled and iteration >= _PLAIN:
            share = min(1.0, boundary_ahead(tables, x, r))
        for k in range(n):
            x[k] += share * r[k]
            moved[k] = r[k]
            if not np.isfinite(x[k]):
                return NOT_SETTLED
        if settled:
            if not throw_switches(tables, x):
                return iteration + 1
            throws += 1
            if throws > _MOST_THROWS:
                return NOT_SETTLED
    return NOT_SETTLED
