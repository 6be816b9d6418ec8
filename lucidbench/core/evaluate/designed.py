"""What the working asks for, solved, and which preferred values come near: what each gives, and how
surely."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from lucidbench.core.cases import BASE, in_case
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise, HandLine
from lucidbench.core.document.patch import Change
from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import (
    Formula,
    Known,
    evaluate,
    latex,
    name_latex,
    names_in,
    parse,
    work_out,
)
from lucidbench.core.formula.expand import expanded
from lucidbench.core.formula.tree import Node
from lucidbench.core.formula.vectorised import Values, evaluate_over
from lucidbench.core.formula.worksheet import sought_in
from lucidbench.core.schematic import Reading, values_by_name
from lucidbench.core.schematic.kinds import kind_of_part
from lucidbench.core.tolerance import Interval, intervals_of, places
from lucidbench.core.units import engineering, nearest_preferred
from lucidbench.core.units.dimensions import Dimension
from lucidbench.core.units.engineering import typed
from lucidbench.core.units.preferred import neighbours, pairs
from lucidbench.core.working.design import Solution, design
from lucidbench.core.working.network import NoWorking

_DRAWS = 4000
_DIGITS = 6
_MOST_GIVEN = 8


@dataclass(frozen=True)
class GivenLook:
    """What a figure of the working then comes to: its `text`, how far `off` what is wanted, the `band` over
    the tolerances, and the `share` of builds that meet the specification, None where there is none."""

    name: str
    text: str
    off: str
    band: str
    share: float | None


@dataclass(frozen=True)
class CandidateLook:
    """A value that can be had. `changes` put it in; none where it is no part and no parameter."""

    label: str
    text: str
    gives: list[GivenLook]
    changes: list[Change]


@dataclass(frozen=True)
class SolutionLook:
    """`latex` is the formula with its value; `refused` why it is none, "" where it is."""

    name: str
    latex: str
    text: str
    refused: str
    changes: list[Change]


@dataclass(frozen=True)
class SoughtLook:
    """What one line asks for: every solution, and of the first the values that can be had near it."""

    line: str
    name: str
    solutions: list[SolutionLook]
    candidates: list[CandidateLook]


@dataclass(frozen=True)
class DesignLook:
    """`trouble` is why there is no solution, "" where there is."""

    sought: list[SoughtLook]
    trouble: str


def designed(
    exercise: Exercise, case: str = BASE, series: str = "E24", with_pairs: bool = False
) -> DesignLook:
    """Of all lines with a question mark. Raises LucidError where there is no such case."""
    here = in_case(exercise, case)
    reading = drawing_of(here)
    names = values_by_name(here.schematic, reading)
    lines = [line for line in here.hand if line.role == "line" and line.case in (None, case)]
    places = dict(_places(exercise, reading))
    texts = [line.text for line in lines]
    try:
        found = design(
            texts, names, frozenset(n for n, (_, positive) in places.items() if positive)
        )
    except (NoWorking, FormulaError) as error:
        return DesignLook([], str(error))
    first = found.solutions[0]
    intervals = {each.source: each for each in intervals_of(reading.circuit)}
    told = _Told(lines, names, places, first, series, intervals, found.dimensions)
    sought = []
    for name in found.sought:
        solutions = [
            _solution(name, each, found.dimensions[name].unit, places) for each in found.solutions
        ]
        line = next(each.id for each in lines if sought_in(each.text) == name)
        candidates = (
            []
            if first.refused
            else list(told.candidates(name, found.dimensions[name].unit, with_pairs))
        )
        sought.append(SoughtLook(line, name, solutions, candidates))
    trouble = f"No solution is possible here: {first.refused}." if first.refused else ""
    return DesignLook(sought, trouble)


Places = Mapping[str, tuple[str, bool]]  # by name: the path of its text, whether it is above zero


def _places(exercise: Exercise, reading: Reading) -> Iterator[tuple[str, tuple[str, bool]]]:
    for k, part in enumerate(exercise.schematic.parts):
        description = kind_of_part(part, reading.kinds)
        main = description.main if description else None
        if main:
            yield part.name, (f"/schematic/parts/{k}/values/{main.key}", bool(main.positive))
    for k, named in enumerate(exercise.parameters):
        yield named.name, (f"/parameters/{k}/text", False)


def _change(places: Places, name: str, text: str) -> list[Change]:
    if name not in places:
        return []
    return [Change(op="replace", path=places[name][0], value=text)]


def _solution(name: str, solution: Solution, unit: str, places: Places) -> SolutionLook:
    value = solution.values[name]
    shown = engineering(value, unit)
    formula = solution.formulas.get(name)
    text = f"{name_latex(name)} = {latex(parse(formula).body)}" if formula else name_latex(name)
    changes = [] if solution.refused else _change(places, name, typed(value, unit, _DIGITS))
    return SolutionLook(name, text, shown, solution.refused, changes)


def _followed(name: str, body: Node, every: Mapping[str, Node], own: Mapping[str, Node]) -> Node:
    """With the names in it replaced by what they come to, where that does not lead in a circle."""
    for definitions in (every, own):
        try:
            return expanded(body, {k: v for k, v in definitions.items() if k != name})
        except FormulaError:
            continue
    return body


class _Told:
    """What the figures of the working come to with other values."""

    def __init__(
        self, lines: list[HandLine], names: Mapping[str, Known], places: Places, solution: Solution,
        series: str, intervals: Mapping[str, Interval], dimensions: Mapping[str, Dimension],
    ) -> None:  # fmt: skip
        self.names, self.places, self.series, self.dimensions = names, places, series, dimensions
        self.solution, self.intervals = solution, intervals
        self.wanted: dict[str, tuple[float, float | None]] = {}
        self.bodies: list[tuple[str, Node]] = []
        asked = set(solution.values)
        definitions: dict[str, Node] = {}
        # Values that lines give to parts, and what other lines come to.
        self.assumed: dict[str, Known] = {}
        for worked in work_out([line.text for line in lines], names, {}, ()):
            if worked.target and worked.result is not None and worked.role != "sought":
                self.assumed[worked.target] = worked.result
            if not worked.target or worked.role == "sought":
                continue
            body = parse(worked.text.partition("±")[0]).body
            if names_in(body):
                self.bodies.append((worked.target, body))
                definitions.setdefault(worked.target, body)
            elif worked.result is not None:
                said = "±" in worked.text
                value = complex(worked.result.value).real
                self.wanted[worked.target] = (value, worked.spread if said else None)
        # Also what is wanted: with another value, what rests on it goes by what it then comes to.
        own = {n: b for n, b in definitions.items() if n not in self.wanted}
        self.bodies = [(n, _followed(n, b, definitions, own)) for n, b in self.bodies]
        self.bodies = [(n, b) for n, b in self.bodies if names_in(b) & asked]

    def candidates(self, name: str, unit: str, with_pairs: bool) -> Iterator[CandidateLook]:
        value = self.solution.values[name]
        if value <= 0:
            return
        for number in neighbours(value, self.series):
            yield self._candidate(name, number, unit, engineering(number, unit))
        if not with_pairs:
            return
        for adds, sign in ((True, "+"), (False, "∥")):
            a, b = pairs(value, self.series, adds)
            number = a + b if adds else a * b / (a + b)
            label = f"{engineering(a, unit)} {sign} {engineering(b, unit)}"
            yield self._candidate(name, number, unit, label)

    def _candidate(self, name: str, number: float, unit: str, label: str) -> CandidateLook:
        others = {
            n: nearest_preferred(v, self.series) if v > 0 and n != name else v
            for n, v in self.solution.values.items()
        }
        at = {**others, name: number}
        gives = []
        for figure, body in self.bodies[:_MOST_GIVEN]:
            try:
                gives.append(self._given(figure, body, at))
            except FormulaError:  # a line that is wrong says so itself
                continue
        return CandidateLook(
            label,
            engineering(number, unit),
            gives,
            _change(self.places, name, typed(number, unit, _DIGITS)),
        )

    def _given(self, figure: str, body: Node, at: Mapping[str, float]) -> GivenLook:
        names = {**self.names, **self.assumed}
        names |= {n: Known(v, self.dimensions[n]) for n, v in at.items()}
        result = evaluate(Formula(None, body, ""), names)
        value, unit = complex(result.value).real, result.dimension.unit
        wanted = self.wanted.get(figure)
        off = f"{100 * (value / wanted[0] - 1):+.2g} %" if wanted and wanted[0] else ""
        draws = self._draws(body, names)
        band, share = "", None
        if draws is not None:
            low, high = np.quantile(draws, (0.025, 0.975))
            band = f"{engineering(float(low), unit, 3)} to {engineering(float(high), unit, 3)}"
        if wanted and wanted[1]:
            here = draws if draws is not None else np.array([value])
            share = float(np.mean(np.abs(here - wanted[0]) <= wanted[1]))
        return GivenLook(
            figure, engineering(value, unit), off.replace("-", "\N{MINUS SIGN}"), band, share
        )

    def _draws(self, body: Node, names: Mapping[str, Known]) -> np.ndarray | None:
        """The figure in as many builds, every part anywhere within its tolerance."""
        moving = names_in(body) & set(self.intervals)
        if not moving:
            return None
        random = np.random.default_rng(3)
        at: dict[str, Values | complex] = {n: k.value for n, k in names.items()}
        for n in sorted(moving):
            at[n] = names[n].value * (1 + self.intervals[n].half_width * places(random, _DRAWS))
        found = evaluate_over(Formula(None, body, ""), at)
        return np.real(found[np.isfinite(found)])
