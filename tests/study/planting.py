"""Builds with a cause planted, or none; what would have been read of them, with noise; and what was told."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.diagnosis import Block, Cause, Explanation, Observed, causes_of, explained
from lucidbench.core.diagnosis.model import Model, nuisances_of
from lucidbench.core.diagnosis.observed import Array
from lucidbench.core.errors import LucidError
from tests.study.circuits import Subject

_OF_MAGNITUDE, _OF_RANGE, _DEGREES = 0.01, 1e-3, 0.7  # standard uncertainties of curves
_OF_FIGURE = 0.002  # of figures at rest
_FROM, _TO = 30.0, 1e7  # of chi-square without noise: from just visible to gross
_TRIES = 12
_DEVIATION = 1.0  # of sizes about the usual one, in deviations of the prior


@dataclass(frozen=True)
class Trial:
    """What came of one build. `planted` is (key, part, other), None where nothing was.

    Of what was told: where the planted one stands among the causes (`rank`) and the groups (`place`), from 0,
    -1 where nowhere; `leading` how many the first group holds; `first` the probability of the first cause;
    whether the planted size lies within its stated interval (None: no size, or not found); the first causes
    in words. `weight` is how usual the planted one is."""

    subject: str
    planted: tuple[str, str, str] | None
    size: float
    is_claimed: bool
    chance: float
    rank: int
    place: int
    leading: int
    first: float
    is_inside: bool | None
    told: str
    seconds: float
    weight: float


def _outcome(
    subject: Subject, planted: Cause | None, size: float, told: Explanation, seconds: float
) -> Trial:
    rank = next((k for k, c in enumerate(told.causes) if _is_it(planted, c.causes)), -1)
    inside = None
    if rank >= 0 and planted is not None and planted.size is not None and np.isfinite(size):
        value, uncertainty = told.causes[rank].values[0], told.causes[rank].uncertainties[0]
        inside = value is not None and bool(abs(value - size) <= (uncertainty or 0.0))
    words = [
        f"{'+'.join(f'{c.key} {c.part}' for c in each.causes)} {each.probability:.3f}"
        for each in told.causes[:3]
    ]
    return Trial(
        subject.name, (planted.key, planted.part, planted.other) if planted else None, size,
        not told.agrees, told.probability_of_data, rank, told.causes[rank].group if rank >= 0 else -1,
        len(told.groups[0]) if told.groups else 0, told.causes[0].probability if told.causes else 0.0,
        inside, "; ".join(words), seconds, planted.weight if planted else 0.0,
    )  # fmt: skip


def _is_it(planted: Cause | None, causes: tuple[Cause, ...]) -> bool:
    if planted is None or len(causes) != 1 or causes[0].key != planted.key:
        return False
    return causes[0].part == planted.part and causes[0].other == planted.other


def trial(subject: Subject, planted: Cause | None, random: np.random.Generator) -> Trial | None:
    """None where the cause cannot be seen in what is observed, or makes a circuit that cannot be."""
    plain = subject.observed
    for _ in range(_TRIES):
        built, size = _build(plain, planted, random)
        try:
            exact = built.predicted(np.array([]) if built.size == 0 else _theta(built, size))
            value = _value(built, planted, size)
        except LucidError:
            return None
        seen = _filled(plain, exact, None)
        if planted is None or _FROM < _gap(seen) < _TO:
            noisy = _filled(plain, exact, random)
            began = time.monotonic()
            told = explained(noisy)
            return _outcome(subject, planted, value, told, time.monotonic() - began)
    return None


def _build(
    plain: Observed, planted: Cause | None, random: np.random.Generator
) -> tuple[Model, float]:
    """(values drawn evenly within tolerances, with the cause in; its z)."""
    circuits = dict(plain.circuits)
    for of in nuisances_of(plain):
        share = of.share * np.sqrt(3) * random.uniform(-1, 1)
        for case, circuit in circuits.items():
            number = float(circuit.element(of.part).values[of.key].real) * (1 + share)
            circuits[case] = circuit.with_value(of.part, of.key, number)
    drawn = Observed(circuits, plain.blocks)
    causes = (planted,) if planted else ()
    return Model(drawn, causes), float(random.normal() * _DEVIATION)


def _theta(built: Model, z: float) -> Array:
    theta = np.zeros(built.size)
    if built.causes and built.causes[0].size is not None:
        theta[-1] = z
    return theta


def _value(built: Model, planted: Cause | None, z: float) -> float:
    if planted is None:
        return float("nan")
    circuit = next(iter(built.circuits(_theta(built, z)).values()))
    value = planted.value(circuit, z)
    return float("nan") if value is None else value


def _gap(seen: Observed) -> float:
    from lucidbench.core.diagnosis.ranking import alone

    return alone(seen).fit.sum_of_squares


def _filled(plain: Observed, exact: Array, random: np.random.Generator | None) -> Observed:
    """What was observed, with noise where there is `random`."""
    blocks: list[Block] = []
    at = 0
    for block in plain.blocks:
        columns = []
        for column in block.columns:
            values = exact[at : at + len(column.values)]
            at += len(values)
            sigma = _sigma(column.part, values)
            noise = random.normal(size=len(values)) * sigma if random is not None else 0.0
            columns.append(replace(column, values=values + noise, sigma=sigma))
        blocks.append(replace(block, columns=tuple(columns)))
    return replace(plain, blocks=tuple(blocks))


def _sigma(part: str, values: Array) -> Array:
    if part == "arg":
        return np.full(len(values), _DEGREES)
    if part == "dB":
        return np.full(len(values), 0.1)
    if len(values) == 1:
        return _OF_FIGURE * np.abs(values) + 1e-3
    return _OF_MAGNITUDE * np.abs(values) + _OF_RANGE * float(np.max(np.abs(values), initial=1e-6))


def applicable(subject: Subject) -> list[Cause]:
    return causes_of(subject.observed)
