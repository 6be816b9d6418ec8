"""The transient: what happens in time."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import numpy as np

from lucidbench.core.analyses import TransientSettings, Watch, transient
from lucidbench.core.analyses.dc_sweep import Axis
from lucidbench.core.analyses.settled import settled
from lucidbench.core.netlist import Circuit
from lucidbench.core.netlist.requests import Request, TransientRequest
from lucidbench.core.readings.registry import OVER_TIME
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution, beginning_near
from lucidbench.core.runs.kinds.rates import counted, modes_of, relaxation_span, waves_of
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.settings import FAMILY, NEAR, Proposal, ResolvedSettings, Setting
from lucidbench.core.runs.traces import over_time
from lucidbench.core.units import engineering

PERIODS = 5
DEFAULT_SPAN = 10e-3  # [s], where nothing says how long
MOST_PERIODS = 12  # more are a solid bar; what takes longer to fade is not waited for
BEGINS = [
    ("point", "operating point"),
    ("given", "starting values"),
    ("settled", "settled state"),
]


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    stop, because = _span(circuit)
    begin = {"start": Proposal(0.0, ""), "begin": Proposal(None, "", "point")}
    return {"stop": Proposal(stop, because), **begin}


def _span(circuit: Circuit) -> tuple[float, str]:
    """How long there is something to see [s], and what says so."""
    periods = [(w.period, name) for name, w in waves_of(circuit) if w.period]
    modes = modes_of(circuit)
    own = modes.run_for if modes else None
    swings = modes is not None and not modes.stable
    if modes and swings and not periods:
        own = max((span for span in (own, relaxation_span(circuit, modes)) if span), default=None)
    slowest = (
        "what the circuit needs to swing by itself"
        if swings
        else "five of the slowest time constant"
    )
    if periods:
        period, name = max(periods)
        span = PERIODS * period
        if own and span < own <= MOST_PERIODS * period:
            whole = math.ceil(own / period) * period
            return whole, f"{slowest}, {engineering(whole, 's', 3)}"
        return span, f"{counted(PERIODS)} periods of {name}, {engineering(span, 's', 3)}"
    if own:
        return _round_up(own), f"{slowest}, {engineering(own, 's', 3)}"
    return DEFAULT_SPAN, "nothing in the circuit says how long"


def _round_up(value: float) -> float:
    """To two significant digits, so that the axis ends on a number that can be read."""
    scale: float = 10.0 ** (math.floor(math.log10(value)) - 1)
    return float(math.ceil(value / scale * (1 - 1e-9)) * scale)


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    stop, start = numbers.get("stop"), numbers.get("start", 0.0)
    if stop is None:
        return
    if stop <= 0:
        yield "stop", "“How long” must be above zero: the run would end before it begins"
    elif not 0 <= start < stop:
        end = looks["stop"].echo or looks["stop"].proposed
        yield "start", f"“Shown from” must lie between zero and the end, {end}"


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    circuit = beginning_near(circuit, settings)
    start, stop = settings.numbers.get("start", 0.0), settings.numbers["stop"]
    begin = settings.texts.get("begin") or BEGINS[0][0]
    if begin == "settled":
        state = settled(circuit, 1, watch=watch)
        periods = int(np.ceil(stop / state.period - 1e-9))
        if periods > 1:
            state = settled(circuit, periods, watch=watch)
        traces = over_time(state.run, start, stop, state.begin, state.period)
        return Solution(traces, notes=state.run.notes)
    run = transient(circuit, TransientSettings(stop, start, from_given=begin == "given"), watch)
    return Solution(over_time(run, start, stop), notes=run.notes)


def _answer(circuit: Circuit, request: Request, watch: Watch) -> Answer:
    assert isinstance(request, TransientRequest)
    settings = TransientSettings(
        stop=request.stop,
        start=request.start,
        step=request.step,
        longest=request.longest,
        from_given=request.from_given,
        node_voltages=request.node_voltages,
    )
    run = transient(circuit, settings, watch)
    times = run.grid
    axis = Axis("time", "s", times)
    return Answer("transient", axis=axis, traces=run.traces(times), notes=run.notes)


KIND = AnalysisKind(
    key="transient",
    label="Transient",
    answers="How do voltages and currents change in time?",
    settings=(
        Setting(key="stop", label="Stop time", unit="s", meaning="The run ends here."),
        Setting(key="start", label="Show from", unit="s",
                meaning="What comes before is simulated, but not shown."),
        Setting(key="begin", label="Start from", reads="choice", choices=BEGINS),
        NEAR,
        *FAMILY,
    ),
    propose=_propose,
    check=_check,
    solve=_solve,
    readings=OVER_TIME,
    request=TransientRequest,
    answer=_answer,
)  # fmt: skip
