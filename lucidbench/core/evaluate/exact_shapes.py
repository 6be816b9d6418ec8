"""What is told of a hand line beside the exact result."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

State = Literal["equal", "approximate", "wrong"]
Verdict = Literal[
    "equal", "equal_at_these_values", "equal_to_textbook_model", "approximate", "wrong"
]
# Why: how it was decided, what was left out, or what is wrong.
Reason = Literal[
    "by_algebra", "by_numbers", "no_other_values", "nearly", "textbook_model", "base_current",
    "junction", "rules_of_thumb", "left_out", "plain_wire", "highest_power", "unknown", "slip",
    "rests_on_wrong_line", "goes_another_way",
]  # fmt: skip
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
    others, and over the tolerances (`box`, None where there are none). `reference` is what it is held
    against: the circuit's own equations, or where parts are not linear, the simulation in numbers. A curve
    has the id of its `line`, what it is `over`, f or t, and its errors are shares of its largest value.
    `parts` are those that were left out, `mend` the line as it would be right, "" where no one small change
    makes it so."""

    figure: str
    state: State
    verdict: Verdict
    reason: Reason
    sentence: str
    relative_error: float
    worst: float
    reference: Reference
    box: float | None = None
    band: Band | None = None
    line: str = ""
    over: str = ""
    parts: tuple[str, ...] = ()
    mend: str = ""


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
    """What is wrong with a line: as a reason and in words, and the line mended, "" where not known."""

    reason: Reason
    words: str
    mend: str = ""
