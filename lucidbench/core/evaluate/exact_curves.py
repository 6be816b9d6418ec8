"""Whether a curve by hand, over time or frequency, is the circuit's own: equal, near it, or wrong."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from lucidbench.core.cases import BASE, lines_in
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate.exact_shapes import (
    Band,
    Exactness,
    Fault,
    Reason,
    Verdict,
    price_of,
    state_of,
)
from lucidbench.core.evaluate.hand_gaps import neglecting
from lucidbench.core.evaluate.hand_page import hand_page
from lucidbench.core.evaluate.leading import Leading, formula_of
from lucidbench.core.evaluate.other_values import at_other_values
from lucidbench.core.formula.tree import Node
from lucidbench.core.formula.worksheet import given_by
from lucidbench.core.runs.by_hand import HandCurve, hand_curves
from lucidbench.core.working.about import is_response
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.response import (
    Response,
    response_of,
    usual_ratio,
    without_last_power,
)

_EQUAL = 1e-6  # of the largest value
_AS_LEFT_OUT = 1e-4
_NO_VALUE = 1.0  # how far off that counts
_MOST_TRIED = 12  # slips that are held against the circuit everywhere
_SAMPLED = slice(5, None, 12)  # of the points, for a first look at a slip
# As responses are called in the trade; what else is written over f may be an impedance.
_OWN_NAME = re.compile(r"(?:(?:abs|arg|dB)\()?(?P<name>[HAG](?:_\w+)?)\)?")
_RATIO = re.compile(r"V_\w+\s*/\s*V_\w+")
_TURNED = re.compile(r"arg\(.*\)")


def exact_curves(exercise: Exercise, case: str = BASE) -> Iterator[Exactness]:
    """Of every curve of the working that can be held against the circuit. `exercise` is that of the case."""
    curves = [*hand_curves(exercise, case), *_constant(exercise, case)]
    if not curves:
        return
    others = list(at_other_values(exercise))
    for curve in curves:
        try:
            yield _held(exercise, others, _meant(exercise, curve), case)
        except (LucidError, np.linalg.LinAlgError):  # of what nothing can be said
            continue


def _constant(exercise: Exercise, case: str) -> Iterator[HandCurve]:
    """Responses that do not depend on the frequency, by what their line says."""
    texts = lines_in(exercise, case)
    if not any(is_response(given_by(text)) for text in texts):
        return
    drawing = drawing_of(exercise)
    if not any(e.kind in ("capacitor", "inductor") for e in drawing.circuit):
        return
    page = hand_page(exercise, case, drawing, {})
    for note, line, about in zip(exercise.hand, page.lines, page.abouts, strict=True):
        target = line.target or ""
        if about == "frequency" and line.role == "formula" and is_response(target) and line.result:
            yield HandCurve(note.id, target, "f", formula_of(line.text))


def _meant(exercise: Exercise, curve: HandCurve) -> HandCurve:
    """H and the like over f is the ratio that a frequency sweep shows, or the usual one."""
    own = _OWN_NAME.fullmatch(curve.of)
    if curve.over != "f" or own is None:
        return curve
    shown = [
        text for run in exercise.runs if run.analysis == "frequency_sweep" for text in run.show
    ]
    usual = usual_ratio(drawing_of(exercise).circuit)
    ratio = next((text for text in shown if _RATIO.fullmatch(text)), usual)
    return replace(
        curve, of=curve.of.replace(own["name"], ratio), meant=f"{own['name']} is taken as {ratio}. "
    )


def _held(exercise: Exercise, others: Sequence[Exercise], curve: HandCurve, case: str) -> Exactness:
    held = [_Held(each, curve, case) for each in (exercise, *others)]
    here = held[0]
    errors = here.errors()
    most = float(errors.max())
    worst = max(each.worst() for each in held)
    band = Band(
        curve.over, "Hz" if curve.over == "f" else "s", here.response.x.tolist(), errors.tolist()
    )

    def told(verdict: Verdict, fault: Fault, *parts: str) -> Exactness:
        state = state_of(verdict)
        return Exactness(
            curve.of, state, verdict, fault.reason, curve.meant + fault.words, most, worst, "circuit",
            band=None if state == "equal" else band, line=curve.line, over=curve.over, parts=parts,
            mend=fault.mend,
        )  # fmt: skip

    if worst <= _EQUAL:
        return told("equal", Fault("by_numbers", "Equal to the exact response, at any values."))
    if most <= _EQUAL:
        words = "Equal to the exact response at these values; at others it is not."
        return told("equal_at_these_values", Fault("these_values", words))
    cost = f"It is off by {100 * most:.2g} % of the largest value at the most."
    price = price_of(exercise)
    left_out = _left_out(exercise, curve, case)
    if left_out and most <= price:
        reason, part, words = left_out
        return told("approximate", Fault(reason, f"{words} {cost}"), part)
    dropped = _dropped(held[:2], curve)
    if dropped and most <= price:
        return told("approximate", Fault("highest_power", f"{dropped} {cost}"))
    right = _right(held, _is_in_sines(exercise))
    if left_out:
        reason, part, words = left_out
        too_much = f"{words} {cost} An approximation may cost {100 * price:.2g} %."
        return told("wrong", Fault(reason, too_much, right.mend if right else ""), part)
    if dropped:
        too_much = f"{dropped} {cost} An approximation may cost {100 * price:.2g} %."
        return told("wrong", Fault("highest_power", too_much, right.mend if right else ""))
    if right:
        return told("wrong", right)
    if most <= price:
        words = f"{cost} What it leaves out is not known."
        return told("approximate", Fault("unknown", words))
    return told("wrong", Fault("goes_another_way", f"It does not follow the circuit. {cost}"))


def _left_out(exercise: Exercise, curve: HandCurve, case: str) -> tuple[Reason, str, str] | None:
    """(reason, part, words) of what has to be left out of the circuit for the curve to be right."""
    for reason, part, words, without in neglecting(exercise):
        try:
            if _Held(without, curve, case).worst() <= _AS_LEFT_OUT:
                return reason, part, words
        except (LucidError, np.linalg.LinAlgError):
            continue
    return None


def _dropped(held: Sequence[_Held], curve: HandCurve) -> str:
    """That the highest power of jω is what is left out; "" where it is not."""
    if curve.over != "f":
        return ""
    power = 0
    for each in held:
        try:
            power, ratio = without_last_power(each.circuit, curve.of)
            there = np.array([ratio(float(f)) for f in each.response.x])
            if np.abs(each.by_hand() - there).max() > _AS_LEFT_OUT * np.abs(there).max():
                return ""
        except LucidError:
            return ""
    orders = {2: "First order", 3: "Second order"}
    return f"{orders.get(power, f'Order {power - 1}')}: drops the term of (jω)^{power}.".replace(
        "^2", "²"
    ).replace("^3", "³")


def _is_in_sines(exercise: Exercise) -> bool:
    return any(part.form == "sine" for part in exercise.schematic.parts)


class _Held:
    """The exact response of one circuit, and what lines come to beside it."""

    def __init__(self, exercise: Exercise, curve: HandCurve, case: str) -> None:
        self.circuit = drawing_of(exercise).circuit
        place = next(k for k, line in enumerate(exercise.hand) if line.id == curve.line)
        self.lines = Leading(exercise, case, place)
        self.response: Response = response_of(self.circuit, curve.of, curve.over)
        self.exact = self.response.at(self.response.x)
        if not np.isfinite(self.exact).all():
            raise NoWorking("The circuit itself has no value everywhere.")
        self.is_angle = bool(_TURNED.fullmatch(curve.of))
        self._scale = float(np.abs(self.exact).max()) or 1.0
        if self.is_angle:
            self._scale = max(self._scale, np.pi)

    def by_hand(
        self, place: int = -1, instead: Node | None = None, at: slice = slice(None)
    ) -> np.ndarray:
        """Not a number where it has no value."""
        told = [self.lines.value(place, instead, float(x)) for x in self.response.x[at]]
        return np.array([np.nan if each is None else complex(each.value) for each in told])

    def errors(
        self, place: int = -1, instead: Node | None = None, at: slice = slice(None)
    ) -> np.ndarray:
        apart = self.by_hand(place, instead, at) - self.exact[at]
        if self.is_angle:
            apart = np.where(np.isnan(apart), apart, np.angle(np.exp(1j * apart.real)))
        size = np.abs(apart)
        return np.where(np.isnan(size), _NO_VALUE, size / self._scale)

    def worst(self, place: int = -1, instead: Node | None = None, at: slice = slice(None)) -> float:
        return float(self.errors(place, instead, at).max())


def _right(held: Sequence[_Held], is_ac: bool) -> Fault | None:
    """The one small change that makes it right."""
    here = held[0]
    near = []
    for k, slip in here.lines.slips(float(here.response.x[_SAMPLED][0]), is_ac):
        try:
            if here.worst(k, slip.body, _SAMPLED) <= _EQUAL:
                near.append((k, slip))
        except LucidError:
            continue
    for k, slip in sorted(near, key=lambda each: -each[1].weight)[:_MOST_TRIED]:
        try:
            if all(each.worst(k, slip.body) <= _EQUAL for each in held):
                return here.lines.fault(k, slip)
        except LucidError:
            continue
    return None
