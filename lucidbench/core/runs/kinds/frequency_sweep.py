"""The frequency sweep: how a circuit answers to sines from slow to fast."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import numpy as np

from lucidbench.core.analyses import Watch, decades, frequency_sweep, natural_frequencies
from lucidbench.core.analyses.dc_sweep import Axis
from lucidbench.core.analyses.frequency import octaves
from lucidbench.core.analyses.run import refuse_points
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit
from lucidbench.core.netlist.requests import FrequencySweepRequest, Request
from lucidbench.core.readings.registry import OVER_FREQUENCY
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds.base import AnalysisKind, Solution, driven, frequency_fault
from lucidbench.core.runs.kinds.rates import modes_of, waves_of
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.settings import FAMILY, Proposal, ResolvedSettings, Setting
from lucidbench.core.runs.traces import over_frequency

POINTS = 500
MOST_RINGING = 8
DEFAULT_BAND = (10.0, 1e6)  # [Hz]
_NEAR = np.linspace(-2, 2, 41)  # bandwidths to both sides of a resonance
BAND = "band"  # not a figure but marks on the plot


def _propose(circuit: Circuit) -> Mapping[str, Proposal]:
    modes = modes_of(circuit)
    rates = [m.frequency for m in modes.modes if m.s != 0] if modes else []
    rates = sorted(rates + [1 / w.period for _, w in waves_of(circuit) if w.period and rates])
    lowest, highest = DEFAULT_BAND
    because = "nothing in the circuit says which band"
    own = [(1 / w.period, name) for name, w in waves_of(circuit) if w.period]
    if own and not rates:
        frequency, name = own[0]
        lowest, highest = frequency / 10, frequency * 10
        because = f"the frequency of {name} with room on either side"
    if rates:
        # A lone resonance is seen best from near; corners want room around them, to be read from a level.
        rings = modes is not None and any(mode.quality > 1 for mode in modes.modes)
        room = 10.0 if rings and rates[-1] < 3 * rates[0] else 30.0
        lowest, highest = rates[0] / room, rates[-1] * room
        because = "the natural frequencies with room on either side"
        if highest / lowest > 1e12:
            lowest, highest = max(lowest, 1.0), min(highest, 1e9)
    return {
        "from": Proposal(10 ** math.floor(math.log10(lowest)), because),
        "to": Proposal(10 ** math.ceil(math.log10(highest)), because),
    }


def _check(
    numbers: Mapping[str, float], looks: Mapping[str, SettingLook]
) -> Iterator[tuple[str, str]]:
    yield from frequency_fault(numbers, looks)
    low, high = numbers.get("from"), numbers.get("to")
    if low is None or high is None:
        return
    if low == high:
        yield "to", "The sweep ends where it begins"
    elif low > high:
        yield "to", "The sweep ends below where it begins; exchange the two"
    elif low > 0 and high / low > 1e15:
        yield "to", "That is more than fifteen decades"


def _solve(circuit: Circuit, settings: ResolvedSettings, watch: Watch) -> Solution:
    circuit, notes = driven(circuit)
    f = _frequencies(circuit, settings.numbers["from"], settings.numbers["to"])
    return Solution(over_frequency(frequency_sweep(circuit, f, watch)), notes=notes)


def _frequencies(circuit: Circuit, low: float, high: float) -> np.ndarray:
    """Evenly by decades, and closer where the circuit rings: there a response turns quickly."""
    even = np.geomspace(low, high, POINTS)
    try:
        ringing = [m for m in natural_frequencies(circuit).modes if m.quality > 1]
    except LucidError:  # an ideal impedance has no frequencies of its own
        return even
    near = [m.frequency * np.exp(_NEAR / m.quality) for m in ringing[:MOST_RINGING]]
    every = np.unique(np.concatenate([even, *near]))
    return every[(every >= low) & (every <= high)]


def _answer(circuit: Circuit, request: Request, watch: Watch) -> Answer:
    assert isinstance(request, FrequencySweepRequest)
    over = frequency_sweep(circuit, _asked(request), watch)
    axis = Axis("frequency", "Hz", over.frequencies)
    return Answer("frequency_sweep", axis=axis, traces=over.traces)


def _asked(request: FrequencySweepRequest) -> np.ndarray:
    if request.spacing == "dec":
        return decades(request.start, request.stop, request.points)
    if request.spacing == "oct":
        return octaves(request.start, request.stop, request.points)
    refuse_points(request.points, "sweep", "Take fewer points.")
    return np.linspace(request.start, request.stop, request.points)


KIND = AnalysisKind(
    key="frequency_sweep",
    label="Frequency sweep",
    answers="How do gain and phase depend on frequency?",
    settings=(
        Setting(key="from", label="From", unit="Hz", meaning="The lowest frequency."),
        Setting(key="to", label="To", unit="Hz", meaning="The highest frequency."),
        *FAMILY,
    ),
    propose=_propose,
    check=_check,
    solve=_solve,
    readings=OVER_FREQUENCY,
    marks=((BAND, "pass band and slopes, on the plot"),),
    request=FrequencySweepRequest,
    answer=_answer,
)
