"""The ledger: a row for each figure, a column for each voice, and a verdict."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from lucidbench.core.comparison.bench import BenchReading, read_reading
from lucidbench.core.comparison.estimate import Estimate, combined, of_phasor
from lucidbench.core.comparison.verdict import Difference, State, Voice, compare
from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.formula import Formula, Known, names_in, parse
from lucidbench.core.formula.evaluate import CONSTANTS
from lucidbench.core.readings import kind_of
from lucidbench.core.units.dimensions import NUMBER, Dimension

Ask = Callable[[str, tuple[str, ...]], "Estimate | None"]  # of a figure, within those asked for
READING = "reading of "  # how the source of a reading's own uncertainty is told


@dataclass(frozen=True)
class BenchEntry:
    """A reading as written, for the figure it is of, and the id it is known by; `is_turned` where it counts
    the other way than the figure."""

    quantity: str
    text: str
    id: str = ""
    is_turned: bool = False


@dataclass(frozen=True)
class RowSpec:
    """A row to be there whatever the voices say: under its `name`, `label` telling it in words. Where it has
    a `formula`, each voice says what that comes to of its own figures."""

    name: str
    label: str = ""
    formula: str = ""


@dataclass(frozen=True)
class Voices:
    """What each voice says, by the names of figures. `troubles` are why the simulation has none of
    now, `mistakes` why the working has none; `given` are the values of parts and parameters, with their
    tolerances, which any formula may use."""

    hand: Mapping[str, Known | Estimate] = field(default_factory=dict)
    simulated: Mapping[str, Estimate] = field(default_factory=dict)
    bench: Sequence[BenchEntry] = ()
    troubles: Mapping[str, str] = field(default_factory=dict)
    mistakes: Mapping[str, str] = field(default_factory=dict)
    given: Mapping[str, Estimate] = field(default_factory=dict)


@dataclass(frozen=True)
class Row:
    """One figure. The problems say why what a voice wrote or worked out is of no use."""

    quantity: str
    kind: str
    subject: str
    unit: str
    hand: Estimate | None
    hand_problem: str | None
    simulated: Estimate | None
    simulated_problem: str | None
    bench: BenchReading | None
    bench_problem: str | None
    simulated_less_hand: Difference | None
    bench_less_simulated: Difference | None
    bench_less_hand: Difference | None
    state: State
    measurement: str = ""  # the id of the reading that counts

    @property
    def gravest(self) -> Difference | None:
        """What decides; the bench's difference where several weigh the same."""
        pairs = (self.bench_less_simulated, self.bench_less_hand, self.simulated_less_hand)
        return max(filter(None, pairs), key=lambda pair: pair.state.gravity, default=None)

    @property
    def sentence(self) -> str | None:
        """The gravest difference in words."""
        pairs = (self.bench_less_simulated, self.bench_less_hand, self.simulated_less_hand)
        told = [pair for pair in pairs if pair and not pair.is_nothing]
        gravest = max(told, key=lambda pair: pair.state.gravity, default=None)
        return gravest.sentence if gravest else None


def ledger(
    voices: Voices, wanted: Sequence[RowSpec] = (), allowed: float | None = None
) -> list[Row]:
    """Rows of what hand lines and readings name, in their order; then those `wanted`.

    Of several readings of one figure the last that is written counts; `allowed` is the share of a
    difference that counts as agreement. Never raises for what was written.
    """
    written = {entry.quantity: entry for entry in voices.bench if entry.text.strip()}
    rows = {row.name: row for row in wanted}
    own = (*voices.hand, *voices.mistakes, *written)
    named = [name for name in own if kind_of(name) or name in rows]
    book = _Book(voices, written, rows)
    return [book.row(name, allowed) for name in dict.fromkeys((*named, *rows))]


