"""Hand, simulated and bench side by side: uncertainty, differences, verdicts."""

from lucidbench.core.comparison.bench import BenchReading, read_reading
from lucidbench.core.comparison.ledger import BenchEntry, PinnedReading, Row, ledger
from lucidbench.core.comparison.verdict import Difference, State, Voice, compare

__all__ = [
    "BenchEntry",
    "BenchReading",
    "Difference",
    "PinnedReading",
    "Row",
    "State",
    "Voice",
    "compare",
    "ledger",
    "read_reading",
]
