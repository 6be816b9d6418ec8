"""Everything a page may ask on its line, one entry each: what is sent, what comes back, and how."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Any, NamedTuple, TypeVar

from pydantic import BaseModel, TypeAdapter

from lucidbench.core.cases import in_case, typed_case
from lucidbench.core.document.exercise import Build, CaseChange, Exercise
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.document.rename import rename
from lucidbench.core.errors import DocumentError
from lucidbench.core.evaluate import EvaluationDelta, delta, evaluation_of
from lucidbench.core.evaluate.designed import DesignLook
from lucidbench.core.evaluate.exact_shapes import Exactness
from lucidbench.core.evaluate.explained import ExplanationLook, Question
from lucidbench.core.evaluate.ledgers import CaseLedger
from lucidbench.core.evaluate.seek import SeekLook
from lucidbench.core.evaluate.shapes import QuantityLook
from lucidbench.core.evaluate.worked_out import TurnLook, WorkingLook
from lucidbench.core.runs import SETTING_READS, RunLook, present
from lucidbench.core.runs.bench_overlay import BesideLook, placed
from lucidbench.core.runs.marks import MarksLook, at_marks
from lucidbench.core.units.uncertain import with_uncertainty
from lucidbench.instruments.ways import Column, Taken
from lucidbench.server.benches.sealed import opened, sealed
from lucidbench.server.benches.sessions import STAND_IN, instrument_settings, plan_for, sessions
from lucidbench.server.jobs.executor import executor
from lucidbench.server.jobs.work import (
    BesideTask,
    DesignTask,
    ExactTask,
    ExplainTask,
    FiguresTask,
    FileTask,
    LedgersTask,
    RunTask,
    SeekTask,
    Tell,
    TurnTask,
    WorkingTask,
    result_of,
)
from lucidbench.server.live.memory import CachedDocument, memory, new_mark
from lucidbench.server.live.schemas import (
    BesideAsked,
    CaseAsked,
    DesignAsked,
    ExactAsked,
    ExplainAsked,
    FiguresAsked,
    FileAsked,
    LayAsked,
    LeadLook,
    LedgerFileAsked,
    LedgersAsked,
    LookAsked,
    MarksAsked,
    MeasureAsked,
    Ping,
    PlacedLook,
    PlanLook,
    RenameAsked,
    ResultAsked,
    RunAsked,
    SealAsked,
    SeekAsked,
    Sent,
    TakeAsked,
    TakenColumn,
    TakenLook,
    TurnAsked,
    WindowAsked,
    WorkingAsked,
)
from lucidbench.server.problems import CacheExpired

LOOKS_AT_ONCE = 4  # threads; looks take milliseconds each
# Bytes that a document with its look holds, generously: most is shared with those before and after.
_A_PART = 8_192
_A_SAMPLE = 32

BENCHES_AT_ONCE = 16  # points being measured, each of which waits for instruments most of the time

_threads = ThreadPoolExecutor(LOOKS_AT_ONCE, thread_name_prefix="look")
_benches = ThreadPoolExecutor(BENCHES_AT_ONCE, thread_name_prefix="bench")
_changes = TypeAdapter(list[Change])
_case_changes = TypeAdapter(list[CaseChange])
Body = TypeVar("Body", bound=BaseModel)


class Caller(NamedTuple):
    """Whose ask it is, and who is told how far it has come."""

    page: str
    tell: Tell


@dataclass(frozen=True)
class Ask:
    """`answer` is the model of what comes back, None where that is a file. A job takes a process."""

    body: type[BaseModel]
    answer: Any
    carry_out: Callable[[Caller, Any], Awaitable[bytes]]
    is_job: bool = False


def _quick(work: Callable[[str, Body], bytes]) -> Callable[[Caller, Body], Awaitable[bytes]]:
    """In a thread of this process."""

    async def carry_out(asker: Caller, asked: Body) -> bytes:
        loop = asyncio.get_running_loop()
        return await loop.run_in_executor(_threads, work, asker.page, asked)

    return carry_out


def _document(page: str, asked: Sent) -> Exercise:
    """The document meant. Raises CacheExpired where the one it is told since is remembered no more."""
    if asked.document is not None:
        return asked.document
    before = memory.get(page, asked.since)
    if not isinstance(before, CachedDocument):
        raise CacheExpired
    return patched(before.document, asked.changes)


def _look(page: str, asked: LookAsked) -> bytes:
    """Nets, findings, operating point, worked lines and ledger of a document, which is kept nowhere.

    CachedDocument by what has changed since an earlier look, where one is named and still remembered.
    """
    document = _document(page, asked)
    before = memory.get(page, asked.since)
    told = before.look if isinstance(before, CachedDocument) else None
    seen = evaluation_of(document, asked.inside or None, asked.compared, case=asked.case)
    mark = new_mark()
    memory.keep(page, mark, CachedDocument(document, seen), _size(document))
    return delta(seen, mark, told, asked.since)


def _size(document: Exercise) -> int:
    samples = sum(len(column.values) for record in document.records for column in record.columns)
    return _A_PART * (1 + len(document.schematic.parts)) + _A_SAMPLE * samples


def _rename(page: str, asked: RenameAsked) -> bytes:
    """What gives things of a document other names, wherever it speaks of them; nothing is kept."""
    renamed = rename(_document(page, asked), asked.renamings, SETTING_READS)
    return _changes.dump_json(renamed)


def _result(page: str, asked: ResultAsked) -> bytes:
    """The result meant, pickled. Raises CacheExpired."""
    result = memory.get(page, asked.result)
    if not isinstance(result, bytes):
        raise CacheExpired
    return result


def _closer(page: str, asked: WindowAsked) -> bytes:
    """A part of a remembered result with all its points; nothing is solved again."""
    look = present(result_of(_result(page, asked)), window=asked.window)
    look.result = asked.result
    return look.model_dump_json().encode()


def _marks(page: str, asked: MarksAsked) -> bytes:
    """The figures at markers of a remembered result, and between them."""
    records = _document(page, asked).records
    found = at_marks(result_of(_result(page, asked)), asked.marks, asked.jump, records)
    return found.model_dump_json().encode()


async def _run(asker: Caller, asked: RunAsked) -> bytes:
    """A run carried out: its curves, tables and readings. Its result is remembered for a while by the
    mark it is given."""
    mark = new_mark()
    task = RunTask(_document(asker.page, asked), asked.run, mark, asked.own, asked.case)
    outcome = await executor.carry_out(task, asker.tell)
    if outcome.result:
        memory.keep(asker.page, mark, outcome.result, len(outcome.result))
    return outcome.answer


async def _figures(asker: Caller, asked: FiguresAsked) -> bytes:
    task = FiguresTask(_document(asker.page, asked), asked.run, asked.at, asked.case)
    return (await executor.carry_out(task, asker.tell)).answer


async def _ledgers(asker: Caller, asked: LedgersAsked) -> bytes:
    """The ledger in each of several cases, slow figures and their tolerances among them."""
    task = LedgersTask(_document(asker.page, asked), tuple(asked.cases))
    return (await executor.carry_out(task, asker.tell)).answer


async def _explain(asker: Caller, asked: ExplainAsked) -> bytes:
    """Why two voices differ: causes, ranked. The answer grows until the search is over."""
    question = Question(
        asked.voices, asked.row, asked.case, asked.run, tuple(asked.left), tuple(asked.without)
    )
    task = ExplainTask(_document(asker.page, asked), question)
    return (await executor.carry_out(task, asker.tell)).answer


async def _exact(asker: Caller, asked: ExactAsked) -> bytes:
    """Whether the figures by hand are equal to the circuit's own, near them or wrong."""
    task = ExactTask(_document(asker.page, asked), asked.case)
    return (await executor.carry_out(task, asker.tell)).answer


