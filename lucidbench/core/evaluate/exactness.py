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
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from lucidbench.core.cases import BASE, in_case
from lucidbench.core.devices import CATALOGUE
from lucidbench.core.document.exercise import Exercise, LedgerRow, Run
from lucidbench.core.document.figure import OfFormula, run_of
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.as_in_textbooks import (
    FORM,
    AsInTextbooks,
    gain_as_in_textbooks,
    percent,
)
from lucidbench.core.evaluate.exact_curves import exact_curves
from lucidbench.core.evaluate.exact_shapes import (
    Band,
    Exactness,
    Fault,
    Neglected,
    Reason,
    Verdict,
    state_of,
)
from lucidbench.core.evaluate.hand_gaps import leading_to, neglecting, slips_in
from lucidbench.core.evaluate.other_values import (
    at_other_values,
    called,
)
from lucidbench.core.evaluate.parts import node_words
from lucidbench.core.evaluate.perturbed import Figures, Values, circuit_of
from lucidbench.core.formula.brackets import without_needless_brackets
from lucidbench.core.working.in_letters import NO_NUMBERS, is_same_in_letters

_EQUAL, _EQUAL_READ = 1e-6, 5e-4  # relative: of figures at rest, and of what is read off a curve
# Relative: what comes no nearer, and leaves nothing out that is known, is wrong. Rules of thumb are rough.
_NEAR = {"circuit": 0.1, "simulation": 0.25}
_BY_ALGEBRA = "Equal to the exact result, by algebra."
_BY_NUMBERS = (
    "Equal to the exact result at other values of all parts too; that was found by numbers."
)
_HERE_ONLY = (
    "Equal to the exact result at these values; at others there is none to hold it against."
)
_NEARLY = "It is not the exact result, but less than a millionth beside it."
_UNKNOWN = "Near the exact result; what it leaves out is not known."
_AS_LEFT_OUT = 0.01  # relative: what a line and the circuit without a part agree within, at most
_DECADE, _NEARBY = 10.0, 2.0  # times a part's value
_COST = "{cost}"  # in a sentence: the relative error, here and over the tolerances
_TRIED = 3  # slips that are held against the circuit at other values


def exactness(exercise: Exercise, case: str = BASE) -> list[Exactness]:
    """Of every figure that is there both by hand and simulated, those at rest first. Raises LucidError where
    there is no such case."""
    here = in_case(exercise, case).model_copy(
        update={"cases": [], "records": [], "measurements": [],
                "hand": [line for line in exercise.hand if line.case in (None, case)]}
    )  # fmt: skip
    found: dict[str, Exactness] = {}
    for rows, runs in _by_run(here):
        figures = Figures(here.model_copy(update={"ledger": rows, "runs": runs}))
        judge = _Judge(figures)
        for name in figures.nominal:
            if name not in found:
                found[name] = judge.held(name)
    return [*found.values(), *exact_curves(here, case)]


