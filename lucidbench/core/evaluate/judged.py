"""Every line of a working with what is said of it: for scripts that judge many exercises."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from lucidbench.core.cases import BASE
from lucidbench.core.comparison import dotted, figures_in
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.figure import OfFormula, run_of
from lucidbench.core.evaluate.evaluation import evaluation_of
from lucidbench.core.evaluate.exact_shapes import Exactness, Reason, Verdict
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.shapes import LineLook
from lucidbench.core.working.about import About

_ABOUT: dict[str, About] = {
    "phasor": "phasor", "frequency_sweep": "frequency", "transient": "time", "fourier": "time",
}  # fmt: skip
# Why a line is not judged: it could not be worked out, is called like a figure that the circuit does not
# have, or by a name of one's own, and so is judged by the lines that rest on it.
Unjudged = Literal["not_worked_out", "no_such_figure", "own_name"]


@dataclass(frozen=True)
class JudgedLine:
    """`figure` is what the line gives, and is `about`; `error` is relative, at the values as drawn, and
    `error_over_tolerances` the largest over those, None where not known; `mend` the whole line mended."""

    text: str
    figure: str | None
    about: About | None
    verdict: Verdict | Literal["not_judged"]
    reason: Reason | Unjudged
    parts: tuple[str, ...] = ()
    error: float | None = None
    error_over_tolerances: float | None = None
    mend: str | None = None


def judged(exercise: Exercise, case: str = BASE) -> list[JudgedLine]:
    """Of each line but headings and sentences, in their order. Raises LucidError where there is no such
    case."""
    found = exactness(exercise, case)
    by_line = {each.line: each for each in found if each.line}
    by_figure = {each.figure: each for each in found if not each.line}
    looks = {look.id: look for look in evaluation_of(exercise, compared=False, case=case).lines}
    told = []
    for line in exercise.hand:
        if line.role != "line" or not line.text.strip() or line.case not in (None, case):
            continue
        look = looks[line.id]
        exact = by_line.get(line.id) or by_figure.get(look.target or "")
        if exact is None:
            reason: Unjudged = "no_such_figure" if look.aside else "own_name"
            reason = "not_worked_out" if look.problem else reason
            told.append(JudgedLine(line.text, look.target or None, None, "not_judged", reason))
            continue
        told.append(
            JudgedLine(
                line.text, look.target or exact.figure, _about(exercise, exact, look), exact.verdict,
                exact.reason, exact.parts, exact.relative_error, exact.box, exact.mend or None,
            )
        )  # fmt: skip
    return told


def _about(exercise: Exercise, exact: Exactness, look: LineLook) -> About | None:
    """None of a formula of readings, which may be of several runs."""
    row = next((row for row in exercise.ledger if row.name == exact.figure), None)
    if row is None:
        return look.about
    if isinstance(row.figure, OfFormula):
        return None if any(dotted(name) for name in figures_in([row.figure.formula])) else "rest"
    run = next((run for run in exercise.runs if run.id == run_of(row.figure)), None)
    return _ABOUT.get(run.analysis, "rest") if run else "rest"
