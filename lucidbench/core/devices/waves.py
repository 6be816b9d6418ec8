"""What a drawn source does in time, as forms with values of their own: sine, pulse, square and the rest."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping

from lucidbench.core.devices.base import Form, Parameter
from lucidbench.core.devices.waveforms import (
    Exponential,
    Sine,
    Waveform,
    piecewise_linear,
    pulse,
    samples,
    sawtooth,
    square,
    triangle,
)
from lucidbench.core.errors import LucidError, ValueTextError
from lucidbench.core.units import parse_value

_LEVELS = ("low", "high")
STEP_LEVELS = ("from_level", "to_level")
WAVE_FORMS = (
    Form("sine", "Sine", "A sine, which may begin late and fade.", ("amplitude", "frequency")),
    Form("step", "Step", "From one level to another, once.", STEP_LEVELS),
    Form("pulse", "Pulse", "Up, and down again; once or repeated.", _LEVELS),
    Form("square", "Square", "Between two levels.", (*_LEVELS, "frequency")),
    Form("triangle", "Triangle", "Straight up, straight down.", (*_LEVELS, "frequency")),
    Form("sawtooth", "Sawtooth", "Straight up, then back at once.", (*_LEVELS, "frequency")),
    Form("exponential", "Exponential", "Towards a level, and back.", _LEVELS),
    Form("piecewise", "Piecewise linear", "Straight from point to point.", ()),
    Form("samples", "Samples", "A table of values at equal intervals.", ()),
)
_REPEATED = ("square", "triangle", "sawtooth")
_BETWEEN_LEVELS = ("pulse", *_REPEATED, "exponential")
_ABOVE_ZERO = {
    **dict.fromkeys(("sine", *_REPEATED), ("frequency",)),
    "exponential": ("rise_constant", "fall_constant"),
    "samples": ("interval",),
}
_PLAIN = re.compile(r"[-+]?\d+(\.\d*)?(e[-+]?\d{1,2})?")
MOST_POINTS = 5_000


def wave_parameters(unit: str) -> tuple[Parameter, ...]:
    """The values of all forms; `unit` is the source's own."""
    p = Parameter
    return (
        p("amplitude", "Amplitude", unit, f"1 {unit}", "From the middle to the peak.", forms=("sine",)),
        p("low", "Low", unit, f"0 {unit}", "The level it begins at, and its value at DC.", forms=_BETWEEN_LEVELS),
        p("high", "High", unit, f"5 {unit}", "The other level.", forms=_BETWEEN_LEVELS),
        p("from_level", "From", unit, f"0 {unit}", "The level before, and its value at DC.", forms=("step",)),
        p("to_level", "To", unit, f"5 {unit}", "The level after.", forms=("step",)),
        p("step_at", "At", "s", "0 s", "When it steps.", minimum=0.0, forms=("step",), optional=True),
        p("frequency", "Frequency", "Hz", "1 kHz", "Repetitions a second.", positive=True,
          forms=("sine", *_REPEATED)),
        p("offset", "Offset", unit, f"0 {unit}", "The middle it swings about, and its value at DC.", forms=("sine",)),
        p("start_phase", "Starting phase", "°", "0", "Of the sine [degree].", forms=("sine",), optional=True),
        p("duty", "Duty cycle", "%", "50 %", "Share of each period spent at the high level.",
          minimum=0.0, maximum=1.0, forms=("square",)),
        p("width", "Width", "s", "1 ms", "At the high level.", minimum=0.0, forms=("pulse",)),
        p("period", "Period", "s", "", "From pulse to pulse; empty: one pulse only.", positive=True,
          forms=("pulse",), optional=True),
        p("rise", "Rise time", "s", "0 s", "From low to high.", minimum=0.0, forms=("pulse",), aside=True, optional=True),
        p("fall", "Fall time", "s", "0 s", "From high to low.", minimum=0.0, forms=("pulse",), aside=True, optional=True),
        p("rise_constant", "Rise time constant", "s", "1 ms", "Towards high.", positive=True, forms=("exponential",)),
        p("fall_delay", "Falls after", "s", "5 ms", "When it turns back.", minimum=0.0, forms=("exponential",)),
        p("fall_constant", "Fall time constant", "s", "1 ms", "Back to low.", positive=True, forms=("exponential",)),
        p("delay", "Delay", "s", "0 s", "Before it begins.", minimum=0.0, optional=True, aside=True,
          forms=("sine", *_BETWEEN_LEVELS)),
        p("damping", "Damping", "1/s", "0", "Rate at which the sine fades.", minimum=0.0, optional=True,
          aside=True, forms=("sine",)),
        p("points", "Points", "", "0 0, 1m 5, 2m 0", "Time and value of each, in order: 0 0, 1m 5, 2m 0.",
          reads="points", forms=("piecewise",)),
        p("samples", "Samples", "", "0 1 2 1 0", "Values in order.", reads="points", forms=("samples",)),
        p("interval", "Interval", "s", "1 ms", "From sample to sample.", positive=True, forms=("samples",)),
    )  # fmt: skip


