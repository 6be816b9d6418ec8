"""Whether an equation of a working, of a node or mesh, holds for the circuit: at its values and at others."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from lucidbench.core.analyses import operating_point
from lucidbench.core.cases import BASE, lines_in
from lucidbench.core.diagnosis.slips import slips_of
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.evaluate.exact_shapes import Exactness, Fault, Verdict, state_of
from lucidbench.core.evaluate.hand_page import HandPage, hand_page
from lucidbench.core.evaluate.other_values import at_other_values
from lucidbench.core.formula import Formula, Known, evaluate, names_in, parse
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.tree import Node
from lucidbench.core.formula.worksheet import PLUS_MINUS, is_equation, largest_term, sides_apart
from lucidbench.core.readings import kind_of, quantities
from lucidbench.core.schematic import values_by_name
from lucidbench.core.working.about import At, sources_at
from lucidbench.core.working.meant import meant_by

_EQUAL = 1e-6  # of the largest term
_MOST_TRIED = 12


def exact_equations(exercise: Exercise) -> Iterator[Exactness]:
    """Of every equation of the working that speaks of the circuit's figures. `exercise` is that of a case."""
    texts = lines_in(exercise, BASE)
    if not any(is_equation(text) for text in texts):
        return
    places = [_Place(each) for each in (exercise, *at_other_values(exercise))]
    for k, line in enumerate(places[0].page.lines):
        if line.role != "equation":
            continue
        try:
            sides = sides_of(texts[k].partition(PLUS_MINUS)[0])
            yield _judged(places, k, sides, exercise.hand[k].id, texts[k])
        except LucidError:
            continue


class _Place:
    """One set of values: what names stand for in an equation, figures of the circuit before one's own."""

    def __init__(self, exercise: Exercise) -> None:
        drawing = drawing_of(exercise)
        try:
            results = quantities(operating_point(drawing.circuit))
        except LucidError:
            results = {}
        self.page: HandPage = hand_page(exercise, BASE, drawing, {})
        self._circuit = self.page.circuit
        self._own = {
            line.target: line.result for line in self.page.lines if line.target and line.result
        }
        self._parts = values_by_name(exercise.schematic, drawing)
        self._at_rest = {q.name: Known(q.value, q.dimension) for q in results.values()}

    def names(self, k: int, used: set[str]) -> dict[str, Known]:
        about = self.page.abouts[k]
        figures = self._figures() if about == "phasor" else self._at_rest
        names = {**self._own, **self._parts, **sources_at(self._circuit, At(about)), **figures}
        for name in used - names.keys() | (used & self._own.keys()):
            meant = meant_by(name, self._circuit)
            if meant and meant not in names:
                try:
                    names[name] = _formula_of_figures(meant, figures)
                except (FormulaError, KeyError):
                    continue
        return names

    def _figures(self) -> dict[str, Known]:
        told = {name: kind_of(name) for name in self.page.phasors}
        return {n: Known(self.page.phasors[n], kind[2]) for n, kind in told.items() if kind}


def _formula_of_figures(text: str, figures: Mapping[str, Known]) -> Known:
    return evaluate(parse(text), figures)


def _judged(
    places: list[_Place], k: int, sides: tuple[Formula, Formula], identity: str, text: str
) -> Exactness:
    used = names_in(sides[0].body) | names_in(sides[1].body)
    names = [place.names(k, used) for place in places]
    errors = [_apart(sides, each) for each in names]

    def told(verdict: Verdict, fault: Fault) -> Exactness:
        return Exactness(
            text.strip(), state_of(verdict), verdict, fault.reason, fault.words, errors[0], max(errors),
            "circuit", line=identity, mend=fault.mend,
        )  # fmt: skip

    if max(errors) <= _EQUAL:
        return told("equal", Fault("by_numbers", "It holds for the circuit, at any values."))
    if errors[0] <= _EQUAL:
        words = "It holds at these values; at others the circuit does something else."
        return told("equal_at_these_values", Fault("these_values", words))
    mended = _mended(sides, names, text)
    words = "It does not hold for the circuit."
    return told("wrong", mended or Fault("goes_another_way", words))


def _mended(
    sides: tuple[Formula, Formula], names: list[dict[str, Known]], text: str
) -> Fault | None:
    left, _, right = text.partition("=")
    tried = []
    for k, side in enumerate(sides):
        for slip in slips_of(Formula(None, side.body, (left, right)[k]), names[0]):
            if _holds(_with(sides, k, slip.body), names[0]):
                tried.append((k, slip))
    for k, slip in sorted(tried, key=lambda each: -each[1].weight)[:_MOST_TRIED]:
        if all(_holds(_with(sides, k, slip.body), each) for each in names):
            shown = [left.strip(), right.strip()]
            shown[k] = slip.text
            mend = " = ".join(shown)
            return Fault("slip", f"{slip.sentence} Right would be {mend}.", mend)
    return None


def _with(sides: tuple[Formula, Formula], k: int, body: Node) -> tuple[Formula, Formula]:
    other = Formula(None, body, "")
    return (other, sides[1]) if k == 0 else (sides[0], other)


def _holds(sides: tuple[Formula, Formula], names: Mapping[str, Known]) -> bool:
    try:
        return _apart(sides, names) <= _EQUAL
    except FormulaError:
        return False


def _apart(sides: tuple[Formula, Formula], names: Mapping[str, Known]) -> float:
    """How far the sides are apart, of the largest term. Raises FormulaError."""
    scale = max(largest_term(side.body, names) for side in sides)
    return sides_apart(*sides, names) / scale if scale else 0.0
