"""The lines that a line of a working rests on, worked out at any values, and with any of them changed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from lucidbench.core.cases import lines_in
from lucidbench.core.diagnosis.slips import LEFT_OUT, Slip, slips_of
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import FormulaError
from lucidbench.core.evaluate.exact_shapes import Fault
from lucidbench.core.evaluate.hand_page import HandPage, hand_page
from lucidbench.core.formula import Formula, Known, evaluate, names_in, parse
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.tree import Node
from lucidbench.core.formula.worksheet import ANGULAR, PLUS_MINUS, given_by
from lucidbench.core.schematic import values_by_name
from lucidbench.core.units.dimensions import FREQUENCY, TIME
from lucidbench.core.working.about import At, sources_at

_TWO_PI = 6.283185307179586


def line_of(exercise: Exercise, name: str, case: str) -> int | None:
    """The place of the line that gives a figure."""
    texts = lines_in(exercise, case)
    return next((k for k, text in enumerate(texts) if given_by(text) == name), None)


class Leading:
    """Those of one line, itself last, by the values of the parts of one exercise. `ids` and `places` are
    those of the lines, `formulas` what they say."""

    def __init__(self, exercise: Exercise, case: str, place: int) -> None:
        drawing = drawing_of(exercise)
        self.page: HandPage = hand_page(exercise, case, drawing, {})
        self._circuit = self.page.circuit
        self._parts: Mapping[str, Known] = values_by_name(exercise.schematic, drawing)
        texts = lines_in(exercise, case)
        self.places = leading_to(place, texts, set(self._parts))
        self.ids = [exercise.hand[k].id for k in self.places]
        self.texts = [texts[k] for k in self.places]
        self.formulas = [formula_of(text) for text in self.texts]
        self._known: dict[float | None, dict[str, Known]] = {}

    def names(self, x: float | None = None) -> dict[str, Known]:
        """What names stand for that no line gives; of a curve at a frequency [Hz] or time [s]."""
        if x not in self._known:
            about = self.page.abouts[self.places[-1]]
            at = At(about, self.page.frequency if x is None else x)
            names = {**self._parts, **sources_at(self._circuit, at)}
            if x is not None and about == "time":
                names.setdefault("t", Known(x, TIME))
            elif x is not None:
                names.setdefault("f", Known(x, FREQUENCY))
                for angular in ANGULAR:
                    names.setdefault(angular, Known(_TWO_PI * x, FREQUENCY))
            self._known[x] = names
        return dict(self._known[x])

    def slips(self, x: float | None = None, is_ac: bool = False) -> Iterator[tuple[int, Slip]]:
        """(place among these lines, slip) of each that may be in them."""
        names = self.names(x)
        for k, formula in enumerate(self.formulas):
            yield from ((k, slip) for slip in slips_of(formula, names, is_ac))
            if not self._work_out(names, formula.target or "", formula.body):
                return

    def value(
        self, place: int = -1, instead: Node | None = None, x: float | None = None
    ) -> Known | None:
        """The value of the last line, with another formula in one of them; None where it has none."""
        names = self.names(x)
        last = len(self.formulas) - 1
        for k, formula in enumerate(self.formulas):
            body = instead if k == place and instead is not None else formula.body
            if not self._work_out(names, "" if k == last else formula.target or "", body):
                return None
        return names.get("")

    def fault(self, place: int, slip: Slip) -> Fault:
        """A slip in one of them as what is wrong, with the whole line mended."""
        head, equals, _ = self.texts[place].partition("=")
        _, sign, _ = slip.text.partition("=")
        body = slip.text.partition("=")[2].strip() if sign else slip.text
        mend = f"{head.strip()} = {body}" if equals else body
        where = "" if place == len(self.texts) - 1 else f"Line {self.places[place] + 1}: "
        added = names_in(slip.body) - names_in(self.formulas[place].body)
        part = added.pop() if slip.key == LEFT_OUT and len(added) == 1 else ""
        return Fault("slip", f"{where}{slip.sentence} Right would be {mend}.", mend, part)

    @staticmethod
    def _work_out(names: dict[str, Known], target: str, body: Node) -> bool:
        try:
            names[target] = evaluate(Formula(target, body, ""), names)
        except FormulaError:
            return False
        return True


def formula_of(text: str) -> Formula:
    """What a line says: of one with more than a name before its =, what stands behind it. Raises
    FormulaError."""
    said = text.partition(PLUS_MINUS)[0]
    try:
        return parse(said)
    except FormulaError:
        return sides_of(said)[1]


def leading_to(place: int, texts: Sequence[str], parts: set[str]) -> list[int]:
    """Places of the lines that one rests on, its own last; of several of one name, the first. Empty where it
    is no formula."""
    definitions: dict[str, int] = {}
    used: dict[int, set[str]] = {}
    for k, text in enumerate(texts):
        try:
            formula = formula_of(text)
        except FormulaError:
            continue
        used[k] = names_in(formula.body)
        if formula.target and formula.target not in parts:
            definitions.setdefault(formula.target, k)
    if place not in used:
        return []
    found: set[int] = set()
    waiting = set(used[place])
    while waiting:
        at = definitions.get(waiting.pop(), place)
        if at not in found and at != place:
            found.add(at)
            waiting |= used[at]
    return [*sorted(found), place]
