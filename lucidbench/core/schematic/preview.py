"""What a drawn source will do in time, as a picture with its numbers: for the card of the part."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from pydantic import BaseModel

from lucidbench.core.devices import CATALOGUE
from lucidbench.core.devices.waveforms import Exponential, Pieces, Sine, Waveform
from lucidbench.core.devices.waves import given_waveform
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known
from lucidbench.core.schematic.document import Part
from lucidbench.core.schematic.values import read_values
from lucidbench.core.units import engineering

_POINTS = 241
_PERIODS = 2.0


class WavePreview(BaseModel):
    """Values over time, evenly from 0 to `stop`; the texts are for its corners."""

    values: list[float] = []
    stop: str = ""
    lowest: str = ""
    highest: str = ""
    period: str | None = None
    problem: str | None = None


def preview(part: Part, parameters: Mapping[str, Known]) -> WavePreview:
    """Never raises: what is wrong is told."""
    numbers: dict[str, float] = {}
    texts: dict[str, str] = {}
    for value in read_values(part, CATALOGUE, parameters):
        if value.problem:
            return WavePreview(problem=f"{value.parameter.label}: {value.problem}.")
        if value.parameter.reads != "quantity":
            texts[value.parameter.key] = value.text
        elif value.number is not None:
            numbers[value.parameter.key] = value.number
    try:
        _, waveform = given_waveform(part.form, numbers, texts)
    except LucidError as error:
        return WavePreview(problem=str(error))
    if waveform is None:
        return WavePreview()
    stop = _span(waveform)
    values = waveform.value(np.linspace(0.0, stop, _POINTS))
    unit = CATALOGUE[part.kind].imposes
    return WavePreview(
        values=[float(v) for v in values],
        stop=engineering(stop, "s", digits=3),
        lowest=engineering(float(values.min()), unit, digits=3),
        highest=engineering(float(values.max()), unit, digits=3),
        period=engineering(waveform.period, "s", digits=3) if waveform.period else None,
    )


def _span(waveform: Waveform) -> float:
    """How long to show it [s]: two periods, or until it has done what it does."""
    delay = getattr(waveform, "delay", 0.0)
    if waveform.period:
        return float(delay + _PERIODS * waveform.period)
    if isinstance(waveform, Sine):
        fading = 5 / waveform.damping if waveform.damping else 0.0
        return delay + max(fading, _PERIODS / waveform.frequency)
    if isinstance(waveform, Exponential):
        return waveform.fall_delay + 5 * waveform.fall_constant
    assert isinstance(waveform, Pieces)
    return (delay + waveform.times[-1]) * 1.2 or 1.0
