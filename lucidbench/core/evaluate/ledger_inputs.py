"""The ledger of an exercise as it is in one case: what each voice says of every figure."""

from __future__ import annotations

import time
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

from lucidbench.core.analyses import OperatingPoint, operating_point
from lucidbench.core.cases import BASE
from lucidbench.core.comparison import (
    Counting,
    Estimate,
    Row,
    RowSpec,
    Voices,
    as_counted,
    dotted,
    figures_in,
    ledger,
    turned_in,
)
from lucidbench.core.comparison.estimate import of_phasor
from lucidbench.core.document.exercise import Exercise, LedgerRow
from lucidbench.core.document.figure import (
    AsPhasor,
    Figure,
    OfCurve,
    OfFormula,
    QuantityAtRest,
    record_of,
    run_of,
)
from lucidbench.core.evaluate.bench_column import bench_entries, parts_measured
from lucidbench.core.evaluate.hand_page import HandPage
from lucidbench.core.evaluate.run_figures import WHILE_EDITED, Figured, Limits, figures_now
from lucidbench.core.formula import Known, WorkedLine, evaluate, parse
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings import Quantity, kind_of
from lucidbench.core.readings.registry import OVER_FREQUENCY, OVER_TIME, OVER_VALUE
from lucidbench.core.runs.kinds import ANALYSES
from lucidbench.core.schematic import Reading, values_by_name
from lucidbench.core.tolerance import Effects, limits_of_part, spreads_of
from lucidbench.core.units.dimensions import NUMBER, UNITS, VOLTAGE
from lucidbench.core.working.meant import meant_by

HAND = "the line's own ±"


@dataclass(frozen=True)
class AtRest:
    """The operating point: its figures, and what tolerances do to them."""

    point: OperatingPoint | None
    results: Mapping[str, Quantity]
    effects: Effects


@dataclass(frozen=True)
class Compared:
    """`now` are figures of runs as they are, by the names of rows; the simulated figures `turned` count out
    of the first pin. Rows that are `phasors` are so at the `frequency` [Hz], by peak values."""

    rows: list[Row]
    now: Mapping[str, Figured]
    turned: frozenset[str] = frozenset()
    phasors: frozenset[str] = frozenset()
    frequency: float = 0.0


def formula_of(row: LedgerRow) -> str:
    """Of a row whose figure is a formula of other figures; "" for others."""
    figure = row.figure
    if isinstance(figure, OfFormula):
        return figure.formula
    # What a quantity at rest is called otherwise is worked out from it.
    is_renamed = isinstance(figure, QuantityAtRest) and figure.quantity != row.name
    return figure.spoken if is_renamed else ""


def named_at_rest(exercise: Exercise) -> set[str]:
    """Names of quantities at rest that the ledger may ask for."""
    formulas = [text for row in exercise.ledger if (text := formula_of(row))]
    hand = {line.text.partition("=")[0].strip() for line in exercise.hand}
    noted = {note.figure.spoken for note in exercise.measurements}
    rows = {row.name for row in exercise.ledger}
    return {name for name in hand | noted | rows | figures_in(formulas) if name}


