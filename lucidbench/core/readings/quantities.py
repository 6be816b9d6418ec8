"""What can be read off a result, named as in a textbook: V_out, I_R1, P_R1."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from lucidbench.core.analyses import OperatingPoint
from lucidbench.core.units.dimensions import CURRENT, POWER, VOLTAGE, Dimension

_KINDS: dict[str, tuple[str, Dimension]] = {
    "V": ("voltage", VOLTAGE),
    "I": ("current", CURRENT),
    "P": ("power", POWER),
}


class Quantity(NamedTuple):
    """One figure of a result. `subject` is the node or part it is of."""

    name: str
    kind: str
    subject: str
    dimension: Dimension
    value: float
    uncertainty: float

    @property
    def unit(self) -> str:
        return self.dimension.unit


def kind_of(name: str) -> tuple[str, str, Dimension] | None:
    """(kind, subject, dimension) of a name such as "V_out"; None where it names no such quantity."""
    letter, underscore, subject = name.partition("_")
    if not underscore or not subject or letter not in _KINDS:
        return None
    kind, dimension = _KINDS[letter]
    return kind, subject, dimension


def quantities(
    point: OperatingPoint, uncertainty: Mapping[str, float] | None = None
) -> dict[str, Quantity]:
    """Every quantity of an operating point, by name, with its expanded uncertainty where known."""
    spread = uncertainty or {}
    found = {}
    for name, value in zip(point.names, point.figures, strict=True):
        letter, _, subject = name.partition("_")
        kind, dimension = _KINDS[letter]
        found[name] = Quantity(name, kind, subject, dimension, value, spread.get(name, 0.0))
    return found
