"""Why two voices differ: the answer in words, the causes with value and probability, what to measure next.

The reckoning is a comparison of models. Tolerance alone: every value within its tolerance. A cause: the same
and one thing more. Each is fitted (fitting.py), and judged by its evidence and by how usual it is.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses import RunRefused, Watch
from lucidbench.core.diagnosis.causes import Cause, causes_of
from lucidbench.core.diagnosis.next_measurement import Measurement, next_measurement
from lucidbench.core.diagnosis.observed import Array, Observed, between, checked
from lucidbench.core.diagnosis.ranking import (
    IMPROBABLE,
    LEVEL,
    Hypothesis,
    alone,
    pairs,
    probabilities,
    ranked,
    singles,
)
from lucidbench.core.diagnosis.residuals import missing, scatter, shape_of
from lucidbench.core.errors import CircuitError
from lucidbench.core.units import engineering
from lucidbench.core.units.uncertain import with_uncertainty

MOST_POINTS = 5_000  # numbers that are explained at once
_SAME = 4.0  # of squares in uncertainties: predictions nearer than that are not told apart
_AS_GOOD = 9.0  # of chi-square: what would need tolerances that much less likely is no equal
_TOLD = 12  # causes that are listed
_LEAST = 1e-3  # of probability: less is not listed behind the first few
_FEWEST = 5
# Of probability: what a cause of the first group counts at least where a next measurement is chosen.
_AN_EQUAL = 0.1
_SOME = 0.05  # of the gap: what a cause takes away that is listed though it is not probable
_WORTH_A_GRID = 0.02  # of probability: causes whose uncertainty is worth runs of its own
_SURE_OF_A_CAUSE = 0.02  # of probability: where tolerances have less, the data speak for a cause
_WORTH_A_WORD = 1e-4  # of the first one's probability: an equal of no usual size goes without
_ROUGH = 1.4  # times the stated uncertainty: scatter from which on it counts as understated
_SECONDS = 60.0


@dataclass(frozen=True)
class LikelyValue:
    """What the data make of a value within its tolerance; `fixed` is the share of the tolerance's width that
    they leave away."""

    part: str
    nominal: float
    value: float
    unit: str
    uncertainty: float
    fixed: float
    is_usual: bool


@dataclass(frozen=True)
class Listed:
    """A cause, or two of them together. `explains` is the share of the gap it takes away; `predicted` what
    would have been observed with it, all numbers of all blocks."""

    causes: tuple[Cause, ...]
    values: tuple[float | None, ...]
    uncertainties: tuple[float | None, ...]
    probability: float
    explains: float
    chi_square: float
    group: int
    sentence: str
    predicted: Array


@dataclass(frozen=True)
class Explanation:
    """`agrees` where tolerances account for it; `likely` are the values they then have. `groups` are numbers
    of `causes` that these data cannot tell apart. `answer` says it in words."""

    answer: str
    agrees: bool
    chi_square: float
    points: int
    probability_of_data: float
    likely: tuple[LikelyValue, ...]
    predicted: Array
    causes: tuple[Listed, ...] = ()
    groups: tuple[tuple[int, ...], ...] = ()
    next: Measurement | None = None
    residual: str = ""
    roughness: float = 1.0
    is_known: bool = True


Grows = Callable[[Explanation], None]


def explained(
    observed: Observed,
    only: Collection[str] = (),
    without: Collection[tuple[str, str]] = (),
    watch: Watch | None = None,
    grows: Grows = lambda so_far: None,
) -> Explanation:
    """Why `observed` is not what its circuits tell. `only` are the keys of causes that are allowed, where not
    all are; `without` are (key, part) that were ruled out. `grows` hears what is known so far.

    Where the time is over, what was found by then is told. Raises CircuitError where the circuit as drawn
    does not tell what was observed or that is too much, RunRefused where it was cancelled.
    """
    watch = watch or Watch(seconds=_SECONDS)
    if not observed.points:
        raise ValueError("nothing was observed")
    if observed.points > MOST_POINTS:
        raise CircuitError(
            f"These are {observed.points:,} numbers; {MOST_POINTS:,} are the most that are explained at "
            f"once. Leave rows or columns away."
        )
    observed = checked(observed)
    found = _explained(observed, only, without, watch, grows)
    if found.is_known or found.agrees:
        return found
    rough = scatter(observed, found.causes[0].predicted if found.causes else found.predicted)
    if rough < _ROUGH:
        return found
    again = _explained(_rougher(observed, rough), only, without, watch, grows)
    note = f" The readings scatter {rough:.2g} times as much as was said; that was allowed for."
    return replace(again, answer=again.answer + note, roughness=rough)


def _rougher(observed: Observed, by: float) -> Observed:
    blocks = tuple(
        replace(b, columns=tuple(replace(c, sigma=c.sigma * by) for c in b.columns))
        for b in observed.blocks
    )
    return replace(observed, blocks=blocks)


def _explained(
    observed: Observed,
    only: Collection[str],
    without: Collection[tuple[str, str]],
    watch: Watch,
    grows: Grows,
) -> Explanation:
    nothing = alone(observed)
    watch.check(0.05, "search for causes")
    causes = [c for c in causes_of(observed, only) if (c.key, c.part) not in without]
    fits: list[Hypothesis] = []
    is_over = False
    try:
        for one in singles(nothing, causes, watch):
            fits = ranked([*fits, one])
            grows(_told(observed, nothing, fits, is_all=False))
        if fits and max(h.probability_of_data for h in (nothing, *fits)) < IMPROBABLE:
            for one in pairs(fits, causes, watch):
                fits = ranked([*fits, one])
                grows(_told(observed, nothing, fits, is_all=False))
    except RunRefused:
        if watch.cancelled is not None and watch.cancelled():
            raise
        is_over = True
    found = _told(observed, nothing, fits, is_all=True)
    if not is_over:
        return found
    rest = f" The search was ended after {watch.seconds:.0f} s; not all causes were tried."
    return replace(found, answer=found.answer + rest)


def _told(
    observed: Observed, nothing: Hypothesis, fits: Sequence[Hypothesis], is_all: bool
) -> Explanation:
    share = probabilities([nothing, *fits])
    agrees = bool(nothing.probability_of_data >= LEVEL and share[0] >= _SURE_OF_A_CAUSE)
    among = share[1:] if agrees else probabilities(fits)
    kept = [
        (hypothesis, float(p))
        for k, (hypothesis, p) in enumerate(zip(fits, among, strict=True))
        if (k < _TOLD and p >= _LEAST)
        or (k < _FEWEST and (agrees or not k or _gained(hypothesis, nothing) > _SOME))
    ]
    groups = _groups(observed, [hypothesis for hypothesis, _ in kept])
    listed = tuple(
        _listed(
            hypothesis,
            p,
            nothing,
            next(g for g, m in enumerate(groups) if k in m),
            is_all and not agrees,
        )
        for k, (hypothesis, p) in enumerate(kept)
    )
    best = max((h.probability_of_data for h in fits), default=0.0)
    is_known = agrees or best >= IMPROBABLE
    shape = ""
    if is_all and not is_known:
        shape = shape_of(observed, kept[0][0].predicted if kept else nothing.predicted)
        shape = f"{shape} {missing(observed)}".strip()
    following = None
    if is_all and not agrees and listed:
        first = set(groups[0])
        equals = [(h, max(p, _AN_EQUAL) if k in first else p) for k, (h, p) in enumerate(kept)]
        following = next_measurement(observed, equals)
    return Explanation(
        answer=_answer(agrees, nothing, listed, groups, is_known, shape, is_all),
        agrees=agrees, chi_square=nothing.chi_square, points=observed.points,
        probability_of_data=nothing.probability_of_data, likely=_likely(nothing),
        predicted=nothing.predicted, causes=listed, groups=groups, next=following, residual=shape,
        is_known=is_known,
    )  # fmt: skip


def _groups(observed: Observed, fits: Sequence[Hypothesis]) -> tuple[tuple[int, ...], ...]:
    """Each cause with those before it whose predictions are the same within the noise."""
    groups: list[list[int]] = []
    for k, one in enumerate(fits):
        for group in groups:
            first = fits[group[0]]
            is_as_good = abs(one.chi_square - first.chi_square) < _AS_GOOD
            if is_as_good and between(one.predicted, first.predicted, observed) < _SAME:
                group.append(k)
                break
        else:
            groups.append([k])
    return tuple(tuple(group) for group in groups)


def _gained(hypothesis: Hypothesis, nothing: Hypothesis) -> float:
    """The share of the gap that a cause takes away: of chi-square beyond what chance leaves."""
    beyond = max(nothing.chi_square - nothing.model.observed.points, 1.0)
    return float(np.clip((nothing.chi_square - hypothesis.chi_square) / beyond, 0.0, 1.0))


def _listed(
    hypothesis: Hypothesis, p: float, nothing: Hypothesis, group: int, is_final: bool
) -> Listed:
    values = hypothesis.values
    is_looked_at = is_final and p >= _WORTH_A_GRID
    uncertainties = hypothesis.uncertainties if is_looked_at else hypothesis.by_straight_lines
    sentence = " ".join(
        cause.sentence.replace("{value}", _with(value, uncertainty, cause.unit))
        for cause, value, uncertainty in zip(hypothesis.causes, values, uncertainties, strict=True)
    )
    return Listed(
        hypothesis.causes, values, uncertainties, p, _gained(hypothesis, nothing),
        hypothesis.chi_square, group, sentence, hypothesis.predicted,
    )  # fmt: skip


def _with(value: float | None, uncertainty: float | None, unit: str) -> str:
    if value is None:
        return ""
    if uncertainty is not None and uncertainty > abs(value):
        return f"about {engineering(value, unit, 1)}"
    return with_uncertainty(value, uncertainty or 0.0, unit)


def _likely(nothing: Hypothesis) -> tuple[LikelyValue, ...]:
    covariance = nothing.fit.covariance
    elements = nothing.model.observed.elements
    found = []
    for k, of in enumerate(nothing.model.nuisances):
        element = elements[of.part]
        nominal = float(element.values[of.key].real)
        value = nominal * float(np.exp(of.share * nothing.fit.theta[k]))
        deviation = min(1.0, float(np.sqrt(covariance[k, k])))
        unit = element.device.description.parameter(of.key).unit
        found.append(
            LikelyValue(of.part, nominal, value, unit, 2 * of.share * deviation * abs(value),
                        1 - deviation, of.is_usual)
        )  # fmt: skip
    return tuple(found)


def _answer(
    agrees: bool,
    nothing: Hypothesis,
    listed: Sequence[Listed],
    groups: Sequence[Sequence[int]],
    is_known: bool,
    shape: str,
    is_all: bool,
) -> str:
    if agrees:
        by_habit = [of.part for of in nothing.model.nuisances if of.is_usual]
        assumed = f", with what is usual for {_and(by_habit)}" if by_habit else ""
        return f"There is no gap: the tolerances of the parts account for it{assumed}."
    if not listed:
        return "Tolerances do not account for it, and no other cause is allowed."
    if not is_known and not is_all:
        return f"Still looking. Nearest so far: {listed[0].sentence}"
    if not is_known:
        took = "" if listed[0].explains < 0.3 else f" Nearest comes: {listed[0].sentence}"
        return f"None of the causes that are known explains it. {shape}{took}"
    leading = listed[groups[0][0]].probability
    first = [c for c in (listed[k] for k in groups[0]) if c.probability > _WORTH_A_WORD * leading]
    sure = sum(each.probability for each in first)
    if len(first) == 1:
        return f"{_confidence(sure)}: {first[0].sentence}"
    one_of = " Or: ".join(each.sentence for each in first[:3])
    more = f" Or one of {len(first) - 3} more." if len(first) > 3 else ""
    return f"{_confidence(sure)} one of these, which the data cannot tell apart: {one_of}{more}"


def _confidence(probability: float) -> str:
    for least, words in ((0.99, "Almost certainly"), (0.9, "Very probably"), (0.6, "Probably")):
        if probability >= least:
            return words
    return "Perhaps"


def _and(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
