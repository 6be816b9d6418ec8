"""Figures written for people: simulated quantities, and the ledger's rows."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Literal

from lucidbench.core.comparison import Difference, Estimate, Row
from lucidbench.core.devices import Description
from lucidbench.core.document.exercise import Exercise, LedgerRow, Pinned
from lucidbench.core.document.figure import (
    AsPhasor,
    AsTaken,
    Figure,
    OfFormula,
    QuantityAtRest,
    run_of,
)
from lucidbench.core.evaluate.ledger_inputs import Compared
from lucidbench.core.evaluate.parts import node_words
from lucidbench.core.evaluate.run_figures import Figured
from lucidbench.core.evaluate.shapes import (
    BudgetLook,
    ContributionLook,
    DifferenceLook,
    QuantityLook,
    RowLook,
)
from lucidbench.core.formula import name_latex
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings import Quantity
from lucidbench.core.schematic import Part, Wiring
from lucidbench.core.schematic.kinds import Kinds, kind_of_part
from lucidbench.core.units import engineering
from lucidbench.core.units.engineering import phasor


def meanings_of(parts: list[Part], wiring: Wiring, kinds: Kinds) -> Mapping[str, str]:
    """What each quantity is, in words, by its name."""
    named = tuple([(part.id, part.name, kind_of_part(part, kinds)) for part in parts])
    return _meanings(named, wiring)


@lru_cache(maxsize=32)
def _meanings(
    parts: tuple[tuple[str, str, Description | None], ...], wiring: Wiring
) -> dict[str, str]:
    meanings = {
        f"V_{net.name}": f"voltage of node {net.name} above ground"
        for net in wiring.nets
        if not net.is_ground
    }
    for identity, name, description in parts:
        nodes = wiring.nodes.get(identity, ())
        if description is None or not description.element or len(nodes) < 2:
            continue
        a, b = map(node_words, nodes[:2])
        meanings[f"P_{name}"] = f"power taken by {name}; below zero it gives"
        for pin, _ in description.currents:
            if pin:
                meanings[f"I_{name}.{pin}"] = f"current into {pin} of {name}"
            else:
                meanings[f"I_{name}"] = f"current through {name}, from {a} to {b}"
    return meanings


def quantity_look(q: Quantity, meaning: str) -> QuantityLook:
    return _written(q.name, q.kind, q.subject, q.value, q.unit, q.uncertainty, meaning)


@lru_cache(maxsize=8192)  # an edit in one place leaves most figures as they were
def _written(
    name: str, kind: str, subject: str, value: float, unit: str, uncertainty: float, meaning: str
) -> QuantityLook:
    flow: Literal[-1, 0, 1] = 0
    if value:
        flow = 1 if value > 0 else -1
    return QuantityLook(
        name=name,
        latex=name_latex(name),
        kind=kind,
        subject=subject,
        value=value,
        text=engineering(value, unit),
        exact=engineering(value, unit, digits=8),
        magnitude=engineering(abs(value), unit),
        flow=flow,
        uncertainty=_plus_minus(uncertainty, unit),
        meaning=meaning,
    )


def _plus_minus(uncertainty: float, unit: str) -> str | None:
    return f"±\u00a0{engineering(uncertainty, unit, digits=2)}" if uncertainty else None


def row_looks(
    exercise: Exercise, circuit: Circuit, told: Compared, meanings: Mapping[str, str]
) -> list[RowLook]:
    kept = {row.name: row for row in exercise.ledger}
    meanings = {**meanings, **dict(_out_of_first_pins(circuit, told))}
    return [_row(row, kept.get(row.quantity), told, circuit, meanings) for row in told.rows]


def _out_of_first_pins(circuit: Circuit, told: Compared) -> Iterator[tuple[str, str]]:
    for name in told.turned:
        element = circuit.by_name[name[2:]]
        if name.startswith("P_"):
            yield name, f"power given by {element.name}"
        else:
            first, second = map(node_words, element.nodes[:2])
            yield name, f"current through {element.name}, from {second} to {first}"


def _row(
    row: Row,
    kept: LedgerRow | None,
    told: Compared,
    circuit: Circuit,
    meanings: Mapping[str, str],
) -> RowLook:
    now = told.now.get(row.quantity)
    pinned = kept.pinned if kept else None
    is_kept = bool(kept and kept.is_kept)
    hand, simulated, bench = row.hand, row.simulated, row.bench
    nowhere = f"nothing on the drawing is called {row.subject}"
    meaning = row.subject if row.kind in ("reading", "formula") else ""
    if kept and isinstance(kept.figure, OfFormula) and not kept.label:
        meaning = kept.figure.formula
    is_of_run = bool(kept and (run_of(kept.figure) or isinstance(kept.figure, AsTaken)))
    is_told = now is not None and now.estimate is not None
    numbers = [
        (of.value, of.uncertainty) if of else None
        for of in (
            hand,
            simulated,
            Estimate(bench.value, budget={"": bench.uncertainty or 0.0}) if bench else None,
        )
    ]
    return RowLook(
        quantity=row.quantity,
        latex=name_latex(row.quantity),
        kind=row.kind,
        subject=row.subject,
        meaning=meaning or meanings.get(row.quantity, nowhere),
        hand=_told(hand, row.unit),
        hand_uncertainty=_plus_minus(hand.uncertainty, row.unit) if hand else None,
        hand_problem=row.hand_problem,
        simulated=_told(simulated, row.unit),
        simulated_uncertainty=_plus_minus(simulated.uncertainty, row.unit) if simulated else None,
        simulated_problem=row.simulated_problem,
        bench=bench.text if bench else None,
        bench_uncertainty=bench.uncertainty_text if bench else None,
        bench_problem=row.bench_problem,
        simulated_less_hand=_difference(row.simulated_less_hand, row.unit),
        bench_less_simulated=_difference(row.bench_less_simulated, row.unit),
        bench_less_hand=_difference(row.bench_less_hand, row.unit),
        verdict=row.state.value,
        sentence=row.sentence,
        row=kept.id if kept else None,
        figure=kept.figure if kept else _figure(row, told),
        measurement=row.measurement or None,
        conditions=_conditions(row, now if is_told else None, pinned, told),
        stale=is_of_run
        and not is_told
        and pinned is not None
        and pinned.fingerprint != circuit.fingerprint,
        kept=is_kept,
        bare=bool(now and not now.has_tolerances) or (is_of_run and not is_told),
        group=kept.group if kept else "",
        note=kept.note if kept else "",
        unit=row.unit,
        numbers=numbers,
        budget=_budget(row),
    )


def _told(of: Estimate | None, unit: str) -> str | None:
    if of is None:
        return None
    return engineering(of.value, unit) if of.angle is None else phasor(of.number, unit)


def _figure(row: Row, told: Compared) -> Figure:
    """What a row is of that the document does not keep."""
    if row.quantity in told.phasors:
        return AsPhasor(quantity=row.quantity)
    if row.kind == "formula":
        return OfFormula(formula=row.subject)
    return QuantityAtRest(quantity=row.quantity)


def _conditions(row: Row, now: Figured | None, pinned: Pinned | None, told: Compared) -> str:
    if row.quantity in told.phasors:
        return f"phasor at {engineering(told.frequency, 'Hz')}, peak value"
    return now.conditions if now else pinned.conditions if pinned else ""


_MOST_SOURCES = 12


def _budget(row: Row) -> BudgetLook | None:
    """Of the difference that decides, the largest source first."""
    decides = row.gravest
    if decides is None or not decides.uncertainty:
        return None
    between = {
        id(row.bench_less_simulated): "bench − simulated",
        id(row.bench_less_hand): "bench − hand",
        id(row.simulated_less_hand): "simulated − hand",
    }[id(decides)]
    return BudgetLook(
        of=between,
        difference=_signed(decides.absolute, row.unit, digits=3),
        covered=f"±\u00a0{engineering(decides.uncertainty, row.unit, digits=2)}",
        ratio=abs(decides.absolute) / decides.uncertainty,
        by_draws=decides.allowed.drawn is not None,
        contributions=[
            ContributionLook(source, engineering(size, row.unit, digits=2), share)
            for source, size, share in decides.allowed.shares[:_MOST_SOURCES]
        ],
    )


def _difference(difference: Difference | None, unit: str) -> DifferenceLook | None:
    if difference is None:
        return None
    if difference.is_nothing:
        return DifferenceLook(engineering(0.0, unit), None, difference.state.value)
    relative = None
    if difference.relative is not None:
        relative = _signed(100 * difference.relative, "%", digits=2)
    return DifferenceLook(
        absolute=_signed(difference.absolute, unit, digits=3),
        relative=relative,
        state=difference.state.value,
    )


def _signed(value: float, unit: str, digits: int) -> str:
    return ("+" if value > 0 else "") + engineering(value, unit, digits)
