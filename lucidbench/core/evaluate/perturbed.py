"""Figures by hand and exact, at their own values and at others, whole and with parts left out."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np

from lucidbench.core.comparison import figures_in
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.figure import QuantityAtRest
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.evaluation import ledger_of
from lucidbench.core.evaluate.exact_shapes import Reason, Reference
from lucidbench.core.evaluate.hand_gaps import neglecting
from lucidbench.core.evaluate.ledger_inputs import Compared, combined_number
from lucidbench.core.evaluate.other_values import (
    at_each_end,
    at_other_values,
    over_values,
    with_each_doubled,
    with_pairs_doubled,
    without_tolerances,
)
from lucidbench.core.evaluate.run_figures import Limits
from lucidbench.core.netlist import Circuit
from lucidbench.core.tolerance import intervals_of
from lucidbench.core.working.in_letters import voltages_in_letters
from lucidbench.core.working.meant import meant_by
from lucidbench.core.working.textbook import TextbookForm, textbook_forms

_LIMITS = Limits(2.0, 0.0)


class Held(NamedTuple):
    """A figure by `hand`, None where the line comes to nothing, beside the `exact` one; phasors are complex.
    What `is_read` off a curve is less sure."""

    hand: complex | None
    exact: complex
    is_read: bool


Values = Mapping[str, Held]


class Figures:
    """The figures of one circuit, at its own values and at others; each is solved once, and only if asked."""

    def __init__(self, exercise: Exercise) -> None:
        self.exercise = exercise
        self.circuit = circuit_of(exercise)
        self.reference: Reference = "circuit" if assemble(self.circuit).is_linear else "simulation"
        told = ledger_of(without_tolerances(exercise), _LIMITS)
        self.turned = told.turned
        self.phasors = told.phasors
        self.nominal = _values(exercise, told)
        self.moved = list(at_other_values(exercise))
        self.others = [self.values_of(each) for each in self.moved]
        self._without: dict[tuple[Reason, str, str], Values] = {}
        self._over: dict[tuple[str, float], list[tuple[float, str, Values]]] = {}

    def values_of(self, exercise: Exercise) -> Values:
        """The figures of the circuit changed somehow."""
        return _values(exercise, ledger_of(without_tolerances(exercise), _LIMITS, self.turned))

    @cached_property
    def voltages(self) -> Mapping[str, Any]:
        """In letters."""
        return voltages_in_letters(self.circuit)

    @cached_property
    def textbook(self) -> list[TextbookForm]:
        """Of what is not linear."""
        return [] if self.reference == "circuit" else self._forms_of(self.circuit)

    @cached_property
    def textbook_elsewhere(self) -> list[list[TextbookForm]]:
        """The same forms at other values."""
        return [self._forms_of(circuit_of(each)) for each in self.moved] if self.textbook else []

    def _forms_of(self, circuit: Circuit) -> list[TextbookForm]:
        return [
            replace(
                form, figures={n: -x if n in self.turned else x for n, x in form.figures.items()}
            )
            for form in textbook_forms(circuit)
        ]

    def in_form(self, form: TextbookForm, name: str) -> float | None:
        """The value of a figure in a textbook form; None where that has no such figure."""
        if name in form.figures:
            return form.figures[name]
        meant = meant_by(name, self.circuit)
        if meant is None or not figures_in([meant]) <= form.figures.keys():
            return None
        return combined_number(meant, form.figures).real

    def left_out(self) -> Iterator[tuple[Reason, str, str, Values]]:
        """(cause, part, words, the figures without it) of what a working may leave out, each solved as it is
        come to."""
        for key, part, words, other in neglecting(self.exercise):
            if (key, part, words) not in self._without:
                found: Values = {}
                with contextlib.suppress(LucidError):
                    found = self.values_of(other)
                self._without[key, part, words] = found
            yield key, part, words, self._without[key, part, words]

    @cached_property
    def left_out_elsewhere(self) -> dict[tuple[Reason, str, str], Exercise]:
        """The same at other values, not solved yet."""
        return {(key, part, words): other for key, part, words, other in neglecting(self.moved[0])}

    @cached_property
    def at_each_end(self) -> list[Values]:
        """With each toleranced part at the end of its interval."""
        others = at_each_end(self.exercise, intervals_of(self.circuit))
        return [self.values_of(each) for each in others]

    def over(self, part: str, widest: float) -> list[tuple[float, str, Values]]:
        """(value, unit, figures) around a part's value."""
        if (part, widest) not in self._over:
            every = over_values(self.exercise, part, widest)
            self._over[part, widest] = [
                (value, unit, self.values_of(other)) for value, unit, other in every
            ]
        return self._over[part, widest]

    @cached_property
    def doubled(self) -> dict[str, Values]:
        """With twice the value of each part."""
        return {part: self.values_of(other) for part, other in with_each_doubled(self.exercise)}

    def doubled_in_pairs(self, parts: Sequence[str]) -> dict[tuple[str, str], Values]:
        """With twice the values of two parts that have the same one."""
        return {
            pair: self.values_of(other) for pair, other in with_pairs_doubled(self.exercise, parts)
        }


def circuit_of(exercise: Exercise) -> Circuit:
    return drawing_of(exercise).circuit


def _values(exercise: Exercise, told: Compared) -> Values:
    found = {}
    kept = {row.name: row for row in exercise.ledger}
    for row in told.rows:
        is_given = row.hand is not None or row.hand_problem is not None
        if is_given and row.simulated is not None and np.isfinite(row.simulated.value):
            own = kept.get(row.quantity)
            is_read = own is not None and not isinstance(own.figure, QuantityAtRest)
            hand = row.hand.number if row.hand else None
            found[row.quantity] = Held(hand, row.simulated.number, is_read)
    return found
