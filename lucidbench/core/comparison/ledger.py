"""The ledger: a row for each quantity, a column for each voice, and a verdict."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lucidbench.core.comparison.bench import BenchReading, read_reading
from lucidbench.core.comparison.verdict import Difference, State, Voice, compare
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known
from lucidbench.core.readings import Quantity, kind_of
from lucidbench.core.units.dimensions import NUMBER, UNITS, Dimension


@dataclass(frozen=True)
class BenchEntry:
    """A reading as written, for the quantity it is of, and the id it is known by."""

    quantity: str
    text: str
    id: str = ""


@dataclass(frozen=True)
class PinnedReading:
    """A figure read off a run and kept in the ledger under a name of its own."""

    name: str
    label: str
    value: float
    unit: str
    uncertainty: float = 0.0

    @property
    def dimension(self) -> Dimension:
        return UNITS.get(self.unit, NUMBER)


@dataclass(frozen=True)
class Row:
    """One quantity. `hand_problem` and `bench_problem` say why what was written is of no use."""

    quantity: str
    kind: str
    subject: str
    unit: str
    hand: float | None
    hand_problem: str | None
    simulated: Voice | None
    bench: BenchReading | None
    bench_problem: str | None
    simulated_less_hand: Difference | None
    bench_less_simulated: Difference | None
    bench_less_hand: Difference | None
    state: State
    measurement: str = ""  # the id of the reading that counts

    @property
    def sentence(self) -> str | None:
        """The gravest difference in words; the bench's where both weigh the same."""
        pairs = (self.bench_less_simulated, self.bench_less_hand, self.simulated_less_hand)
        told = [pair for pair in pairs if pair and not pair.is_nothing]
        gravest = max(told, key=lambda pair: pair.state.gravity, default=None)
        return gravest.sentence if gravest else None


def ledger(
    hand: Mapping[str, Known],
    simulated: Mapping[str, Quantity],
    bench: Sequence[BenchEntry],
    pinned: Sequence[PinnedReading] = (),
) -> list[Row]:
    """Rows of what hand lines and readings name, in their order; then of what was pinned from runs.

    Of several readings of one quantity the last that is written counts.
    """
    written = {entry.quantity: entry for entry in bench if entry.text.strip()}
    readings = {reading.name: reading for reading in pinned}
    named = [name for name in (*hand, *written) if kind_of(name) or name in readings]
    return [
        _row(name, hand.get(name), simulated.get(name), written.get(name), readings.get(name))
        for name in dict.fromkeys((*named, *readings))
    ]


def _row(
    name: str,
    hand: Known | None,
    quantity: Quantity | None,
    written: BenchEntry | None,
    pinned: PinnedReading | None,
) -> Row:
    by_simulation = None
    if pinned:
        kind, subject, unit, dimension = "reading", pinned.label, pinned.unit, pinned.dimension
        by_simulation = Voice("simulated", pinned.value, pinned.uncertainty)
    else:
        described = kind_of(name)
        assert described is not None
        kind, subject, dimension = described
        unit = dimension.unit
        if quantity:
            by_simulation = Voice("simulated", quantity.value, quantity.uncertainty)
    hand_problem = None
    if hand and hand.dimension != dimension:
        hand_problem = (
            f"{name} is {hand.dimension.quantity} in the working, and {dimension.quantity} here"
        )
        hand = None
    if hand and isinstance(hand.value, complex) and hand.value.imag:
        hand_problem = f"{name} is complex in the working; take abs, arg, Re or Im of it to compare"
        hand = None
    reading, problem = None, None
    if written is not None:
        try:
            reading = read_reading(written.text, unit)
        except LucidError as error:
            problem = str(error)
    by_hand = Voice("hand", complex(hand.value).real) if hand else None
    on_bench = Voice("bench", reading.value, reading.uncertainty or 0.0) if reading else None
    pairs = (
        _compared(by_simulation, by_hand, unit, by_closeness=True),
        _compared(on_bench, by_simulation, unit),
        _compared(on_bench, by_hand, unit) if by_simulation is None else None,
    )
    states = [pair.state for pair in pairs if pair]
    state = max(states, key=lambda state: state.gravity, default=State.OPEN)
    return Row(
        name,
        kind,
        subject,
        unit,
        by_hand.value if by_hand else None,
        hand_problem,
        by_simulation,
        reading,
        problem,
        *pairs,
        state,
        written.id if written else "",
    )


def _compared(
    voice: Voice | None, reference: Voice | None, unit: str, *, by_closeness: bool = False
) -> Difference | None:
    if voice is None or reference is None:
        return None
    if by_closeness:  # both are nominal: tolerances of the parts touch neither
        voice = Voice(voice.name, voice.value)
    return compare(voice, reference, unit)
