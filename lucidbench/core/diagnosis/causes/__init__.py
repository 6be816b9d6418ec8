"""The causes of a gap: the registry, an entry each. base.py says what an entry keeps to."""

from __future__ import annotations

from collections.abc import Collection

from lucidbench.core.diagnosis.causes import imperfections, measuring, values, wiring
from lucidbench.core.diagnosis.causes.base import Cause, Edit, Kind, Size
from lucidbench.core.diagnosis.observed import Observed

KINDS: list[Kind] = [
    *imperfections.KINDS,
    *measuring.KINDS,
    *values.KINDS,
    *wiring.KINDS,
]


def causes_of(observed: Observed, only: Collection[str] = ()) -> list[Cause]:
    """Every cause that may be, the usual ones first; `only` are the keys that are allowed, where not all."""
    found = [cause for kind in KINDS if not only or kind.key in only for cause in kind.at(observed)]
    return sorted(found, key=lambda cause: -cause.weight)


__all__ = ["KINDS", "Cause", "Edit", "Kind", "Size", "causes_of"]