async def _working(asker: Caller, asked: WorkingAsked) -> bytes:
    """How a figure comes about, in every way that leads there."""
    document = _document(asker.page, asked)
    task = WorkingTask(document, asked.figure, asked.how, asked.case)
    return (await executor.carry_out(task, asker.tell)).answer


async def _turn(asker: Caller, asked: TurnAsked) -> bytes:
    """Whether a line of one's own is the one of a step."""
    document = _document(asker.page, asked)
    task = TurnTask(
        document, asked.figure, asked.how, asked.case, asked.way, asked.step, asked.text
    )
    return (await executor.carry_out(task, asker.tell)).answer


async def _design(asker: Caller, asked: DesignAsked) -> bytes:
    """What is sought by lines with a question mark, and the preferred values near it."""
    document = _document(asker.page, asked)
    task = DesignTask(document, asked.case, asked.series, asked.pairs)
    return (await executor.carry_out(task, asker.tell)).answer


async def _seek(asker: Caller, asked: SeekAsked) -> bytes:
    """Values sought so that simulated figures are met."""
    document = _document(asker.page, asked)
    task = SeekTask(document, tuple(asked.free), tuple(asked.targets), asked.case)
    return (await executor.carry_out(task, asker.tell)).answer


async def _ledger_file(asker: Caller, asked: LedgerFileAsked) -> bytes:
    task = LedgersTask(_document(asker.page, asked), tuple(asked.cases), asked.form)
    return (await executor.carry_out(task, asker.tell)).answer


async def _file(asker: Caller, asked: FileAsked) -> bytes:
    task = FileTask(_result(asker.page, asked), asked.form)
    return (await executor.carry_out(task, asker.tell)).answer


async def _beside(asker: Caller, asked: BesideAsked) -> bytes:
    document = _document(asker.page, asked)
    task = BesideTask(_result(asker.page, asked), document, asked.run, asked.own, asked.before)
    return (await executor.carry_out(task, asker.tell)).answer


