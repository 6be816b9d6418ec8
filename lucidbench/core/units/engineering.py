"""Numbers written for people: engineering notation with SI prefixes."""

from __future__ import annotations

import math
from decimal import ROUND_HALF_UP, Decimal
from functools import lru_cache

from lucidbench.core.units.prefixes import BY_EXPONENT

NO_BREAK_SPACE = "\u00a0"
MINUS = "\u2212"
SIGNIFICANT_DIGITS = 4  # enough to tell 1 % parts apart, few enough to read at a glance
_STEP = 3
_TRUSTED = 11  # digits of a figure beyond which it differs by the way it was reached
_LARGEST, _SMALLEST = max(BY_EXPONENT), min(BY_EXPONENT)
_PREFIXED_UNITS = ("", "V", "A", "Ω", "S", "W", "F", "H", "Hz", "s", "C", "J", "VA", "var", "A/V²")


def takes_prefix(unit: str) -> bool:
    return bool(unit) and unit in _PREFIXED_UNITS


@lru_cache(maxsize=8192)  # a figure is written in several places of the same answer
def engineering(value: float, unit: str = "", digits: int = SIGNIFICANT_DIGITS) -> str:
    """`value` in engineering notation: engineering(4700, "Ω") is "4.7 kΩ".

    Rounded to `digits` significant digits, trailing zeros dropped. Units that take no prefix
    ("%", "V²") and plain numbers out of reach of the prefixes use a power of ten.
    """
    if not math.isfinite(value):
        return "not a number" if math.isnan(value) else f"{MINUS if value < 0 else ''}∞"
    if value == 0:
        return _with_unit("0", unit)
    if not takes_prefix(unit):
        return _with_unit(plain(value, digits), unit)
    magnitude = abs(_rounded(value, digits))  # round first: 999.96 becomes 1.000 k
    exponent = _STEP * math.floor(math.log10(magnitude) / _STEP + 1e-12)
    if exponent > _LARGEST + _STEP or exponent < _SMALLEST - _STEP:
        return _with_unit(plain(value, digits), unit)
    exponent = min(max(exponent, _SMALLEST), _LARGEST)
    mantissa = _trim(magnitude / 10.0**exponent, digits)
    sign = MINUS if value < 0 else ""
    return f"{sign}{mantissa}{NO_BREAK_SPACE}{BY_EXPONENT[exponent]}{unit}"


def phasor(value: complex, unit: str = "", digits: int = SIGNIFICANT_DIGITS) -> str:
    """Magnitude and angle: "8.944 Ω ∠ −63.43°"."""
    angle = math.degrees(math.atan2(value.imag, value.real))
    return f"{engineering(abs(value), unit, digits)} ∠ {plain(angle, digits)}°"


def rectangular(value: complex, unit: str = "", digits: int = SIGNIFICANT_DIGITS) -> str:
    """Real and imaginary part: "4 − j8 Ω", "1 kΩ + j20 Ω"; of one that is zero, the other: "j4 Ω"."""
    real = engineering(value.real, unit, digits)
    imaginary = f"j{engineering(abs(value.imag), unit, digits)}"
    if not value.imag:
        return real
    if not value.real:
        return f"{MINUS}{imaginary}" if value.imag < 0 else imaginary
    number, _, told_in = real.partition(NO_BREAK_SPACE)
    if told_in and imaginary.endswith(NO_BREAK_SPACE + told_in):
        real = number
    return f"{real} {MINUS if value.imag < 0 else '+'} {imaginary}"


def typed(value: float, unit: str = "", digits: int = 7) -> str:
    """As one would type it: "4.7 kΩ", "-8 Ω"."""
    return engineering(value, unit, digits).replace(NO_BREAK_SPACE, " ").replace(MINUS, "-")


def plain(value: float, digits: int = SIGNIFICANT_DIGITS) -> str:
    """`value` without prefix; a power of ten outside 0.001 to 100,000."""
    magnitude = abs(_rounded(value, digits))
    sign = MINUS if value < 0 else ""
    if magnitude == 0 or 1e-3 <= magnitude < 1e5:
        return sign + _trim(magnitude, digits)
    exponent = math.floor(math.log10(magnitude) + 1e-12)
    power = str(exponent).replace("-", MINUS).translate(str.maketrans("0123456789−", "⁰¹²³⁴⁵⁶⁷⁸⁹⁻"))
    return f"{sign}{_trim(magnitude / 10.0**exponent, digits)}·10{power}"


def _rounded(value: float, digits: int) -> float:
    """To so many digits; what lies midway goes up whatever its last bits, so that equals look equal."""
    exact = Decimal(f"{value:.{_TRUSTED}e}")
    place = exact.adjusted() - digits + 1
    return float(exact.quantize(Decimal(1).scaleb(place), ROUND_HALF_UP))


def _trim(magnitude: float, digits: int) -> str:
    whole = 0 if magnitude < 1 else math.floor(math.log10(magnitude) + 1e-12) + 1
    leading_zeros = (
        0 if magnitude >= 1 or magnitude == 0 else -math.floor(math.log10(magnitude)) - 1
    )
    text = f"{magnitude:.{max(0, digits - whole + leading_zeros)}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def _with_unit(number: str, unit: str) -> str:
    return f"{number}{NO_BREAK_SPACE}{unit}" if unit else number
