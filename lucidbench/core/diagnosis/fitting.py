"""Least squares with what is known beforehand as further rows, and the evidence for a model by Laplace.

Every parameter is counted in its own prior standard deviations, so that its prior is one row: itself. With J
the least sum of squares and A the Jacobian there, data and priors together, the evidence is

    ln Z = -J/2 - ½ ln det(AᵀA)

up to what all models of the same data share (MacKay, Information Theory, Inference, and Learning Algorithms,
Cambridge 2003, chapter 27).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Residual = Callable[[Array], Array]
STEP = 1e-2  # of a prior's deviation: some parts in ten thousand of a value, far above the engine's error
_SMALL = 1e-4  # of J: what a further step must win
_ENOUGH = 0.02  # of J as well: an evidence is not wanted to more than that
_MOST_STEPS = 25
_MOST_DAMPED, _DAMPED = 4, 30.0  # how often, and each time by how much more


@dataclass(frozen=True)
class Fit:
    """`theta`, the least sum of squares there, the Jacobian of all rows, shape (rows, parameters)."""

    theta: Array
    sum_of_squares: float
    jacobian: Array
    residual: Array

    @property
    def covariance(self) -> Array:
        return np.asarray(np.linalg.pinv(self.jacobian.T @ self.jacobian))

    @property
    def log_evidence(self) -> float:
        if not self.jacobian.shape[1]:
            return -self.sum_of_squares / 2
        _, log_det = np.linalg.slogdet(self.jacobian.T @ self.jacobian)
        return float(-self.sum_of_squares / 2 - log_det / 2)


def fitted(
    residual: Residual,
    start: Array,
    step: float | Array = STEP,
    won: float = _SMALL,
    enough: float = _ENOUGH,
    is_central: bool = False,
    steps: int = _MOST_STEPS,
) -> Fit:
    """The least squares from a `start` by Levenberg's and Marquardt's method (Marquardt, Journal of SIAM 11,
    1963), until a step wins no more than `won` of what is left and `enough`.

    `step` is that of the differences. Never raises: a start that cannot be worked out has an infinite sum.
    """
    theta = np.asarray(start, float)
    at = residual(theta)
    total = float(at @ at)
    if not np.isfinite(total) or not len(theta):
        return Fit(theta, total, np.eye(max(len(at), len(theta)), len(theta)), at)
    damping = 1e-3
    jacobian = differences(residual, theta, at, step, is_central)
    is_fresh = True
    for _ in range(steps):
        moved, there = _downhill(residual, theta, at, jacobian, damping)
        value = float(there @ there)
        if not value < total:
            if is_fresh:
                break
            jacobian, is_fresh = differences(residual, theta, at, step, is_central), True
            continue
        jacobian = _followed(jacobian, moved - theta, there - at)
        gained, theta, at, total, is_fresh = total - value, moved, there, value, False
        damping = max(damping / 10, 1e-12)
        if gained <= won * total + enough:
            break
    if not is_fresh and is_central:
        jacobian = differences(residual, theta, at, step, is_central)
    return Fit(theta, total, jacobian, at)


def _downhill(
    residual: Residual, theta: Array, at: Array, jacobian: Array, damping: float
) -> tuple[Array, Array]:
    """(parameters, their residual) of the first step downhill, damped as much as that takes; where none is
    found, of the last one tried."""
    normal, slope, total = jacobian.T @ jacobian, jacobian.T @ at, float(at @ at)
    for _ in range(_MOST_DAMPED):
        damped = normal + damping * np.diag(np.diag(normal) + 1e-12)
        moved = theta - np.linalg.solve(damped, slope)
        there = residual(moved)
        if float(there @ there) < total:
            break
        damping *= _DAMPED
    return moved, there


def _followed(jacobian: Array, step: Array, change: Array) -> Array:
    """The Jacobian that tells what a step really did, and else what it told before (Broyden, Mathematics of
    Computation 19, 1965): a run for each parameter is saved."""
    length = float(step @ step)
    if not length:
        return jacobian
    return np.asarray(jacobian + np.outer(change - jacobian @ step, step) / length)


def differences(
    residual: Residual,
    theta: Array,
    at: Array,
    step: float | Array = STEP,
    is_central: bool = False,
) -> Array:
    """The Jacobian by differences, shape (rows, parameters); `at` is the residual at `theta`."""
    steps = np.broadcast_to(np.asarray(step, float), theta.shape)
    found = np.empty((len(at), len(theta)))
    for k, by in enumerate(steps):
        moved = theta.copy()
        moved[k] += by
        above = residual(moved)
        if is_central:
            moved[k] -= 2 * by
            found[:, k] = (above - residual(moved)) / (2 * by)
        else:
            found[:, k] = (above - at) / by
    return np.where(np.isfinite(found), found, 0.0)
