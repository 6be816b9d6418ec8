"""Why a figure by hand differs: slips in its lines, and what the working leaves out of the circuit."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses import Watch
from lucidbench.core.cases import BASE, in_case
from lucidbench.core.comparison.verdict import AGREES_WITHIN
from lucidbench.core.devices import DEVICES
from lucidbench.core.diagnosis.slips import Slip
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.figure import AsPhasor
from lucidbench.core.errors import DocumentError, LucidError
from lucidbench.core.evaluate.evaluation import evaluation_of
from lucidbench.core.evaluate.exact_shapes import Reason
from lucidbench.core.evaluate.leading import Leading, line_of
from lucidbench.core.evaluate.run_figures import ON_REQUEST
from lucidbench.core.evaluate.shapes import RowLook
from lucidbench.core.schematic.values import values_in_form
from lucidbench.core.units import engineering

SIMULATED, BENCH = "simulated", "bench"
_PLACES = {"hand": 0, SIMULATED: 1, BENCH: 2}
_TOLD = 8
_EXACT = 0.002  # of the value, standard: figures worked out to three places agree within it
_NOT_ONE = 0.1  # of evidence: what no slip at all has at least, where none fits
# How usual it is that something was left out, beside slips: of a transistor by rule, else now and then.
_WEIGHTS = {"base_current": 0.12, "junction": 0.12, "rules_of_thumb": 0.08}
_LEFT_OUT = 0.02  # any other part
_SOME = 0.05  # of the gap: what a cause takes away that is listed though it is not probable
_LIKELY = 0.01  # of probability


@dataclass(frozen=True)
class HandCause:
    """A slip or something neglected. `line` is the id of the line it is in, and `text` that line without it;
    both are empty where nothing is to be changed. `value` is what the figure then comes to."""

    key: str
    part: str
    sentence: str
    value: float
    unit: str
    probability: float
    explains: float
    group: int
    line: str = ""
    text: str = ""


@dataclass(frozen=True)
class HandExplanation:
    """`agrees` where the two are as near as three-figure working is; `groups` are numbers of `causes` that
    lead to the same value."""

    answer: str
    agrees: bool
    hand: float
    wanted: float
    unit: str
    causes: tuple[HandCause, ...]
    groups: tuple[tuple[int, ...], ...]


def explained_by_hand(
    exercise: Exercise,
    name: str,
    against: str = SIMULATED,
    case: str = BASE,
    without: Collection[tuple[str, str]] = (),
    watch: Watch | None = None,
) -> HandExplanation:
    """Why the hand figure `name` is not the simulated one, or not what the bench says. Raises DocumentError
    where one of the two is not there, RunRefused where it was cancelled."""
    watch = watch or Watch()
    here = in_case(exercise, case)
    row = _row(exercise, name, case)
    if isinstance(row.figure, AsPhasor):
        raise DocumentError(f"{name} is a phasor; its line in Predict says what is wrong.")
    hand, wanted = row.numbers[0], row.numbers[_PLACES[against]]
    if hand is None or wanted is None:
        raise DocumentError(
            f"{name} is not there both by hand and {'on the bench' if against == BENCH else 'simulated'}."
        )
    sigma = float(
        np.hypot(_EXACT * abs(wanted[0]), (wanted[1] or 0.0) / 2 if against == BENCH else 0.0)
    )
    sigma = max(sigma, 1e-300)
    found: list[tuple[float, HandCause]] = []
    for slip, line, value in slips_in(here, name, case):
        if (slip.key, "hand") not in without and not value.imag:
            cause = HandCause(
                slip.key, "hand", slip.sentence, value.real, row.unit, 0.0, 0.0, 0, line, slip.text
            )
            found.append((slip.weight, cause))
    watch.check(0.3, "search for causes")
    target = wanted[0]
    for key, part, sentence, other in neglecting(here):
        without_it = _simulated(other, name)
        watch.check(0.6, "search for causes")
        # What the hand left out, the circuit without it has: hand and that circuit agree.
        if without_it is None or (key, part) in without or abs(without_it - target) <= sigma / 4:
            continue
        moved = hand[0] + (target - without_it)
        found.append(
            (
                _WEIGHTS.get(key, _LEFT_OUT),
                HandCause(key, part, sentence, moved, row.unit, 0.0, 0.0, 0),
            )
        )
    return _ranked(found, hand[0], target, sigma, row.unit, against)


def _row(exercise: Exercise, name: str, case: str) -> RowLook:
    look = evaluation_of(exercise, limits=ON_REQUEST, case=case)
    row = next((row for row in look.ledger if row.quantity == name), None)
    if row is None:
        raise DocumentError(f"The ledger has no row {name}.")
    return row


def _simulated(exercise: Exercise, name: str) -> float | None:
    try:
        look = evaluation_of(
            exercise, limits=ON_REQUEST._replace(is_thorough=False, tolerances=0.0)
        )
    except LucidError:
        return None
    row = next((row for row in look.ledger if row.quantity == name), None)
    return row.numbers[1][0] if row and row.numbers[1] else None


def slips_in(exercise: Exercise, name: str, case: str) -> Iterator[tuple[Slip, str, complex]]:
    """(slip, the line it is in, what the figure comes to without it)."""
    place = line_of(exercise, name, case)
    if place is None:
        return
    lines = Leading(exercise, case, place)
    for k, slip in lines.slips():
        value = lines.value(k, slip.body)
        if value is not None:
            yield slip, lines.ids[k], complex(value.value)


def neglecting(exercise: Exercise) -> Iterator[tuple[Reason, str, str, Exercise]]:
    """(cause, part, sentence, the exercise as the working has it) of what may be left out by hand."""
    for k, part in enumerate(exercise.schematic.parts):

        def changed(index: int = k, **told: object) -> Exercise:
            parts = list(exercise.schematic.parts)
            parts[index] = parts[index].model_copy(update=told)
            schematic = exercise.schematic.model_copy(update={"parts": parts})
            return exercise.model_copy(update={"schematic": schematic})

        if part.kind in ("npn", "pnp"):
            many = {**part.values, "beta": "1e6"}
            yield ("base_current", part.name, f"The base current of {part.name} is neglected.",
                   changed(values=many))  # fmt: skip
            if part.form != "fixed":
                fixed = values_in_form(part, "fixed", base_emitter_voltage="0.7 V")
                sentence = f"The base of {part.name} is taken to be 0.7 V above its emitter."
                yield ("junction", part.name, sentence,
                       changed(values=fixed, form="fixed"))  # fmt: skip
                yield ("rules_of_thumb", part.name, f"The base of {part.name} is taken to be 0.7 V above its "
                       f"emitter, and its base current is neglected.",
                       changed(values={**fixed, "beta": "1e6"}, form="fixed"))  # fmt: skip
        elif part.kind == "diode" and part.form not in ("constant_drop", "ideal"):
            yield ("junction", part.name, f"{part.name} is taken to drop 0.7 V.",
                   changed(values=values_in_form(part, "constant_drop", forward_voltage="0.7 V"),
                           form="constant_drop"))  # fmt: skip
        elif part.kind in DEVICES and DEVICES[part.kind].description.handling.mistaken:
            yield ("left_out", part.name, f"{part.name} is left out, as if it were not there.",
                   changed(state="open"))  # fmt: skip
            yield ("plain_wire", part.name, f"{part.name} is taken for a plain wire.",
                   changed(state="short"))  # fmt: skip


def _ranked(
    found: list[tuple[float, HandCause]], hand: float, wanted: float, sigma: float, unit: str, against: str
) -> HandExplanation:  # fmt: skip
    whole = abs(wanted - hand)
    agrees = whole <= AGREES_WITHIN * abs(wanted)
    logs = [
        np.log(weight) - 0.5 * min(((cause.value - wanted) / sigma) ** 2, 1e6)
        for weight, cause in found
    ]
    none = (
        np.log(_NOT_ONE) - 0.5 * 25.0
    )  # something that is not in the list leaves a gap like any other
    weights = np.exp(np.array([*logs, none]) - max(*logs, none)) if logs else np.ones(1)
    share = weights / weights.sum()

    def gained(k: int) -> float:
        left = abs(wanted - found[k][1].value)
        return float(np.clip(1 - left / whole, 0.0, 1.0)) if whole else 0.0

    order = [k for k in range(len(found)) if share[k] >= _LIKELY or gained(k) > _SOME]
    order = sorted(order, key=lambda k: -share[k])[:_TOLD]
    groups: list[list[int]] = []
    listed: list[HandCause] = []
    for place, k in enumerate(order):
        cause = found[k][1]
        near = [g for g in groups if abs(listed[g[0]].value - cause.value) < 2 * sigma]
        if near:
            near[0].append(place)
        else:
            groups.append([place])
        number = next(n for n, g in enumerate(groups) if place in g)
        listed.append(replace(cause, probability=float(share[k]), explains=gained(k), group=number))
    answer = _answer(agrees, listed, groups, float(share[-1]), (hand, wanted), against)
    return HandExplanation(
        answer, agrees, hand, wanted, unit, tuple(listed), tuple(map(tuple, groups))
    )


def _answer(
    agrees: bool, listed: list[HandCause], groups: list[list[int]], unknown: float,
    values: tuple[float, float], against: str,
) -> str:  # fmt: skip
    voice = "the bench" if against == BENCH else "the simulation"
    if agrees:
        return f"There is no gap: hand and {voice} agree within 1 %, which three-figure working allows."
    if not listed or unknown > 0.5:
        return (
            "No single slip that is known here, and nothing that is left out, leads to that value."
        )
    leading = listed[groups[0][0]].probability
    first = [c for c in (listed[k] for k in groups[0]) if c.probability > leading / 4]
    value = engineering(first[0].value, first[0].unit, 4)
    words = first[0].sentence if len(first) == 1 else " Or: ".join(c.sentence for c in first[:3])
    if first[0].text:
        return f"{words} Without it the figure is {value}."
    hand, wanted = values
    so = engineering(hand + wanted - first[0].value, first[0].unit, 4)
    return f"{words} Worked out so, the circuit itself gives {so}."
