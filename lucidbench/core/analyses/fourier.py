"""Harmonics of a settled waveform: integrals over its period, on the solver's own polynomials."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses.run import RunRefused, Watch
from lucidbench.core.analyses.settled import PeriodicSteadyState, settled
from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.equations.system import ComplexArray
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit

_GAUSS_X, _GAUSS_W = np.polynomial.legendre.leggauss(8)
_MOST_HARMONICS = 1000
_LARGEST_ANGLE = 2.0  # [rad] of the highest harmonic within one piece of the integral


@dataclass(frozen=True)
class Harmonics:
    """`phasors[k]` is the peak phasor at k times `frequency` [Hz], cosine reference; [0] the mean."""

    frequency: float
    phasors: ComplexArray

    @property
    def mean(self) -> float:
        return float(self.phasors[0].real)

    @property
    def rms(self) -> float:
        """Of the mean and all harmonics told."""
        return float(np.sqrt(self.mean**2 + np.sum(np.abs(self.phasors[1:]) ** 2) / 2))

    @property
    def distortion(self) -> float:
        """Total harmonic distortion: the RMS of harmonics 2 and up over that of the first (IEC 60268-3)."""
        first = abs(self.phasors[1])
        if first == 0:
            return float("inf")
        return float(np.sqrt(np.sum(np.abs(self.phasors[2:]) ** 2)) / first)


def harmonics(state: PeriodicSteadyState, trace: str, count: int = 20) -> Harmonics:
    """The mean and the first `count` harmonics of one of the traces. Raises RunRefused."""
    if not 1 <= count <= _MOST_HARMONICS:
        raise RunRefused(f"Between 1 and {_MOST_HARMONICS} harmonics can be told.")
    begin, end = state.begin, state.begin + state.period
    ends = state.run.ends
    edges = np.unique(np.concatenate([[begin], ends[(ends > begin) & (ends < end)], [end]]))
    widest = _LARGEST_ANGLE / (2 * np.pi * count / state.period)
    pieces = [
        np.linspace(a, b, int(np.ceil((b - a) / widest)) + 1)[:-1]
        for a, b in itertools.pairwise(edges)
    ]
    starts = np.concatenate(pieces)
    lengths = np.diff(np.append(starts, end))
    times = (starts[:, None] + lengths[:, None] * (_GAUSS_X + 1) / 2).ravel()
    weights = (lengths[:, None] * _GAUSS_W / 2).ravel()
    values = state.run.trace(trace, times)
    angles = 2 * np.pi * np.arange(count + 1)[:, None] * (times - begin) / state.period
    found = 2 / state.period * (np.exp(-1j * angles) @ (weights * values))
    found[0] /= 2
    return Harmonics(1 / state.period, found)


_DECADES = 5  # over which amplitudes are looked at from the highest down
_A_DECADE = 8  # of them
_LEAKS = 0.01  # of the largest gain: what passes so little does not work
_IN_A_DIP = 12  # amplitudes between two of them


@dataclass(frozen=True)
class LargestOutput:
    """The source amplitude at which the distortion just reaches the limit, and the output there."""

    amplitude: float
    output: float
    distortion: float


def largest_output(
    circuit: Circuit,
    source: str,
    trace: str,
    limit: float,
    highest: float,
    count: int = 10,
    watch: Watch | None = None,
) -> LargestOutput:
    """The largest amplitude of a sine source, up to `highest`, with a distortion of `limit` (0.01: 1 %).

    Distortion need not rise with amplitude: crossover makes most of it at small ones. Raises CircuitError,
    RunRefused.
    """
    watch = watch or Watch(seconds=300.0)
    element = circuit.element(source)
    wave = element.waveform
    if not isinstance(wave, Sine):
        raise CircuitError(f"{source} gives no sine, so its distortion cannot be told.", (source,))

    def at(amplitude: float) -> Harmonics:
        changed = replace(element, waveform=replace(wave, amplitude=amplitude))
        return harmonics(settled(circuit.with_element(changed), watch=watch), trace, count)

    gains: list[float] = []

    def distortion(amplitude: float) -> float:
        try:
            found = at(amplitude)
        except CircuitError:  # driven so far that it has no solution
            return np.inf
        gains.append(float(abs(found.phasors[1])) / amplitude)
        # Where its transistors are off what leaks through is undistorted, and no output.
        return found.distortion if gains[-1] >= _LEAKS * max(gains) else np.inf

    amplitude = highest
    if distortion(highest) > limit:
        amplitude = _largest(distortion, limit, highest, watch)
    found = at(amplitude)
    return LargestOutput(amplitude, float(abs(found.phasors[1])), found.distortion)


def _largest(
    distortion: Callable[[float], float], limit: float, highest: float, watch: Watch
) -> float:
    """The largest amplitude below `highest` that is within the limit, to one part in two thousand.

    Looked for from above over amplitudes that do not depend on `highest`, then between the two between
    which the limit is passed. Raises RunRefused where there is none.
    """
    count = _DECADES * _A_DECADE
    top = int(np.floor(_A_DECADE * np.log10(highest) - 1e-9))
    tried = [(highest, np.inf)]
    for k in range(count):
        watch.check(k / count, "search")
        amplitude = float(10 ** ((top - k) / _A_DECADE))
        tried.append((amplitude, distortion(amplitude)))
        if tried[-1][1] <= limit:
            return _between(distortion, limit, amplitude, tried[-2][0])
    lowest = min(range(1, len(tried)), key=lambda k: tried[k][1])
    if lowest < len(tried) - 1:  # a dip that may be deeper between two of them
        above, below = tried[lowest - 1][0], tried[lowest + 1][0]
        for amplitude in np.geomspace(below, above, _IN_A_DIP + 2)[-2:0:-1].tolist():
            if distortion(amplitude) <= limit:
                return _between(distortion, limit, amplitude, above)
            above = amplitude
    raise RunRefused("The output is distorted more than that at any amplitude.")


def _between(distortion: Callable[[float], float], limit: float, low: float, high: float) -> float:
    """The amplitude at which distortion passes the limit, between one within it and one beyond."""
    while high - low >= 5e-4 * high:
        half = (low + high) / 2
        low, high = (low, half) if distortion(half) > limit else (half, high)
    return low
