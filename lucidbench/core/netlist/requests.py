"""The analyses a circuit file asks for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Request:
    """An analysis, and the line that asks for it."""

    line: int = 1


@dataclass(frozen=True)
class OperatingPointRequest(Request):
    pass


@dataclass(frozen=True)
class Sweep:
    """One swept thing: a source, a resistor, a parameter of the circuit, or "temp" (in °C)."""

    subject: str
    start: float
    stop: float
    step: float


@dataclass(frozen=True)
class DcSweepRequest(Request):
    """`sweeps[0]` runs fastest; a second one is stepped around it."""

    sweeps: tuple[Sweep, ...] = ()


@dataclass(frozen=True)
class FrequencySweepRequest(Request):
    """`spacing` is "dec", "oct" or "lin"; `points` for each decade, each octave, or in all."""

    spacing: str = "dec"
    points: int = 10
    start: float = 1.0
    stop: float = 1.0


@dataclass(frozen=True)
class TransientRequest(Request):
    """Times in seconds; `longest` bounds the solver's step. `from_given` starts from given values."""

    step: float = 0.0
    stop: float = 0.0
    start: float = 0.0
    longest: float | None = None
    from_given: bool = False
    node_voltages: Mapping[str, float] = field(default_factory=dict)
