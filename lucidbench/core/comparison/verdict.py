"""Whether two voices agree on a quantity.

Where an uncertainty is known, two values agree when their difference is no larger than the root sum
square of both expanded uncertainties (the E_n number, ISO 13528:2022, 9.7: |E_n| <= 1). A hand value
carries no uncertainty of its own; it agrees with the simulation within 1 %, three-figure working, and
is near within 5 % (common practice, no published source).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

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
    """One voice's figure; `uncertainty` is the expanded one, None where none is claimed."""

    name: str
    value: float
    uncertainty: float | None = None


@dataclass(frozen=True)
class Difference:
    """`value` minus the reference, in the quantity's unit and relative to the reference."""

    absolute: float
    relative: float | None
    state: State
    sentence: str

    @property
    def is_nothing(self) -> bool:
        """Whether the two are equal to five figures."""
        return _is_nothing(self.absolute, self.relative)


def compare(voice: Voice, reference: Voice, unit: str) -> Difference:
    """How `voice` stands to `reference`, in figures and in words."""
    absolute = voice.value - reference.value
    if abs(absolute) <= ROUNDING * max(abs(voice.value), abs(reference.value)):
        absolute = 0.0
    relative = absolute / abs(reference.value) if reference.value else None
    uncertainty = math.hypot(voice.uncertainty or 0.0, reference.uncertainty or 0.0)
    by_uncertainty = voice.uncertainty is not None and uncertainty > 0
    if by_uncertainty:
        state = State.AGREE if abs(absolute) <= uncertainty else State.GAP
    else:
        state = _by_closeness(absolute, max(abs(voice.value), abs(reference.value)))
    sentence = _sentence(
        voice, reference, absolute, relative, unit, uncertainty if by_uncertainty else None
    )
    return Difference(absolute, relative, state, sentence)


def _is_nothing(absolute: float, relative: float | None) -> bool:
    return absolute == 0 or (relative is not None and abs(relative) < EQUAL_WITHIN)


def _by_closeness(absolute: float, scale: float) -> State:
    if abs(absolute) <= AGREES_WITHIN * scale:
        return State.AGREE
    return State.NEAR if abs(absolute) <= NEAR_WITHIN * scale else State.GAP


def _sentence(
    voice: Voice,
    reference: Voice,
    absolute: float,
    relative: float | None,
    unit: str,
    uncertainty: float | None,
) -> str:
    names = f"{voice.name.capitalize()}", reference.name
    if _is_nothing(absolute, relative):
        return f"{names[0]} and {names[1]} are equal."
    side = "above" if absolute > 0 else "below"
    amount = engineering(abs(absolute), unit, digits=3)
    share = "" if relative is None else f" ({engineering(100 * abs(relative), '%', digits=2)})"
    sentence = f"{names[0]} lies {amount}{share} {side} {names[1]}"
    if uncertainty is None:
        return f"{sentence}."
    allowed = engineering(uncertainty, unit, digits=2)
    if abs(absolute) <= uncertainty:
        return f"{sentence}, within the ±{allowed} of tolerances and reading."
    return f"{sentence}; tolerances and reading explain ±{allowed} of it."
