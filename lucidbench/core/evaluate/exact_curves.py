"""Whether a curve by hand, over time or frequency, is the circuit's own: equal, near it, or wrong."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from lucidbench.core.cases import BASE
from lucidbench.core.diagnosis.slips import slips_of
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.evaluate.exact_shapes import Band, Exactness, Fault, Verdict, state_of
from lucidbench.core.evaluate.hand_gaps import neglecting
from lucidbench.core.evaluate.other_values import at_other_values
from lucidbench.core.formula import Formula, Known, parse
from lucidbench.core.formula.brackets import without_needless_brackets
from lucidbench.core.formula.vectorised import evaluate_over
from lucidbench.core.formula.worksheet import VARIABLES
from lucidbench.core.runs.by_hand import HandCurve, hand_curves
from lucidbench.core.schematic import values_by_name
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.response import Response, response_of, without_last_power

_EQUAL = 1e-6  # of the largest value
_AS_LEFT_OUT = 1e-4
_NEAR = 0.25  # what comes no nearer, and leaves nothing out that is known, is wrong
_MOST_SLIPS = 60
# As responses are called in the trade; what else is written over f may be an impedance.
_OWN_NAME = re.compile(r"(?:(?:abs|arg|dB)\()?(?P<name>[HAG](?:_\w+)?)\)?")
_RATIO = re.compile(r"V_\w+\s*/\s*V_\w+")


def exact_curves(exercise: Exercise, case: str = BASE) -> Iterator[Exactness]:
    """Of every curve of the working that can be held against the circuit. `exercise` is that of the case."""
    curves = hand_curves(exercise, case)
    if not curves:
        return
    others = list(at_other_values(exercise))
    for curve in curves:
        try:
            yield _held(exercise, others, _meant(exercise, curve))
        except (LucidError, np.linalg.LinAlgError):  # of what nothing can be said
            continue


def _meant(exercise: Exercise, curve: HandCurve) -> HandCurve:
    """H and the like over f is the ratio that a frequency sweep shows, or V_out/V_in."""
    own = _OWN_NAME.fullmatch(curve.of)
    if curve.over != "f" or own is None:
        return curve
    shown = [
        text for run in exercise.runs if run.analysis == "frequency_sweep" for text in run.show
    ]
    ratio = next((text for text in shown if _RATIO.fullmatch(text)), "V_out/V_in")
    return replace(
        curve, of=curve.of.replace(own["name"], ratio), meant=f"{own['name']} is taken as {ratio}. "
    )


def _held(exercise: Exercise, others: Sequence[Exercise], curve: HandCurve) -> Exactness:
    held = [_Held(each, curve) for each in (exercise, *others)]
    here = held[0]
    errors = here.errors(curve.formula)
    worst = max(each.worst(curve.formula) for each in held)
    band = Band(
        curve.over, "Hz" if curve.over == "f" else "s", here.response.x.tolist(), errors.tolist()
    )

    def told(verdict: Verdict, fault: Fault, *parts: str) -> Exactness:
        state = state_of(verdict)
        return Exactness(
            curve.of, state, verdict, fault.reason, curve.meant + fault.words, float(errors.max()), worst,
            "circuit", band=None if state == "equal" else band, line=curve.line, over=curve.over, parts=parts,
            mend=fault.mend,
        )  # fmt: skip

    if worst <= _EQUAL:
        return told("equal", Fault("by_numbers", "Equal to the exact response, at any values."))
    most = f"It is off by {100 * errors.max():.2g} % of the largest value at the most."
    for reason, part, words, without in neglecting(exercise):
        try:
            if _Held(without, curve).worst(curve.formula) <= _AS_LEFT_OUT:
                return told("approximate", Fault(reason, f"{words} {most}"), part)
        except LucidError:
            continue
    dropped = _dropped(held[:2], curve)
    if dropped:
        return told("approximate", Fault("highest_power", f"{dropped} {most}"))
    if errors.max() <= _NEAR:
        words = f"{most} What it leaves out is not known."
        return told("approximate", Fault("unknown", words))
    other_way = Fault("goes_another_way", f"It does not follow the circuit. {most}")
    return told("wrong", _right(exercise, held, curve) or other_way)


def _dropped(held: Sequence[_Held], curve: HandCurve) -> str:
    """That the highest power of jω is what is left out; "" where it is not."""
    if curve.over != "f":
        return ""
    power = 0
    for each in held:
        try:
            power, ratio = without_last_power(each.circuit, curve.of)
            there = np.array([ratio(float(f)) for f in each.response.x])
            if np.abs(each.at(curve.formula) - there).max() > _AS_LEFT_OUT * np.abs(there).max():
                return ""
        except LucidError:
            return ""
    orders = {2: "First order", 3: "Second order"}
    return f"{orders.get(power, f'Order {power - 1}')}: drops the term of (jω)^{power}.".replace(
        "^2", "²"
    ).replace("^3", "³")


class _Held:
    """The exact response of one circuit, and what formulas come to beside it."""

    def __init__(self, exercise: Exercise, curve: HandCurve) -> None:
        drawing = drawing_of(exercise)
        self.names: Mapping[str, Known] = values_by_name(exercise.schematic, drawing)
        self.over = curve.over
        self.circuit = drawing.circuit
        self.response: Response = response_of(self.circuit, curve.of, curve.over)
        self.exact = np.array([self.response.at(float(x)) for x in self.response.x])

    def at(self, formula: Formula) -> np.ndarray:
        names: dict[str, Any] = {n: k.value for n, k in self.names.items()}
        found = np.broadcast_to(
            evaluate_over(formula, names | {self.over: self.response.x}), self.exact.shape
        )
        if not np.isfinite(found).all():
            raise NoWorking("It has no value everywhere.")
        return np.asarray(found)

    def errors(self, formula: Formula) -> np.ndarray:
        found = self.at(formula)
        scale = float(np.abs(self.exact).max()) or 1.0
        return np.asarray(np.abs(found - self.exact) / scale)

    def worst(self, formula: Formula) -> float:
        return float(self.errors(formula).max())


def _right(exercise: Exercise, held: Sequence[_Held], curve: HandCurve) -> Fault | None:
    """The one small change that makes it right."""
    line = next(each for each in exercise.hand if each.id == curve.line)
    head, _, body = line.text.partition("=")
    names = {**held[0].names, **VARIABLES}
    by_weight = sorted(_slips(body.strip(), names), key=lambda slip: -slip[0])
    for _, text, sentence in by_weight[:_MOST_SLIPS]:
        try:
            formula = Formula(None, parse(text).body, text)
            if all(each.worst(formula) <= _EQUAL for each in held):
                mend = f"{head.strip()} = {without_needless_brackets(text)}"
                return Fault("slip", f"{sentence} Right would be {mend}.", mend)
        except FormulaError:
            continue
    return None


def _slips(body: str, names: Mapping[str, Known]) -> Iterator[tuple[float, str, str]]:
    try:
        for slip in slips_of(parse(body), names):
            yield slip.weight, slip.text, slip.sentence
    except (FormulaError, LucidError):
        return
