"""Values given as one complex number where a part has two: `4 - j8` an impedance, `10 A ∠ 30°` a source."""

from __future__ import annotations

import cmath
import math
import re
from collections.abc import Mapping

from lucidbench.core.devices import Description
from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import evaluate, parse
from lucidbench.core.residue import is_residue
from lucidbench.core.units.dimensions import NUMBER, UNITS
from lucidbench.core.units.engineering import typed

_LOOKS_COMPLEX = re.compile(r"∠|(?<![A-Za-z_])j\s?[\d.(*]|[\d.)*\s]j(?![A-Za-z])")
_DIGITS = 12


def complex_value(text: str, unit: str) -> complex | None:
    """The complex number [unit] that `text` is; None where it is none. A plain number is in `unit`."""
    if not _LOOKS_COMPLEX.search(text):
        return None
    try:
        known = evaluate(parse(_whole(text, unit)), {})
    except FormulaError:
        return None
    return complex(known.value) if known.dimension in (NUMBER, UNITS.get(unit)) else None


def _whole(text: str, unit: str) -> str:
    """A unit that stands at the end alone goes for all of it: `4 - j8 Ω`."""
    bare = text.strip()
    return (
        bare.removesuffix(unit).rstrip()
        if unit and bare.endswith(unit) and "∠" not in bare
        else bare
    )


def in_two(description: Description, texts: Mapping[str, str]) -> dict[str, dict[str, str]]:
    """By the key of the value it was written at: what to write at the two of `description.pair` instead."""
    if not description.pair:
        return {}
    found: dict[str, dict[str, str]] = {}
    unit = description.parameter(description.pair[0]).unit
    for key in description.pair:
        value = complex_value(texts.get(key, ""), unit)
        if value is not None:
            found[key] = _two(description, key, value)
    return found


def _two(description: Description, key: str, value: complex) -> dict[str, str]:
    first, second = description.pair
    unit, angle = (description.parameter(k).unit for k in description.pair)
    if angle == "°":
        turned = math.degrees(cmath.phase(value))
        return {first: typed(abs(value), unit, _DIGITS), second: typed(turned, angle, _DIGITS)}
    if key == second and is_residue(value.real, value):  # `j4` at the reactance
        return {second: typed(value.imag, unit, _DIGITS)}
    return {first: typed(value.real, unit, _DIGITS), second: typed(value.imag, angle, _DIGITS)}
