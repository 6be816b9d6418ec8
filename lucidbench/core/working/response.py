"""The exact response of a circuit, as a function of frequency or of the time after a step."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucidbench.core.analyses.equivalents import two_port
from lucidbench.core.analyses.natural import natural_frequencies
from lucidbench.core.analyses.symbolic import transfer
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.transfer import ideal_amplifiers
from lucidbench.core.working.transients import Transition
from lucidbench.core.working.wanted import wanted_of

_POINTS = 41
_DECADES = 1.5  # beyond the corners
_SETTLED = 5.0  # time constants
_RATIO = re.compile(r"V_(\w+)/V_(\w+)")
_READ = re.compile(r"(abs|arg|dB)\((.+)\)")


def _decibels(h: complex) -> float:
    if h == 0:
        raise NoWorking("What is nothing has no value in decibels.")
    return 20 * math.log10(abs(h))


_READINGS: dict[str, Callable[[complex], complex]] = {
    "abs": abs,
    "arg": lambda h: math.atan2(h.imag, h.real),
    "dB": _decibels,
}


@dataclass(frozen=True)
class Response:
    """`at` gives it at one of `x` [Hz or s], or at any other."""

    over: Literal["f", "t"]
    x: np.ndarray
    at: Callable[[float], complex]


def response_of(circuit: Circuit, of: str, over: str) -> Response:
    """Of V_out/V_in over frequency, its abs, arg or dB; or of V_out or I_R1 over time. Raises NoWorking."""
    read = _READ.fullmatch(of)
    if read and over == "f":
        whole = _over_frequency(circuit, read[2])
        return Response("f", whole.x, lambda f: complex(_READINGS[read[1]](whole.at(f))))
    return _over_frequency(circuit, of) if over == "f" else _over_time(circuit, of)


def _over_frequency(circuit: Circuit, of: str) -> Response:
    match = _RATIO.fullmatch(of)
    if not match:
        raise NoWorking("Over frequency, a ratio of two voltages can be held against the circuit.")
    out, into = match.groups()
    source = next(
        (e for e in circuit if e.imposes == "V" and e.nodes[:2] == (into, GROUND_NODE)), None
    )
    if source is None or out not in circuit.nodes:
        raise NoWorking(f"No source gives V_{into}.")
    try:
        sizes = [
            abs(mode.s) / (2 * np.pi)
            for mode in natural_frequencies(circuit).modes
            if abs(mode.s) > 0
        ]
    except LucidError as error:
        raise NoWorking(str(error)) from error
    low, high = (min(sizes), max(sizes)) if sizes else (1e2, 1e4)
    x = np.geomspace(low / 10**_DECADES, high * 10**_DECADES, _POINTS)
    return Response("f", x, lambda f: two_port(circuit, source.name, out, frequency=f).gain)


def _over_time(circuit: Circuit, of: str) -> Response:
    wanted = wanted_of(of)
    stores = [e for e in circuit if e.kind in ("capacitor", "inductor")]
    if not 1 <= len(stores) <= 4:
        raise NoWorking("There are too many parts that store energy, or none.")
    step = Transition(ideal_amplifiers(circuit, Derivation({})), stores, Derivation({}))
    rates = -np.linalg.eigvals(step.matrix).real
    if (rates <= 0).any():
        raise NoWorking("It does not settle.")
    last = min(_SETTLED / rates.min(), step.rests)
    x = step.begins + np.linspace(0.0, last, _POINTS)
    return Response("t", x, lambda t: complex(step.at(wanted, t - step.begins)))


def without_last_power(circuit: Circuit, of: str) -> tuple[int, Callable[[float], complex]]:
    """V_out/V_in with the highest power of jω left out of its denominator: (that power, the ratio at a
    frequency [Hz]). Raises LucidError where there is no second one."""
    import sympy

    match = _RATIO.fullmatch(of)
    source = next(
        (
            e
            for e in circuit
            if match and e.imposes == "V" and e.nodes[:2] == (match[2], GROUND_NODE)
        ),
        None,
    )
    if match is None or source is None:
        raise NoWorking("That is no ratio of two voltages.")
    exact = transfer(circuit, source.name, match[1])
    above, below = (
        [complex(c.subs(exact.values)) for c in sympy.Poly(p, exact.s).all_coeffs()]
        for p in (exact.numerator, exact.denominator)
    )
    if len(below) < 3:
        raise NoWorking("It is of first order already.")

    def at(f: float) -> complex:
        s = 2j * np.pi * f
        return complex(np.polyval(above, s) / np.polyval(below[1:], s))

    return len(below) - 1, at
