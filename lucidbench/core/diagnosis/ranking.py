"""Causes fitted and ranked: each by itself, and in pairs where no single one will do."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.special import chdtrc

from lucidbench.core.analyses import Watch
from lucidbench.core.diagnosis.causes import Cause
from lucidbench.core.diagnosis.fitting import Fit, fitted
from lucidbench.core.diagnosis.model import Model
from lucidbench.core.diagnosis.observed import Array, Observed
from lucidbench.core.diagnosis.screening import Screen, Screened

LEVEL = 0.01  # of chi-square: less probable data are a gap
IMPROBABLE = 1e-3  # the same of the best single cause, below which pairs are looked at
_HOPELESS = 12.0  # of ln evidence behind the best: such are fitted no more
_MOST_FITS, _FEWEST_FITS = 24, 8
_PATIENT = 80  # steps towards the best fit of tolerances alone, on which all else rests
_MORE_STARTS, _NARROW = 4, 5.0  # and up to how many times the expected chi-square they are worth it
_FROM = 3  # causes that pairs are made with
_USUAL = 0.01  # how usual a cause must be to be a second one
_MOST_PAIRS = 4
_AT_LEAST = 8.0  # of J for each further cause: what a pair must win over its better half
_DEVIATIONS = np.linspace(-5.0, 5.0, 31)
_COVERED = 0.95
_BENT = 0.15  # of a value: an uncertainty above it is looked at on a grid


@dataclass(frozen=True)
class Hypothesis:
    """A model fitted: the causes in it, none for tolerances alone."""

    model: Model
    fit: Fit

    @property
    def causes(self) -> tuple[Cause, ...]:
        return self.model.causes

    @property
    def chi_square(self) -> float:
        """Of data and tolerances together, which for a true model has as many degrees of freedom as there
        are data; a cause's own size is left out, as its prior is only a habit."""
        own = self.fit.theta[self.model.shared :]
        return self.fit.sum_of_squares - float(own @ own)

    @property
    def log_evidence(self) -> float:
        """With how usual the causes are."""
        weights = sum(np.log(cause.weight) for cause in self.causes)
        return float(self.fit.log_evidence + weights)

    @cached_property
    def probability_of_data(self) -> float:
        free = max(1, self.model.observed.points - (self.model.size - self.model.shared))
        return float(chdtrc(free, self.chi_square))

    @cached_property
    def predicted(self) -> Array:
        return self.model.predicted(self.fit.theta)

    def value(self, k: int, theta: Array | None = None) -> float | None:
        """Of the cause `k`, in its unit."""
        at = self.fit.theta if theta is None else theta
        cause = self.causes[k]
        z = self.model.sizes(at)[k]
        circuits = self.model.circuits(at)
        holding = [c for c in circuits.values() if cause.part in c.by_name]
        circuit = (holding or list(circuits.values()))[0]
        return cause.value(circuit, z)

    @cached_property
    def values(self) -> tuple[float | None, ...]:
        """Of every cause."""
        return tuple(self.value(k) for k in range(len(self.causes)))

    @cached_property
    def uncertainties(self) -> tuple[float | None, ...]:
        """Expanded: half the width of the interval about each value that holds 95 in 100."""
        return tuple(self._uncertainty(k) for k in range(len(self.causes)))

    @cached_property
    def by_straight_lines(self) -> tuple[float | None, ...]:
        """The same without looking whether the posterior is bent, which takes no runs."""
        return tuple(self._linear(k) for k in range(len(self.causes)))

    def _uncertainty(self, k: int) -> float | None:
        value, linear = self.values[k], self.by_straight_lines[k]
        if value is None or linear is None or self.causes[k].size is None:
            return linear
        return linear if linear < _BENT * abs(value) else self._on_a_grid(k, value)

    def _linear(self, k: int) -> float | None:
        value = self.values[k]
        if value is None:
            return None
        slopes = np.zeros(len(self.fit.theta))
        for p in range(len(slopes)):
            moved = self.fit.theta.copy()
            moved[p] += 1e-3
            slopes[p] = ((self.value(k, moved) or 0.0) - value) / 1e-3
        return 2 * float(np.sqrt(max(0.0, float(slopes @ self.fit.covariance @ slopes))))

    def _on_a_grid(self, k: int, value: float) -> float:
        """By the posterior along the cause's size, the other parameters following it."""
        column = self.model.shared + sum(c.size is not None for c in self.causes[:k])
        others = [p for p in range(len(self.fit.theta)) if p != column]
        jacobian = self.fit.jacobian
        direction = -np.linalg.lstsq(jacobian[:, others], jacobian[:, column], rcond=None)[0]
        deviation = float(np.sqrt(self.fit.covariance[column, column]))
        values, sums = [], []
        for share in _DEVIATIONS * max(0.05, min(deviation, 1.0)):
            theta = self.fit.theta.copy()
            theta[column] += share
            theta[others] += direction * np.clip(share, -1.5, 1.5)
            residual = self.model.residual(theta)
            values.append(self.value(k, theta) or 0.0)
            sums.append(float(residual @ residual))
        weights = np.exp(-(np.array(sums) - min(sums)) / 2)
        away = np.abs(np.array(values) - value)
        order = np.argsort(away)
        held = np.cumsum(weights[order]) / np.sum(weights)
        return float(away[order][min(int(np.searchsorted(held, _COVERED)), len(held) - 1)])


