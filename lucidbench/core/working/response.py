"""The exact response of a circuit, as a function of frequency or of the time after a step."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from lucidbench.core.analyses import frequency_sweep
from lucidbench.core.analyses.natural import natural_frequencies
from lucidbench.core.analyses.symbolic import transfer
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Formula, names_in, parse
from lucidbench.core.formula.expand import expanded
from lucidbench.core.formula.tree import Node
from lucidbench.core.formula.vectorised import evaluate_over
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.runs.kinds.base import driven
from lucidbench.core.working.meant import difference, held_nodes, meant_by
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.transfer import ideal_amplifiers
from lucidbench.core.working.transients import Transition
from lucidbench.core.working.wanted import wanted_of

_POINTS = 41
_DECADES = 1.5  # beyond the corners
_SETTLED = 5.0  # time constants
_RATIO = re.compile(r"V_(\w+)\s*/\s*V_(\w+)")
_TRANSFER = re.compile(r"[HAG](_\w+)?")
_INTO = ("Z_in", "Z_i", "Z_e")
Numbers = np.ndarray[Any, np.dtype[Any]]


@dataclass(frozen=True)
class Response:
    """`at` gives it at each of some frequencies [Hz] or times [s]; `x` are those at which it tells most."""

    over: Literal["f", "t"]
    x: Numbers
    at: Callable[[Numbers], Numbers]


def response_of(circuit: Circuit, of: str, over: str) -> Response:
    """Of a formula of figures, V_out/V_in, abs(V_out), I_R1. Raises LucidError."""
    body = _in_figures(parse(of).body, circuit)
    return _over_frequency(circuit, body) if over == "f" else _over_time(circuit, body)


def _in_figures(body: Node, circuit: Circuit) -> Node:
    """With every name as the simulation calls it; H is V_out/V_in. Raises LucidError for what is none."""
    instead: dict[str, Node] = {}
    for name in names_in(body):
        meant = meant_by(name, circuit)
        if meant is None and name in _INTO:
            meant = _input(circuit)
        elif meant is None and _TRANSFER.fullmatch(name):
            meant = usual_ratio(circuit)
        if meant is not None and meant != name:
            instead[name] = parse(meant).body
    return expanded(body, instead)


def usual_ratio(circuit: Circuit) -> str:
    """What a response is of: V_out/V_in, or where no node is called in, V_out over what the only source
    gives."""
    given = list(held_nodes(circuit))
    return f"V_out/{given[0]}" if "in" not in circuit.nodes and len(given) == 1 else "V_out/V_in"


def _input(circuit: Circuit) -> str:
    """What the only source sees, as a formula of figures. Raises NoWorking."""
    sources = [e for e in circuit if e.imposes]
    if len(sources) != 1:
        raise NoWorking("Z_in needs exactly one source.")
    source = sources[0]
    across = difference(*source.nodes[:2]) or "0"
    return f"({across})/(-I_{source.name})"


def _driven_for(circuit: Circuit, body: Node) -> Circuit:
    """The circuit with its own phasors; for a ratio to the voltage of a source, with that one alone."""
    match = _RATIO.fullmatch(_written(body))
    held = held_nodes(circuit)
    if match is None:
        return driven(circuit)[0]
    own = held.get(f"V_{match[2]}", "").lstrip("-")
    if not own or match[1] not in circuit.nodes:
        raise NoWorking(f"No source gives V_{match[2]}.")
    return replace(circuit, elements=tuple(_alone(e, own) for e in circuit))


def _written(body: Node) -> str:
    from lucidbench.core.formula.tree import Call
    from lucidbench.core.formula.written import written

    while isinstance(body, Call):
        body = body.argument
    return written(body)


def _alone(e: Element, own: str) -> Element:
    return e.with_value("magnitude", 1.0 if e.name == own else 0.0) if e.imposes else e


def _over_frequency(circuit: Circuit, body: Node) -> Response:
    own = _driven_for(circuit, body)
    try:
        sizes = [
            abs(mode.s) / (2 * np.pi)
            for mode in natural_frequencies(circuit).modes
            if abs(mode.s) > 0
        ]
    except LucidError:
        sizes = []
    low, high = (min(sizes), max(sizes)) if sizes else (1e2, 1e4)
    x = np.geomspace(low / 10**_DECADES, high * 10**_DECADES, _POINTS)

    def at(f: Numbers) -> Numbers:
        names: Mapping[str, Any] = {**frequency_sweep(own, f).traces, "f": f}
        return np.broadcast_to(evaluate_over(Formula(None, body, ""), names), f.shape)

    return Response("f", x, at)


def _over_time(circuit: Circuit, body: Node) -> Response:
    wanted = {name: wanted_of(name) for name in names_in(body) if "_" in name}
    stores = [e for e in circuit if e.kind in ("capacitor", "inductor")]
    if not 1 <= len(stores) <= 4:
        raise NoWorking("There are too many parts that store energy, or none.")
    step = Transition(ideal_amplifiers(circuit, Derivation({})), stores, Derivation({}))
    rates = -np.linalg.eigvals(step.matrix).real
    if (rates <= 0).any():
        raise NoWorking("It does not settle.")
    last = min(_SETTLED / rates.min(), step.rests)
    x = step.begins + np.linspace(0.0, last, _POINTS)

    def at(t: Numbers) -> Numbers:
        names = {
            name: np.array([complex(step.at(each, float(x) - step.begins)) for x in t])
            for name, each in wanted.items()
        }
        return np.broadcast_to(evaluate_over(Formula(None, body, ""), names), t.shape)

    return Response("t", x, at)


def without_last_power(circuit: Circuit, of: str) -> tuple[int, Callable[[float], complex]]:
    """V_out/V_in with the highest power of jω left out of its denominator: (that power, the ratio at a
    frequency [Hz]). Raises LucidError where there is no second one."""
    import sympy

    match = _RATIO.fullmatch(_written(_in_figures(parse(of).body, circuit)))
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
