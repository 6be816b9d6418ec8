"""A circuit as netlist text, which reads back as the same circuit.

Parts whose every value the trade's own line can say use it; the rest is written as our `Y` lines.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from lucidbench.core.devices.base import ROOM_TEMPERATURE
from lucidbench.core.devices.temperature import CELSIUS_ZERO
from lucidbench.core.devices.waveforms import Exponential, Pieces, Sine, Waveform
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist.circuit import Circuit, Element
from lucidbench.core.netlist.expressions import spelled, write_program
from lucidbench.core.netlist.models import ELEMENT_KEYS, MODEL_TYPES

_CONTROLLED = ("E", "F", "G", "H")  # letters
_MODEL_OF = {model.kind: (name, model) for name, model in MODEL_TYPES.items()}


class CannotBeWritten(LucidError):
    """A part has something that no line can say."""


def write_netlist(circuit: Circuit) -> str:
    """The text of `circuit`. Raises CannotBeWritten.

    Names that do not begin with their kind's letter get it put before them.
    """
    title = " ".join(circuit.title.split()) or "a circuit"
    names = _names(circuit)
    lines = [title]
    models: list[str] = []
    for element in circuit:
        lines.append(_line(element, names, models))
    lines += models
    if circuit.temperature != ROOM_TEMPERATURE:
        lines.append(f".temp {_number(circuit.temperature - CELSIUS_ZERO)}")
    if circuit.near:
        near = " ".join(f"V({node})={_number(volts)}" for node, volts in circuit.near.items())
        lines.append(f".nodeset {near}")
    return "\n".join([*lines, ".end", ""])


def _letter(element: Element) -> str:
    kind = element.kind
    if element.form and element.form != element.device.description.forms[0].key:
        return "Y"
    if element.imposes:
        return "Y" if "internal_resistance" in element.values else element.device.letter
    if element.device.letter in _CONTROLLED:
        return element.device.letter
    if kind.startswith("formula"):
        return "B"
    if kind in _MODEL_OF:
        return _MODEL_OF[kind][1].letter
    letter = element.device.letter
    if letter in ELEMENT_KEYS:
        sayable = {element.device.description.parameters[0].key, *ELEMENT_KEYS[letter].values()}
        return letter if set(element.values) <= sayable else "Y"
    return letter or "Y"


def _names(circuit: Circuit) -> dict[str, str]:
    """The name each element is written by."""
    taken: set[str] = set()
    names: dict[str, str] = {}
    for element in circuit:
        letter = _letter(element)
        base = "".join(
            c if (c.isalnum() and c.isascii()) or c == "_" else "_" for c in element.name
        )
        name = base if base[:1].upper() == letter else f"{letter}{base}"
        while name.lower() in taken:
            name += "_"
        taken.add(name.lower())
        names[element.name] = name
    return names


def _line(element: Element, names: dict[str, str], models: list[str]) -> str:
    name, letter = names[element.name], _letter(element)
    head = [name, *element.nodes]
    values = dict(element.values)
    if letter in "VI":
        return " ".join([*head, *_source(element)])
    if letter == "B":
        sensed = [f"V({node})" for node in element.nodes[2:]]
        sensed += [f"I({names[other]})" for other in element.refers]
        quantity = "V" if element.kind == "formula_voltage" else "I"
        formula = write_program(element.program, sensed)
        return " ".join([name, *element.nodes[:2], f"{quantity}={{{formula}}}"])
    if letter in "EGFHK":
        gain = values["coupling" if letter == "K" else "gain"]
        return " ".join([*head, *(names[r] for r in element.refers), _number(gain)])
    if element.kind in _MODEL_OF and letter != "Y":
        type_name, model = _MODEL_OF[element.kind]
        words = {key: word for word, key in reversed(model.names.items())}
        defaults = element.device.defaults
        told = [
            f"{words[key].upper()}={_number(values.get(key, defaults.get(key)))}"
            for key in words
            if key in values or key in model.defaults
        ]
        models.append(f".model m_{name} {type_name.upper()}({' '.join(told)})")
        begins = ["ON"] if values.get("begins_closed", 0.0) > 0.5 else []
        return " ".join([*head, f"m_{name}", *begins])
    if letter == "Y":
        keys = [f"{key}={_number(value)}" for key, value in values.items()]
        form = [f"form={element.form}"] if element.form else []
        return " ".join([*head, element.kind, *form, *keys, *_tolerance(element)])
    main = element.device.description.parameters[0].key
    words = {key: word for word, key in reversed(ELEMENT_KEYS[letter].items())}
    more = [f"{words[k].upper()}={_number(v)}" for k, v in values.items() if k != main]
    return " ".join([*head, _number(values[main]), *more, *_tolerance(element)])


def _tolerance(element: Element) -> Iterable[str]:
    for share in element.spreads.values():
        yield f"tol={share * 100:.12g}%"


def _source(element: Element) -> Iterable[str]:
    values = element.values
    yield f"DC {_number(values[element.main_key])}"
    if values.get("magnitude"):
        yield f"AC {_number(values['magnitude'])} {_number(values.get('phase', 0.0))}"
    if element.waveform is not None:
        yield _waveform(element.name, element.waveform)


def _waveform(name: str, waveform: Waveform) -> str:
    numbers: tuple[float, ...]
    if isinstance(waveform, Sine):
        w = waveform
        numbers = (w.offset, w.amplitude, w.frequency, w.delay, w.damping, math.degrees(w.phase))
        return f"SIN({' '.join(map(_number, numbers))})"
    if isinstance(waveform, Exponential):
        e = waveform
        numbers = (
            e.first, e.second, e.rise_delay, e.rise_constant, e.fall_delay, e.fall_constant
        )  # fmt: skip
        return f"EXP({' '.join(map(_number, numbers))})"
    assert isinstance(waveform, Pieces)
    points = list(zip(waveform.times, waveform.values, strict=True))
    if not waveform.repeats:
        moved = [(t + waveform.delay, v) for t, v in points]
        return f"PWL({' '.join(f'{_number(t)} {_number(v)}' for t, v in moved)})"
    pulsed = _as_pulse(points)
    if pulsed is None:
        raise CannotBeWritten(
            f"{name} repeats a shape that no netlist line can say; write it as a pulse, or for one "
            f"run as a piecewise linear source."
        )
    low, high, rise, width, fall = pulsed
    numbers = (low, high, waveform.delay, rise, fall, width, waveform.repeats)
    return f"PULSE({' '.join(map(_number, numbers))})"


def _as_pulse(points: list[tuple[float, float]]) -> tuple[float, float, float, float, float] | None:
    """(low, high, rise, width, fall) where straight pieces are one pulse; None where they are not."""
    times, values = [t for t, _ in points], [v for _, v in points]
    if len(points) == 5 and values[0] == values[3] == values[4] and values[1] == values[2]:
        return values[0], values[1], times[1], times[2] - times[1], times[3] - times[2]
    if len(points) == 3 and values[0] == values[2]:
        return values[0], values[1], times[1], 0.0, times[2] - times[1]
    if len(points) == 2:
        return values[0], values[1], times[1], 0.0, 0.0
    return None


def _number(value: float | None) -> str:
    return spelled(float(value if value is not None else 0.0))
