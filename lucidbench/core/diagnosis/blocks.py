"""Ways of observing a circuit, each told by one run: at rest, by parts, over frequency, time, a source."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from lucidbench.core.analyses import (
    TransientSettings,
    Watch,
    dc_sweep,
    frequency_sweep,
    operating_point,
    transient,
)
from lucidbench.core.analyses.settled import settled
from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.diagnosis.observed import PROBE, Array, Block, View, places_of
from lucidbench.core.formula import names_in
from lucidbench.core.formula.vectorised import evaluate_over
from lucidbench.core.netlist import Circuit, Element

LOSS = "loss"
_FEWEST = 12  # samples of a record in which jumps are looked for
_JUMP, _OUTSTANDING = 0.1, 8.0  # of the range, and times the usual step: what counts as a jump
# Of a meter's ranges of current, and how much of one is used: common practice, no published source.
_SMALLEST_RANGE, _FULL = 600e-6, 0.95  # [A]


@dataclass(frozen=True)
class AtRest(Block):
    """Figures of the operating point, each read by itself."""

    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        if view.resistance is None and not view.burden:
            values = {**self.given, **operating_point(circuit).values}
            return [evaluate_over(column.formula, values) for column in self.columns]
        found = []
        for column in self.columns:
            body = column.formula.body
            loaded = self.loaded(circuit, view, places_of(body)[:1])
            for name in names_in(body):
                if name.startswith("I_") and view.burden:
                    ohms = view.burden / _range(float(column.values[0]))
                    loaded = _in_series(loaded, name[2:], ohms)
            point = operating_point(loaded)
            found.append(evaluate_over(column.formula, {**self.given, **point.values}))
        return found


@dataclass(frozen=True)
class OfParts(Block):
    """Parts taken out and measured by themselves: each column is of a part, by its name; of its resistance in
    series where the column's part is "loss"."""

    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        return [_value_of(circuit, c.formula.text, c.part == LOSS) for c in self.columns]


def _value_of(circuit: Circuit, part: str, is_loss: bool) -> float:
    """What is found between the leads of a part that was taken out; one without contact is whole then."""
    element = circuit.element(part)
    if is_loss:
        return float(element.values.get("series_resistance", 0.0).real)
    return float(element.values[element.main_key].real)


@dataclass(frozen=True)
class OverFrequency(Block):
    """A response at `frequencies` [Hz]; `by_waveforms` where the sources gave the sines they are drawn with,
    and not their phasors."""

    frequencies: Array = field(default_factory=lambda: np.zeros(0))
    by_waveforms: bool = False

    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        if self.by_waveforms:
            circuit = replace(circuit, elements=tuple(_as_phasor(e) for e in circuit))
        f = self.frequencies / (2 * np.pi) if view.is_angular else self.frequencies
        sweep = frequency_sweep(self.loaded(circuit, view, self.places), f, Watch(self.seconds))
        names = {name for column in self.columns for name in names_in(column.formula.body)}
        axis = {"f": f + 0j, "s": 2j * np.pi * f, "w": 2 * np.pi * f + 0j}
        known: dict[str, Any] = {**axis, **self.given}
        wanted = {name for name in names if name not in self.given and name not in axis}
        if all(name.startswith("V_") for name in wanted):
            known |= {name: sweep.voltage(name[2:]) for name in wanted if _is_node(sweep, name)}
        else:
            known |= sweep.traces
        return [evaluate_over(column.formula, known) for column in self.columns]


def _as_phasor(element: Element) -> Element:
    if not element.imposes:
        return element
    wave = element.waveform
    size = abs(wave.amplitude) if isinstance(wave, Sine) else 0.0
    return replace(element, values={**element.values, "magnitude": size, "phase": 0.0})


def _is_node(sweep: Any, name: str) -> bool:
    return name[2:] in sweep.circuit.nodes


