"""What one unknown is between the ends of the steps."""

from __future__ import annotations

import numpy as np

from lucidbench.core.devices.laws.compiler import compiled
from lucidbench.core.kernels.polynomial import shares


@compiled
def dense_output(starts, lengths, points, times):
    """Its values at `times`, shape (times,), each of the last step that has begun by then.

    `points`, shape (steps, 4), are its values at the start and the three stages of each step. Before
    and after all steps it stays what it is there.
    """
    found = np.empty(len(times))
    k = 0
    for j in range(len(times)):
        t = times[j]
        if t < starts[k] or (k + 1 < len(starts) and t >= starts[k + 1]):
            k, past = 0, len(starts)
            while past - k > 1:
                middle = (k + past) // 2
                if starts[middle] <= t:
                    k = middle
                else:
                    past = middle
        at0, at1, at2, at3 = shares(min(max((t - starts[k]) / lengths[k], 0.0), 1.0))
        p = points[k]
        found[j] = at0 * p[0] + at1 * p[1] + at2 * p[2] + at3 * p[3]
    return found
