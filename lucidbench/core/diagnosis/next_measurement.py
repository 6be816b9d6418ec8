"""The measurement that would tell the leading causes apart best, of those the bench offers."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses import frequency_sweep, operating_point
from lucidbench.core.diagnosis.blocks import AtRest, OfParts, OverFrequency
from lucidbench.core.diagnosis.observed import PLAIN, Array, Observed, View, places_of
from lucidbench.core.diagnosis.ranking import Hypothesis
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.units import engineering

# What the stand-in's instruments are good for, standard; common practice, no published source.
_OF_READING, _LEAST_VOLTS = 0.0025, 0.5e-3  # of a DC reading, and [V]
_OF_MAGNITUDE, _LEAST_OF_SOURCE = 0.01, 1e-4  # of a response
_OF_IMPEDANCE, _LEAST_OHMS = 0.01, 0.1  # of the component bridge, and [Ω]
_BRIDGE = 1e3  # [Hz]
_TOLD_APART = (
    8.0  # of squares of uncertainties: a difference of so many is seen in two of three cases
)
_LEADING = 0.02  # of probability
_MOST = 6  # causes that are looked at
_A_MINUTE = 0.01  # of the probability to tell them apart that a minute is worth
_WORTH = 0.05  # of that probability: less is no use
_FREQUENCIES = 5
_LOOKED_AT = 6  # measurements
_STEP = 0.05  # of a prior's deviation


@dataclass(frozen=True)
class Measurement:
    """`way` is "meter", "response" or "component"; `where` a node or a part; `frequency` [Hz] of a response.
    `expected` are the readings that two leading causes would give, in words."""

    way: str
    where: str
    sentence: str
    frequency: float | None = None
    expected: tuple[str, ...] = ()


@dataclass(frozen=True)
class _Offer:
    way: str
    where: str
    minutes: float
    read: Callable[[Circuit, View], Array]
    sigma: Callable[[Array], Array]
    unit: str
    frequency: float | None = None


def next_measurement(
    observed: Observed, leading: Sequence[tuple[Hypothesis, float]]
) -> Measurement | None:
    """None where nothing is left to be told apart, or the bench has nothing that would."""
    few = [(h, p) for h, p in leading if p >= _LEADING][:_MOST]
    if len(few) < 2:
        return None
    case, circuit = next(iter(observed.circuits.items()))
    states = [_state(hypothesis, case) for hypothesis, _ in few]
    weights = np.array([p for _, p in few])
    found: list[tuple[float, int, _Offer, list[Array]]] = []
    for k, offer in enumerate(_offers(observed, circuit)):
        try:
            readings = [offer.read(*state) for state in states]
        except (LucidError, ArithmeticError, KeyError):
            continue
        sigmas = [offer.sigma(reading) for reading in readings]
        found.append((_worth(readings, sigmas, offer, weights), k, offer, readings))
    best: tuple[float, _Offer, list[Array]] | None = None
    # What the tolerances leave open is looked at of the best ones alone: it takes many runs.
    for _, _, offer, readings in sorted(found, key=lambda each: -each[0])[:_LOOKED_AT]:
        sigmas = [
            np.hypot(offer.sigma(reading), _left_open(hypothesis, case, offer, reading))
            for (hypothesis, _), reading in zip(few, readings, strict=True)
        ]
        worth = _worth(readings, sigmas, offer, weights)
        if worth > _WORTH and (best is None or worth > best[0]):
            best = (worth, offer, readings)
    if best is None:
        return None
    _, offer, readings = best
    return Measurement(offer.way, offer.where, _instruction(offer, circuit), offer.frequency,
                       tuple(_in_words(offer, reading) for reading in readings))  # fmt: skip


def _state(hypothesis: Hypothesis, case: str, theta: Array | None = None) -> tuple[Circuit, View]:
    """(the circuit of a cause as it was fitted, how the instrument would see it)."""
    theta = hypothesis.fit.theta if theta is None else theta
    view = PLAIN
    for cause, z in zip(hypothesis.causes, hypothesis.model.sizes(theta), strict=True):
        if cause.view is not None and cause.key == "loading":
            view = cause.view(view, cause.amount(z))
    return hypothesis.model.circuits(theta)[case], view


def _worth(readings: list[Array], sigmas: list[Array], offer: _Offer, weights: Array) -> float:
    """How probable it is that the measurement tells two causes apart that are drawn by their weights; less
    what its minutes are worth."""
    total = 0.0
    for k, one in enumerate(readings):
        for m, other in enumerate(readings[:k]):
            sigma = np.hypot(sigmas[k], sigmas[m])
            apart = float(np.sum(np.abs((one - other) / sigma) ** 2))
            total += 2 * weights[k] * weights[m] * (1 - np.exp(-apart / _TOLD_APART))
    return float(total / np.sum(weights) ** 2 - _A_MINUTE * offer.minutes)


def _left_open(hypothesis: Hypothesis, case: str, offer: _Offer, reading: Array) -> Array:
    """How far a reading may lie beside what a cause tells, as its other values are not known: standard."""
    fit = hypothesis.fit
    slopes = np.zeros((len(reading), len(fit.theta)))
    for k in range(len(fit.theta)):
        moved = fit.theta.copy()
        moved[k] += _STEP
        try:
            other = offer.read(*_state(hypothesis, case, moved))
        except (LucidError, ArithmeticError, KeyError):
            continue
        slopes[:, k] = (other - reading) / _STEP
    spread = np.einsum("ik,kl,il->i", slopes, fit.covariance, slopes)
    return np.asarray(np.sqrt(np.maximum(spread, 0.0)))


def _offers(observed: Observed, circuit: Circuit) -> Iterator[_Offer]:
    read = {
        place
        for block in observed.blocks
        if isinstance(block, AtRest)
        for column in block.columns
        for place in places_of(column.formula.body)
    }
    for node in circuit.nodes:
        if (node, GROUND_NODE) not in read:
            yield _Offer("meter", node, 1.0, _at_rest(node), _of_volts, "V")
    if any(element.values.get("magnitude") for element in circuit):
        for f in _frequencies(observed):
            for node in circuit.nodes:
                yield _Offer("response", node, 2.0, _response(node, f), _of_response, "V", f)
    known = {
        column.formula.text
        for block in observed.blocks
        if isinstance(block, OfParts)
        for column in block.columns
    }
    for element in circuit:
        is_part = element.handling.mistaken and "." not in element.name
        if is_part and element.name not in known:
            yield _Offer("component", element.name, 5.0, _bridge(element), _of_bridge, "Ω")


def _frequencies(observed: Observed) -> list[float]:
    known = [b.frequencies for b in observed.blocks if isinstance(b, OverFrequency)]
    low = min((float(f.min()) for f in known), default=20.0)
    high = max((float(f.max()) for f in known), default=20e3)
    return [float(f) for f in np.geomspace(max(low / 3, 1e-3), high * 3, _FREQUENCIES)]


def _at_rest(node: str) -> Callable[[Circuit, View], Array]:
    def read(circuit: Circuit, view: View) -> Array:
        if view.resistance is not None:
            ohms = {"resistance": view.resistance}
            circuit = circuit.with_element(
                Element("probe.next", "resistor", (node, GROUND_NODE), ohms)
            )
        return np.array([operating_point(circuit).voltages[node]])

    return read


def _of_volts(reading: Array) -> Array:
    return np.asarray(_OF_READING * np.abs(reading) + _LEAST_VOLTS)


def _response(node: str, frequency: float) -> Callable[[Circuit, View], Array]:
    def read(circuit: Circuit, view: View) -> Array:
        return np.abs(frequency_sweep(circuit, [frequency]).voltage(node))

    return read


def _of_response(reading: Array) -> Array:
    return np.asarray(_OF_MAGNITUDE * np.abs(reading) + _LEAST_OF_SOURCE)


def _bridge(drawn: Element) -> Callable[[Circuit, View], Array]:
    """What a component bridge finds between the two leads of a part that was taken out."""

    def read(circuit: Circuit, view: View) -> Array:
        one, other = "bridge.1", "bridge.2"
        part = replace(circuit.element(drawn.name), nodes=(one, other))
        source = Element("bridge", "current_source", (GROUND_NODE, one),
                         {"current": 0.0, "magnitude": 1.0})  # fmt: skip
        ground = Element("bridge.3", "resistor", (other, GROUND_NODE), {"resistance": 1e-6})
        leak = Element("bridge.4", "resistor", (one, other), {"resistance": 1e9})
        alone = Circuit("", (source, ground, leak, part))
        impedance = frequency_sweep(alone, [_BRIDGE]).voltage(one, other)[0]
        return np.array([impedance.real, impedance.imag])

    return read


def _of_bridge(reading: Array) -> Array:
    size = float(np.hypot(*reading))
    return np.full(2, _OF_IMPEDANCE * size + _LEAST_OHMS)


def _instruction(offer: _Offer, circuit: Circuit) -> str:
    at = [element.name for element in circuit if offer.where in element.nodes][:3]
    node = f"the node {offer.where}, where {' and '.join(at)} meet"
    match offer.way:
        case "meter":
            return f"Read the DC voltage of {node}, with the meter."
        case "response":
            return f"Measure the response of {node}, at {engineering(offer.frequency or 0.0, 'Hz', 2)}."
        case _:
            return f"Take {offer.where} out and measure it by itself with the component bridge."


def _in_words(offer: _Offer, reading: Array) -> str:
    if offer.way == "component":
        size, angle = float(np.hypot(*reading)), float(np.degrees(np.arctan2(*reading[::-1])))
        if size > 1e8:
            return "nothing: it is open"
        return f"{engineering(size, 'Ω', 3)} at {angle:.0f}°, 1 kHz".replace("-", "\u2212")
    return engineering(float(reading[0]), offer.unit, 3)