class _Book:
    """Every figure of every voice, worked out when it is asked for."""

    def __init__(
        self, voices: Voices, written: Mapping[str, BenchEntry], rows: Mapping[str, RowSpec]
    ) -> None:
        self._voices, self._written, self._rows = voices, written, rows
        self._formulas: dict[str, Formula | FormulaError] = {}
        for row in rows.values():
            if row.formula:
                try:
                    self._formulas[row.name] = parse(row.formula)
                except FormulaError as error:
                    self._formulas[row.name] = error

    def row(self, name: str, allowed: float | None) -> Row:
        wanted = self._rows.get(name)
        by_simulation, no_simulation = self._told(self._simulated, name)
        no_simulation = no_simulation or self._voices.troubles.get(name)
        kind, subject, dimension = self._described(name, wanted, by_simulation)
        unit = dimension.unit
        by_hand, no_hand = self._told(self._by_hand, name)
        no_hand = no_hand or self._voices.mistakes.get(name)
        if by_hand and by_hand.dimension != dimension:
            no_hand = f"{name} is {by_hand.dimension.quantity} in the working, and {dimension.quantity} here"
            by_hand = None
        reading, no_bench = self._reading(name, unit)
        on_bench = _measured(name, reading, dimension) if reading else None
        if reading is None and no_bench is None and name in self._formulas:
            on_bench, no_bench = self._told(self._on_bench, name)
            if on_bench:
                reading = BenchReading(on_bench.value, on_bench.uncertainty or None, unit)
        hand = Voice("hand", by_hand, is_worked_out=True) if by_hand else None
        simulated = Voice("simulated", by_simulation) if by_simulation else None
        bench = Voice("bench", on_bench) if on_bench else None
        # Both are nominal: tolerances of the parts touch neither.
        nominal = Voice("simulated", by_simulation, judges=False) if by_simulation else None
        pairs = (
            _compared(nominal, hand, unit, allowed),
            _compared(bench, simulated, unit, allowed),
            _compared(bench, hand, unit, allowed) if simulated is None else None,
        )
        states = [pair.state for pair in pairs if pair]
        state = max(states, key=lambda state: state.gravity, default=State.OPEN)
        entry = self._written.get(name)
        return Row(
            name, kind, subject, unit, by_hand, no_hand, by_simulation, no_simulation,
            reading, no_bench, *pairs, state, entry.id if entry else "",
        )  # fmt: skip

    def _described(
        self, name: str, wanted: RowSpec | None, simulated: Estimate | None
    ) -> tuple[str, str, Dimension]:
        if wanted is None:
            described = kind_of(name)
            assert described is not None
            return described
        kind = "formula" if wanted.formula else "reading"
        if simulated:
            return kind, wanted.label, simulated.dimension
        own = self._voices.hand.get(name)
        return kind, wanted.label, own.dimension if own else NUMBER

    def _told(self, voice: Ask, name: str) -> tuple[Estimate | None, str | None]:
        try:
            return voice(name, ()), None
        except LucidError as error:
            return None, str(error).rstrip(".")

    # Each raises FormulaError where what is written comes to nothing, and gives None where there is nothing.

    def _by_hand(self, name: str, within: tuple[str, ...]) -> Estimate | None:
        own = self._voices.hand.get(name)
        if own is None:
            return self._worked_out(name, self._by_hand, within)
        if isinstance(own, Estimate):
            return own
        simulated = self._voices.simulated.get(name)
        if simulated is not None and simulated.angle is not None:
            return of_phasor(complex(own.value), own.dimension)
        if isinstance(own.value, complex) and own.value.imag:
            sentence = f"{name} is complex in the working; take abs, arg, Re or Im of it to compare"
            raise FormulaError(sentence, 0)
        return Estimate(complex(own.value).real, own.dimension)

    def _simulated(self, name: str, within: tuple[str, ...]) -> Estimate | None:
        own = self._voices.simulated.get(name)
        if own is None and name in self._voices.troubles:
            raise FormulaError(self._voices.troubles[name], 0)
        return own or self._worked_out(name, self._simulated, within, is_needed=True)

    def _on_bench(self, name: str, within: tuple[str, ...]) -> Estimate | None:
        own = self._voices.simulated.get(name)
        described = kind_of(name.partition(".")[0])
        dimension = own.dimension if own else described[2] if described else NUMBER
        reading, problem = self._reading(name, dimension.unit)
        if problem:
            raise FormulaError(problem, 0)
        if reading:
            return _measured(name, reading, dimension)
        return self._worked_out(name, self._on_bench, within)

    def _worked_out(
        self, name: str, voice: Ask, within: tuple[str, ...], *, is_needed: bool = False
    ) -> Estimate | None:
        """By the row's formula, of the voice's own figures. Where it has not all of them it says nothing, or
        where it `is_needed`, what is missing."""
        formula = self._formulas.get(name)
        if formula is None:
            return None
        if isinstance(formula, FormulaError):
            raise formula
        if name in within:
            way = " → ".join((*within[within.index(name) :], name))
            raise FormulaError(f"the formulas go in a circle, {way}", 0)
        spoken: dict[str, Estimate] = {}
        given: dict[str, Estimate] = {}
        for other in sorted(names_in(formula.body) - CONSTANTS.keys()):
            told = voice(other, (*within, name))
            if told is not None:
                spoken[other] = told
            elif other in self._voices.given:
                given[other] = self._voices.given[other]
            elif is_needed:
                raise FormulaError(f"no figure is called {other} here", 0)
            else:
                return None
        if not spoken and not is_needed:
            return None
        return combined(formula, {**given, **spoken})

    def _reading(self, name: str, unit: str) -> tuple[BenchReading | None, str | None]:
        entry = self._written.get(name)
        if entry is None:
            return None, None
        try:
            reading = read_reading(entry.text, unit)
            return (replace(reading, value=-reading.value) if entry.is_turned else reading), None
        except LucidError as error:
            return None, str(error)


def _measured(name: str, reading: BenchReading, dimension: Dimension) -> Estimate:
    budget = {f"{READING}{name}": reading.uncertainty} if reading.uncertainty else {}
    return Estimate(reading.value, dimension, budget)


def _compared(
    voice: Voice | None, reference: Voice | None, unit: str, allowed: float | None
) -> Difference | None:
    if voice is None or reference is None:
        return None
    return compare(voice, reference, unit, allowed)


def dotted(name: str) -> tuple[str, str] | None:
    """("V_out", "ac_rms") of "V_out.ac_rms": a curve, and what is read off it; None where it is none."""
    quantity, dot, reading = name.rpartition(".")
    return (quantity, reading) if dot and kind_of(quantity) else None


def figures_in(formulas: Iterable[str]) -> set[str]:
    """Every name that formulas of figures use; of one that cannot be read, none."""
    found: set[str] = set()
    for text in formulas:
        try:
            found |= names_in(parse(text).body)
        except FormulaError:
            continue
    return found