class _Judge:
    """Of the figures of one circuit."""

    def __init__(self, figures: Figures) -> None:
        self.at = figures
        self.exercise = figures.exercise
        self.reference = figures.reference
        self.nominal = figures.nominal

    def held(self, name: str) -> Exactness:
        errors = [
            _error(values[name]) for values in (self.nominal, *self.at.others) if name in values
        ]
        is_read = self.nominal[name][2]
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
                exact = self.nominal[name][1]
                itself = "" if form.own is None else percent(_error((form.own, exact, False)))
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
        neglected = self.neglected(name, within)
        if neglected is None and errors[0] > _NEAR[self.reference]:
            fault = self.first_wrong(name, within)
            return told("wrong", fault.reason, fault.words + self.counted(name), mend=fault.mend)
        what = neglected or Neglected("unknown", "", _UNKNOWN)
        costs = "Beside the simulation:" if self.reference == "simulation" else "That costs"
        return priced("approximate", replace(what, words=f"{what.words} {costs} {_COST}."))

    def counted(self, name: str) -> str:
        """Which way a current counts that came out with the other sign; "" for all else."""
        hand, exact, _ = self.nominal[name]
        element = self.at.circuit.by_name.get(name.removeprefix("I_"))
        if hand * exact >= 0 or element is None or len(element.nodes) != 2:
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
        hand, _, is_read = self.nominal[name]
        for form in self.at.textbook if not is_read else ():
            is_near = name in form.figures and _error((hand, form.figures[name], False)) <= _EQUAL
            if is_near and self.in_letters(self.exercise, form.voltages, name, form.numbers):
                without = form.without_base_current
                own = self.at.textbook[0].figures[name]
                part = without[0] if without else ""
                return AsInTextbooks(FORM, without, own, True, part=part)
        row = next((row for row in self.exercise.ledger if row.name == name), None)
        if row is None or not all(name in values for values in self.at.others):
            return None
        by_hand = [values[name][0] for values in (self.nominal, *self.at.others)]
        quantity = row.figure.spoken
        whole = gain_as_in_textbooks(
            quantity, [self.at.circuit, *map(circuit_of, self.at.moved)], by_hand
        )
        if whole:
            return whole
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

    def in_letters(
        self,
        exercise: Exercise,
        voltages: Mapping[str, Any],
        name: str,
        numbers: Mapping[str, float] = NO_NUMBERS,
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
        is_turned = name in self.at.turned
        return is_same_in_letters(
            self.at.circuit, voltages, name, texts, written, numbers, is_turned
        )

    def first_wrong(self, name: str, within: float) -> Fault:
        """Which line is the first that cannot be right, and what would be right where that is known."""
        texts = [line.text for line in self.exercise.hand]
        at, mended = self.mended(name, within)
        leading = leading_to(name, texts)
        targets = {k: texts[k].partition("=")[0].strip() for k in leading}
        for k, target in targets.items():
            if target == name or target not in self.nominal:
                continue
            if _error(self.nominal[target]) > _NEAR[self.reference]:
                if mended and at == k:
                    return mended
                first = f"It rests on {target}, line {k + 1}, which cannot be right already. "
                words, mend = (mended.words, mended.mend) if mended else ("", "")
                return Fault("rests_on_wrong_line", (first + words).rstrip(), mend)
        if mended:
            return mended
        unknown = [t for k, t in targets.items() if t != name and t not in self.nominal]
        where = f"Line {leading[-1] + 1} cannot be right"
        if unknown:
            where += f", or one it rests on ({', '.join(unknown)})"
        words = f"{where}: at other values of the parts the circuit gives something else."
        return Fault("goes_another_way", words)

    def mended(self, name: str, within: float) -> tuple[int, Fault | None]:
        """(the line's place, the one small change to it that makes the figure right), None for none. Of a
        circuit with transistors or diodes right is what the textbook form comes to, in letters."""
        exact = [form.figures[name] for form in self.at.textbook if name in form.figures]
        exact = exact or [self.nominal[name][1]]
        near = [
            (slip, line)
            for slip, line, value in slips_in(self.exercise, name, BASE)
            if any(_error((value, each, False)) <= within for each in exact)
        ]
        lines = {line.id: k for k, line in enumerate(self.exercise.hand)}
        for slip, line in sorted(near, key=lambda each: -each[0].weight)[:_TRIED]:
            change = Change(op="replace", path=f"/hand/{lines[line]}/text", value=slip.text)
            if self.is_right(patched(self.exercise, [change]), name, within):
                mend = without_needless_brackets(slip.text)
                is_own = mend.partition("=")[0].strip() == name
                where = "" if is_own else f"Line {lines[line] + 1}: "
                words = f"{where}{slip.sentence} Right would be {mend}."
                return lines[line], Fault("slip", words, mend)
        return -1, None

    def is_right(self, mended: Exercise, name: str, within: float) -> bool:
        if self.at.textbook:
            return any(
                self.in_letters(mended, form.voltages, name, form.numbers)
                for form in self.at.textbook
            )
        values = [self.at.values_of(each) for each in (mended, *at_other_values(mended))]
        return all(name in v and _error(v[name]) <= within for v in values)

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
            exact = without[name][1]
            return abs(by_hand[name][0] - exact) <= min(50 * within, _AS_LEFT_OUT) * abs(exact)

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


def _error(values: tuple[float, float, bool]) -> float:
    return abs(_signed_error(values))


def _signed_error(values: tuple[float, float, bool]) -> float:
    hand, exact, _ = values
    return (hand - exact) / max(abs(exact), 1e-300) if hand != exact else 0.0