def _plan(page: str, asked: MeasureAsked) -> bytes:
    """What a recipe comes to, and which benches there are."""
    plan = plan_for(in_case(_document(page, asked), asked.case), asked.recipe)
    benches = [STAND_IN, *(bench.name for bench in instrument_settings().benches)]
    told = plan.settings.words(plan.way.settings)
    conditions = ", ".join([plan.way.label, *told]).replace("\u00a0", " ")
    look = PlanLook(
        settings=list(plan.settings.looks), leads=[LeadLook(**asdict(lead)) for lead in plan.leads],
        points=list(plan.points), problem=plan.problem, benches=benches, conditions=conditions,
    )  # fmt: skip
    return look.model_dump_json().encode()


async def _take(asker: Caller, asked: TakeAsked) -> bytes:
    """One point of a recipe, measured; what the bench says against it is refused with its sentence."""
    document = in_case(_document(asker.page, asked), asked.case)
    session = sessions.of(asker.page, asked.recipe.bench or STAND_IN)

    def work() -> Taken:
        return session.take(document, plan_for(document, asked.recipe), asked.at)

    taken = await asyncio.get_running_loop().run_in_executor(_benches, work)
    now = datetime.now(UTC).isoformat(timespec="seconds")
    columns = [
        TakenColumn(
            quantity=c.quantity, unit=c.unit, values=list(c.values),
            uncertainties=list(c.uncertainties), common=c.common, text=_written(c),
        )
        for c in taken.columns
    ]  # fmt: skip
    look = TakenLook(columns=columns, trigger=taken.trigger, note=taken.note, taken=now)
    return look.model_dump_json().encode()


def _written(column: Column) -> str:
    """A lone value as it is noted in a ledger: 2.597 V ± 0.015 V."""
    if len(column.values) != 1 or len(column.uncertainties) != 1:
        return ""
    return with_uncertainty(column.values[0], column.uncertainties[0], column.unit)


def _case(page: str, asked: CaseAsked) -> bytes:
    """What a case that was typed changes; nothing where the text is a name alone."""
    return _case_changes.dump_json(typed_case(_document(page, asked), asked.text))


def _lay(page: str, asked: LayAsked) -> bytes:
    """Where a record belongs over a simulated curve."""
    record = next((r for r in _document(page, asked).records if r.id == asked.record), None)
    if record is None:
        raise DocumentError(f"The exercise has no record {asked.record}.")
    shift, scale = placed(result_of(_result(page, asked)), record, asked.curve, asked.by)
    return PlacedLook(shift=shift, scale=scale).model_dump_json().encode()


def _seal(page: str, asked: SealAsked) -> bytes:
    return sealed(_document(page, asked).build, asked.word).model_dump_json().encode()


def _unseal(page: str, asked: SealAsked) -> bytes:
    return opened(_document(page, asked).build, asked.word).model_dump_json().encode()


async def _ping(asker: Caller, asked: Ping) -> bytes:
    return b"{}"


ASKS: dict[str, Ask] = {
    "ping": Ask(Ping, Ping, _ping),
    "look": Ask(LookAsked, EvaluationDelta, _quick(_look)),
    "rename": Ask(RenameAsked, list[Change], _quick(_rename)),
    "run": Ask(RunAsked, RunLook, _run, is_job=True),
    "figures": Ask(FiguresAsked, list[QuantityLook], _figures, is_job=True),
    "ledgers": Ask(LedgersAsked, list[CaseLedger], _ledgers, is_job=True),
    "explain": Ask(ExplainAsked, ExplanationLook, _explain, is_job=True),
    "exact": Ask(ExactAsked, list[Exactness], _exact, is_job=True),
    "working": Ask(WorkingAsked, WorkingLook, _working, is_job=True),
    "turn": Ask(TurnAsked, TurnLook, _turn, is_job=True),
    "design": Ask(DesignAsked, DesignLook, _design, is_job=True),
    "seek": Ask(SeekAsked, SeekLook, _seek, is_job=True),
    "closer": Ask(WindowAsked, RunLook, _quick(_closer)),
    "marks": Ask(MarksAsked, MarksLook, _quick(_marks)),
    "beside": Ask(BesideAsked, BesideLook, _beside, is_job=True),
    "plan": Ask(MeasureAsked, PlanLook, _quick(_plan)),
    "take": Ask(TakeAsked, TakenLook, _take),
    "case": Ask(CaseAsked, list[CaseChange], _quick(_case)),
    "lay": Ask(LayAsked, PlacedLook, _quick(_lay)),
    "seal": Ask(SealAsked, Build, _quick(_seal)),
    "unseal": Ask(SealAsked, Build, _quick(_unseal)),
    "ledger_file": Ask(LedgerFileAsked, None, _ledger_file, is_job=True),
    "file": Ask(FileAsked, None, _file, is_job=True),
}