def alone(observed: Observed) -> Hypothesis:
    """Tolerances without any cause. A narrow gap may be a fit that stuck; others are tried then."""
    model = Model(observed)
    random = np.random.default_rng(1)
    starts = [np.zeros(model.size), *random.normal(scale=0.7, size=(_MORE_STARTS, model.size))]
    best: Hypothesis | None = None
    for start in starts:
        fit = fitted(model.residual, start, model.steps, won=1e-7, enough=1e-3, steps=_PATIENT)
        if best is None or fit.sum_of_squares < best.fit.sum_of_squares:
            best = Hypothesis(model, fit)
        is_narrow = best.chi_square < _NARROW * observed.points
        if best.probability_of_data >= LEVEL or not is_narrow:
            break
    assert best is not None
    return best


def singles(nothing: Hypothesis, causes: Sequence[Cause], watch: Watch) -> Iterator[Hypothesis]:
    """The causes that may matter, fitted, as they are found; some of the usual ones before all others were
    looked at. Raises RunRefused."""
    screen = Screen(nothing.model, np.zeros(nothing.model.size))
    screened: list[Screened] = []
    fits: list[Hypothesis] = []
    for k, cause in enumerate(causes):
        one = screen.of(cause)
        screened.append(one)
        watch.check(0.05 + 0.5 * k / len(causes), "search for causes")
        is_promising = one.sum_of_squares < nothing.fit.sum_of_squares - _AT_LEAST
        if k < len(causes) // 3 and is_promising and len(fits) < _FROM:
            fits.append(_fitted(nothing.model, one))
            yield fits[-1]
    done = {id(hypothesis.causes[0]) for hypothesis in fits}
    for one in _worth_fitting(screened, done, [nothing, *fits]):
        fits.append(_fitted(nothing.model, one))
        done.add(id(one.cause))
        watch.check(0.55 + 0.2 * min(1.0, len(fits) / _MOST_FITS), "search for causes")
        yield fits[-1]
    # Straight lines may have judged a great change too hard: where nothing will do, those are tried in full.
    for one in screened:
        if max(h.probability_of_data for h in (nothing, *fits)) >= IMPROBABLE:
            return
        if one.cause.size is None and id(one.cause) not in done:
            fits.append(_in_full(nothing.model, one.cause))
            watch.check(0.8, "search for causes")
            yield fits[-1]


