"""Whether two voices agree on a quantity.

Where an uncertainty is known, two values agree when their difference is no larger than the root sum
square of both expanded uncertainties (the E_n number, ISO 13528:2022, 9.7: |E_n| <= 1); what both owe to
the same source counts once. A hand value without an uncertainty of its own agrees with the simulation
within 1 %, three-figure working, and is near within 5 % (common practice, no published source). A
difference that is allowed for the exercise counts as agreement before all that.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from lucidbench.core.comparison.estimate import Estimate
from lucidbench.core.units import engineering

ROUNDING = 1e-12  # relative; what arithmetic alone may differ by
EQUAL_WITHIN = 5e-5
AGREES_WITHIN = 0.01
NEAR_WITHIN = 0.05


class State(Enum):
    """What can be said of a quantity."""

    OPEN = "open"  # fewer than two voices
    AGREE = "agree"
    NEAR = "near"
    GAP = "gap"

    @property
    def gravity(self) -> int:
        return _GRAVITY[self]


_GRAVITY = {State.OPEN: 0, State.AGREE: 1, State.NEAR: 2, State.GAP: 3}


@dataclass(frozen=True)
class Voice:
    """One voice's figure; `judges` whether its uncertainty may decide, `is_worked_out` whether closeness
    will do where that does not suffice."""

    name: str
    estimate: Estimate
    judges: bool = True
    is_worked_out: bool = False

    @property
    def value(self) -> float:
        return self.estimate.value

    @property
    def judged(self) -> Estimate:
        """With what of its uncertainty may decide."""
        return self.estimate if self.judges else Estimate(self.value, self.estimate.dimension)


@dataclass(frozen=True)
class Difference:
    """`value` minus the reference, in the quantity's unit and relative to the reference. `allowed` is what
    it may come to by what both may be off by, source by source."""

    absolute: float
    relative: float | None
    state: State
    sentence: str
    allowed: Estimate

    @property
    def uncertainty(self) -> float | None:
        """None where closeness decides."""
        return self.allowed.uncertainty or None

    @property
    def is_nothing(self) -> bool:
        """Whether the two are equal to five figures."""
        return _is_nothing(self.absolute, self.relative)


def compare(voice: Voice, reference: Voice, unit: str, allowed: float | None = None) -> Difference:
    """How `voice` stands to `reference`, in figures and in words; `allowed` is the share that counts as
    agreement."""
    absolute = _apart(voice.estimate, reference.estimate)
    if abs(absolute) <= ROUNDING * max(abs(voice.value), abs(reference.value)):
        absolute = 0.0
    relative = absolute / abs(reference.value) if reference.value else None
    difference = voice.judged.less(reference.judged)
    uncertainty = difference.uncertainty or None
    counts = allowed is not None and relative is not None and abs(relative) <= allowed
    if counts or (uncertainty is not None and abs(absolute) <= uncertainty):
        state = State.AGREE
    elif uncertainty is not None and not (voice.is_worked_out or reference.is_worked_out):
        state = State.GAP
    else:
        state = _by_closeness(absolute, max(abs(voice.value), abs(reference.value)))
    turned = voice.estimate.angle is not None and reference.estimate.angle is not None
    sentence = _sentence(voice, reference, absolute, relative, unit, turned)
    if not _is_nothing(absolute, relative):
        sentence += _because(absolute, unit, uncertainty, allowed if counts else None)
    return Difference(absolute, relative, state, sentence, difference)


def _apart(one: Estimate, other: Estimate) -> float:
    """One less the other: of two phasors the length between their tips, below zero where the first is the
    shorter. A voice without an angle is of the magnitude."""
    if one.angle is not None and other.angle is not None:
        sign = -1 if one.value < other.value else 1
        return sign * abs(one.number - other.number)
    if one.angle is not None or other.angle is not None:
        return abs(one.value) - abs(other.value)
    return one.value - other.value


def _is_nothing(absolute: float, relative: float | None) -> bool:
    return absolute == 0 or (relative is not None and abs(relative) < EQUAL_WITHIN)


def _by_closeness(absolute: float, scale: float) -> State:
    if abs(absolute) <= AGREES_WITHIN * scale:
        return State.AGREE
    return State.NEAR if abs(absolute) <= NEAR_WITHIN * scale else State.GAP


def _sentence(
    voice: Voice, reference: Voice, absolute: float, relative: float | None, unit: str, turned: bool
) -> str:
    names = f"{voice.name.capitalize()}", reference.name
    if _is_nothing(absolute, relative):
        return f"{names[0]} and {names[1]} are equal."
    side = "above" if absolute > 0 else "below"
    amount = engineering(abs(absolute), unit, digits=3)
    share = "" if relative is None else f" ({engineering(100 * abs(relative), '%', digits=2)})"
    if turned:
        return f"{names[0]} and {names[1]} are {amount}{share} apart"
    return f"{names[0]} lies {amount}{share} {side} {names[1]}"


def _because(absolute: float, unit: str, uncertainty: float | None, allowed: float | None) -> str:
    """The rest of the sentence: what decided."""
    if allowed is not None:
        return f", within the {engineering(100 * allowed, '%', digits=2)} that count as agreement."
    if uncertainty is None:
        return "."
    covered = engineering(uncertainty, unit, digits=2)
    if abs(absolute) <= uncertainty:
        return f", within the ±{covered} of tolerances and reading."
    return f"; tolerances and reading explain ±{covered} of it."
