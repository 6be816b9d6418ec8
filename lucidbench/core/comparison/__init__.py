"""Hand, simulated and bench side by side: uncertainty, differences, verdicts."""

from lucidbench.core.comparison.bench import BenchReading, read_reading
from lucidbench.core.comparison.estimate import Estimate, combined
from lucidbench.core.comparison.ledger import (
    BenchEntry,
    Row,
    RowSpec,
    Voices,
    dotted,
    figures_in,
    ledger,
)
from lucidbench.core.comparison.sense import Counting, as_counted, turned_in
from lucidbench.core.comparison.verdict import Difference, State, Voice, compare

__all__ = [
    "BenchEntry",
    "BenchReading",
    "Counting",
    "Difference",
    "Estimate",
    "Row",
    "RowSpec",
    "State",
    "Voice",
    "Voices",
    "as_counted",
    "combined",
    "compare",
    "dotted",
    "figures_in",
    "ledger",
    "read_reading",
    "turned_in",
]
