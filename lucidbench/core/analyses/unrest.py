"""Whether a circuit would stay at its operating point: it may swing by itself, or an amplifier feed back to
the wrong input.

An ideal amplifier's equation is the same whichever way its inputs are: that it takes time to follow tells
them apart. With a pole of its own it leaves a point of positive feedback along a real exponential.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses.frequency import frequency_sweep
from lucidbench.core.analyses.natural import Mode, natural_frequencies
from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.units import engineering

_PASSIVE = "RCLKVI"  # by their letters
_MOST = 60  # unknowns: in a larger circuit the question would cost an edit too much
_GROWS = 1e-6  # of its size: what grows more slowly may be rounding
_OF_FASTEST = 1e-8  # of the fastest rate beside it: the same
_POLE = {"gain": 2e5, "gain_bandwidth": 1e6, "input_resistance": 1e12, "output_resistance": 0.0}
_SLOW = 1e-3  # [Hz]: at which a loop is looked at as at DC


@dataclass(frozen=True)
class Unrest:
    """Why a circuit would leave its operating point, in a sentence, and the parts concerned. What tips over
    and over by its transistors does so by intent, and a run of it shows: that need not be said."""

    sentence: str
    parts: tuple[str, ...]
    is_to_be_said: bool


def unrest_of(circuit: Circuit) -> Unrest | None:
    """None where a circuit stays at its operating point, or that cannot be told. Raises nothing."""
    try:
        if len(circuit.nodes) > _MOST or not any(map(_may_give, circuit)):
            return None
        backwards = _fed_to_the_wrong_input(circuit)
        if backwards:
            return Unrest(_backwards_words(backwards), backwards, True)
        growing = _growing(natural_frequencies(circuit).modes)
    except LucidError:
        return None
    if not growing:
        return None
    fastest = max(growing, key=lambda mode: mode.s.real)
    after = f"a factor of e every {engineering(1 / fastest.s.real, 's', 3)}"
    if fastest.is_pair:
        at = engineering(fastest.ringing_frequency, "Hz", 3)
        sentence = f"The circuit oscillates by itself at {at}; the amplitude grows by {after}."
    else:
        sentence = f"This operating point is unstable: any small change grows by {after}."
    return Unrest(sentence, (), assemble(circuit).is_linear)


def unrest_to_say(circuit: Circuit) -> Unrest | None:
    """The same, where it is to be said; looked for only where it could be."""
    amplifies = any(element.device.description.amplifies for element in circuit)
    try:
        if not (amplifies or assemble(circuit).is_linear):
            return None
    except LucidError:
        return None
    found = unrest_of(circuit)
    return found if found and found.is_to_be_said else None


def _may_give(element: Element) -> bool:
    """Whether a part can supply power to a signal, as passive ones cannot."""
    device = element.device
    return device.description.amplifies or device.letter not in _PASSIVE


def _backwards_words(names: tuple[str, ...]) -> str:
    one = len(names) == 1
    it, its, inputs = ("it", "its", "its inputs") if one else ("they", "their", "their inputs")
    return (
        f"The feedback of {' and '.join(names)} is positive: {it} would not stay at this operating point, "
        f"but go to an end of {its} output. Exchange {inputs}, unless that is meant."
    )


def _growing(modes: tuple[Mode, ...]) -> list[Mode]:
    fastest = max((abs(mode.s) for mode in modes), default=0.0)
    return [m for m in modes if m.s.real > max(_GROWS * abs(m.s), _OF_FASTEST * fastest)]


def _fed_to_the_wrong_input(circuit: Circuit) -> tuple[str, ...]:
    """The amplifiers whose output reaches their + input more than the other, where one of them runs off."""
    amplifiers = [e for e in circuit if e.device.description.amplifies]
    if not amplifiers:
        return ()
    real = circuit
    for element in amplifiers:
        if not element.form:
            values = {**element.values, **_POLE}
            real = real.with_element(replace(element, form="one_pole", values=values))
    if not any(not mode.is_pair for mode in _growing(natural_frequencies(real).modes)):
        return ()
    return tuple(e.name for e in amplifiers if _loop(real, e) > 0)


def _loop(circuit: Circuit, amplifier: Element) -> float:
    """How much its + input rises above the other with its output, at DC, all else as it is."""
    plus, minus, out = amplifier.nodes[:3]
    held = operating_point(circuit).voltages[out]
    driven = Element(
        amplifier.name, "voltage_source", (out, GROUND_NODE), {"voltage": held, "magnitude": 1.0}
    )
    silent = [
        replace(e, values={**e.values, "magnitude": 0.0}) if e.imposes else e for e in circuit
    ]
    loop = replace(circuit, elements=tuple(silent)).with_element(driven)
    sweep = frequency_sweep(loop, np.array([_SLOW]))
    return float(np.real(sweep.voltage(plus, minus)[0]))