def compared(
    base: Exercise,
    exercise: Exercise,
    case: str,
    drawing: Reading,
    at_rest: AtRest,
    page: HandPage,
    limits: Limits | None = WHILE_EDITED,
    turned: frozenset[str] | None = None,
) -> Compared:
    """`exercise` is `base` as it is in the `case`. Without `limits` no run is carried out: figures of runs
    are as they were taken."""
    formulas = {row.name: text for row in exercise.ledger if (text := formula_of(row))}
    noted = sorted(set(_noted(exercise, case)))
    spoken = figures_in(formulas.values())
    read = dict(_dotted(exercise, {*spoken, *noted}))
    figures = {row.name: row.figure for row in exercise.ledger if row.name not in formulas}
    asked = {**figures, **read}
    live = {row.name for row in exercise.ledger if not row.is_kept} | read.keys()
    wanted = {name: figure for name, figure in asked.items() if run_of(figure) and name in live}
    told = (
        {} if limits is None else figures_now(base, case, drawing.circuit, wanted.values(), limits)
    )
    now = {name: told[figure] for name, figure in wanted.items() if figure in told}
    names = [row.name for row in exercise.ledger]
    twice = {name for name in names if names.count(name) > 1}
    parts = parts_measured(exercise, case, drawing.circuit)
    aliases = dict(_otherwise_called(page, {*names, *at_rest.results}))
    rest_named = named_at_rest(exercise) | figures_in(aliases.values())
    in_phasors = dict(_in_phasors(page, aliases))
    voices = Voices(
        hand=dict(_by_hand(page.lines)),
        simulated={
            **_at_rest(at_rest, rest_named, limits),
            **in_phasors,
            **dict(_as_taken(exercise.ledger, case)),
            **{name: of.estimate for name, of in now.items() if of.estimate is not None},
            **parts,
        },
        bench=bench_entries(
            exercise, case, {**{n: AsPhasor(quantity=n, case=case) for n in in_phasors}, **asked}
        ),
        troubles={
            **{name: of.problem for name, of in now.items() if of.problem},
            **dict(_gone(exercise)),
            **dict.fromkeys(twice, "two rows bear this name; give one of them another"),
        },
        mistakes=dict(_mistakes(page)),
        given=dict(_given(exercise, drawing, spoken)) if spoken else {},
    )
    rows = [RowSpec(row.name, row.label, formulas.get(row.name, "")) for row in exercise.ledger]
    rows += [
        RowSpec(name, text, "" if name in in_phasors else text) for name, text in aliases.items()
    ]
    rows += [RowSpec(name, _words(name)) for name in noted]
    rows += [RowSpec(name, f"value of {name}") for name in parts]
    counting = _counting_of(drawing.circuit)
    turned = turned_in(voices, counting) if turned is None else turned & voices.simulated.keys()
    voices = as_counted(voices, turned, counting)
    here = frozenset(in_phasors)
    return Compared(ledger(voices, rows, exercise.allowed), now, turned, here, page.frequency)


def _otherwise_called(page: HandPage, known: Collection[str]) -> Iterator[tuple[str, str]]:
    """(name, formula of figures) of what lines give that is a figure of the circuit under another name."""
    for line in page.lines:
        if line.target and line.target not in known and line.role == "formula":
            meant = meant_by(line.target, page.circuit)
            if meant:
                yield line.target, meant


def _in_phasors(page: HandPage, aliases: Mapping[str, str]) -> Iterator[tuple[str, Estimate]]:
    """(name, the simulated phasor) of what is worked out as one."""
    for name, line in page.in_phasors():
        meant = aliases.get(name, name)
        described = kind_of(name) or kind_of(meant)
        if line.role != "formula" or not figures_in([meant]) <= page.phasors.keys():
            continue
        value = combined_number(meant, page.phasors)
        dimension = described[2] if described else VOLTAGE
        if name.startswith("P"):
            yield name, Estimate(value.real, dimension)
        else:
            yield name, of_phasor(value, dimension)


def combined_number(formula: str, values: Mapping[str, complex] | Mapping[str, float]) -> complex:
    """The value of a formula of figures, without units."""
    known = {name: Known(value, NUMBER) for name, value in values.items()}
    return complex(evaluate(parse(formula), known).value)


def _mistakes(page: HandPage) -> Iterator[tuple[str, str]]:
    """(name, what is wrong) of lines that come to nothing."""
    for line in page.lines:
        if line.target and line.error and line.role == "formula":
            yield line.target, str(line.error)


def _counting_of(circuit: Circuit) -> Counting:
    """Figures whose sign is a matter of how one counts."""
    sources = [element for element in circuit.elements if element.imposes]
    currents = [f"I_{source.name}" for source in sources if source.imposes == "V"]
    alike = [each for each in circuit.elements if each.device.description.alike]
    return Counting(
        frozenset([*currents, *(f"P_{source.name}" for source in sources)]),
        frozenset(f"I_{each.name}" for each in alike),
    )


def _noted(exercise: Exercise, case: str) -> Iterator[str]:
    """What readings that were noted are called where no row is of them: "V_out.ac_rms"."""
    rows = {
        (row.figure.curve, row.figure.reading)
        for row in exercise.ledger
        if isinstance(row.figure, OfCurve)
    }
    for note in exercise.measurements:
        figure = note.figure
        if not isinstance(figure, OfCurve) or figure.case != case or figure.member:
            continue
        if (figure.curve, figure.reading) not in rows:
            yield f"{figure.curve}.{figure.reading}"


