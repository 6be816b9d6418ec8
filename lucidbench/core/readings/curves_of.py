"""The curves of results: traces over time and over frequency."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

import numpy as np

from lucidbench.core.analyses import FrequencySweep, Transient
from lucidbench.core.analyses.settled import PeriodicSteadyState, driving_periods
from lucidbench.core.readings.curve import Array, Curve, NoReading

_WITHIN = 4  # points looked at within each of the solver's steps, at least
_FEWEST = 1000  # points of a run: smooth on a screen, and markers close to where they are meant
_BEFORE = 1e-11  # of a run's length: how long before a jump it is looked at


def time_curve(run: Transient | PeriodicSteadyState, name: str) -> Curve:
    """A trace of a run, or of a settled circuit, over time [s]."""
    repeats = None
    if isinstance(run, PeriodicSteadyState):
        begin, end, repeats = run.begin, run.begin + run.period * run.periods, run.period
        run = run.run
    else:
        begin, end = run.settings.start, run.settings.stop
    kept = run

    def at(times: Array) -> Array:
        return kept.trace(name, np.asarray(times, float))

    grid, driven = points_within(run, begin, end), driving_periods(run.circuit)
    return Curve(name, _unit(name), "s", grid, at, driven, repeats)


def points_within(run: Transient, begin: float, end: float) -> Array:
    """Times [s] from `begin` to `end` with some in each of the solver's steps, so that none is missed."""
    ends = np.unique(
        np.concatenate([[begin], run.ends[(run.ends > begin) & (run.ends < end)], [end]])
    )
    within = max(_WITHIN, -(-_FEWEST // max(len(ends) - 1, 1)))
    inside = ends[:-1, None] + np.diff(ends)[:, None] * np.arange(within) / within
    fresh = run.ends[(run.lengths == 0) & (run.ends > begin) & (run.ends < end)]
    before = fresh - _BEFORE * (end - begin)  # where values may jump they are known on either side
    return np.unique(np.concatenate([inside.ravel(), before[before > begin], [end]]))


def frequency_curve(sweep: FrequencySweep, name: str, reference: str | None = None) -> Curve:
    """A trace of a sweep as complex phasors over frequency [Hz], or its ratio to another trace.

    Between the sweep's points the circuit is solved again.
    """
    if name not in sweep.traces or (reference is not None and reference not in sweep.traces):
        missing = reference if name in sweep.traces else name
        raise NoReading(f"The sweep has no trace called {missing}.")

    def at(frequencies: Array) -> Any:
        traces = traces_at(sweep, frequencies, {name} if reference is None else {name, reference})
        return traces[name] if reference is None else traces[name] / traces[reference]

    unit = _unit(name) if reference is None else ""
    label = name if reference is None else f"{name}/{reference}"
    return Curve(label, unit, "Hz", sweep.frequencies, at)


def traces_at(
    sweep: FrequencySweep, frequencies: Array, names: Collection[str]
) -> Mapping[str, Any]:
    """The named traces of a sweep at other frequencies [Hz]: the circuit is solved again there."""
    here = sweep if np.array_equal(frequencies, sweep.frequencies) else sweep.at(frequencies)
    if all(name.startswith("V_") for name in names):  # without a look at every current
        return {name: here.voltage(name[2:]) for name in names}
    return here.traces


def _unit(name: str) -> str:
    return "A" if name.startswith("I_") else "V"
