"""A result over an axis as something to read from: known between its points, not only at them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import FrequencySweep, Transient, frequency_sweep
from lucidbench.core.analyses.settled import Settled
from lucidbench.core.errors import LucidError

Array = npt.NDArray[np.float64]
Evaluate = Callable[[Array], Any]
_WITHIN = 4  # points looked at within each of the solver's steps


class NoReading(LucidError):
    """The curve does not do what was asked for."""


@dataclass(frozen=True)
class Curve:
    """Values over an axis. `at` gives them anywhere, by the solver's own order or by solving again;
    `grid`, rising, has a point in every piece, so that nothing happens unseen between two of them.
    """

    name: str
    unit: str
    axis_unit: str
    grid: Array
    at: Evaluate

    @property
    def values(self) -> Any:
        """On the grid."""
        return self.at(self.grid)

    def part(self, start: float, stop: float) -> Curve:
        """The same between two abscissas. Raises NoReading where there is nothing between them."""
        if not self.grid[0] <= start < stop <= self.grid[-1]:
            raise NoReading(
                f"{self.name} is known from {self.grid[0]:g} to {self.grid[-1]:g} {self.axis_unit}."
            )
        inside = self.grid[(self.grid > start) & (self.grid < stop)]
        return Curve(
            self.name, self.unit, self.axis_unit, np.concatenate([[start], inside, [stop]]), self.at
        )

    def roots(self, of: Callable[[Any], Any]) -> Iterator[tuple[float, int]]:
        """(abscissa, direction) where a real function of the values passes through zero."""
        from scipy.optimize import elementwise

        values = np.asarray(of(self.values), float)
        found = np.flatnonzero(np.diff(np.signbit(values)))
        if not len(found):
            return
        low, high = self.grid[found], self.grid[found + 1]
        # All of them at once: asking a curve for many points costs little more than for one.
        search = elementwise.find_root(
            lambda x: np.asarray(of(self.at(np.asarray(x))), float),
            (low, high),
            tolerances={"xrtol": 1e-13, "xatol": 1e-300, "fatol": 0.0, "frtol": 0.0},
        )
        for k, x, x_high in zip(found, np.where(search.success, search.x, high), high, strict=True):
            yield min(float(x), float(x_high)), (1 if values[k + 1] > values[k] else -1)


def time_curve(run: Transient | Settled, name: str) -> Curve:
    """A trace of a run, or of a settled circuit, over time [s]."""
    if isinstance(run, Settled):
        begin, end = run.begin, run.begin + run.period * run.periods
        run = run.run
    else:
        begin, end = run.settings.start, run.settings.stop
    kept = run

    def at(times: Array) -> Array:
        return kept.trace(name, np.asarray(times, float))

    return Curve(name, _unit(name), "s", points_within(run, begin, end), at)


def points_within(run: Transient, begin: float, end: float) -> Array:
    """Times [s] from `begin` to `end` with some in each of the solver's steps, so that none is missed."""
    ends = np.unique(
        np.concatenate([[begin], run.ends[(run.ends > begin) & (run.ends < end)], [end]])
    )
    inside = ends[:-1, None] + np.diff(ends)[:, None] * np.arange(_WITHIN) / _WITHIN
    return np.append(inside.ravel(), end)


def frequency_curve(sweep: FrequencySweep, name: str, reference: str | None = None) -> Curve:
    """A trace of a sweep as complex phasors over frequency [Hz], or its ratio to another trace.

    Between the sweep's points the circuit is solved again.
    """
    if name not in sweep.traces or (reference is not None and reference not in sweep.traces):
        missing = reference if name in sweep.traces else name
        raise NoReading(f"The sweep has no trace called {missing}.")

    def at(frequencies: Array) -> Any:
        traces = traces_at(sweep, frequencies)
        return traces[name] if reference is None else traces[name] / traces[reference]

    unit = _unit(name) if reference is None else ""
    label = name if reference is None else f"{name}/{reference}"
    return Curve(label, unit, "Hz", sweep.frequencies, at)


def traces_at(sweep: FrequencySweep, frequencies: Array) -> Mapping[str, Any]:
    """The traces of a sweep at other frequencies [Hz]: the circuit is solved again there."""
    if np.array_equal(frequencies, sweep.frequencies):
        return sweep.traces
    return frequency_sweep(sweep.circuit, frequencies).traces


def _unit(name: str) -> str:
    return "A" if name.startswith("I_") else "V"