def _gone(exercise: Exercise) -> Iterator[tuple[str, str]]:
    """(row, why it has no figure) of those whose run or record was thrown away."""
    runs = {run.id for run in exercise.runs}
    records = {record.id for record in exercise.records}
    for row in exercise.ledger:
        if run_of(row.figure) not in ("", *runs):
            yield row.name, "its run is not there any more"
        elif record_of(row.figure) not in ("", *records):
            yield row.name, "its record is not there any more"


_LABELS = {kind.key: kind.label for kind in (*OVER_VALUE, *OVER_FREQUENCY, *OVER_TIME)}


def _words(name: str) -> str:
    """RMS without the mean of V_out, for V_out.ac_rms."""
    quantity, _, reading = name.rpartition(".")
    return f"{_LABELS.get(reading, reading)} of {quantity}"


def _dotted(exercise: Exercise, names: set[str]) -> Iterator[tuple[str, Figure]]:
    """What is read off a curve in a formula, "V_out.ac_rms", of the first run that shows it."""
    for name in sorted(names):
        told = dotted(name)
        if told is None:
            continue
        quantity, reading = told
        for run in exercise.runs:
            kinds = ANALYSES[run.analysis].readings if run.analysis in ANALYSES else ()
            kind = next((k for k in kinds if reading in (k.key, k.ending)), None)
            if kind is not None and quantity in run.show:
                yield name, OfCurve(curve=quantity, run=run.id, reading=kind.key)
                break


def _by_hand(worked: Sequence[WorkedLine]) -> Iterator[tuple[str, Known | Estimate]]:
    for line in worked:
        if (
            not line.target
            or line.result is None
            or line.result.simulated
            or line.role != "formula"
        ):
            continue
        value = complex(line.result.value)
        if line.spread and not value.imag:
            yield line.target, Estimate(value.real, line.result.dimension, {HAND: line.spread})
        else:
            yield line.target, line.result


def _at_rest(at_rest: AtRest, names: set[str], limits: Limits | None) -> dict[str, Estimate]:
    """By the sensitivities of the operating point; where a figure bends over its tolerances, by draws."""
    known = {name: at_rest.results[name] for name in names if name in at_rest.results}
    drawn: Mapping[str, float] = {}
    if limits is not None and limits.is_thorough and at_rest.effects.names and at_rest.point:
        until = time.thread_time() + limits.tolerances
        nominal = {name: quantity.value for name, quantity in known.items()}
        spreads = spreads_of(
            at_rest.point.circuit,
            nominal,
            lambda c: operating_point(c).values,
            until,
            is_thorough=True,
        )
        drawn = spreads.drawn if spreads else {}
    return {
        name: Estimate(
            quantity.value,
            quantity.dimension,
            limits=at_rest.effects.limits_of(name, quantity.value),
            drawn=drawn.get(name),
        )
        for name, quantity in known.items()
    }  # fmt: skip


def _as_taken(rows: Sequence[LedgerRow], case: str) -> Iterator[tuple[str, Estimate]]:
    """What was taken of the circuit as drawn, and in any case what shall be kept. Per cent are compared as
    plain numbers, which is what a formula gives."""
    for row in rows:
        if row.pinned is not None and (row.is_kept or case == BASE):
            value, unit = row.pinned.value, row.pinned.unit
            value, unit = (value / 100, "") if unit == "%" else (value, unit)
            yield row.name, Estimate(value, UNITS.get(unit, NUMBER))


def _given(
    exercise: Exercise, drawing: Reading, spoken: set[str]
) -> Iterator[tuple[str, Estimate]]:
    """The values of parts and parameters that formulas speak of."""
    circuit: Circuit = drawing.circuit
    for name, known in values_by_name(exercise.schematic, drawing).items():
        value = complex(known.value)
        if name not in spoken or value.imag:
            continue
        limits = limits_of_part(circuit.by_name.get(name), value.real)
        yield name, Estimate(value.real, known.dimension, limits=limits)
