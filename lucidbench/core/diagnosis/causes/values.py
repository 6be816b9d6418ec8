"""Values that are not the drawn ones: beyond tolerance, wrong by powers of ten, exchanged, other supplies."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import combinations

import numpy as np

from lucidbench.core.devices.temperature import CELSIUS_ZERO
from lucidbench.core.diagnosis.causes.base import (
    BESIDE,
    CIRCUIT,
    Cause,
    Edit,
    Edits,
    Kind,
    Size,
    always,
    value_of,
)
from lucidbench.core.diagnosis.observed import Observed
from lucidbench.core.edits import Exchange, Scale, ScaleSource, SetTemperature, Silence
from lucidbench.core.imperfections import PRACTICE
from lucidbench.core.netlist import Circuit, Element

# How often a value is wrong by such a factor, beside each other: a prefix or a band misread.
_SLIPS = {
    10.0: 0.02, 0.1: 0.02, 100.0: 0.006, 0.01: 0.006, 1e3: 0.012, 1e-3: 0.012, 1e6: 0.001, 1e-6: 0.001,
}  # fmt: skip
_IN_WORDS = {
    10.0: "ten times", 0.1: "a tenth of", 100.0: "a hundred times", 0.01: "a hundredth of",
    1e3: "a thousand times", 1e-3: "a thousandth of", 1e6: "a million times", 1e-6: "a millionth of",
}  # fmt: skip
# Digits whose colours are alike (IEC 60062): black, brown, red, orange; green, blue, violet; grey, white.
_LIKE = {0: (1,), 1: (0, 2), 2: (1, 3), 3: (2,), 5: (6,), 6: (5, 7), 7: (6,), 8: (9,), 9: (8,)}
_BAND = 0.004  # how often one is taken for another
_ALIKE = 1.2  # values within that factor need not be exchanged
_MOST_PAIRS = 120
_SAMPLES = 201  # of a period, among which its largest value is looked for


def _scaled(part: str, key: str, element: Element) -> tuple[Cause, ...]:
    """A value anywhere, and at powers of ten beside it."""
    unit = element.device.description.parameter(key).unit
    is_source = bool(element.imposes)
    weight, spread = (0.04, 0.5) if is_source else (0.06, 1.0)
    told, edit = value_of(part, key), Edit("set", part, key)
    beyond = f"{part} is {{value}}, which is beyond its tolerance."
    found = [
        Cause(
            "value", part, weight, f"{part} gives {{value}}." if is_source else beyond,
            Size(1.0, spread, "", scan=BESIDE), lambda size: (Scale(part, key, size),), told=told, unit=unit,
            edit=edit,
        )
    ]  # fmt: skip
    if is_source:
        return tuple(found)
    for factor, often in _SLIPS.items():
        sentence = f"{part} is {{value}}, {_IN_WORDS[factor]} what is drawn: a prefix or a colour band was misread."  # noqa: E501
        by = always(Scale(part, key, factor))
        found.append(
            Cause("value", part, often, sentence, None, by, told=told, unit=unit, edit=edit)
        )
    if element.kind == "resistor":
        for factor in _misread(float(element.values[key].real)):
            sentence = f"{part} is {{value}}: one of its colour bands was misread."
            by = always(Scale(part, key, factor))
            found.append(
                Cause("value", part, _BAND, sentence, None, by, told=told, unit=unit, edit=edit)
            )
    return tuple(found)


def _misread(ohms: float) -> Iterator[float]:
    """The factors by which a value is wrong where one of two digits was taken for a colour like it."""
    digits = ohms / 10 ** (np.floor(np.log10(ohms)) - 1)
    if abs(digits - round(digits)) > 1e-6:
        return
    first, second = divmod(round(digits), 10)
    for k, digit in enumerate((first, second)):
        for other in _LIKE.get(digit, ()):
            changed = 10 * other + second if k == 0 else 10 * first + other
            if changed >= 10:
                yield changed / (10 * first + second)


def _values(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.kind == "impedance":
            for key in ("resistance", "reactance"):
                if element.values.get(key):
                    yield replace(_scaled(name, key, element)[0], other=key)
            continue
        key = element.main_key
        if not key or not element.values.get(key):
            continue
        if element.handling.mistaken or (element.imposes and element.waveform is None):
            yield from _scaled(name, key, element)


def _amplitudes(observed: Observed) -> Iterator[Cause]:
    """Of a source that moves, all it gives together."""
    for name, element in observed.elements.items():
        if not element.imposes or (
            element.waveform is None and not element.values.get("magnitude")
        ):
            continue
        key = "magnitude" if element.values.get("magnitude") else element.main_key
        yield Cause(
            "value", name, 0.05, f"{name} gives {{value}}.", Size(1.0, 0.5, "", scan=BESIDE),
            _giving(name),
            told=_amplitude(element) if element.waveform else value_of(name, key), unit=element.imposes,
            edit=Edit("none" if element.waveform else "set", name, key),
        )  # fmt: skip


def _giving(source: str) -> Edits:
    return lambda size: (ScaleSource(source, size),)


def _amplitude(element: Element) -> Callable[[Circuit, float], float | None]:
    """The largest that a source with a waveform gives."""
    wave = element.waveform
    assert wave is not None
    values = wave.value(np.linspace(0.0, wave.period or 1.0, _SAMPLES))
    largest = float(np.max(np.abs(values)))
    return lambda circuit, size: size * largest


def _exchanged(observed: Observed) -> Iterator[Cause]:
    elements = [e for e in observed.elements.values() if e.handling.mistaken]
    pairs = [
        (one, other)
        for one, other in combinations(elements, 2)
        if one.kind == other.kind and one.main_key
        and not 1 / _ALIKE < abs(one.values[one.main_key] / other.values[one.main_key]) < _ALIKE
    ]  # fmt: skip
    for one, other in pairs[:_MOST_PAIRS]:
        yield Cause(
            "exchanged", one.name, 0.3 / max(4, len(pairs)),
            f"{one.name} and {other.name} are exchanged.",
            edits=always(Exchange(one.name, other.name)), other=other.name,
        )  # fmt: skip


def _missing(observed: Observed) -> Iterator[Cause]:
    for name, element in observed.elements.items():
        if element.imposes:
            yield Cause(
                "missing", name, 0.03, f"{name} gives nothing: it is switched off or not connected.",
                None, always(Silence(name)),
                edit=Edit("none" if element.waveform else "set", name, element.main_key),
            )  # fmt: skip


def _temperature(observed: Observed) -> Iterator[Cause]:
    if not any(
        (e.handling.warms and e.form not in ("fixed", "ideal", "constant_drop"))
        or e.values.get("temperature_coefficient")
        for e in observed.elements.values()
    ):  # fmt: skip
        return
    kelvin = next(iter(observed.circuits.values())).temperature
    yield Cause(
        "temperature", CIRCUIT, 0.08, "The circuit is at {value}.",
        Size(kelvin - CELSIUS_ZERO, 12.0, "°C", is_signed=True, scan=(-1.5, -0.3, 0.3, 1.5)),
        lambda size: (SetTemperature(size),), unit="°C",
    )  # fmt: skip


KINDS = (
    Kind("value", "another value", _values, PRACTICE),
    Kind("value", "another amplitude", _amplitudes, PRACTICE),
    Kind("exchanged", "two parts exchanged", _exchanged, PRACTICE),
    Kind("missing", "a source missing", _missing, PRACTICE),
    Kind("temperature", "temperature", _temperature, PRACTICE),
)
