"""Whether a figure by hand is the circuit's own result: equal, an approximation, or wrong.

Two expressions that agree to many digits at values drawn at random are the same expression but with a
probability that is nothing (Schwartz, Fast Probabilistic Algorithms for Verification of Polynomial
Identities, Journal of the ACM 27, 1980). So every line is worked out, and the circuit solved, at other
values of all parts as well. What agrees there, and is a voltage, current or power of a linear circuit at
rest, is then compared in letters too: the sentence says which of the two decided. Where parts are not
linear, the textbook form is the reference in letters and the simulation the one in numbers.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from lucidbench.core.cases import BASE, in_case, lines_in
from lucidbench.core.devices import CATALOGUE
from lucidbench.core.diagnosis.slips import Slip
from lucidbench.core.document.exercise import Exercise, LedgerRow, Run
from lucidbench.core.document.figure import OfFormula, run_of
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.as_in_textbooks import (
    FORM,
    AsInTextbooks,
    gain_as_in_textbooks,
    percent,
)
from lucidbench.core.evaluate.exact_curves import exact_curves
from lucidbench.core.evaluate.exact_equations import exact_equations
from lucidbench.core.evaluate.exact_shapes import (
    Band,
    Exactness,
    Fault,
    Neglected,
    Reason,
    Verdict,
    price_of,
    state_of,
)
from lucidbench.core.evaluate.hand_gaps import neglecting
from lucidbench.core.evaluate.leading import Leading, line_of
from lucidbench.core.evaluate.other_values import at_other_values, called
from lucidbench.core.evaluate.parts import node_words
from lucidbench.core.evaluate.perturbed import Figures, Held, Values, circuit_of
from lucidbench.core.formula import names_in
from lucidbench.core.formula.evaluate import CONSTANTS
from lucidbench.core.formula.tree import Negation, Number
from lucidbench.core.formula.worksheet import place_of
from lucidbench.core.readings import kind_of
from lucidbench.core.working.in_letters import NO_NUMBERS, is_same_in_letters
from lucidbench.core.working.meant import held_nodes

_EQUAL, _EQUAL_READ = 1e-6, 5e-4  # relative: of figures at rest, and of what is read off a curve
_NEAR = {"circuit": 0.1, "simulation": 0.25}  # relative: a line beyond cannot be right already
_BY_ALGEBRA = "Equal to the exact result, by algebra."
_BY_NUMBERS = (
    "Equal to the exact result at other values of all parts too; that was found by numbers."
)
_HERE_ONLY = (
    "Equal to the exact result at these values; at others there is none to hold it against."
)
_ROUNDED = "It is the exact result to the digits that are written."
_NOTHING = "The units of this line do not fit."
_HALF = 0.5 + 1e-9
# Relative: what rules of thumb may miss of what is read off a run with diodes and transistors, as of a ripple
# (common practice, no published source).
_ROUGH = 0.25
_NEARLY = "It is not the exact result, but less than a millionth beside it."
_UNKNOWN = "Near the exact result; what it leaves out is not known."
_AS_LEFT_OUT = 0.01  # relative: what a line and the circuit without a part agree within, at most
_DECADE, _NEARBY = 10.0, 2.0  # times a part's value
_COST = "{cost}"  # in a sentence: the relative error, here and over the tolerances
_TRIED = 20  # slips that are held against the circuit at other values


def exactness(exercise: Exercise, case: str = BASE) -> list[Exactness]:
    """Of every figure that is there both by hand and simulated, those at rest first. Raises LucidError where
    there is no such case."""
    here = in_case(exercise, case).model_copy(
        update={"cases": [], "records": [], "measurements": [],
                "hand": [
                    line.model_copy(update={"text": text, "case": None})
                    for line, text in zip(exercise.hand, lines_in(exercise, case), strict=True)
                ]}
    )  # fmt: skip
    found: dict[str, Exactness] = {}
    for rows, runs in _by_run(here):
        figures = Figures(here.model_copy(update={"ledger": rows, "runs": runs}))
        judge = _Judge(figures)
        for name, values in figures.nominal.items():
            if name not in found and (values.hand is not None or judge.is_understood(name)):
                found[name] = judge.held(name)
    return [*found.values(), *exact_equations(here), *exact_curves(here)]


class _Judge:
    """Of the figures of one circuit."""

    def __init__(self, figures: Figures) -> None:
        self.at = figures
        self.exercise = figures.exercise
        self.reference = figures.reference
        self.nominal = figures.nominal

    def held(self, name: str) -> Exactness:
        if self.nominal[name].hand is None:
            return self.of_nothing(name)
        errors = [
            _error(values[name])
            for values in (self.nominal, *self.at.others)
            if name in values and values[name].hand is not None
        ]
        is_read = self.nominal[name].is_read
        within = _EQUAL_READ if is_read else _EQUAL

        def told(
            verdict: Verdict,
            reason: Reason,
            sentence: str,
            parts: tuple[str, ...] = (),
            mend: str = "",
            box: float | None = None,
            band: Band | None = None,
        ) -> Exactness:
            return Exactness(
                name, state_of(verdict), verdict, reason, sentence, errors[0], max(errors), self.reference,
                box, band, parts=parts, mend=mend,
            )  # fmt: skip

        def priced(verdict: Verdict, what: Neglected) -> Exactness:
            box = self.over_tolerances(name)
            over = f", up to {percent(box)} over the tolerances" if box is not None else ""
            sentence = what.words.replace(_COST, f"{percent(errors[0])} here{over}")
            parts = (what.part,) if what.part else ()
            band = self.band(name, what.part)
            return told(verdict, what.reason, sentence, parts, box=box, band=band)

        if self.reference == "simulation":
            form = self.as_in_textbooks(name)
            if form:
                exact = self.nominal[name].exact
                itself = "" if form.own is None else percent(_error(Held(form.own, exact, False)))
                if not form.part:
                    is_model = Neglected("textbook_model", "", form.told(_COST, itself))
                    return priced("equal_to_textbook_model", is_model)
                reason: Reason = "base_current" if form.without else form.reason
                return priced("approximate", Neglected(reason, form.part, form.told(_COST, itself)))
        if max(errors) <= within:
            proven = None if is_read else self.in_letters(self.exercise, self.at.voltages, name)
            if proven is False:
                return told("approximate", "nearly", _NEARLY)
            if not proven and len(errors) == 1:
                return told("equal_at_these_values", "no_other_values", _HERE_ONLY)
            if proven:
                return told("equal", "by_algebra", _BY_ALGEBRA)
            return told("equal", "by_numbers", _BY_NUMBERS)
        if errors[0] <= within:
            why, parts, words = self.only_here(name, within)
            return told("equal_at_these_values", why, words, parts)
        if self.is_rounded(name):
            return told("approximate", "rounded", _ROUNDED)
        return self.not_equal(name, within, errors[0], told, priced)

    def not_equal(
        self, name: str, within: float, error: float,
        told: Callable[..., Exactness], priced: Callable[[Verdict, Neglected], Exactness],
    ) -> Exactness:  # fmt: skip
        """An approximation within its price, else wrong: with what was left out, or the slip."""
        costs = "Beside the simulation:" if self.reference == "simulation" else "That costs"
        price = price_of(self.exercise)
        if self.reference == "simulation" and self.nominal[name].is_read:
            price = max(price, _ROUGH)
        neglected = self.neglected(name, within)
        if neglected and error <= price:
            return priced(
                "approximate", replace(neglected, words=f"{neglected.words} {costs} {_COST}.")
            )
        fault = self.first_wrong(name, within)
        if neglected and fault.reason != "rests_on_wrong_line":
            too_much = f"{neglected.words} {costs} {percent(error)}, and an approximation may cost"
            parts = (neglected.part,) if neglected.part else ()
            words = f"{too_much} {percent(price)}."
            return told("wrong", neglected.reason, words, parts, fault.mend)
        if fault.part and error <= price:
            what = Neglected("left_out", fault.part, f"{fault.words} {costs} {_COST}.")
            return priced("approximate", what)
        if not fault.mend and error <= price and fault.reason != "rests_on_wrong_line":
            return priced("approximate", Neglected("unknown", "", f"{_UNKNOWN} {costs} {_COST}."))
        return told("wrong", fault.reason, fault.words + self.counted(name), mend=fault.mend)

    def is_understood(self, name: str) -> bool:
        """Whether every name in its lines stands for something."""
        place = line_of(self.exercise, name, BASE)
        lines = Leading(self.exercise, BASE, place) if place is not None else None
        if lines is None or not lines.formulas:
            return False
        known = lines.names().keys() | CONSTANTS.keys() | {each.target for each in lines.formulas}
        return all(names_in(each.body) <= known for each in lines.formulas)

    def of_nothing(self, name: str) -> Exactness:
        """Of a line whose units do not fit."""
        _, mended = self.mended(name, _EQUAL)
        words = mended.words if mended else _NOTHING
        return Exactness(
            name, "wrong", "wrong", "units", words, None, None, self.reference,
            mend=mended.mend if mended else "",
        )  # fmt: skip

    def only_here(self, name: str, within: float) -> tuple[Reason, tuple[str, ...], str]:
        """(reason, parts, words): why it is right at these values alone."""
        moves = [
            part
            for part, values in self.at.doubled.items()
            if name in values and values[name].hand is not None and _error(values[name]) > within
        ]
        pairs = [
            (one, other)
            for (one, other), values in self.at.doubled_in_pairs(moves).items()
            if name in values and values[name].hand is not None and _error(values[name]) <= within
        ]
        if pairs:
            listed = ", and ".join(f"{one} and {other}" for one, other in pairs)
            parts = tuple(dict.fromkeys(part for pair in pairs for part in pair))
            return "equal_parts", parts, f"Right only because {listed} are equal."
        place = line_of(self.exercise, name, BASE)
        used: set[str] = set()
        if place is not None:
            lines = Leading(self.exercise, BASE, place)
            used = {n for formula in lines.formulas for n in names_in(formula.body)}
            held = held_nodes(self.at.circuit)
            used |= {held[n].lstrip("-") for n in used & held.keys()}
        absent = tuple(part for part in moves if part not in used)
        if absent:
            words = f"Right at these values; numbers stand for {_listed(absent)}."
            return "numbers", absent, words
        words = f"Right at these values of {_listed(moves)} alone." if moves else _HERE_ONLY
        return "these_values", tuple(moves), words

    def is_rounded(self, name: str) -> bool:
        """Whether it is a number that was written down, and right to its last digit."""
        place = line_of(self.exercise, name, BASE)
        lines = Leading(self.exercise, BASE, place) if place is not None else None
        if lines is None or not lines.formulas:
            return False
        body = lines.formulas[-1].body
        body = body.operand if isinstance(body, Negation) else body
        told = self.nominal[name]
        if not isinstance(body, Number) or told.hand is None:
            return False
        return abs(told.hand - told.exact) <= _HALF * place_of(body)

    def counted(self, name: str) -> str:
        """Which way a current counts that came out with the other sign; "" for all else."""
        hand, exact, _ = self.nominal[name]
        element = self.at.circuit.by_name.get(name.removeprefix("I_"))
        if hand is None or element is None or len(element.nodes) != 2:
            return ""
        if (hand * exact.conjugate()).real >= 0:
            return ""
        return f" {name} counts from {' to '.join(map(node_words, element.nodes))}."

    def over_tolerances(self, name: str) -> float | None:
        """The largest error over all builds, to first order: what the end of each interval does to it adds
        up. None where no part has a tolerance, or a build has no such figure."""
        ends = [each.get(name) for each in self.at.at_each_end]
        if not ends or None in ends:
            return None
        here = _signed_error(self.nominal[name])
        return abs(here) + sum(abs(_signed_error(each) - here) for each in ends if each)

    def as_in_textbooks(self, name: str) -> AsInTextbooks | None:
        """In letters; of a gain, in numbers at other values."""
        told, _, is_read = self.nominal[name]
        hand = complex(told or 0.0).real
        for k, form in enumerate(self.at.textbook if not is_read else ()):
            own = self.at.in_form(form, name)
            if own is None or _error(Held(hand, own, False)) > _EQUAL:
                continue
            by_algebra = bool(self.in_letters(self.exercise, form.voltages, name, form.numbers))
            if by_algebra or self.is_as_elsewhere(k, name):
                without = form.without_base_current
                whole = self.at.in_form(self.at.textbook[0], name)
                part = without[0] if without else ""
                return AsInTextbooks(FORM, without, whole, by_algebra, part=part)
        row = next((row for row in self.exercise.ledger if row.name == name), None)
        if row is None or not all(name in values for values in self.at.others):
            return None
        by_hand = [
            complex(values[name].hand or 0.0).real for values in (self.nominal, *self.at.others)
        ]
        quantity = row.figure.spoken
        gain = gain_as_in_textbooks(
            quantity, [self.at.circuit, *map(circuit_of, self.at.moved)], by_hand
        )
        if gain:
            return gain
        for key, part, words, other in neglecting(self.exercise):
            if key in ("left_out", "plain_wire"):
                circuits = [
                    circuit_of(other),
                    circuit_of(self.at.left_out_elsewhere[key, part, words]),
                ]
                found = gain_as_in_textbooks(quantity, circuits, by_hand)
                if found:
                    return replace(found, left_out=words, own=None, part=part, reason=key)
        return None

    def is_as_elsewhere(self, k: int, name: str) -> bool:
        """Whether a line agrees with that textbook form at other values as well."""
        found = 0
        for forms, values in zip(self.at.textbook_elsewhere, self.at.others, strict=True):
            own = self.at.in_form(forms[k], name) if k < len(forms) else None
            if own is None or name not in values:
                continue  # it is saturated there, or off
            if _error(Held(values[name].hand, own, False)) > _EQUAL:
                return False
            found += 1
        return found > 0

    def in_letters(
        self,
        exercise: Exercise,
        voltages: Mapping[str, Any],
        name: str,
        numbers: Mapping[str, float] = NO_NUMBERS,
    ) -> bool | None:
        """Whether it is equal by algebra; None where that cannot say."""
        if name in self.at.phasors:
            return None
        texts = lines_in(exercise, BASE)
        written = {
            part.name: part.values[description.main.key]
            for part in exercise.schematic.parts
            if (description := CATALOGUE.get(part.kind))
            and description.main
            and description.main.key in part.values
        }
        written |= {named.name: named.text for named in exercise.parameters}
        written |= held_nodes(self.at.circuit)
        is_turned = name in self.at.turned
        return is_same_in_letters(
            self.at.circuit, voltages, name, texts, written, numbers, is_turned
        )

    def first_wrong(self, name: str, within: float) -> Fault:
        """Which line is the first that cannot be right, and what would be right where that is known."""
        at, mended = self.mended(name, within)
        place = line_of(self.exercise, name, BASE)
        lines = Leading(self.exercise, BASE, place) if place is not None else None
        unknown = []
        for k, formula in enumerate(lines.formulas[:-1] if lines else []):
            target = formula.target or ""
            if target not in self.nominal:
                unknown.append(target)
            elif _error(self.nominal[target]) > _NEAR[self.reference]:
                if mended and at == k:
                    return mended
                number = lines.places[k] + 1 if lines else 0
                first = f"It uses {target}, and line {number} is already wrong. "
                words, mend = (mended.words, mended.mend) if mended else ("", "")
                return Fault("rests_on_wrong_line", (first + words).rstrip(), mend)
        if mended:
            return mended
        where = f"Line {place + 1} cannot be right" if place is not None else "It cannot be right"
        if unknown:
            where += f", or one it rests on ({', '.join(unknown)})"
        words = f"{where}: at other values of the parts the circuit gives something else."
        return Fault("goes_another_way", words)

    def mended(self, name: str, within: float) -> tuple[int, Fault | None]:
        """(the place of a line among those that lead there, the one small change to it that makes the figure
        right), None for none. Of a circuit with transistors or diodes right is what the textbook form comes
        to, in letters."""
        place = line_of(self.exercise, name, BASE)
        if place is None:
            return -1, None
        lines = Leading(self.exercise, BASE, place)
        forms = [self.at.in_form(form, name) for form in self.at.textbook]
        exact: list[complex] = [value for value in forms if value is not None]
        exact = exact or [self.nominal[name].exact]
        dimension = kind[2] if (kind := kind_of(name)) else None
        is_ac = any(part.form == "sine" for part in self.exercise.schematic.parts)
        near = []
        for k, slip in lines.slips(is_ac=is_ac):
            value = lines.value(k, slip.body)
            if value is None or (dimension and value.dimension != dimension):
                continue
            if any(_error(Held(complex(value.value), each, False)) <= within for each in exact):
                near.append((k, slip))
        near.sort(key=lambda each: (-each[1].weight, -each[0]))
        elsewhere = [Leading(each, BASE, place) for each in self.at.moved] if near else []
        for k, slip in near[:_TRIED]:
            if self.is_right(lines, elsewhere, k, slip, name, within):
                return k, lines.fault(k, slip)
        used = {n for formula in lines.formulas for n in names_in(formula.body)}
        if near and not self.at.textbook and used & set(self.at.doubled):
            # Numbers stand for parts: what moves are those that the lines have as letters.
            moved = list(at_other_values(self.exercise, used))
            told = [(Leading(each, BASE, place), self.at.values_of(each)) for each in moved]
            for k, slip in near[:_TRIED]:
                if all(_is_near(each, values, k, slip, name, within) for each, values in told):
                    return k, lines.fault(k, slip)
        return -1, None

    def is_right(
        self, lines: Leading, elsewhere: Sequence[Leading], k: int, slip: Slip, name: str, within: float
    ) -> bool:  # fmt: skip
        if self.at.textbook:
            return any(
                self.is_form_elsewhere(elsewhere, k, slip, name, form)
                for form in range(len(self.at.textbook))
            )
        return all(
            _is_near(each, values, k, slip, name, within)
            for each, values in zip(elsewhere, self.at.others, strict=True)
        )

    def is_form_elsewhere(
        self, elsewhere: Sequence[Leading], k: int, slip: Slip, name: str, form: int
    ) -> bool:
        """Whether a figure without a slip agrees with that textbook form at other values."""
        found = 0
        for lines, forms in zip(elsewhere, self.at.textbook_elsewhere, strict=True):
            own = self.at.in_form(forms[form], name) if form < len(forms) else None
            value = lines.value(k, slip.body) if own is not None else None
            if own is None:
                continue
            if value is None or _error(Held(complex(value.value), own, False)) > _EQUAL:
                return False
            found += 1
        return found > 0

    def band(self, name: str, part: str) -> Band | None:
        """The error over two decades of the value of the part that is left out; where that is none in
        particular, around the value of the one that counts most."""
        widest = _DECADE if part else _NEARBY
        part = part or self.most_telling(name)
        found = [
            (x, unit, _error(values[name]))
            for x, unit, values in self.at.over(part, widest)
            if name in values
        ]
        if len(found) < 2:
            return None
        errors = [error for _, _, error in found]
        return Band(called(self.exercise, part), found[0][1], [x for x, _, _ in found], errors)

    def most_telling(self, name: str) -> str:
        """The part on whose value the error depends most; "" where there is none."""
        here = _error(self.nominal[name])
        moved = {
            part: abs(_error(values[name]) - here)
            for part, values in self.at.doubled.items()
            if name in values
        }
        return max(moved, key=lambda part: moved[part], default="")

    def neglected(self, name: str, within: float) -> Neglected | None:
        """What of the circuit has to be left out for it to give what was worked out."""

        def agrees(by_hand: Values, without: Values) -> bool:
            if name not in by_hand or name not in without:
                return False
            hand, exact = by_hand[name].hand, without[name].exact
            return hand is not None and abs(hand - exact) <= min(50 * within, _AS_LEFT_OUT) * abs(
                exact
            )

        for key, part, words, here in self.at.left_out():
            if not agrees(self.nominal, here):
                continue
            with contextlib.suppress(LucidError, KeyError):
                if agrees(
                    self.at.others[0],
                    self.at.values_of(self.at.left_out_elsewhere[key, part, words]),
                ):
                    return Neglected(key, part, words)
        return None


def _by_run(exercise: Exercise) -> list[tuple[list[LedgerRow], list[Run]]]:
    """Rows and the runs they are read from: those at rest, then those of each run that a line gives one of,
    so that no more is solved for a figure than it needs; all at once where one is a formula of others. What
    was kept of the circuit does not stand in for what it is."""
    names = {line.text.partition("=")[0].strip() for line in exercise.hand}
    rows = [row.model_copy(update={"pinned": None, "is_kept": False}) for row in exercise.ledger]
    if any(isinstance(row.figure, OfFormula) and row.name in names for row in rows):
        return [(rows, exercise.runs)]
    at_rest: list[Run] = []
    found = [([row for row in rows if not run_of(row.figure)], at_rest)]
    for run in exercise.runs:
        own = [row for row in rows if run_of(row.figure) == run.id]
        if any(row.name in names for row in own):
            found.append((own, [run]))
    return found


def _is_near(lines: Leading, values: Values, k: int, slip: Slip, name: str, within: float) -> bool:
    """Whether a figure is the exact one without a slip."""
    value = lines.value(k, slip.body)
    if value is None or name not in values:
        return False
    return _error(Held(complex(value.value), values[name].exact, False)) <= within


def _error(values: Held) -> float:
    return abs(_signed_error(values))


def _signed_error(values: Held) -> complex:
    """Relative to the exact figure; of one that is nothing, all of it."""
    hand, exact, _ = values
    if hand is None or hand == exact:
        return 0.0
    return (hand - exact) / abs(exact) if exact else 1.0


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
