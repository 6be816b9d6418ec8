"""A source given another waveform: as large, as high, as often as it was."""

from __future__ import annotations

from collections.abc import Mapping

from lucidbench.core.devices import CATALOGUE
from lucidbench.core.devices.waves import STEP_LEVELS
from lucidbench.core.schematic.document import Part
from lucidbench.core.schematic.values import read_values
from lucidbench.core.units.engineering import typed

_REPEATED = ("square", "triangle", "sawtooth")
_BETWEEN_LEVELS = ("pulse", *_REPEATED, "exponential")


def with_waveform(part: Part, form: str) -> dict[str, str]:
    """The values of `part` when it does in time what `form` says: the swing, its middle and its
    frequency stay. Values it had for that form before are overwritten by these only."""
    description = CATALOGUE[part.kind]
    unit = description.imposes
    numbers = {v.parameter.key: v.number for v in read_values(part) if v.number is not None}
    before = part.form or "constant"
    values = dict(part.values)
    for key, number in _told(numbers, before, form).items():
        values[key] = typed(number, description.parameter(key).unit)
    for parameter in description.of_form(form):
        values.setdefault(parameter.key, description.starting_values[parameter.key])
    if unit and form == "constant":
        values.setdefault("voltage" if unit == "V" else "current", typed(0.0, unit))
    return values


def _told(numbers: Mapping[str, float], before: str, form: str) -> dict[str, float]:
    """What a waveform `before` says of one of another `form`, in SI units."""
    told: dict[str, float] = {}
    levels = _levels(numbers, before)
    begins = numbers.get("step_at" if before == "step" else "delay")
    if levels:
        low, high = levels
        if form == "sine" and before != "sine":
            steady = before == "constant"
            told |= {"amplitude": high if steady else (high - low) / 2}
            told |= {"offset": 0.0 if steady else (high + low) / 2}
        elif form == "step" and before != "step":
            told |= {"from_level": low, "to_level": high}
        elif form in _BETWEEN_LEVELS and before not in _BETWEEN_LEVELS:
            told |= {"low": low, "high": high}
    if begins and "step" in (before, form):
        told["step_at" if form == "step" else "delay"] = begins
    frequency = numbers.get("frequency")
    if before == "pulse" and numbers.get("period"):
        frequency = 1 / numbers["period"]
    if frequency and form in ("sine", *_REPEATED) and before == "pulse":
        told["frequency"] = frequency
    if frequency and form == "pulse" and before in ("sine", *_REPEATED):
        told |= {"period": 1 / frequency, "width": numbers.get("duty", 0.5) / frequency}
    return told


def _levels(numbers: Mapping[str, float], form: str) -> tuple[float, float] | None:
    """Between which two levels it goes; None where it has none."""
    if form == "constant":
        steady = numbers.get("voltage", numbers.get("current"))
        return None if not steady else (0.0, steady)
    if form == "sine":
        middle, half = numbers.get("offset", 0.0), numbers.get("amplitude")
        return None if half is None else (middle - half, middle + half)
    if form == "step" and {*STEP_LEVELS} <= numbers.keys():
        return numbers["from_level"], numbers["to_level"]
    if form in _BETWEEN_LEVELS and {"low", "high"} <= numbers.keys():
        return numbers["low"], numbers["high"]
    return None
