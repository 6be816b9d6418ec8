"""The analyses as a page offers them."""

from __future__ import annotations

from pydantic import BaseModel

from lucidbench.core.runs.kinds import ANALYSES, AnalysisKind
from lucidbench.core.runs.settings import Setting


class MoreReading(BaseModel):
    """A figure that is read off the curves when it is asked for."""

    key: str
    label: str


class Analysis(BaseModel):
    """The question an analysis is for, what it is told, and what more can be read off."""

    key: str
    label: str
    answers: str
    settings: list[Setting] = []
    has_curves: bool = True
    readings: list[MoreReading] = []


def offered() -> list[Analysis]:
    return [_offered(kind) for kind in ANALYSES.values()]


def _offered(kind: AnalysisKind) -> Analysis:
    asked = [(reading.key, reading.label) for reading in kind.readings if not reading.by_itself]
    return Analysis(
        key=kind.key,
        label=kind.label,
        answers=kind.answers,
        settings=list(kind.settings),
        has_curves=kind.has_curves,
        readings=[MoreReading(key=key, label=label) for key, label in (*asked, *kind.marks)],
    )
