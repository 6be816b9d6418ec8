"""What a circuit does long after switch-on: at rest, over and over, or swinging by itself."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import (
    TransientSettings,
    Watch,
    frequency_sweep,
    natural_frequencies,
    operating_point,
    transient,
)
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.analyses.settled import common_period, settled
from lucidbench.core.analyses.trajectory import Transient
from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import CircuitError, LucidError
from lucidbench.core.netlist import GROUND_NODE, Circuit

Array = npt.NDArray[np.float64]
At = Callable[[str, Array], Array]
_SLOWEST_WAIT = 10e-3  # [s], where nothing says how long a circuit takes
_SPANS = 2  # of what is asked for, that a circuit swinging by itself is followed


@dataclass(frozen=True)
class Steady:
    """`at(name, times)` gives V_<node> or I_<element>, at any times [s] where it has a `period` or is at
    rest, otherwise within 0 and `span`."""

    at: At
    period: float | None = None
    span: float = np.inf

    def voltage(self, plus: str, minus: str, times: Array) -> Array:
        """Between two nodes, ground among them [V]."""
        return self._of(plus, times) - self._of(minus, times)

    def _of(self, node: str, times: Array) -> Array:
        return np.zeros(len(times)) if node == GROUND_NODE else self.at(f"V_{node}", times)


def steady(circuit: Circuit, span: float, watch: Watch | None = None) -> Steady:
    """Raises CircuitError, RunRefused. `span` [s] is how long it shall be known at least, where it
    neither rests nor repeats."""
    watch = watch or Watch()
    moving = [e for e in circuit if e.waveform is not None and not _is_still(e.waveform)]
    if not moving:
        return _swinging(circuit, span, watch) if _swings(circuit) else _at_rest(circuit)
    try:
        common_period(circuit)
    except RunRefused:
        return _over(circuit, span, watch)
    if _is_one_sine(circuit) and assemble(circuit).is_linear:
        return _phasors(circuit, watch)
    state = settled(circuit, watch=watch)
    return Steady(_repeated(state.run, state.begin, state.period), state.period)


def from_switch_on(circuit: Circuit, span: float, watch: Watch | None = None) -> Steady:
    """From the moment the sources begin, at 0 s; before it the circuit is at rest. Raises CircuitError,
    RunRefused."""
    run = transient(circuit, TransientSettings(stop=span), watch or Watch())
    known = _cut(run, 0.0, span)

    def at(name: str, times: Array) -> Array:
        return known(name, np.maximum(times, 0.0))

    return Steady(at, span=span)


def _is_still(wave: object) -> bool:
    return isinstance(wave, Sine) and wave.amplitude == 0


def _swings(circuit: Circuit) -> bool:
    """Whether it runs by itself; what cannot be asked is taken to rest."""
    try:
        return not natural_frequencies(circuit).stable
    except LucidError:
        return False


def _at_rest(circuit: Circuit) -> Steady:
    values = operating_point(circuit).values

    def at(name: str, times: Array) -> Array:
        if name not in values:
            raise CircuitError(f"There is nothing called {name} on the bench.")
        return np.full(len(times), values[name])

    return Steady(at)


def _is_one_sine(circuit: Circuit) -> bool:
    waves = [e.waveform for e in circuit if e.waveform is not None]
    return (
        all(isinstance(w, Sine) and not w.damping and not w.delay for w in waves)
        and len({w.frequency for w in waves if isinstance(w, Sine)}) == 1
    )


def _phasors(circuit: Circuit, watch: Watch) -> Steady:
    """A linear circuit driven by sines of one frequency: its operating point and its phasors, exact."""
    frequency = 0.0
    elements = []
    for element in circuit:
        size, turn = 0.0, 0.0
        if isinstance(wave := element.waveform, Sine):
            frequency, size, turn = wave.frequency, wave.amplitude, float(np.degrees(wave.phase))
        if element.imposes:
            values = {**element.values, "magnitude": size, "phase": turn}
            element = replace(element, values=values)
        elements.append(element)
    driven = replace(circuit, elements=tuple(elements))
    rest = operating_point(_with_offsets(driven)).values
    phasors = frequency_sweep(driven, [frequency], watch).traces
    turning = 2j * np.pi * frequency

    def at(name: str, times: Array) -> Array:
        if name not in phasors:
            raise CircuitError(f"There is nothing called {name} on the bench.")
        return np.asarray(rest[name] + np.imag(phasors[name][0] * np.exp(turning * times)))

    return Steady(at, 1 / frequency)


def _with_offsets(circuit: Circuit) -> Circuit:
    """With every sine's offset as what its source gives at rest."""
    for element in circuit:
        if isinstance(element.waveform, Sine):
            still = replace(element, waveform=None)
            circuit = circuit.with_element(
                still.with_value(element.main_key, element.waveform.offset)
            )
    return circuit


def _repeated(run: Transient, begin: float, period: float) -> At:
    return lambda name, times: run.trace(name, begin + np.mod(times, period))


def _cut(run: Transient, begin: float, span: float) -> At:
    return lambda name, times: run.trace(name, begin + np.clip(times, 0.0, span))


def _swinging(circuit: Circuit, span: float, watch: Watch) -> Steady:
    """Followed once it has come to swing as it will."""
    wait = natural_frequencies(circuit).run_for or _SLOWEST_WAIT
    long = _SPANS * max(span, wait)
    run = transient(circuit, TransientSettings(stop=wait + long, start=wait), watch)
    return Steady(_cut(run, wait, long), span=long)


def _over(circuit: Circuit, span: float, watch: Watch) -> Steady:
    """What does not repeat is over long after switch-on: the end of a run that is long enough."""
    ends = [float(e.waveform.breakpoints(0.0, np.inf)[-1]) for e in circuit
            if e.waveform is not None and len(e.waveform.breakpoints(0.0, 1e9))]  # fmt: skip
    modes = natural_frequencies(circuit)
    stop = max([*ends, 0.0]) + max(modes.run_for or 0.0, _SLOWEST_WAIT, span)
    run = transient(circuit, TransientSettings(stop=stop, start=0.0), watch)
    end = np.array([stop])
    return Steady(lambda name, times: np.full(len(times), run.trace(name, end)[0]))
