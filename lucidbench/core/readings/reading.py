"""A figure read off a result: a plain number that keeps its unit."""

from __future__ import annotations

from lucidbench.core.units import engineering
from lucidbench.core.units.dimensions import NUMBER, UNITS

DEGREE, DECIBEL = "°", "dB"


class Reading(float):
    """Counts as a float everywhere; `unit` is its symbol ("" for a ratio), `echo` how it is written."""

    unit: str

    def __new__(cls, value: float, unit: str = "") -> Reading:
        reading = super().__new__(cls, value)
        reading.unit = unit
        return reading

    @property
    def echo(self) -> str:
        return engineering(float(self), self.unit)

    def __repr__(self) -> str:
        return f"Reading({float(self)!r}, {self.unit!r})"

    def __reduce__(self) -> tuple[type[Reading], tuple[float, str]]:
        return Reading, (float(self), self.unit)


def product(first: str, second: str, power: int = 1) -> str:
    """The unit of a thing in `first` times one in `second` to a power: "V", "s" is "V·s"."""
    from fractions import Fraction

    return (UNITS.get(first, NUMBER) * UNITS.get(second, NUMBER) ** Fraction(power)).unit
