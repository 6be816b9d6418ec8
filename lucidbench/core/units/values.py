"""Values as people type them: `4.7k`, `4k7`, `4.7 kΩ`, `100n`, `22u`, `1M5`, `2.2e3`.

Prefixes are SI and case matters. The letter-and-digit code (`4k7`, `4R7`) is IEC 60062, clause 5.
Whatever is not understood is refused with the place and, where one is likely, a correction.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from decimal import Decimal

from lucidbench.core.errors import Offer, ValueTextError
from lucidbench.core.units.dimensions import UNIT_SPELLINGS
from lucidbench.core.units.engineering import NO_BREAK_SPACE, engineering
from lucidbench.core.units.prefixes import EXPONENTS, MICRO, SPELLINGS, WRONG_CASE

LONGEST_TEXT = 60
_NUMBER = re.compile(r"[+\-\u2212]?(\d+(\.\d*)?|\.\d+)([eE][+\-\u2212]?\d+)?")
_LETTER_CODE = re.compile(r"([+\-\u2212]?\d+)([A-Za-zµμΩ\u2126])(\d+)")
_PERCENT = "%"
_HUNDREDTH = Decimal("0.01")
DEGREE = "°"
# Units that take no prefix, so that 3950 K is no 3.95 MK, as they are written.
_TEMPERATURES = {"°C": ("°C", "\u2103"), "K": ("K",)}
_ANGLES = {DEGREE: 1.0, "deg": 1.0, "degree": 1.0, "degrees": 1.0, "rad": 180 / math.pi}


@dataclass(frozen=True)
class Value:
    """A number in SI units (a ratio where the unit is %), and the unit it is in."""

    number: float
    unit: str

    @property
    def echo(self) -> str:
        """The value as it was understood: "4.7 kΩ"."""
        if self.unit == _PERCENT:
            return engineering(self.number * 100, _PERCENT, digits=7)
        return engineering(self.number, self.unit, digits=7)


def parse_value(text: str, unit: str) -> Value:
    """Read `text` as a value in `unit` ("Ω", "V", "%", or "" for a plain number).

    Raises ValueTextError with the offending place and ready corrections.
    """
    stripped = text.strip()
    if not stripped:
        raise ValueTextError("a value is missing", 0)
    if len(stripped) > LONGEST_TEXT:
        raise ValueTextError(f"a value has at most {LONGEST_TEXT} characters", LONGEST_TEXT)
    coded = _LETTER_CODE.match(stripped)
    if coded and coded[2] not in "eE":
        digits = _ascii(f"{coded[1]}.{coded[3]}")
        letter, rest, end = coded[2], stripped[coded.end() :].strip(), coded.end()
        suffix = ("" if letter in "RΩ\u2126" and unit == "Ω" else letter) + rest
        if letter == "R" and unit != "Ω":
            raise ValueTextError(
                "R stands for the decimal point of a value in Ω only", coded.start(2)
            )
        multiplier = _multiplier(stripped, suffix, coded.start(2) if suffix else end, unit)
    else:
        plain = _NUMBER.match(stripped)
        if not plain:
            raise ValueTextError(
                f"“{stripped}” does not begin with a number", 0, _comma_offers(stripped, unit)
            )
        digits = _ascii(plain[0])
        rest_at = plain.end() + len(stripped[plain.end() :]) - len(stripped[plain.end() :].lstrip())
        rest = stripped[rest_at:]
        if rest == "R" and unit == "Ω":  # IEC 60062: 47R is 47 Ω
            rest = ""
        multiplier = _multiplier(stripped, rest, rest_at, unit)
    # By decimals, so that 100 nF is the same number as 0.1 µF.
    if not math.isfinite(float(digits) * float(multiplier)):
        raise ValueTextError(f"“{stripped}” is too large a number", 0)
    return Value(float(Decimal(digits) * multiplier), unit)


def _ascii(number: str) -> str:
    return number.replace("\u2212", "-")


def _multiplier(text: str, suffix: str, at: int, unit: str) -> Decimal:
    """What the letters after the number multiply it by."""
    if not suffix:
        return _HUNDREDTH if unit == _PERCENT else Decimal(1)
    if unit == _PERCENT:
        if suffix == _PERCENT:
            return _HUNDREDTH
        raise ValueTextError(f"“{suffix}” is not understood: a tolerance is given in %", at)
    if unit == DEGREE:
        if suffix in _ANGLES:
            return Decimal(_ANGLES[suffix])
        raise ValueTextError(
            f"“{suffix}” is not understood: an angle is given in degrees (°) or rad", at
        )
    if unit in _TEMPERATURES:
        if suffix in _TEMPERATURES[unit]:
            return Decimal(1)
        raise ValueTextError(f"“{suffix}” is not understood: a temperature is given in {unit}", at)
    prefix, given_unit = _split(suffix)
    if given_unit is not None and given_unit != unit:
        wanted = f"a value in {unit}" if unit else "a plain number"
        raise ValueTextError(f"“{suffix}” is a unit of another kind: {wanted} is wanted here", at)
    if prefix is not None:
        return Decimal(1).scaleb(EXPONENTS[prefix])
    raise _not_understood(text, suffix, at, unit)


def _split(suffix: str) -> tuple[str | None, str | None]:
    """(prefix, unit) of "kΩ", "k", "Ω"; None for a part that is not there or not known."""
    if suffix in UNIT_SPELLINGS:
        return "", UNIT_SPELLINGS[suffix]
    head, rest = suffix[0], suffix[1:].strip()
    prefix = SPELLINGS.get(head)
    if not rest:
        return prefix, None
    if rest in UNIT_SPELLINGS:
        return prefix, UNIT_SPELLINGS[rest]
    return None, None


def _not_understood(text: str, suffix: str, at: int, unit: str) -> ValueTextError:
    number = text[:at].strip()
    head, rest = suffix[0], suffix[1:].strip()
    if rest == "" or rest in UNIT_SPELLINGS:
        meant = WRONG_CASE.get(head)
        if meant:
            mended = text[:at] + meant + text[at + 1 :]
            name = "micro, write µ" if meant == MICRO else f"the prefix {meant}, write it that way"
            return ValueTextError(
                f"“{head}” is not a prefix; if you mean {name}",
                at,
                (Offer(f"Use {mended}", mended),),
            )
    if suffix.lower().startswith("meg"):
        mended = f"{number}M"
        return ValueTextError(
            "mega is written M (and milli m)", at, (Offer(f"Use {mended}", mended),)
        )
    if head == ",":
        return ValueTextError("write a decimal point, not a comma", at, _comma_offers(text, unit))
    known = ", ".join(p for p in EXPONENTS if p)
    wanted = f" or the unit {unit}" if unit else ""
    return ValueTextError(
        f"“{suffix}” is not understood: a prefix ({known}){wanted} may follow", at
    )


def _comma_offers(text: str, unit: str) -> tuple[Offer, ...]:
    mended = text.replace(",", ".", 1)
    if mended == text:
        return ()
    try:
        parse_value(mended, unit)
    except ValueTextError:
        return ()
    return (Offer(f"Use {mended}", mended),)


def likely_offer(value: Value, likely: tuple[float, float]) -> Offer | None:
    """The same digits with the prefix that was probably meant, where one brings `value` in range.

    Tried in the order in which prefixes are confused: m for M, then one step up or down, then two.
    """
    size = abs(value.number)
    confused = [1e9] if 1e-3 <= size < 1 else [1e-9] if 1e6 <= size < 1e9 else []
    for factor in (*confused, 1e3, 1e-3, 1e6, 1e-6):
        meant = Value(value.number * factor, value.unit)
        if likely[0] <= abs(meant.number) <= likely[1]:
            return Offer(f"Use {meant.echo}", meant.echo.replace(NO_BREAK_SPACE, " "))
    return None
