"""Work in processes of its own: bounded in time and memory, ended at once, whatever it is doing."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from threading import Event, Timer
from typing import Any, TypeVar

import pytest

from lucidbench.core.document.exercise import Run, read_exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.runs import present, solve
from lucidbench.core.runs.kinds import ANALYSES
from lucidbench.server.jobs.executor import Executor
from lucidbench.server.jobs.process import JobCancelled, JobEnded, JobProcess
from lucidbench.server.jobs.task import Task
from lucidbench.server.live.method import Given, Job
from lucidbench.server.live.methods.running import FileAsked, RunAsked, result_of
from tests.server.hanging import Dies, Hangs, Sleeps, TakesMemory

EXAMPLES = Path(__file__).parents[2] / "examples"
Outcome = TypeVar("Outcome")
BEGUN = 8.0  # s, within which a process has begun its task on a busy machine
AT_ONCE = 8.0  # s, on a busy machine; what is cancelled would go on for an age


def carry_out(process: JobProcess, task: object, seconds: float = 60.0) -> bytes:
    outcome = process.carry_out(task, seconds, lambda share: None, Event())  # type: ignore[arg-type]
    return outcome.answer


def looped(work: Coroutine[Any, Any, Outcome]) -> Outcome:
    """What it comes to, in a thread of its own: this one may have an event loop of the browser tests."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()


@pytest.mark.parametrize("analysis", sorted(ANALYSES))
def test_a_result_is_the_same_from_another_process(analysis: str) -> None:
    """And whatever is read of it there, as when it is looked at closer."""
    exercise = read_exercise((EXAMPLES / "time-signal-filter.json").read_bytes())
    run = Run(id="r", analysis=analysis)
    exercise = exercise.model_copy(update={"runs": [run]})
    process = JobProcess()
    asked = Job("run", RunAsked(run="r"), Given("page", "m", sent=exercise))
    outcome = process.carry_out(asked, 60, lambda share: None, Event())
    here = solve(exercise, run)
    told, expected = json.loads(outcome.answer), json.loads(present(here).model_dump_json())
    if here.problem is None:
        assert told["result"] == "m"
        near = present(result_of(outcome.kept), window=(1e3, 1e4))
        assert near.curves == present(here, window=(1e3, 1e4)).curves
        given = Given("page", "", result=outcome.kept)
        written = Job("file", FileAsked(result="m", form="csv"), given)
        assert carry_out(process, written).count(b"\n") > 0
    for one, other in zip(told["curves"], expected["curves"], strict=True):
        for field in one:  # so that a difference tells where it is
            assert one[field] == other[field], (one["text"], field)
    its_own = {"seconds": 0, "result": ""}
    assert {**told, **its_own} == {**expected, **its_own}
    process.end()


def test_what_hangs_within_a_library_is_ended_with_a_sentence() -> None:
    process, shares = JobProcess(), list[float]()
    with pytest.raises(JobEnded, match=f"did not end within {BEGUN:.0f} s"):
        process.carry_out(Hangs(), BEGUN, shares.append, Event())  # type: ignore[arg-type]
    assert shares == [0.5]
    assert not process.is_alive
    process, cancelled = JobProcess(), Event()
    Timer(0.3, cancelled.set).start()
    began = time.monotonic()
    with pytest.raises(JobCancelled):
        process.carry_out(Hangs(), 60, shares.append, cancelled)  # type: ignore[arg-type]
    assert time.monotonic() - began < AT_ONCE


def test_what_takes_too_much_memory_is_told_and_the_process_goes_on() -> None:
    process = JobProcess()
    with pytest.raises(LucidError, match="more than the 2 GB of memory"):
        carry_out(process, TakesMemory())
    assert carry_out(process, Sleeps(0)) == b"slept"
    with pytest.raises(JobEnded, match="broke off"):
        carry_out(process, Dies())
    assert not process.is_alive


def test_jobs_wait_their_turn_and_the_next_goes_on_after_a_broken_one() -> None:
    executor = Executor(most=2)

    async def outcome(task: object) -> bytes | str:
        try:
            outcome = await executor.carry_out(task, lambda share: None, 60)  # type: ignore[arg-type]
            return outcome.answer
        except JobEnded as ended:
            return str(ended)

    async def all_of_them() -> list[bytes | str]:
        return await asyncio.gather(*map(outcome, [Dies(), *[Sleeps(0.1)] * 5]))

    first, *others = looped(all_of_them())
    assert "broke off" in str(first)
    assert others == [b"slept"] * 5


def test_a_job_is_cancelled_at_once_also_before_it_has_begun() -> None:
    executor = Executor(most=1)

    async def cancelled(task: Task, before: float) -> float:
        job = asyncio.create_task(executor.carry_out(task, lambda share: None))
        began = time.monotonic()
        asyncio.get_running_loop().call_later(before, job.cancel)
        with pytest.raises(asyncio.CancelledError):
            await job
        return time.monotonic() - began

    async def both() -> list[float]:
        return await asyncio.gather(cancelled(Hangs(), 1.0), cancelled(Sleeps(30), 0.2))  # type: ignore[arg-type]

    working, waiting = looped(both())
    assert working < 1 + AT_ONCE
    assert waiting < working
