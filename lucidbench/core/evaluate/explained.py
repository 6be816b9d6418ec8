"""An explanation as the page draws it: sentences, curves through the dots, and what can be done."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucidbench.core.analyses import Watch
from lucidbench.core.cases import BASE, name_of
from lucidbench.core.diagnosis import KINDS, Explanation
from lucidbench.core.diagnosis.blocks import OverFrequency, OverSource, OverTime
from lucidbench.core.diagnosis.explanation import Listed
from lucidbench.core.diagnosis.next_measurement import Measurement
from lucidbench.core.diagnosis.observed import Array, Block
from lucidbench.core.document.exercise import CaseChange, Exercise
from lucidbench.core.document.patch import Change
from lucidbench.core.evaluate.gaps import Gap, gap_of
from lucidbench.core.evaluate.hand_gaps import BENCH, SIMULATED, HandExplanation, explained_by_hand
from lucidbench.core.evaluate.into_model import as_case, into_model
from lucidbench.core.units import engineering
from lucidbench.core.units.engineering import typed
from lucidbench.core.units.uncertain import COVERAGE, with_uncertainty

Voices = Literal["bench-simulated", "hand-simulated", "bench-hand"]
_UNITS = {"arg": "°", "dB": "dB"}


@dataclass(frozen=True, slots=True)
class SourceLook:
    """Something that was measured, and whether it is explained from."""

    key: str
    label: str
    used: bool


@dataclass(frozen=True, slots=True)
class CauseLook:
    """`label` heads the kind, `part` is a part's name, or where nothing is to be shown on the sheet, empty.
    `explains` is the share of the gap it takes away. `changes` put it into the model, `case` is the same as a
    case of its own; either may be empty. `ruled_by` is by what it is ruled out: cause and part."""

    key: str
    label: str
    part: str
    sentence: str
    probability: float
    explains: float
    group: int
    changes: list[Change]
    case: list[CaseChange]
    ruled_by: list[str]


@dataclass(frozen=True, slots=True)
class ChartLook:
    """Dots with error bars, expanded, and curves through them: of tolerances alone, then of each cause."""

    name: str
    unit: str
    axis: str
    axis_unit: str
    is_log: bool
    x: list[float]
    values: list[float]
    errors: list[float]
    curves: list[list[float]]


@dataclass(frozen=True, slots=True)
class LikelyLook:
    """What a value within its tolerance is most likely; `fixed` as in LikelyValue."""

    part: str
    nominal: str
    text: str
    fixed: float
    assumed: bool


@dataclass(frozen=True, slots=True)
class NextLook:
    """What to measure next: the recipe for it, and what each of the leading causes would show."""

    sentence: str
    way: str
    settings: dict[str, str]
    expected: list[str]


@dataclass(frozen=True, slots=True)
class KindOfCause:
    """A kind of cause that gaps of an exercise may be explained by."""

    key: str
    label: str


@dataclass(frozen=True, slots=True)
class ExplanationLook:
    """`is_all` once the search is over; before, the list grows. `groups` are numbers of `causes`."""

    answer: str
    agrees: bool
    is_known: bool
    is_all: bool
    chi_square: float | None
    points: int
    causes: list[CauseLook]
    groups: list[list[int]]
    charts: list[ChartLook]
    likely: list[LikelyLook]
    next: NextLook | None
    sources: list[SourceLook]
    notes: list[str]
    planted: list[str]
    is_sealed: bool
    kinds: list[KindOfCause]


@dataclass(frozen=True)
class Question:
    """What shall be explained: which two `voices`, of hand lines which row, in which case; the sources left
    away, and the causes ruled out, as "cause part"; of several runs that show the same the one meant."""

    voices: Voices = "bench-simulated"
    row: str = ""
    case: str = BASE
    run: str = ""
    left: tuple[str, ...] = ()
    without: tuple[str, ...] = ()


def explanation(
    exercise: Exercise,
    question: Question,
    watch: Watch | None = None,
    grows: Callable[[ExplanationLook], None] = lambda so_far: None,
) -> ExplanationLook:
    """The answer to why two voices differ. Raises LucidError where nothing is there to be explained, or where
    it was cancelled."""
    ruled_out = {
        (cause, part) for cause, _, part in (each.partition(" ") for each in question.without)
    }
    if question.voices != "bench-simulated":
        against = BENCH if question.voices == "bench-hand" else SIMULATED
        told = explained_by_hand(exercise, question.row, against, question.case, ruled_out, watch)
        return _of_hand(exercise, told)
    gap = gap_of(exercise, question.left, question.run)

    def so_far(found: Explanation) -> None:
        grows(_look(exercise, gap, found, is_all=False))

    found = gap.explained(exercise.causes, ruled_out, watch, so_far)
    return _look(exercise, gap, found, is_all=True)


def _look(exercise: Exercise, gap: Gap, found: Explanation, is_all: bool) -> ExplanationLook:
    records = [key for key in gap.used if any(record.id == key for record in exercise.records)]
    return ExplanationLook(
        answer=found.answer, agrees=found.agrees, is_known=found.is_known, is_all=is_all,
        chi_square=found.chi_square, points=found.points,
        causes=[_cause(exercise, gap, each, records, is_all) for each in found.causes],
        groups=[list(group) for group in found.groups],
        charts=list(_charts(exercise, gap, found)) if is_all or found.causes else [],
        likely=[
            LikelyLook(v.part, engineering(v.nominal, v.unit, 3),
                       with_uncertainty(v.value, v.uncertainty, v.unit), v.fixed, v.is_usual)
            for v in found.likely
        ],
        next=_next(found.next),
        sources=[SourceLook(s.key, s.label, s.key in gap.used) for s in gap.sources],
        notes=list(gap.notes), planted=list(_planted(exercise)), is_sealed=bool(exercise.build.sealed),
        kinds=[
            KindOfCause(key, label)
            for key, label in {kind.key: kind.label for kind in reversed(KINDS)}.items()
        ],
    )  # fmt: skip


def _cause(
    exercise: Exercise, gap: Gap, each: Listed, records: Sequence[str], is_all: bool
) -> CauseLook:
    names = {part.name for part in exercise.schematic.parts}
    first = each.causes[0]
    changes: list[Change] = []
    case: list[CaseChange] = []
    if is_all:
        for cause, value in zip(each.causes, each.values, strict=True):
            changes += into_model(exercise, cause, value, list(gap.runs), list(records))
            case += as_case(exercise, cause, value)
        if len(case) < len(each.causes):
            case = []
    labels = {kind.key: kind.label for kind in KINDS}
    return CauseLook(
        first.key, " and ".join(labels.get(c.key, c.key.replace("_", " ")) for c in each.causes),
        first.part if first.part in names else "", each.sentence, each.probability, each.explains,
        each.group, changes, case, [f"{c.key} {c.part}" for c in each.causes],
    )  # fmt: skip


def _charts(exercise: Exercise, gap: Gap, found: Explanation) -> Iterator[ChartLook]:
    """One of each column that is a curve."""
    curves = [found.predicted, *(each.predicted for each in found.causes)]
    at = 0
    for block in gap.observed.blocks:
        where = "" if block.case == BASE else f", {name_of(exercise, block.case)}"
        for column in block.columns:
            end = at + len(column.values)
            axis = _axis(block)
            if axis is not None and len(column.values) > 1:
                name, unit, is_log, x = axis
                yield ChartLook(
                    f"{column.text}{where}", _UNITS.get(column.part, ""), name, unit, is_log, _short(x),
                    _short(column.values), _short(COVERAGE * column.sigma),
                    [_short(curve[at:end]) for curve in curves],
                )  # fmt: skip
            at = end


def _axis(block: Block) -> tuple[str, str, bool, Array] | None:
    match block:
        case OverFrequency():
            return "f", "Hz", True, block.frequencies
        case OverTime():
            return "t", "s", False, block.times
        case OverSource():
            return block.swept, "", False, block.steps
    return None


def _short(values: Array) -> list[float]:
    """To six digits, which is more than can be drawn."""
    return [float(f"{v:.6g}") if np.isfinite(v) else 0.0 for v in values]


def _next(found: Measurement | None) -> NextLook | None:
    if found is None:
        return None
    settings: dict[str, str] = {}
    match found.way:
        case "meter":
            settings = {"function": "volts", "at": found.where}
        case "component":
            settings = {"part": found.where, "frequency": "1 kHz"}
        case _ if found.frequency:
            settings = {
                "at": found.where, "from": typed(found.frequency / 1.5, "Hz", 3),
                "to": typed(found.frequency * 1.5, "Hz", 3), "points": "9",
            }  # fmt: skip
    return NextLook(found.sentence, found.way, settings, list(found.expected))


_FAULTS = {
    "factor": "{part} is wrong by a factor of {factor:g}", "open": "{part} is open",
    "short": "{part} is short",
    "turn": "{part} is turned round", "wire": "a lead of {part} is on the node {node}",
    "exchange": "{part} and {other} are exchanged",
}  # fmt: skip


def _planted(exercise: Exercise) -> Iterator[str]:
    """What the author put into the build, in words; nothing of one that is sealed."""
    names = {part.id: part.name for part in exercise.schematic.parts}
    for fault in exercise.build.faults:
        yield _FAULTS[fault.does].format(
            part=names.get(fault.part, "?"), other=names.get(fault.other, "?"), node=fault.node,
            factor=fault.factor,
        )  # fmt: skip
    for fixed in exercise.build.fixed:
        yield f"{names.get(fixed.part, '?')}: {fixed.key.replace('_', ' ')} {fixed.text}"


def _of_hand(exercise: Exercise, told: HandExplanation) -> ExplanationLook:
    lines = {line.id: k for k, line in enumerate(exercise.hand)}
    names = {part.name for part in exercise.schematic.parts}
    causes = []
    for each in told.causes:
        changes = []
        if each.text and each.line in lines:
            changes = [Change(op="replace", path=f"/hand/{lines[each.line]}/text", value=each.text)]
        causes.append(
            CauseLook(
                each.key, each.key.replace("_", " "), each.part if each.part in names else "",
                f"{each.sentence} {each.text}".strip(), each.probability, each.explains, each.group,
                changes, [], [f"{each.key} {each.part}"],
            )
        )  # fmt: skip
    return ExplanationLook(
        answer=told.answer, agrees=told.agrees, is_known=bool(told.causes), is_all=True, chi_square=None,
        points=1, causes=causes, groups=[list(group) for group in told.groups], charts=[], likely=[],
        next=None, sources=[], notes=[], planted=[], is_sealed=False, kinds=[],
    )  # fmt: skip