_OWN_KEYS = {p.key for p in wave_parameters("V")}


def finite(word: str) -> float:
    """A plain number, which most are: many times as quick as one with prefixes. Raises ValueError."""
    if not _PLAIN.fullmatch(word):
        raise ValueError(word)
    return float(word)


def read_points(text: str) -> list[float]:
    """The numbers of a list of points or samples. Raises ValueTextError."""
    words = re.split(r"[\s,;]+", text.strip())
    if len(words) > MOST_POINTS:
        raise ValueTextError(f"at most {MOST_POINTS} numbers are taken here", 0)
    numbers = []
    for word in words:
        try:
            numbers.append(finite(word))
            continue
        except ValueError:
            bare = re.sub(r"(?<=[\dpnuµmkMG])[VAs]$", "", word)
        numbers.append(parse_value(bare, "").number)
    return numbers


def given_waveform(
    form: str, values: Mapping[str, float], texts: Mapping[str, str]
) -> tuple[dict[str, float], Waveform | None]:
    """(values of the source itself, what it does in time). Raises LucidError where it cannot be.

    `values` are the understood numbers of the form's parameters, `texts` what is no number. The value
    at DC is the offset of a sine, and of all else what it begins at; a sine is its own phasor where none is
    given.
    """
    own = {key: v for key, v in values.items() if key not in _OWN_KEYS}
    if form in ("", "constant"):
        return own, None
    v = {key: values.get(key, 0.0) for key in _OWN_KEYS}
    for key in _ABOVE_ZERO.get(form, ()):
        if not v[key] > 0:
            raise LucidError(f"its {key.replace('_', ' ')} is missing, or not above zero")
    waveform: Waveform
    if form == "sine":
        phase = v["start_phase"]
        waveform = Sine(
            v["offset"], v["amplitude"], v["frequency"], v["delay"], v["damping"], math.radians(phase)
        )  # fmt: skip
        if not own.get("magnitude"):
            own["magnitude"] = abs(v["amplitude"])
            own["phase"] = phase + (180.0 if v["amplitude"] < 0 else 0.0)
    elif form == "step":
        waveform = pulse(v["from_level"], v["to_level"], v["step_at"])
    elif form == "pulse":
        waveform = pulse(
            v["low"], v["high"], v["delay"], v["rise"], v["fall"], v["width"],
            values.get("period", math.inf),
        )  # fmt: skip
    elif form == "square":
        waveform = square(v["low"], v["high"], v["frequency"], v["duty"], v["delay"])
    elif form in ("triangle", "sawtooth"):
        shape = triangle if form == "triangle" else sawtooth
        waveform = shape(v["low"], v["high"], v["frequency"], v["delay"])
    elif form == "exponential":
        begins = v["delay"]
        waveform = Exponential(
            v["low"], v["high"], begins, v["rise_constant"], v["fall_delay"], v["fall_constant"]
        )
    elif form == "piecewise":
        numbers = read_points(texts.get("points", ""))
        if len(numbers) % 2:
            raise LucidError("Points are pairs of a time and a value; one number is left over.")
        waveform = piecewise_linear(list(zip(numbers[::2], numbers[1::2], strict=True)))
    else:
        waveform = samples(read_points(texts.get("samples", "")), v["interval"])
    own["dc"] = v["offset"] if form == "sine" else waveform.at_rest
    return own, waveform
