"""What follows the nodes of a V or I line: DC, AC, and a waveform."""

from __future__ import annotations

import math
from collections.abc import Callable

from lucidbench.core.devices.waveforms import (
    Exponential,
    Sine,
    Waveform,
    piecewise_linear,
    pulse,
)
from lucidbench.core.errors import LucidError, NetlistError
from lucidbench.core.netlist.deck import Statement

_SHAPES = ("sin", "pulse", "exp", "pwl")


def read_source(
    statement: Statement, words: list[str], number: Callable[[str], float]
) -> tuple[dict[str, float], Waveform | None]:
    """({"dc": …, "magnitude": …, "phase": …}, waveform). Raises NetlistError."""
    name, line = statement.words[0], statement.line
    values: dict[str, float] = {}
    waveform: Waveform | None = None
    k = 0
    while k < len(words):
        word = words[k].lower()
        if word == "dc" or (k == 0 and word not in ("ac", *_SHAPES)):
            k += 1 if word == "dc" else 0
            k += 1 if k < len(words) and words[k] == "=" else 0
            if k >= len(words):
                raise NetlistError(line, f"{name}: a value is wanted after DC")
            values["dc"] = number(words[k])
            k += 1
        elif word == "ac":
            k += 1
            given: list[float] = []
            while k < len(words) and len(given) < 2 and words[k].lower() not in ("dc", *_SHAPES):
                given.append(number(words[k]))
                k += 1
            magnitude, phase = [*given, 1.0, 0.0][:2] if not given else [*given, 0.0][:2]
            if magnitude < 0:
                magnitude, phase = -magnitude, phase + 180.0
            values["magnitude"], values["phase"] = magnitude, phase
        elif word in _SHAPES:
            if waveform is not None:
                raise NetlistError(line, f"{name}: one waveform is enough, and two are given")
            inside, k = _bracketed(statement, words, k + 1)
            numbers = [number(w) for w in inside]
            try:
                waveform = _waveform(word, numbers)
            except LucidError as error:
                raise NetlistError(line, f"{name}: {error}") from error
        else:
            raise NetlistError(line, f"{name}: “{words[k]}” after the value is not understood")
    if "dc" not in values:
        values["dc"] = waveform.at_rest if waveform else 0.0
    return values, waveform


def _bracketed(statement: Statement, words: list[str], k: int) -> tuple[list[str], int]:
    """The words in brackets from `k` on (brackets may be left out), and where they end."""
    if k < len(words) and words[k] == "(":
        if ")" not in words[k:]:
            raise NetlistError(statement.line, f"{statement.words[0]}: “(” is not closed by “)”")
        end = words.index(")", k)
        return words[k + 1 : end], end + 1
    end = k
    while end < len(words) and words[end].lower() not in ("dc", "ac", *_SHAPES):
        end += 1
    return words[k:end], end


def _waveform(shape: str, given: list[float]) -> Waveform:
    """The trade's argument orders. Raises LucidError."""
    if shape == "pwl":
        if len(given) < 2 or len(given) % 2:
            raise LucidError("PWL takes pairs of time and value")
        return piecewise_linear(list(zip(given[::2], given[1::2], strict=True)))
    least, most, arguments = {
        "sin": (2, 6, "offset amplitude frequency [delay [damping [phase]]]"),
        "pulse": (2, 7, "low high [delay [rise [fall [width [period]]]]]"),
        "exp": (2, 6, "first second [rise delay [rise constant [fall delay [fall constant]]]]"),
    }[shape]
    if not least <= len(given) <= most or (shape == "sin" and len(given) < 3):
        raise LucidError(f"{shape.upper()} takes {arguments}; {len(given)} numbers are given")
    if shape == "sin":
        offset, amplitude, frequency, delay, damping, phase = [*given, 0.0, 0.0, 0.0][:6]
        if frequency <= 0:
            raise LucidError("the frequency of SIN must be above 0 Hz")
        return Sine(offset, amplitude, frequency, delay, damping, math.radians(phase))
    if shape == "pulse":
        low, high, *times = given
        delay, rise, fall = [*times[:3], 0.0, 0.0, 0.0][:3]
        width = times[3] if len(times) > 3 else math.inf
        period = times[4] if len(times) > 4 else math.inf
        return pulse(low, high, delay, rise, fall, width, period or math.inf)
    if len(given) < 6:
        raise LucidError(f"EXP takes {arguments}; all six are wanted")
    if min(given[3], given[5]) <= 0:
        raise LucidError("the time constants of EXP must be above 0 s")
    return Exponential(*given)