@dataclass(frozen=True)
class OverTime(Block):
    """A record at `times` [s] of a run that begins as `settings` say, or settled."""

    times: Array = field(default_factory=lambda: np.zeros(0))
    settings: TransientSettings = field(default_factory=lambda: TransientSettings(1.0))
    begins_settled: bool = False

    @property
    def unsure_by(self) -> float:
        """Half a sample: where between two of them it was triggered nobody knows."""
        return float(np.median(np.diff(self.times))) / 2 if len(self.times) > 2 else 0.0

    @property
    def sigma(self) -> Array:
        """Beside a jump a sample may be of either side."""
        return np.concatenate([np.hypot(c.sigma, _of_jumps(c.values)) for c in self.columns])

    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        times = self.times + view.shift
        loaded = self.loaded(circuit, view, self.places)
        if view.is_settled or self.begins_settled:
            whole = settled(loaded, watch=Watch(self.seconds))
            run, times = whole.run, whole.begin + np.mod(times, whole.period)
        else:
            times = np.maximum(times, 0.0)
            stop = max(float(times[-1]), self.settings.stop)
            run = transient(loaded, replace(self.settings, stop=stop), Watch(self.seconds))
        names = {name for column in self.columns for name in names_in(column.formula.body)}
        wanted = names - self.given.keys() - {"t"}
        known: dict[str, Any] = {"t": self.times, **self.given}
        if all(name.startswith("V_") for name in wanted):
            known |= {n: run.trace(n, times) for n in wanted if n[2:] in circuit.nodes}
        else:
            known |= run.traces(times)
        found = [evaluate_over(column.formula, known) for column in self.columns]
        return [each - np.mean(each) for each in found] if view.is_ac_coupled else found


def _of_jumps(values: Array) -> Array:
    """The height of the jump that each sample stands beside; zero elsewhere."""
    steps = np.abs(np.diff(values))
    if len(steps) < _FEWEST:
        return np.zeros(len(values))
    is_jump = steps > max(_JUMP * float(np.ptp(values)), _OUTSTANDING * float(np.median(steps)))
    heights = np.where(is_jump, steps, 0.0)
    return np.asarray(np.maximum(np.append(heights, 0.0), np.append(0.0, heights)))


@dataclass(frozen=True)
class OverSource(Block):
    """A curve taken step by step over `steps` of what is `swept`."""

    swept: str = ""
    steps: Array = field(default_factory=lambda: np.zeros(0))

    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        loaded = self.loaded(circuit, view, self.places)
        if view.burden and self.carrying:
            return self._with_burden(loaded, view.burden)
        return self._swept(loaded, self.steps)

    def _swept(self, circuit: Circuit, steps: Array) -> Sequence[Any]:
        sweep = dc_sweep(circuit, self.swept, steps, watch=Watch(self.seconds))
        known: dict[str, Any] = {**self.given, self.swept: steps, **sweep.traces}
        return [evaluate_over(column.formula, known) for column in self.columns]

    def _with_burden(self, circuit: Circuit, volts: float) -> Sequence[Any]:
        """Range by range, as the meter finds them by what it reads."""
        ranges = np.array([_range(float(value)) for value in self.columns[0].values])
        found = [np.empty(len(self.steps)) for _ in self.columns]
        for each in np.unique(ranges):
            here = ranges == each
            loaded = circuit
            for part in self.carrying:
                loaded = _in_series(loaded, part, volts / float(each))
            for whole, part_of in zip(found, self._swept(loaded, self.steps[here]), strict=True):
                whole[here] = part_of
        return found


def _range(amperes: float) -> float:
    """The range [A] in which a meter of 6000 counts reads a current."""
    decades = np.ceil(np.log10(max(abs(amperes) / _FULL, _SMALLEST_RANGE) / _SMALLEST_RANGE) - 1e-9)
    return float(_SMALLEST_RANGE * 10**decades)


def _in_series(circuit: Circuit, part: str, ohms: float) -> Circuit:
    element = circuit.by_name.get(part)
    if element is None:
        return circuit
    inner = f"{PROBE}{part}"
    shunt = Element(inner, "resistor", (element.nodes[0], inner), {"resistance": ohms})
    moved = replace(element, nodes=(inner, *element.nodes[1:]))
    return circuit.with_element(moved).with_element(shunt)
