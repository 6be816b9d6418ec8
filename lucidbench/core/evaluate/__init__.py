"""Everything the drawing, the working and the ledger mean, told in one answer."""

from lucidbench.core.evaluate.delta import EvaluationDelta, Span, delta
from lucidbench.core.evaluate.evaluation import MOST_TOLERANCED, evaluation_of
from lucidbench.core.evaluate.shapes import Evaluation, QuantityLook, RowLook

__all__ = [
    "MOST_TOLERANCED",
    "Evaluation",
    "EvaluationDelta",
    "QuantityLook",
    "RowLook",
    "Span",
    "delta",
    "evaluation_of",
]
