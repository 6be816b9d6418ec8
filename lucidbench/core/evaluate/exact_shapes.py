"""What is told of a hand line beside the exact result."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lucidbench.core.document.exercise import Exercise

State = Literal["equal", "approximate", "wrong"]
Verdict = Literal[
    "equal", "equal_at_these_values", "equal_to_textbook_model", "approximate", "wrong"
]
# Why: how it was decided, what was left out, or what is wrong.
Reason = Literal[
    "by_algebra", "by_numbers", "no_other_values", "equal_parts", "numbers", "these_values", "rounded",
    "nearly", "textbook_model", "base_current", "junction", "rules_of_thumb", "left_out", "plain_wire",
    "highest_power", "unknown", "slip", "units", "rests_on_wrong_line", "goes_another_way",
]  # fmt: skip
_PRICE = 0.1
Reference = Literal["circuit", "simulation"]


@dataclass(frozen=True)
class Band:
    """The relative error over something: the frequency f, the time t, or the value of a part."""

    of: str
    unit: str
    x: list[float]
    errors: list[float]


@dataclass(frozen=True)
class Exactness:
    """Of the hand figure `figure`: its `relative_error` at the values as drawn, the `worst` there and at
    others, None where it comes to nothing, and over the tolerances (`box`, None where there are none).
    `reference` is what it is held against: the circuit's own equations, or where parts are not linear, the
    simulation in numbers. A curve has the id of its `line`, what it is `over`, f or t, and its errors are
    shares of its largest value; an equation has its `line` alone. `parts` are those that were left out, or
    that numbers stand for; `mend` is the line as it would be right, "" where no one small change makes it so.
    """

    figure: str
    state: State
    verdict: Verdict
    reason: Reason
    sentence: str
    relative_error: float | None
    worst: float | None
    reference: Reference
    box: float | None = None
    band: Band | None = None
    line: str = ""
    over: str = ""
    parts: tuple[str, ...] = ()
    mend: str = ""


def price_of(exercise: Exercise) -> float:
    """Relative: what an approximation may cost (common practice, no published source)."""
    return max(_PRICE, exercise.allowed or 0.0)


def state_of(verdict: Verdict) -> State:
    """Its mark on the page: what is equal at these values alone is marked as an approximation."""
    match verdict:
        case "equal" | "equal_to_textbook_model":
            return "equal"
        case "equal_at_these_values" | "approximate":
            return "approximate"
        case "wrong":
            return "wrong"


@dataclass(frozen=True)
class Neglected:
    """What has to be left out of the circuit for a line to be right: of which part, as a reason and in
    words."""

    reason: Reason
    part: str
    words: str


@dataclass(frozen=True)
class Fault:
    """What is wrong with a line: as a reason and in words, and the line mended, "" where not known. Where
    nothing but a `part` is left out of it, it may be an approximation as well."""

    reason: Reason
    words: str
    mend: str = ""
    part: str = ""
