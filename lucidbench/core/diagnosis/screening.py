"""How well a cause might do, found with few runs: tolerances followed along straight lines."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lucidbench.core.diagnosis.causes import Cause
from lucidbench.core.diagnosis.fitting import differences
from lucidbench.core.diagnosis.model import Model
from lucidbench.core.diagnosis.observed import Array

_BESIDE = 0.02  # of a prior's deviation: the step of the slope along a cause's size
_CLOSER = 4  # steps towards the best size
_STARTS = 2  # sizes of the scan from which the best one is looked for
_WINS = 2.0  # of the sum of squares: what a size must win to be followed
_LONGEST = 1.5  # deviations of a step


@dataclass(frozen=True)
class Screened:
    """A cause with `theta`, where it might be best, and its evidence as far as that tells."""

    cause: Cause
    theta: Array
    sum_of_squares: float
    log_evidence: float


class Screen:
    """Beside a model at `theta`: its misfit r there and its slopes G. Where one thing more gives r', the
    other parameters move by u, which makes |r' + G·u|² + |θ + u|² least."""

    def __init__(self, model: Model, theta: Array) -> None:
        self.model = model
        self.theta = theta
        self.misfit = model.misfit(theta)
        self.slopes = differences(model.misfit, theta, self.misfit, model.steps)
        inner = np.eye(len(theta)) + self.slopes.T @ self.slopes
        self._inverse = np.linalg.inv(inner)
        self.without, _ = self.best(self.misfit)  # the least sum without anything more
        self._half_log_det = float(np.linalg.slogdet(inner)[1]) / 2

    def best(self, misfit: Array) -> tuple[float, Array]:
        """(the least sum, the parameters there) for another misfit at the same parameters."""
        if not np.all(np.isfinite(misfit)):
            return np.inf, self.theta
        pull = self.slopes.T @ misfit + self.theta
        moved = -self._inverse @ pull
        total = float(misfit @ misfit + self.theta @ self.theta + pull @ moved)
        return total, self.theta + moved

    def of(self, cause: Cause) -> Screened:
        model = self.model.with_cause(cause)
        if cause.size is None:
            total, theta = self.best(model.misfit(self.theta))
            return Screened(cause, theta, total, -total / 2 - self._half_log_det)
        found = sorted((self._sum(model, z), z) for z in cause.size.scan)
        promising = [z for total, z in found[:_STARTS] if total < self.without - _WINS]
        if not promising:
            total, z = found[0]
            evidence = -total / 2 - self._half_log_det
            return Screened(cause, np.append(self.theta, z), total, evidence)
        return max(
            (self._closer(model, cause, z) for z in promising),
            key=lambda each: each.log_evidence,
        )

    def _misfit(self, model: Model, z: float) -> Array:
        return model.misfit(np.append(self.theta, z))

    def _sum(self, model: Model, z: float) -> float:
        return self.best(self._misfit(model, z))[0] + z * z

    def _closer(self, model: Model, cause: Cause, z: float) -> Screened:
        """From a size to the best one near it."""
        here = self._misfit(model, z)
        total, theta = self.best(here)
        total += z * z
        curvature = 1.0
        for _ in range(_CLOSER):
            if not np.isfinite(total):
                break
            slope = (self._misfit(model, z + _BESIDE) - here) / _BESIDE
            if not np.all(np.isfinite(slope)):
                break
            across = slope - self.slopes @ (self._inverse @ (self.slopes.T @ slope))
            curvature = 1.0 + float(slope @ across)
            pull = self.slopes.T @ here + self.theta
            downhill = float(slope @ here - slope @ self.slopes @ (self._inverse @ pull)) + z
            step = float(np.clip(-downhill / curvature, -_LONGEST, _LONGEST))
            if abs(step) < 1e-3:
                break
            for _ in range(3):
                there = self._misfit(model, z + step)
                value, moved = self.best(there)
                value += (z + step) ** 2
                if value < total:
                    break
                step /= 3
            else:
                break
            gained = total - value
            z, here, total, theta = z + step, there, value, moved
            if gained < 0.1:
                break
        evidence = -total / 2 - self._half_log_det - np.log(curvature) / 2
        return Screened(cause, np.append(theta, z), total, float(evidence))
