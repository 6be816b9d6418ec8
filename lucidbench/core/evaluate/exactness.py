"""Whether a figure by hand is the circuit's own result: equal, an approximation, or wrong.

Two expressions that agree to many digits at values drawn at random are the same expression but with a
probability that is nothing (Schwartz, Fast Probabilistic Algorithms for Verification of Polynomial
Identities, Journal of the ACM 27, 1980). So every line is worked out, and the circuit solved, at other
values of all parts as well. What agrees there, and is a voltage, current or power of a linear circuit at
rest, is then compared in letters too: the sentence says which of the two decided.
"""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from functools import cached_property
from typing import Any

import numpy as np

from lucidbench.core.cases import BASE, in_case
from lucidbench.core.devices import CATALOGUE
from lucidbench.core.document.exercise import Exercise, LedgerRow
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.compared import FORMULA
from lucidbench.core.evaluate.exact_curves import exact_curves
from lucidbench.core.evaluate.exact_shapes import Band, Exactness, Reference, State
from lucidbench.core.evaluate.hand_gaps import leading_to, neglecting, slips_in
from lucidbench.core.evaluate.other_values import at_other_values, at_tolerances, over_values
from lucidbench.core.evaluate.run_figures import Limits
from lucidbench.core.evaluate.whole import evaluation_of
from lucidbench.core.netlist import Circuit
from lucidbench.core.schematic import read_drawing
from lucidbench.core.working.in_letters import is_same_in_letters, voltages_in_letters

_EQUAL, _EQUAL_READ = 1e-6, 2e-4  # relative: of figures at rest, and of what is read off a curve
# Relative: what comes no nearer, and leaves nothing out that is known, is wrong. Rules of thumb are rough.
_NEAR = {"circuit": 0.1, "simulation": 0.25}
_LIMITS = Limits(2.0, 0.0)
_BY_ALGEBRA = "Equal to the exact result, by algebra."
_BY_NUMBERS = (
    "Equal to the exact result at other values of all parts too; that was found by numbers."
)
_TRIED = 3  # slips that are held against the circuit at other values

# By figure: hand, exact, whether it is read off a curve.
Values = Mapping[str, tuple[float, float, bool]]


def exactness(exercise: Exercise, case: str = BASE) -> list[Exactness]:
    """Of every figure that is there both by hand and simulated, in the order of the ledger. Raises LucidError
    where there is no such case."""
    here = in_case(exercise, case).model_copy(
        update={"cases": [], "records": [], "measurements": [],
                "hand": [line for line in exercise.hand if line.case in (None, case)]}
    )  # fmt: skip
    rows = _needed(here)
    asked = {row.figure.run for row in rows}
    runs = [run for run in here.runs if run.id in asked]
    here = here.model_copy(update={"ledger": rows, "runs": runs})
    figures = _Figures(here)
    return [*(figures.held(name) for name in figures.nominal), *exact_curves(here, case)]


