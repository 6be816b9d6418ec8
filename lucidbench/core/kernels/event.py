"""An event: a source jumps, switches and ideal diodes change, all that do together.

Charge and flux stay wherever a voltage and a current of some size can keep them; all else follows. The
event is two implicit Euler steps too short to matter, with every region free to be left, so that the
states of all of them are found at once (complementarity) and what is lost is taken by some part: the
method never adds energy.
"""

from __future__ import annotations

import numpy as np

from lucidbench.core.devices.laws.compiler import compiled, kernel
from lucidbench.core.kernels.evaluate import drive, evaluate
from lucidbench.core.kernels.newton import LEAST_CURRENT, newton
from lucidbench.core.kernels.region_boundaries import hold, release
from lucidbench.core.kernels.smooth_interval import within

SETTLING = 1e-9  # of the interval that follows: how long each of the two steps is
SETTLING_COUPLED = 1e-7  # the same where coils share flux: shorter, its rounding makes voltages
LEAST = 2e-12  # of the time: shorter, and rounding of the time shows in the currents of capacitors
MOST = 1e-3  # of the interval, nevertheless
FLUX_KEPT = 1e-3  # of the largest flux so far: less may be lost within an event
SPIKE = 1e5  # times the largest voltage so far: what no circuit of those sources comes to


@compiled
def two_steps(tables, plan, x, t, end, q, length, first, work):
    """Two implicit Euler steps from charges `q`; both change in place, `first` are the charges between.

    False where one does not settle.
    """
    f, b, moved, unused, room = work
    zeros = np.zeros(tables.n)
    for k in range(2):
        first[:] = q
        drive(tables, within(t + (k + 1) * length, t, end), b)
        taken = newton(tables, plan, x, t, b, q, 1.0 / length, 0.0, zeros, 200, moved, unused)
        if taken < 0:
            return False
        evaluate(tables, x, t, False, False, f, q, unused[0], unused[1], room)
    return True


@kernel
def highest_voltage(tables, x):
    highest = 0.0
    for k in range(tables.n):
        if tables.is_node[k]:
            highest = max(highest, abs(x[k]))
    return highest


@kernel
def shares_flux(tables):
    """Whether the currents of two coils depend on one another."""
    for k in range(len(tables.rows)):
        a, b = tables.rows[k], tables.columns[k]
        if a != b and tables.c[k] != 0.0 and not tables.is_node[a] and not tables.is_node[b]:
            return True
    return False


@kernel
def largest_current(tables, peaks):
    """Of the unknowns that are currents."""
    largest = 0.0
    for k in range(tables.n):
        if not tables.is_node[k]:
            largest = max(largest, peaks[k])
    return largest


@compiled
def settle_event(tables, plan, x, t, end, given, from_given, peaks, jump, room):
    """Settle what changes at once at `t`, before the interval that ends at `end` [s].

    Charges are those at `x`, or `given` ones. Returns (how long it took [s], -1 where nothing
    settles; whether the flux of a coil jumped, or a voltage beyond all reason would be needed to keep
    it), with unknowns and charges before and after in `jump`, shape (5, n), and there where:
    1 for lost flux, 2 for such a voltage.
    """
    n = tables.n
    q, x_i, first = np.empty(n), np.empty(n), np.empty(n)
    places = np.empty((2, len(tables.rows)))
    work = (np.empty(n), np.empty(n), np.empty(n), places, room)
    settling = SETTLING_COUPLED if shares_flux(tables) else SETTLING
    length = min(max(settling * (end - t), LEAST * t), MOST * (end - t))
    release(tables)
    settled = False
    for _ in range(4):
        if from_given:
            q[:] = given
        else:
            evaluate(tables, x, t, False, False, work[0], q, places[0], places[1], room)
        jump[0] = x
        jump[1] = q
        x_i[:] = x
        if two_steps(tables, plan, x_i, t, end, q, length, first, work):
            settled = True
            break
        length *= 1e-2
    if not settled:
        return -1.0, False
    taken = 2.0 * length
    # A coil cut off: its current falls within nanoseconds to what open contacts carry.
    bearable = SPIKE * max(1.0, highest_voltage(tables, peaks))
    for _ in range(4):
        if highest_voltage(tables, x_i) <= bearable:
            break
        length *= 10.0
        if not two_steps(tables, plan, x_i, t + taken, end, q, length, first, work):
            return -1.0, False
        taken += 2.0 * length
    jump[2] = x_i
    jump[3] = q
    jump[4] = 0.0
    jumped = False
    spikes = highest_voltage(tables, x_i) > bearable
    for k in range(n):
        if tables.is_node[k] or tables.c[tables.diagonal[k]] == 0.0:
            continue
        # Of a coil: what it holds, and what of that went with the first step but not with the second, in
        # which only what changes smoothly goes on; or while a spike lasted.
        henries = abs(tables.c[tables.diagonal[k]])
        most = max(henries * max(peaks[k], abs(x_i[k])), abs(jump[1, k]))
        lost = abs(jump[1, k] - q[k])
        if taken == 2.0 * length:
            lost = abs(jump[1, k] - first[k]) - 10.0 * abs(first[k] - q[k])
        counts = not from_given or given[k] != 0.0
        if counts and lost > FLUX_KEPT * most + LEAST_CURRENT * henries:
            jumped = True
            jump[4, k] = 1.0
        elif spikes and abs(x_i[k]) > FLUX_KEPT * peaks[k]:
            jumped = True
            jump[4, k] = 2.0
    x[:] = x_i
    hold(tables, x, largest_current(tables, peaks))
    return taken, jumped
