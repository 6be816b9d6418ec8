"""The bench: the plan of a recipe, one measured point, and sealed builds."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime
from typing import Annotated

from pydantic import BaseModel, Field

from lucidbench.core.cases import in_case
from lucidbench.core.document.exercise import Build, Recipe
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.units.uncertain import with_uncertainty
from lucidbench.instruments.ways import Column
from lucidbench.server.benches.sealed import opened, sealed
from lucidbench.server.benches.sessions import STAND_IN, instrument_settings, plan_for, sessions
from lucidbench.server.live.method import Given, Sent, at_bench, in_thread


class MeasureAsked(Sent):
    """What to measure, in which `case`, and on which bench."""

    recipe: Recipe
    case: str = ""


class LeadLook(BaseModel):
    role: str
    node: str
    part: str
    pin: int
    words: str


class PlanLook(BaseModel):
    """The plan of a recipe: its settings as understood, where the leads go, and the abscissas."""

    settings: list[SettingLook]
    leads: list[LeadLook]
    points: list[float]
    problem: str | None
    benches: list[str]
    conditions: str


@in_thread
def plan(asked: MeasureAsked, given: Given) -> PlanLook:
    """The plan of a recipe, and the benches to choose from."""
    found = plan_for(in_case(given.document, asked.case), asked.recipe)
    benches = [STAND_IN, *(bench.name for bench in instrument_settings().benches)]
    told = found.settings.words(found.way.settings)
    conditions = ", ".join([found.way.label, *told]).replace("\u00a0", " ")
    return PlanLook(
        settings=list(found.settings.looks), leads=[LeadLook(**asdict(lead)) for lead in found.leads],
        points=list(found.points), problem=found.problem, benches=benches, conditions=conditions,
    )  # fmt: skip


class TakeAsked(MeasureAsked):
    """One point of it, `at` a place of its abscissa."""

    at: float = 0.0


class TakenColumn(BaseModel):
    """What one point gives of a quantity; `text` is a lone value with its uncertainty, written out."""

    quantity: str
    unit: str
    values: list[float]
    uncertainties: list[float]
    common: float
    text: str = ""


class TakenLook(BaseModel):
    columns: list[TakenColumn]
    trigger: float | None
    note: str
    taken: str


@at_bench
def take(asked: TakeAsked, given: Given) -> TakenLook:
    """One point of a recipe, measured; what the bench says against it is refused with its sentence."""
    document = in_case(given.document, asked.case)
    session = sessions.of(given.page, asked.recipe.bench or STAND_IN)
    taken = session.take(document, plan_for(document, asked.recipe), asked.at)
    columns = [
        TakenColumn(
            quantity=c.quantity, unit=c.unit, values=list(c.values),
            uncertainties=list(c.uncertainties), common=c.common, text=_written(c),
        )
        for c in taken.columns
    ]  # fmt: skip
    now = datetime.now(UTC).isoformat(timespec="seconds")
    return TakenLook(columns=columns, trigger=taken.trigger, note=taken.note, taken=now)


def _written(column: Column) -> str:
    """A lone value as it is noted in a ledger: 2.597 V ± 0.015 V."""
    if len(column.values) != 1 or len(column.uncertainties) != 1:
        return ""
    return with_uncertainty(column.values[0], column.uncertainties[0], column.unit)


class SealAsked(Sent):
    """A build to be sealed, or opened again, with a word."""

    word: Annotated[str, Field(min_length=1, max_length=200)]


@in_thread
def seal(asked: SealAsked, given: Given) -> Build:
    return sealed(given.document.build, asked.word)


@in_thread
def unseal(asked: SealAsked, given: Given) -> Build:
    return opened(given.document.build, asked.word)