class _Figures:
    """The figures of one circuit, at its own values and at others; each is solved once, and only if asked."""

    def __init__(self, exercise: Exercise) -> None:
        self.exercise = exercise
        drawing = read_drawing(
            exercise.schematic, exercise.title, exercise.parameters, exercise.blocks
        )
        self.circuit = drawing.circuit
        self.reference: Reference = "circuit" if assemble(self.circuit).is_linear else "simulation"
        self.nominal = _values(exercise)
        self.moved = list(at_other_values(exercise))
        self.others = [_values(each) for each in self.moved]
        self._over: dict[str, list[tuple[float, str, Values]]] = {}

    @cached_property
    def voltages(self) -> Mapping[str, Any]:
        """In letters."""
        return voltages_in_letters(self.circuit)

    @cached_property
    def left_out(self) -> list[tuple[str, str, str, Values]]:
        """(cause, part, words, the figures without it) of what a working may leave out."""
        found = []
        for key, part, words, other in neglecting(self.exercise):
            with contextlib.suppress(LucidError):
                found.append((key, part, words, _values(other)))
        return found

    @cached_property
    def left_out_elsewhere(self) -> dict[tuple[str, str, str], Exercise]:
        """The same at other values, not solved yet."""
        return {(key, part, words): other for key, part, words, other in neglecting(self.moved[0])}

    @cached_property
    def builds(self) -> list[Values]:
        """At the ends of the tolerances."""
        return [_values(each) for each in at_tolerances(self.exercise)]

    def over(self, part: str) -> list[tuple[float, str, Values]]:
        """(value, unit, figures) over two decades of a part's value."""
        if part not in self._over:
            every = over_values(self.exercise, part)
            self._over[part] = [(value, unit, _values(other)) for value, unit, other in every]
        return self._over[part]

    def held(self, name: str) -> Exactness:
        errors = [_error(values[name]) for values in (self.nominal, *self.others) if name in values]
        within = _EQUAL_READ if self.nominal[name][2] else _EQUAL

        def told(
            state: State, sentence: str, box: float | None = None, band: Band | None = None
        ) -> Exactness:
            return Exactness(
                name, state, sentence, errors[0], max(errors), self.reference, box, band
            )

        if max(errors) <= within:
            proven = _in_letters(self.exercise, self.circuit, self.voltages, name)
            if proven is False:
                return told(
                    "approximate",
                    "It is not the exact result, but less than a millionth beside it.",
                )
            return told("equal", _BY_ALGEBRA if proven else _BY_NUMBERS)
        words, part = self.neglected(name, within)
        if not words and errors[0] > _NEAR[self.reference]:
            return told("wrong", self.first_wrong(name) + _mended(self.exercise, name, within))
        box = max((_error(values[name]) for values in self.builds if name in values), default=None)
        sentence = words or "Near the exact result; what it leaves out is not known."
        beside = " beside the simulation" if self.reference == "simulation" else ""
        cost = f"That costs {_percent(errors[0])} here{beside}"
        if box is not None:
            cost += f", and up to {_percent(box)} over the tolerances"
        return told(
            "approximate", f"{sentence} {cost}.", box, self.band(name, part) if part else None
        )

    def first_wrong(self, name: str) -> str:
        """That an earlier line it rests on cannot be right already; "" where none is."""
        texts = [line.text for line in self.exercise.hand]
        for k in leading_to(name, texts):
            target = texts[k].partition("=")[0].strip()
            if target == name or target not in self.nominal:
                continue
            if _error(self.nominal[target]) > _NEAR[self.reference]:
                return f"It rests on {target}, line {k + 1}, which cannot be right already. "
        return ""

    def band(self, name: str, part: str) -> Band | None:
        """The error over two decades of the value of the part that is left out."""
        found = [
            (x, unit, _error(values[name])) for x, unit, values in self.over(part) if name in values
        ]
        if len(found) < 2:
            return None
        return Band(part, found[0][1], [x for x, _, _ in found], [error for _, _, error in found])

    def neglected(self, name: str, within: float) -> tuple[str, str]:
        """(in words, what of the circuit has to be left out for it to give what was worked out, which part
        that is); both "" for nothing."""

        def agrees(by_hand: Values, without: Values) -> bool:
            if name not in by_hand or name not in without:
                return False
            exact = without[name][1]
            return abs(by_hand[name][0] - exact) <= 50 * within * abs(exact)

        for key, part, words, here in self.left_out:
            if not agrees(self.nominal, here):
                continue
            with contextlib.suppress(LucidError, KeyError):
                if agrees(self.others[0], _values(self.left_out_elsewhere[key, part, words])):
                    return words, part
        return "", ""


def _needed(exercise: Exercise) -> list[LedgerRow]:
    """The rows that lines give; where one of them is a formula of others, all."""
    names = {line.text.partition("=")[0].strip() for line in exercise.hand}
    own = [row for row in exercise.ledger if row.name in names]
    return exercise.ledger if any(row.figure.reading == FORMULA for row in own) else own


def _in_letters(
    exercise: Exercise, circuit: Circuit, voltages: Mapping[str, Any], name: str
) -> bool | None:
    """Whether it is equal by algebra; None where that cannot say."""
    texts = [line.text for line in exercise.hand if line.role == "line"]
    written = {
        part.name: part.values[description.main.key]
        for part in exercise.schematic.parts
        if (description := CATALOGUE.get(part.kind))
        and description.main
        and description.main.key in part.values
    }
    written |= {named.name: named.text for named in exercise.parameters}
    return is_same_in_letters(circuit, voltages, name, texts, written)


def _values(exercise: Exercise) -> Values:
    look = evaluation_of(exercise, limits=_LIMITS)
    found = {}
    for row in look.ledger:
        hand, exact = row.numbers[0], row.numbers[1]
        if hand is not None and exact is not None and np.isfinite(exact[0]):
            found[row.quantity] = (hand[0], exact[0], not row.figure.is_at_rest)
    return found


def _error(values: tuple[float, float, bool]) -> float:
    hand, exact, _ = values
    return abs(hand - exact) / max(abs(exact), 1e-300) if hand != exact else 0.0


def _percent(share: float) -> str:
    return f"{100 * share:.2g} %"


def _mended(exercise: Exercise, name: str, within: float) -> str:
    """Why it is wrong: the one small change that makes it right, where there is one."""
    plain = "It is off, and at other values goes another way than the circuit."
    exact = _values(exercise)[name][1]
    near = [
        (slip, line)
        for slip, line, value in slips_in(exercise, name, BASE)
        if _error((value, exact, False)) <= within
    ]
    lines = {line.id: k for k, line in enumerate(exercise.hand)}
    for slip, line in sorted(near, key=lambda each: -each[0].weight)[:_TRIED]:
        change = Change(op="replace", path=f"/hand/{lines[line]}/text", value=slip.text)
        mended = patched(exercise, [change])
        values = [_values(mended), *(_values(other) for other in at_other_values(mended))]
        if all(name in v and _error(v[name]) <= within for v in values):
            where = (
                "" if slip.text.partition("=")[0].strip() == name else f"Line {lines[line] + 1}: "
            )
            return f"{where}{slip.sentence} Right would be {slip.text}."
    return plain
