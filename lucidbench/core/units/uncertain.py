"""Expanded uncertainty: its factors, and a value with it, both to the same place: 2.597 V ± 0.015 V
(JCGM 100:2008, 7.2.6)."""

from __future__ import annotations

import math

from lucidbench.core.units.engineering import takes_prefix
from lucidbench.core.units.prefixes import BY_EXPONENT

COVERAGE = 2.0  # of every expanded uncertainty (JCGM 100:2008, 6.2)
STANDARD = 3**-0.5  # uncertainty over the half-width of an even interval (JCGM 100:2008, 4.3.7)
EXPANDED = COVERAGE * STANDARD  # the same, expanded
_DIGITS = 2  # of the uncertainty


def with_uncertainty(value: float, uncertainty: float, unit: str) -> str:
    """Plain text as people write it into a ledger; without an uncertainty six digits of the value."""
    size = max(abs(value), uncertainty)
    if not size or not math.isfinite(size):
        return f"{value:g} {unit}".rstrip()
    prefix, factor = _prefix(size) if takes_prefix(unit) else ("", 1.0)
    symbol = f" {prefix}{unit}" if unit else ""
    if uncertainty <= 0:
        return f"{value / factor:.6g}{symbol}"
    place = math.floor(math.log10(uncertainty / factor)) - (_DIGITS - 1)
    decimals = max(0, -place)
    return f"{value / factor:.{decimals}f}{symbol} ± {uncertainty / factor:.{decimals}f}{symbol}"


def _prefix(size: float) -> tuple[str, float]:
    """The SI prefix by which `size` is from 1 to 1000."""
    power = min(
        max(3 * math.floor(math.log10(size) / 3 + 1e-12), min(BY_EXPONENT)), max(BY_EXPONENT)
    )
    return BY_EXPONENT[power], 10.0**power
