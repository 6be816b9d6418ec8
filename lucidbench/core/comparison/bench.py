"""A bench reading as it is written down: `2.61 V ± 0.02 V`, `2.61 V ± 1 %`, `2.61V`."""

from __future__ import annotations

import re
from dataclasses import dataclass

from lucidbench.core.errors import ValueTextError
from lucidbench.core.units import engineering, parse_value
from lucidbench.core.units.engineering import NO_BREAK_SPACE

_PLUS_MINUS = re.compile(r"±|\+/-|\+-")


@dataclass(frozen=True)
class BenchReading:
    """A measured value and its expanded uncertainty (coverage factor 2, JCGM 100, 7.2.3)."""

    value: float
    uncertainty: float | None
    unit: str

    @property
    def text(self) -> str:
        return engineering(self.value, self.unit)

    @property
    def uncertainty_text(self) -> str | None:
        if self.uncertainty is None:
            return None
        return f"±{NO_BREAK_SPACE}{engineering(self.uncertainty, self.unit, digits=2)}"


def read_reading(text: str, unit: str) -> BenchReading:
    """Parse a reading of a quantity in `unit`. Raises ValueTextError."""
    pieces = _PLUS_MINUS.split(text)
    if len(pieces) > 2:
        raise ValueTextError("only one ± may stand in a reading", len(pieces[0]))
    value = parse_value(pieces[0], unit).number
    if len(pieces) == 1:
        return BenchReading(value, None, unit)
    spread = pieces[1].strip()
    if spread.endswith("%"):
        uncertainty = parse_value(spread, "%").number * abs(value)
    else:
        uncertainty = parse_value(spread, unit).number
    if uncertainty < 0:
        raise ValueTextError("an uncertainty is not negative", len(pieces[0]))
    return BenchReading(value, uncertainty, unit)
