"""Why? of a response and of a record, beside as many bare runs of the engine."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from lucidbench.core import Circuit, TransientSettings, read_netlist
from lucidbench.core.diagnosis import (
    Column,
    Observed,
    OverFrequency,
    OverTime,
    column_of,
    explained,
)
from lucidbench.core.diagnosis.observed import View
from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.rows import Row
from tests.study.circuits import subjects

LISTED, FIRST, OF_RECORD = 2.0, 0.5, 10.0  # [s]: the whole list, its first entries, and of a record
_RESPONSES = (
    ("anti-alias ladder, response", "R1", "resistance", 1.3),
    ("time-signal filter", "C1", "capacitance", 1.2),
    ("hydrophone stage, gain", "R4", "resistance", 1.4),
    ("flow integrator", "C1", "capacitance", 1.3),
    ("sounder driver", "R1", "resistance", 1.3),
)
STAGE = """a stage in time
V1 cc 0 12
V2 in 0 SIN(0 10m 1k)
C1 in b 1u tol=20%
R1 cc b 47k tol=5%
R2 b 0 10k tol=5%
R3 cc c 4.7k tol=5%
R4 e 0 1k tol=5%
C2 c out 1u tol=20%
R5 out 0 10k tol=5%
Q1 c b e m
.model m NPN(BF=180 IS=1e-14)
.end"""
PLAIN = """a plain one
V2 c 0 SIN(0 10m 1k)
R3 c out 4.7k tol=5%
C2 out 0 10n tol=20%
.end"""


@dataclass(frozen=True)
class _Response(OverFrequency):
    runs: list[int] = field(default_factory=lambda: [0])

    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        self.runs[0] += 1
        return super().run(circuit, view)


@dataclass(frozen=True)
class _Record(OverTime):
    runs: list[int] = field(default_factory=lambda: [0])

    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        self.runs[0] += 1
        return super().run(circuit, view)


def rows() -> list[Row]:
    responses = [_of_response(*each) for each in _RESPONSES[: repeated(5, 1)]]
    whole, first, _ = (max(times) for times in zip(*responses, strict=True))
    worst = max(responses, key=lambda times: times[0] / times[2])
    record = _of_record()
    work = "why? of a response of 50 points, slowest of five circuits"
    return [
        Row(work, "2 s", whole, LISTED, 1.0),
        Row("the same, first entries", "0.5 s", first, FIRST, 1.0),
        Row("the same, farthest from it", "as many bare runs", worst[0], worst[2], 3.0),
        Row("why? of a record of 400 samples of a stage", "10 s", record[0], OF_RECORD, 1.0),
        Row("the same", "as many bare runs", record[0], record[2], 3.0),
    ]


def _of_response(name: str, part: str, key: str, factor: float) -> tuple[float, float, float]:
    drawn = next(s for s in subjects() if s.name == name)
    block = next(b for b in drawn.blocks if isinstance(b, OverFrequency))
    columns = tuple(replace(column) for column in block.columns)
    counting = _Response(columns, "response", frequencies=block.frequencies)
    return _timed(drawn.circuit, counting, part, key, factor)


def _of_record() -> tuple[float, float, float]:
    stop = sized(2e-3, 2e-4)
    times = np.linspace(0, stop, sized(400, 20))
    columns = (column_of("V_out", times, times + 1), column_of("V_c", times, times + 1))
    record = _Record(columns, "record", times=times, settings=TransientSettings(stop))
    return _timed(read_netlist(sized(STAGE, PLAIN)).circuit, record, "R3", "resistance", 1.3)


def _timed(
    drawn: Circuit, block: _Response | _Record, part: str, key: str, factor: float
) -> tuple[float, float, float]:
    """(the explanation, its first entries, as many bare runs) [s]."""
    real = drawn.with_value(part, key, factor * float(drawn.element(part).values[key].real))
    values = np.split(block.predicted(real), len(block.columns))
    random = np.random.default_rng(1)
    measured = replace(block, columns=tuple(map(_noisy, block.columns, values, [random] * 9)))
    observed = Observed({"": drawn}, (measured,))
    explained(observed)
    block.runs[0] = 0
    began = time.perf_counter()
    first: list[float] = []
    explained(observed, grows=lambda known: first.append(time.perf_counter() - began))
    whole = time.perf_counter() - began
    count = block.runs[0]
    began = time.perf_counter()
    for _ in range(count):
        measured.run(replace(drawn), View())
    return whole, (first or [whole])[0], time.perf_counter() - began


def _noisy(column: Column, values: np.ndarray, random: np.random.Generator) -> Column:
    sigma = 0.01 * np.abs(values) + 1e-3 * float(np.max(np.abs(values)))
    if column.part == "arg":
        sigma = np.full(len(values), 0.7)
    return replace(column, values=values + sigma * random.normal(size=len(values)), sigma=sigma)
