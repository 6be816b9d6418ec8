"""The ledger in all cases, and why two voices differ."""

from __future__ import annotations

import time
from typing import Annotated

from pydantic import Field

from lucidbench.core.analyses import Watch
from lucidbench.core.evaluate import ledgers as core_ledgers
from lucidbench.core.evaluate.explained import ExplanationLook, Question, Voices, explanation
from lucidbench.core.evaluate.ledgers import CaseLedger
from lucidbench.core.evaluate.tables import LEDGER_EXPORTS
from lucidbench.core.runs.files import written
from lucidbench.server.live.method import Given, Sent, in_process, writer

EXPLAINED_WITHIN = 120.0  # s
_OFTEN = 0.2  # s between two states of an answer that grows


class LedgersAsked(Sent):
    """The ledgers of these `cases`, whatever they take."""

    cases: list[str] = Field(max_length=41)


@in_process
def ledgers(asked: LedgersAsked, given: Given) -> list[CaseLedger]:
    """The ledger in each of several cases, slow figures and their tolerances among them."""
    return core_ledgers.ledgers(given.document, asked.cases, given.tell)


class LedgerFileAsked(LedgersAsked):
    """The same as a file."""

    form: Annotated[str, Field(max_length=20)]


@in_process
def ledger_file(asked: LedgerFileAsked, given: Given) -> bytes:
    """Raises DocumentError for an unknown form."""
    return written(LEDGER_EXPORTS, asked.form, ledgers(asked, given))


class ExplainAsked(Sent):
    """Why two `voices` differ: the bench and the simulation in all that was measured but what is `left` away,
    records by the `run` meant; or of a hand figure, its `row` in a `case`. `without` are causes that were
    ruled out, "cause part"."""

    voices: Voices = "bench-simulated"
    row: Annotated[str, Field(max_length=64)] = ""
    case: str = ""
    run: str = ""
    left: list[str] = Field(default=[], max_length=600)
    without: list[str] = Field(default=[], max_length=200)


@in_process
def explain(asked: ExplainAsked, given: Given) -> ExplanationLook:
    """Causes, ranked; what is known so far is told as it grows. Raises LucidError where there is nothing
    to be explained."""
    last = 0.0

    def grows(so_far: ExplanationLook) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last > _OFTEN:
            last = now
            given.tell(writer(ExplanationLook).dump_json(so_far))

    question = Question(
        asked.voices, asked.row, asked.case, asked.run, tuple(asked.left), tuple(asked.without)
    )
    watch = Watch(EXPLAINED_WITHIN, given.tell)
    return explanation(given.document, question, watch, grows)
