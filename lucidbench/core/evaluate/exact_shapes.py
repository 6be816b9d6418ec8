"""What is told of a hand line beside the exact result."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

State = Literal["equal", "approximate", "wrong"]
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
    has the id of its `line`, and its errors are shares of its largest value."""

    figure: str
    state: State
    sentence: str
    relative_error: float
    worst: float
    reference: Reference
    box: float | None = None
    band: Band | None = None
    line: str = ""