def _in_full(model: Model, cause: Cause) -> Hypothesis:
    with_it = model.with_cause(cause)
    return Hypothesis(with_it, fitted(with_it.residual, np.zeros(with_it.size), with_it.steps))


def _fitted(model: Model, one: Screened) -> Hypothesis:
    """From where it was screened, and from nominal values at that size, if those are better."""
    with_it = model.with_cause(one.cause)
    plain = one.theta.copy()
    plain[: model.size] = 0.0
    fit = min(
        (
            fitted(with_it.residual, start, with_it.steps)
            for start in _starts(with_it, one.theta, plain)
        ),
        key=lambda each: each.sum_of_squares,
    )
    return Hypothesis(with_it, fit)


def _starts(model: Model, linear: Array, plain: Array) -> Iterator[Array]:
    """One of two starts; both where neither is near."""
    sums = [float(r @ r) for r in (model.residual(linear), model.residual(plain))]
    first, second = (linear, plain) if sums[0] <= sums[1] else (plain, linear)
    yield first
    if min(sums) > 10 * model.observed.points and np.isfinite(max(sums)):
        yield second


def _worth_fitting(
    screened: Sequence[Screened], done: set[int], fits: Sequence[Hypothesis]
) -> Iterator[Screened]:
    """Those that may matter, the best first; all that were left out are far behind what was fitted."""
    order = sorted(screened, key=lambda s: -(s.log_evidence + np.log(s.cause.weight)))
    for k, one in enumerate(order):
        if k >= _MOST_FITS:
            return
        best = max(f.log_evidence for f in fits)
        bound = one.log_evidence + np.log(one.cause.weight)
        if k >= _FEWEST_FITS and bound < best - _HOPELESS:
            return
        if id(one.cause) not in done:
            yield one


def pairs(
    fits: Sequence[Hypothesis], causes: Sequence[Cause], watch: Watch
) -> Iterator[Hypothesis]:
    """The best causes each with every other that is not rare, as they are found. Raises RunRefused."""
    best_alone = min(f.fit.sum_of_squares for f in fits)
    seen: set[frozenset[int]] = set()
    for k, first in enumerate(fits[:_FROM]):
        screen = Screen(first.model, first.fit.theta)
        own = first.causes[0]
        others = [
            c for c in causes if c.weight >= _USUAL and (c.key, c.part) != (own.key, own.part)
        ]
        screened = []
        for m, other in enumerate(others):
            screened.append(screen.of(other))
            share = (k + m / len(others)) / _FROM
            watch.check(0.85 + 0.13 * share, "search for pairs of causes")
        screened.sort(key=lambda s: -(s.log_evidence + np.log(s.cause.weight)))
        for one in screened[:_MOST_PAIRS]:
            both = frozenset((id(own), id(one.cause)))
            if both in seen:
                continue
            seen.add(both)
            model = first.model.with_cause(one.cause)
            pair = Hypothesis(model, fitted(model.residual, one.theta, model.steps))
            if pair.fit.sum_of_squares < best_alone - _AT_LEAST:
                yield pair


def ranked(hypotheses: Sequence[Hypothesis]) -> list[Hypothesis]:
    """The most probable first, each cause at a place once: at its best."""
    order = sorted(hypotheses, key=lambda h: -h.log_evidence)
    seen: set[tuple[tuple[str, str, str], ...]] = set()
    kept = []
    for one in order:
        key = tuple(sorted((c.key, c.part, c.other) for c in one.causes))
        if key not in seen and np.isfinite(one.fit.sum_of_squares):
            seen.add(key)
            kept.append(one)
    return kept


def probabilities(hypotheses: Sequence[Hypothesis]) -> Array:
    """Of each, all together one."""
    logs = np.array([h.log_evidence for h in hypotheses])
    if not len(logs):
        return logs
    weights = np.exp(logs - logs.max())
    return np.asarray(weights / weights.sum())
