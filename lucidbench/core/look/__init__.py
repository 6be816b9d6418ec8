"""Everything the drawing, the working and the ledger mean, told in one answer."""

from lucidbench.core.look.shapes import Look, QuantityLook, RowLook
from lucidbench.core.look.since import LookSince, Span, told_since
from lucidbench.core.look.whole import MOST_TOLERANCED, look

__all__ = [
    "MOST_TOLERANCED",
    "Look",
    "LookSince",
    "QuantityLook",
    "RowLook",
    "Span",
    "look",
    "told_since",
]
