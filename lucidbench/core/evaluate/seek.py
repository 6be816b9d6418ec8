"""Values sought so that simulated figures are met: least squares over their logarithms, within limits.

The figures are solved again with each trial, whatever run they are of; slopes are differences of two such.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from lucidbench.core.analyses import Watch
from lucidbench.core.cases import BASE, in_case
from lucidbench.core.devices import CATALOGUE
from lucidbench.core.document.exercise import Exercise, LedgerRow
from lucidbench.core.document.figure import OfFormula, QuantityAtRest
from lucidbench.core.document.patch import Change, patched
from lucidbench.core.errors import DocumentError, LucidError, ValueTextError
from lucidbench.core.evaluate.evaluation import evaluation_of
from lucidbench.core.evaluate.run_figures import Limits
from lucidbench.core.evaluate.shapes import RowLook
from lucidbench.core.schematic import Part
from lucidbench.core.units import engineering, parse_value
from lucidbench.core.units.engineering import typed

MOST_SOUGHT = 2
_MET = 1e-4  # relative: of a target that was reached
_FARTHEST = 1e4  # times the value as drawn, either way, where no limits are given
_STEP = 1e-4  # of the logarithm, for a slope
_MOST_TRIALS = 60
_MOST_STEPS = 15  # of one search
_SCANNED = 9  # places over the whole range, where the first way leads nowhere
_DIGITS = 6
_LIMITS = Limits(1.5, 0.0)


@dataclass(frozen=True)
class Free:
    """A part whose main value is sought, between two limits as they are typed; "" is none."""

    part: str
    lowest: str = ""
    highest: str = ""


@dataclass(frozen=True)
class Target:
    """A row of the ledger, and what its simulated figure shall be, as it is typed."""

    row: str
    text: str


@dataclass(frozen=True)
class SeekLook:
    """`is_met` is whether every target is; `sentence` says so, or how near it comes. `changes` put the values
    in."""

    is_met: bool
    sentence: str
    values: list[str]
    reached: list[str]
    changes: list[Change]


def sought(
    exercise: Exercise,
    free: Sequence[Free],
    targets: Sequence[Target],
    case: str = BASE,
    watch: Watch | None = None,
) -> SeekLook:
    """Raises DocumentError for what cannot be sought, RunRefused where it was cancelled."""
    if not 1 <= len(free) <= MOST_SOUGHT or not 1 <= len(targets) <= MOST_SOUGHT:
        raise DocumentError("One or two values are sought, for one or two readings.")
    if len(free) > len(targets):
        raise DocumentError(
            "Two values need two readings to be met; one reading leaves one of them open."
        )
    search = _Search(exercise, free, targets, case, watch or Watch())
    best = search.from_here()
    if best.cost > _MET**2:
        best = min((best, *search.from_elsewhere()), key=lambda trial: trial.cost)
    return search.told(best)


@dataclass(frozen=True)
class _Trial:
    z: np.ndarray
    figures: np.ndarray
    cost: float


class _Search:
    def __init__(
        self,
        exercise: Exercise,
        free: Sequence[Free],
        targets: Sequence[Target],
        case: str,
        watch: Watch,
    ) -> None:
        self.exercise, self.free, self.case, self.watch = exercise, free, case, watch
        self.rows = [each.row for each in targets]
        self.trials = 0
        rows = {row.quantity: row for row in self._ledger(exercise)}
        for name in self.rows:
            if name not in rows or rows[name].numbers[1] is None:
                raise DocumentError(f"{name} has no simulated figure that could be met.")
        self.units = [rows[name].unit for name in self.rows]
        self.wanted = np.array(
            [_value(t.text, u) for t, u in zip(targets, self.units, strict=True)]
        )
        parts = {part.name: (k, part) for k, part in enumerate(exercise.schematic.parts)}
        self.parts: list[tuple[int, Part, str, str, float]] = []
        low: list[float] = []
        high: list[float] = []
        for each in free:
            if each.part not in parts:
                raise DocumentError(f"There is no part called {each.part}.")
            k, part = parts[each.part]
            key, unit, now = _main(part)
            self.parts.append((k, part, key, unit, now))
            for text, side, far in (
                (each.lowest, low, 1 / _FARTHEST),
                (each.highest, high, _FARTHEST),
            ):
                limit = _value(text, unit) / now if text.strip() else far
                if limit <= 0:
                    raise DocumentError(f"A limit of {each.part} must be above zero.")
                side.append(math.log(limit))
        if any(a >= b for a, b in zip(low, high, strict=True)):
            raise DocumentError("A lower limit is not below its upper one.")
        self.low, self.high = np.array(low), np.array(high)

    def _ledger(self, exercise: Exercise) -> list[RowLook]:
        """With the rows that are asked for, and no others but what a formula is worked out from."""
        here = in_case(exercise, self.case)
        own = [row for row in here.ledger if row.name in self.rows]
        names = {row.name for row in own}
        own += [
            LedgerRow(id=f"row {name}", name=name, figure=QuantityAtRest(quantity=name))
            for name in self.rows
            if name not in names
        ]
        if any(isinstance(row.figure, OfFormula) for row in own):
            own = [*here.ledger, *(row for row in own if row.name not in names)]
        here = here.model_copy(
            update={"cases": [], "records": [], "measurements": [], "hand": [], "ledger": own}
        )
        return evaluation_of(here, limits=_LIMITS).ledger

    def changes(self, z: np.ndarray) -> list[Change]:
        return [
            Change(
                op="replace",
                path=f"/schematic/parts/{k}/values/{key}",
                value=typed(now * math.exp(each), unit, _DIGITS + 4),
            )
            for (k, _, key, unit, now), each in zip(self.parts, z, strict=True)
        ]

    def figures(self, z: np.ndarray) -> np.ndarray:
        self.trials += 1
        self.watch.check(min(0.95, self.trials / _MOST_TRIALS), "search")
        try:
            rows = {
                row.quantity: row for row in self._ledger(patched(self.exercise, self.changes(z)))
            }
        except LucidError:
            return np.full(len(self.rows), np.nan)
        told = [rows[name].numbers[1] if name in rows else None for name in self.rows]
        return np.array([each[0] if each else np.nan for each in told])

    def residuals(self, z: np.ndarray) -> np.ndarray:
        scale = np.where(self.wanted == 0, 1.0, np.abs(self.wanted))
        return np.asarray(np.nan_to_num((self.figures(z) - self.wanted) / scale, nan=1e3))

    def from_here(self, start: np.ndarray | None = None) -> _Trial:
        inside = np.clip(np.zeros(len(self.free)) if start is None else start, self.low, self.high)
        inside = np.clip(inside, self.low + 1e-9, self.high - 1e-9)
        found = least_squares(
            self.residuals, inside, bounds=(self.low, self.high), diff_step=np.full(len(inside), _STEP),
            xtol=1e-8, ftol=1e-8, gtol=1e-10, max_nfev=_MOST_STEPS,
        )  # fmt: skip
        return _Trial(found.x, self.figures(found.x), float(np.max(found.fun**2)))

    def from_elsewhere(self) -> list[_Trial]:
        """Where the way from here ends beside the target: from the best of some places over the range."""
        grid = np.linspace(self.low, self.high, _SCANNED)
        places = [np.array(p) for p in np.array(np.meshgrid(*grid.T)).T.reshape(-1, len(self.free))]
        costs = [float(np.max(self.residuals(p) ** 2)) for p in places[:_MOST_TRIALS]]
        best = np.argsort(costs)[:2]
        return [self.from_here(places[k]) for k in best]

    def told(self, trial: _Trial) -> SeekLook:
        is_met = trial.cost <= _MET**2
        values = [
            engineering(now * math.exp(z), unit)
            for (_, _, _, unit, now), z in zip(self.parts, trial.z, strict=True)
        ]
        reached = [engineering(float(f), u) for f, u in zip(trial.figures, self.units, strict=True)]
        named = " and ".join(f"{f.part} = {v}" for f, v in zip(self.free, values, strict=True))
        got = " and ".join(f"{n} = {r}" for n, r in zip(self.rows, reached, strict=True))
        if is_met:
            sentence = f"With {named}, {got}."
        else:
            at_limit = np.any((trial.z < self.low + 1e-3) | (trial.z > self.high - 1e-3))
            why = ", at a limit" if at_limit else ""
            sentence = f"It cannot be met. The nearest is {got}, with {named}{why}."
        return SeekLook(is_met, sentence, values, reached, self.changes(trial.z))


def _main(part: Part) -> tuple[str, str, float]:
    """(key, unit, value) of a part's main value. Raises DocumentError where that is no plain number above
    zero."""
    description = CATALOGUE.get(part.kind)
    main = description.main if description else None
    if main is None:
        raise DocumentError(f"{part.name} has no value that could be sought.")
    text = part.values.get(main.key, main.default)
    try:
        parse_value(text, main.unit)
    except ValueTextError as error:
        raise DocumentError(
            f"{part.name} is given by a formula, {text}; give it a number, and that can be sought."
        ) from error
    now = _value(part.values.get(main.key, main.default), main.unit)
    if now <= 0:
        raise DocumentError(f"{part.name} is sought from a value above zero; give it one.")
    return main.key, main.unit, now


def _value(text: str, unit: str) -> float:
    try:
        return parse_value(text.strip(), unit).number
    except ValueTextError as error:
        raise DocumentError(f"“{text}” cannot be read: {error}.") from error
