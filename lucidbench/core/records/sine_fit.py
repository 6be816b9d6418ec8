"""The sine that fits a record best: IEEE Std 1057-2017, annex A, with three parameters or with four."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
_MOST_ROUNDS = 30
_CLOSE = 1e-12  # of the frequency: it changes no more


@dataclass(frozen=True)
class SineFit:
    """offset + Re(phasor · exp(j·2π·frequency·t)). `phasor` is a peak value; `residual` the RMS of what
    the sine leaves over, `uncertainty` the standard one of the phasor's real and imaginary parts."""

    frequency: float  # [Hz]
    phasor: complex
    offset: float
    residual: float
    uncertainty: float


def fit_sine(times: Array, values: Array, frequency: float) -> SineFit:
    """At a known frequency [Hz]: linear least squares in three parameters."""
    angle = 2 * np.pi * frequency * times
    design = np.column_stack([np.cos(angle), np.sin(angle), np.ones_like(angle)])
    (a, b, c), *_ = np.linalg.lstsq(design, values, rcond=None)
    left = values - design @ np.array([a, b, c])
    free = max(1, len(values) - 3)
    residual = float(np.sqrt(np.mean(left**2)))
    deviation = float(np.sqrt(np.sum(left**2) / free))
    spread = float(np.sqrt(2 / len(values))) * deviation
    return SineFit(frequency, complex(a, -b), float(c), residual, spread)


def fit_sine_and_frequency(times: Array, values: Array, guess: float) -> SineFit:
    """With the frequency [Hz] found too, from near `guess`: the three-parameter fit with a correction of
    the frequency beside it, repeated until that is none."""
    frequency = guess
    found = fit_sine(times, values, frequency)
    for _ in range(_MOST_ROUNDS):
        angle = 2 * np.pi * frequency * times
        a, b = found.phasor.real, -found.phasor.imag
        slope = 2 * np.pi * times * (b * np.cos(angle) - a * np.sin(angle))
        design = np.column_stack([np.cos(angle), np.sin(angle), np.ones_like(angle), slope])
        *_, correction = np.linalg.lstsq(design, values, rcond=None)[0]
        frequency += float(correction)
        found = fit_sine(times, values, frequency)
        if abs(correction) <= _CLOSE * abs(frequency):
            break
    return found
