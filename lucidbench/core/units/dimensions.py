"""Dimensions of electrical quantities, as powers of volt, ampere and second.

Three base units span every quantity of circuit theory and keep the names a student expects:
Ω = V/A, W = V·A, F = A·s/V, H = V·s/A.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property


@dataclass(frozen=True)
class Dimension:
    """Exponents of volt, ampere and second."""

    volt: Fraction = Fraction(0)
    ampere: Fraction = Fraction(0)
    second: Fraction = Fraction(0)

    def __mul__(self, other: Dimension) -> Dimension:
        return Dimension(
            self.volt + other.volt, self.ampere + other.ampere, self.second + other.second
        )

    def __truediv__(self, other: Dimension) -> Dimension:
        return self * other ** Fraction(-1)

    def __pow__(self, exponent: Fraction) -> Dimension:
        return Dimension(self.volt * exponent, self.ampere * exponent, self.second * exponent)

    @cached_property
    def unit(self) -> str:
        """The unit's usual symbol, or a product of powers where it has none of its own."""
        named = _SYMBOLS.get(self)
        if named is not None:
            return named
        for exponent in (2, 3):  # Ω² rather than V²·A⁻²
            root = _SYMBOLS.get(self ** Fraction(1, exponent))
            if root:
                return root + _superscript(Fraction(exponent))
        powers = (("V", self.volt), ("A", self.ampere), ("s", self.second))
        return "·".join(symbol + _superscript(power) for symbol, power in powers if power)

    @property
    def quantity(self) -> str:
        """What such a thing is called: "a voltage", "a plain number"."""
        return _WORDS.get(self, f"a quantity in {self.unit}")


def _dimension(volt: int, ampere: int, second: int) -> Dimension:
    return Dimension(Fraction(volt), Fraction(ampere), Fraction(second))


NUMBER = _dimension(0, 0, 0)
VOLTAGE = _dimension(1, 0, 0)
CURRENT = _dimension(0, 1, 0)
TIME = _dimension(0, 0, 1)
RESISTANCE = _dimension(1, -1, 0)
CONDUCTANCE = _dimension(-1, 1, 0)
POWER = _dimension(1, 1, 0)
CAPACITANCE = _dimension(-1, 1, 1)
INDUCTANCE = _dimension(1, -1, 1)
FREQUENCY = _dimension(0, 0, -1)
CHARGE = _dimension(0, 1, 1)
ENERGY = _dimension(1, 1, 1)
SQUARE_LAW = _dimension(-2, 1, 0)  # of a transistor's current by the square of a voltage

UNITS: dict[str, Dimension] = {
    "V": VOLTAGE,
    "A": CURRENT,
    "Ω": RESISTANCE,
    "S": CONDUCTANCE,
    "W": POWER,
    "F": CAPACITANCE,
    "H": INDUCTANCE,
    "Hz": FREQUENCY,
    "s": TIME,
    "C": CHARGE,
    "J": ENERGY,
}
# U+2126 is the compatibility ohm sign some keyboards produce.
UNIT_SPELLINGS: dict[str, str] = {**{u: u for u in UNITS}, "Ω": "Ω", "ohm": "Ω", "Ohm": "Ω"}

_SYMBOLS: dict[Dimension, str] = {
    NUMBER: "",
    SQUARE_LAW: "A/V²",
    **{d: symbol for symbol, d in UNITS.items()},
}
_WORDS: dict[Dimension, str] = {
    NUMBER: "a plain number",
    VOLTAGE: "a voltage",
    CURRENT: "a current",
    RESISTANCE: "a resistance",
    CONDUCTANCE: "a conductance",
    POWER: "a power",
    CAPACITANCE: "a capacitance",
    INDUCTANCE: "an inductance",
    FREQUENCY: "a frequency",
    TIME: "a time",
    CHARGE: "a charge",
    ENERGY: "an energy",
}

_SUPERSCRIPTS = str.maketrans("0123456789-/", "⁰¹²³⁴⁵⁶⁷⁸⁹⁻ᐟ")


def _superscript(power: Fraction) -> str:
    return "" if power == 1 else str(power).translate(_SUPERSCRIPTS)
