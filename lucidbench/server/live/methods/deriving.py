"""Work by hand: how lines stand to the circuit, how figures come about, which values lead where."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from lucidbench.core.analyses import Watch
from lucidbench.core.evaluate.designed import DesignLook, designed
from lucidbench.core.evaluate.exact_shapes import Exactness
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.seek import MOST_SOUGHT, Free, SeekLook, Target, sought
from lucidbench.core.evaluate.worked_out import TurnLook, WorkingLook, working_of, your_turn
from lucidbench.core.working import How
from lucidbench.server.live.method import Given, Sent, in_process

WORKED_OUT_WITHIN = 20.0  # s
SOUGHT_WITHIN = 60.0  # s


class ExactAsked(Sent):
    """Whether the figures by hand of a `case` are the circuit's own."""

    case: str = ""


@in_process
def exact(asked: ExactAsked, given: Given) -> list[Exactness]:
    """Whether the figures by hand are equal to the circuit's own, near them or wrong."""
    return exactness(given.document, asked.case)


class WorkingAsked(Sent):
    """How a `figure` (V_out, I_R1, V_a - V_b) comes about, `how` it is meant, in a `case`."""

    figure: Annotated[str, Field(min_length=1, max_length=140)]
    how: How = "rest"
    case: str = ""


@in_process
def working(asked: WorkingAsked, given: Given) -> WorkingLook:
    """How a figure comes about, in every way that leads there. Raises LucidError where it is none that can be
    worked out."""
    watch = Watch(WORKED_OUT_WITHIN, given.tell)
    return working_of(given.document, asked.figure, asked.how, asked.case, watch)


class TurnAsked(WorkingAsked):
    """Whether a line says the same as the `step` of a `way`."""

    way: Annotated[str, Field(max_length=40)]
    step: int
    text: Annotated[str, Field(max_length=500)]


@in_process
def turn(asked: TurnAsked, given: Given) -> TurnLook:
    """Whether the student's line says what the step says. Raises LucidError if the figure has no working."""
    return your_turn(
        given.document, asked.figure, asked.how, asked.case, asked.way, asked.step, asked.text
    )


class DesignAsked(Sent):
    """What the lines with a question mark come to in a `case`, and which values of a `series` are near;
    with `pairs`, two in series or in parallel too."""

    case: str = ""
    series: Literal["E6", "E12", "E24", "E48", "E96"] = "E24"
    pairs: bool = False


@in_process
def design(asked: DesignAsked, given: Given) -> DesignLook:
    """What is sought by lines with a question mark, and the preferred values near it."""
    return designed(given.document, asked.case, asked.series, asked.pairs)


class SeekAsked(Sent):
    """Which values of `free` parts make simulated figures what the `targets` say, in a `case`."""

    case: str = ""
    free: list[Free] = Field(max_length=MOST_SOUGHT)
    targets: list[Target] = Field(max_length=MOST_SOUGHT)


@in_process
def seek(asked: SeekAsked, given: Given) -> SeekLook:
    """Values sought so that simulated figures are met. Raises DocumentError for what cannot be sought."""
    watch = Watch(SOUGHT_WITHIN, given.tell)
    return sought(given.document, asked.free, asked.targets, asked.case, watch)
