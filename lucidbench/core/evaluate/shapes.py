"""What one look tells, entry by entry. Entries never change, so an earlier look's may be told again."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lucidbench.core.document.figure import Figure
from lucidbench.core.formula.worksheet import Role
from lucidbench.core.schematic import Finding
from lucidbench.core.schematic.document import Point
from lucidbench.core.schematic.kinds import KindLook
from lucidbench.core.working.about import About


@dataclass(frozen=True, slots=True)
class OfferLook:
    label: str
    text: str


@dataclass(frozen=True, slots=True)
class ValueLook:
    """One value of a part: `echo` as it was understood, `problem` or `question` where it was not;
    `instead` are texts for two values, by key, where one complex number was written for both."""

    key: str
    text: str
    number: float | None
    echo: str | None
    problem: str | None
    question: str | None
    offers: list[OfferLook]
    preferred: OfferLook | None
    instead: dict[str, str]


@dataclass(frozen=True, slots=True)
class PartLook:
    """`caption` holds the values written beside it; `description` is spoken: "R1, 4.7 kΩ, from in to out"."""

    id: str
    name: str
    caption: str
    description: str
    values: list[ValueLook]


@dataclass(frozen=True, slots=True)
class NamedLook:
    """A circuit parameter as understood, or what is wrong with it."""

    id: str
    unit: str
    echo: str | None
    latex: str | None
    problem: str | None


@dataclass(frozen=True, slots=True)
class NetLook:
    name: str
    ground: bool
    named: bool
    pins: list[tuple[str, int]]
    wires: list[str]


@dataclass(frozen=True, slots=True)
class QuantityLook:
    """A simulated figure. `flow` is the sign of `value`: its direction from the first pin; `exact` has
    all the digits that mean anything, `magnitude` no sign, for where an arrow or a word tells it."""

    name: str
    latex: str
    kind: str
    subject: str
    value: float
    text: str
    exact: str
    magnitude: str
    flow: Literal[-1, 0, 1]
    uncertainty: str | None
    meaning: str


@dataclass(frozen=True, slots=True)
class LineLook:
    """A line of working: `target` is the name it gives, `typed` its result as it could be typed, `role` what
    kind of line it is; of an equation or a condition `holds` says whether it does. What it is `about` is the
    circuit at rest, its phasors, which are `at_frequency`, or a curve; an `aside` says where nothing is held
    against what it gives, "" where something is."""

    id: str
    latex: str | None
    substituted: str | None
    target: str | None
    result: str | None
    typed: str | None
    simulated: bool
    problem: str | None
    at: int
    length: int
    role: Role
    holds: bool | None
    about: About
    at_frequency: str
    aside: str


@dataclass(frozen=True, slots=True)
class DifferenceLook:
    absolute: str
    relative: str | None
    state: Literal["open", "agree", "near", "gap"]


@dataclass(frozen=True, slots=True)
class ContributionLook:
    """What one source may do to a difference: expanded, and its share of the square sum."""

    source: str
    size: str
    share: float


@dataclass(frozen=True, slots=True)
class BudgetLook:
    """What decides a verdict: the difference of two voices beside what it may come to. `covered` is the
    expanded uncertainty of all sources together; `by_draws` where it was found so."""

    of: str
    difference: str
    covered: str
    ratio: float
    by_draws: bool
    contributions: list[ContributionLook]


@dataclass(frozen=True, slots=True)
class RowLook:
    """A row of the ledger, of `figure`. `row` is the id of the document's own row, where it has one, and
    `measurement` that of the reading that counts; `stale` whether the circuit was changed since, `kept`
    whether the simulated value shall stay, and `bare` whether the tolerances are not reckoned in.
    `numbers` are the bare values of hand, simulated and bench, with their uncertainties."""

    quantity: str
    latex: str
    kind: str
    subject: str
    meaning: str
    hand: str | None
    hand_uncertainty: str | None
    hand_problem: str | None
    simulated: str | None
    simulated_uncertainty: str | None
    simulated_problem: str | None
    bench: str | None
    bench_uncertainty: str | None
    bench_problem: str | None
    simulated_less_hand: DifferenceLook | None
    bench_less_simulated: DifferenceLook | None
    bench_less_hand: DifferenceLook | None
    verdict: Literal["open", "agree", "near", "gap"]
    sentence: str | None
    row: str | None
    figure: Figure
    measurement: str | None
    conditions: str
    stale: bool
    kept: bool
    bare: bool
    group: str
    note: str
    unit: str
    numbers: list[tuple[float, float] | None]
    budget: BudgetLook | None


@dataclass(frozen=True, slots=True)
class RunMark:
    """`fingerprint` is the one that the result of the run with this id has while it is of now."""

    id: str
    fingerprint: str


@dataclass(frozen=True)
class Evaluation:
    """`blocks` are the document's own kinds of part; `unsolved` says why there is no operating point,
    and is None where there is. Where it is not `compared`, tolerances and ledger are left out.

    `spoken` are names of nodes by number, as n3, that the document speaks of, there or not.
    """

    parts: list[PartLook]
    parameters: list[NamedLook]
    blocks: list[KindLook]
    nets: list[NetLook]
    joints: list[Point]
    findings: list[Finding]
    quantities: list[QuantityLook]
    unsolved: str | None
    lines: list[LineLook]
    compared: bool
    ledger: list[RowLook]
    runs: list[RunMark]
    spoken: list[str]
