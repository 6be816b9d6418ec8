"""Uncertainty of what is worked out from what was measured, to first order, correlations included.

JCGM 100:2008, 5.2.2 (the law of propagation of uncertainty), in several results at once.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
_STEP = 1e-5  # of an input's uncertainty, or of its size where that is larger


def propagated(
    function: Callable[[Array], Sequence[float]], values: Array, covariance: Array
) -> tuple[Array, Array]:
    """(results, their covariance) of a smooth `function` of inputs, shapes (m,) and (m, m), from the inputs'
    `values`, shape (n,), and their `covariance`, (n, n), both in plain standard units."""
    values = np.asarray(values, float)
    results = np.asarray(function(values), float)
    slopes = np.empty((len(results), len(values)))
    for k, value in enumerate(values):
        step = max(abs(value) * _STEP, np.sqrt(covariance[k, k]) * _STEP, 1e-300)
        above, below = values.copy(), values.copy()
        above[k], below[k] = value + step, value - step
        slopes[:, k] = (np.asarray(function(above)) - np.asarray(function(below))) / (2 * step)
    return results, np.asarray(slopes @ covariance @ slopes.T)


def of_repeated(sets: Array) -> tuple[Array, Array]:
    """(means, covariance of the means) of quantities observed together, `sets` of shape (times, quantities).

    JCGM 100:2008, 4.2 and 5.2.3, equation 17.
    """
    return np.asarray(sets.mean(axis=0)), np.atleast_2d(np.cov(sets, rowvar=False)) / len(sets)
