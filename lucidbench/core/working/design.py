"""What is sought by a line `R2 = ?`, from the other lines that must hold.

A name that is worked out twice is an equation: `f_c = 1 kHz` and `f_c = 1/(2*pi*R2*C1)`. What is sought is
solved for in letters where that is possible, else in numbers, and whatever is found is put into every
equation again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.optimize import brentq, minimize_scalar, root

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Formula, Known, evaluate, names_in, parse
from lucidbench.core.formula.evaluate import CONSTANTS
from lucidbench.core.formula.expand import expanded
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.sympy_bridge import formula_text, symbolic
from lucidbench.core.formula.tree import Name, Node
from lucidbench.core.formula.worksheet import PLUS_MINUS, sought_in
from lucidbench.core.units import engineering
from lucidbench.core.units.dimensions import NUMBER, UNITS, Dimension
from lucidbench.core.working.network import NoWorking

MOST_SOUGHT = 3
_MEETS = 1e-6  # relative
_MOST_OPERATIONS = 80  # that are solved in letters
_DECADES = np.arange(-15.0, 13.0)  # over which a value is looked for
_PER_DECADE = 8
_STARTS = 60
_SAME = 1e-6
_ALIKE = 1e-6  # relative: two lines that want the same
_REAL = 1e-6  # the imaginary share that rounding leaves of a double root
_MOVED, _FREE = 1e-5, 1e-5  # how far values are moved, and what moves nothing


@dataclass(frozen=True)
class Solution:
    """`values` by what is sought [SI]; `formulas` the same in letters, where there are any. `refused` says
    why it is none for this circuit, "" where it is."""

    values: Mapping[str, float]
    formulas: Mapping[str, str]
    refused: str = ""


@dataclass(frozen=True)
class Designed:
    """Everything that meets the conditions, and the dimensions of what is sought."""

    sought: tuple[str, ...]
    solutions: tuple[Solution, ...]
    dimensions: Mapping[str, Dimension]


def design(lines: Sequence[str], names: Mapping[str, Known], positive: frozenset[str]) -> Designed:
    """`lines` are those of the working, `names` what stands on the drawing; values of those in `positive` are
    above zero. Raises NoWorking, with what is missing."""
    asked = _Lines(lines, names)
    equations = asked.equations()
    first = asked.sought[0]
    if not equations:
        raise NoWorking(
            f"Nothing says what {first} has to do: write what is wanted (f_c = 1 kHz) and, as a second line "
            f"of the same name, how it comes about (f_c = 1/(2*pi*{first}*C1))."
        )
    if len(equations) < len(asked.sought):
        they = "condition names" if len(equations) == 1 else "conditions name"
        raise NoWorking(
            f"{len(asked.sought)} values are sought, and only {len(equations)} {they} them; write another "
            f"line that must hold."
        )
    _refuse_units(equations, asked)
    told = set().union(*(names_in(side) for pair in equations for side in pair))
    if unsaid := [name for name in asked.sought if name not in told]:
        raise NoWorking(f"No line that must hold names {unsaid[0]}; write one that does.")
    found = _in_letters(equations, asked) or _in_numbers(equations, asked, positive)
    real = [each for each in found if np.isfinite(list(each.values.values())).all()]
    checked = [_checked(each, equations, asked, positive) for each in real]
    kept = _distinct([each for each in checked if each is not None])
    if not kept:
        raise NoWorking(f"No value of {' and '.join(asked.sought)} meets all of these lines.")
    if any(_leaves_free(each.values, equations, asked) for each in kept):
        raise NoWorking(
            f"These lines say the same of {' and '.join(asked.sought)} and leave them free; write another "
            f"line that must hold."
        )
    kept.sort(key=lambda each: bool(each.refused))
    return Designed(asked.sought, tuple(kept), asked.dimensions)


class _Lines:
    """The lines sorted: what is sought, what is known, what must hold."""

    def __init__(self, lines: Sequence[str], names: Mapping[str, Known]) -> None:
        self.sought = tuple(dict.fromkeys(name for name in map(sought_in, lines) if name))
        if not self.sought:
            raise NoWorking("No line asks for a value, as R2 = ? does.")
        if len(self.sought) > MOST_SOUGHT:
            raise NoWorking(
                f"{len(self.sought)} values are sought at once; {MOST_SOUGHT} are the most."
            )
        self.known = {name: known for name, known in names.items() if name not in self.sought}
        self.fixed: set[str] = set()  # names that do not depend on what is sought
        self.bodies: dict[str, list[Node]] = {}
        self.pairs: list[tuple[Node, Node]] = []
        for text in lines:
            text = text.partition(PLUS_MINUS)[0]
            if not text.strip() or sought_in(text):
                continue
            try:
                formula = parse(text)
                if formula.target:
                    self.bodies.setdefault(formula.target, []).append(formula.body)
            except FormulaError:
                try:
                    one, other = sides_of(text)
                    self.pairs.append((one.body, other.body))
                except FormulaError:
                    continue
        self._evaluated()
        self.dimensions = {name: self._dimension(name, names) for name in self.sought}

    def _evaluated(self) -> None:
        """Names that do not depend on what is sought get their numbers, in as many rounds as it takes."""
        grown = True
        while grown:
            grown = False
            for name, bodies in self.bodies.items():
                if name in self.sought or name in self.fixed:
                    continue
                values = list(self._values(body for body in bodies if not self.depends(body)))
                if values:
                    _refuse_two(name, values)
                    self.known[name] = values[0]
                    self.fixed.add(name)
                    grown = True

    def _values(self, bodies: Iterable[Node]) -> Iterator[Known]:
        """Of those that can be worked out by now."""
        for body in bodies:
            with suppress(FormulaError):
                yield evaluate(Formula(None, body, ""), self.known)

    def depends(self, body: Node, seen: frozenset[str] = frozenset()) -> bool:
        """Whether it has to do with what is sought."""
        for name in names_in(body):
            if name in self.sought:
                return True
            if name in seen or name in self.fixed:
                continue
            if any(self.depends(each, seen | {name}) for each in self.bodies.get(name, [])):
                return True
        return False

    def equations(self) -> list[tuple[Node, Node]]:
        """Both sides of each, in what is sought and what is known."""
        definitions = {
            name: bodies[0]
            for name, bodies in self.bodies.items()
            if name not in self.fixed and name not in self.sought
        }
        found: list[tuple[Node, Node]] = []
        for name, bodies in self.bodies.items():
            moving = [expanded(b, definitions) for b in bodies if self.depends(b)]
            if name in self.sought:
                found += [(_name(name), body) for body in bodies]
            elif name in self.fixed:
                found += [(_name(name), body) for body in moving]
            else:
                found += [(moving[0], body) for body in moving[1:]]
        for a, b in self.pairs:
            if not (self.depends(a) or self.depends(b)):
                continue
            one, other = expanded(a, definitions), expanded(b, definitions)
            # What is of simulated figures, or a curve over t or f, is no condition.
            if names_in(one) | names_in(other) <= {*self.known, *self.sought, *CONSTANTS}:
                found.append((one, other))
        return found

    def _dimension(self, name: str, names: Mapping[str, Known]) -> Dimension:
        """Of a part, that it has; else the one with which every equation makes sense."""
        if name in names:
            return names[name].dimension
        for dimension in (*UNITS.values(), NUMBER):
            trial = {**self.known, **{n: Known(1.3, dimension) for n in self.sought}}
            try:
                for a, b in self.equations():
                    one, other = (evaluate(Formula(None, side, ""), trial) for side in (a, b))
                    if one.dimension != other.dimension:
                        raise FormulaError("", 0)
            except FormulaError:
                continue
            return dimension
        return NUMBER

    def at(self, values: Mapping[str, float]) -> dict[str, Known]:
        return {**self.known, **{n: Known(values[n], self.dimensions[n]) for n in self.sought}}


def _refuse_two(name: str, values: Sequence[Known]) -> None:
    """Raises NoWorking where lines want two values of one name."""
    first = values[0]
    for other in values[1:]:
        one, two = complex(first.value), complex(other.value)
        if first.dimension != other.dimension or abs(one - two) > _ALIKE * max(abs(one), abs(two)):
            both = (engineering(k.value.real, k.dimension.unit) for k in (first, other))
            raise NoWorking(
                f"The lines want {name} to be {' and also '.join(both)}; keep one of them."
            )


def _refuse_units(equations: list[tuple[Node, Node]], asked: _Lines) -> None:
    """Raises NoWorking where the two sides of a condition are of different kinds."""
    trial = asked.at(dict.fromkeys(asked.sought, 1.3))
    for pair in equations:
        try:
            one, other = (evaluate(Formula(None, side, ""), trial) for side in pair)
        except FormulaError:  # at these values; what is wrong by itself says so at the line
            continue
        if one.dimension != other.dimension:
            names = [side.name for side in pair if isinstance(side, Name)]
            what = names[0] if names else "What must hold"
            raise NoWorking(
                f"{what} is {one.dimension.quantity} by one line and {other.dimension.quantity} by another; "
                f"write it with the unit that it has."
            )


def _name(name: str) -> Node:
    return parse(name).body


def _in_letters(equations: list[tuple[Node, Node]], asked: _Lines) -> list[Solution]:
    """By SymPy; nothing where it cannot."""
    import sympy

    used = set().union(*(names_in(a) | names_in(b) for a, b in equations)) - set(CONSTANTS)
    letters = {name: sympy.Symbol(name, positive=name not in asked.sought or None) for name in used}
    try:
        sides = [(symbolic(a, letters), symbolic(b, letters)) for a, b in equations]
    except FormulaError:
        return []
    if sum(sympy.count_ops(a) + sympy.count_ops(b) for a, b in sides) > _MOST_OPERATIONS:
        return []
    wanted = [letters.get(name, sympy.Symbol(name)) for name in asked.sought]
    try:
        found = sympy.solve([sympy.Eq(a, b) for a, b in sides[: len(wanted)]], wanted, dict=True)
    except (NotImplementedError, ValueError, TypeError, ArithmeticError):
        return []
    solutions = []
    numbers = {letters[n]: _number(asked.known[n]) for n in used if n in asked.known}
    for each in found if isinstance(found, list) else []:
        if set(each) != set(wanted):
            continue
        values = {}
        for symbol in wanted:
            value = complex(each[symbol].subs(numbers).evalf())
            values[str(symbol)] = (
                value.real if abs(value.imag) < _REAL * abs(value) else float("nan")
            )
        formulas = {
            str(s): formula_text(sympy.simplify(each[s])).replace("log(", "ln(") for s in wanted
        }
        solutions.append(Solution(values, formulas))
    return solutions


def _number(known: Known) -> Any:
    import sympy

    value = complex(known.value)
    return sympy.Float(value.real, 20) + (
        sympy.I * sympy.Float(value.imag, 20) if value.imag else 0
    )


def _residual(
    equations: list[tuple[Node, Node]], asked: _Lines, values: Mapping[str, float]
) -> list[float]:
    """How far the two sides of each are apart, relative."""
    at, found = asked.at(values), []
    for a, b in equations:
        try:
            one, other = (complex(evaluate(Formula(None, side, ""), at).value) for side in (a, b))
        except FormulaError:
            found.append(float("nan"))
            continue
        scale = max(abs(one), abs(other), 1e-300)
        difference = one - other
        found.append(difference.real / scale if not difference.imag else abs(difference) / scale)
    return found


def _in_numbers(
    equations: list[tuple[Node, Node]], asked: _Lines, positive: frozenset[str]
) -> list[Solution]:
    """Where letters do not lead there: by changes of sign over many decades, or from many starts."""
    if len(asked.sought) == 1:
        name = asked.sought[0]
        grid = 10.0 ** np.arange(_DECADES[0], _DECADES[-1], 1 / _PER_DECADE)
        every = grid if name in positive else np.concatenate((-grid[::-1], grid))

        def f(x: float) -> float:
            return _residual(equations[:1], asked, {name: x})[0]

        values = np.array([f(x) for x in every])
        found = []
        for k in range(len(every) - 1):
            if np.isfinite(values[k : k + 2]).all() and values[k] * values[k + 1] < 0:
                found.append(float(brentq(f, every[k], every[k + 1], rtol=1e-12)))
        found += _touching(f, every, values)
        return [Solution({name: x}, {}) for x in found]
    random = np.random.default_rng(5)
    solutions = []
    for _ in range(_STARTS):
        start = random.uniform(-8, 6, len(asked.sought))

        def g(logs: np.ndarray) -> list[float]:
            values = dict(zip(asked.sought, np.exp(np.clip(logs, -60, 60)), strict=True))
            return _residual(equations[: len(asked.sought)], asked, values)

        end = root(g, start * np.log(10.0), method="hybr")
        if end.success and max(map(abs, end.fun)) < _MEETS:
            found_here = map(float, np.exp(np.clip(end.x, -60, 60)))
            solutions.append(Solution(dict(zip(asked.sought, found_here, strict=True)), {}))
    return solutions


def _touching(f: Callable[[float], float], grid: np.ndarray, values: np.ndarray) -> list[float]:
    """Where the two sides touch without a change of sign: double roots."""
    found = []
    sizes = np.abs(values)
    for k in range(1, len(grid) - 1):
        near = sizes[k - 1 : k + 2]
        if np.isfinite(near).all() and near[1] <= near.min() and near[1] > 0:
            ends = (float(grid[k - 1]), float(grid[k + 1]))
            least = minimize_scalar(lambda x: abs(f(x)), bounds=ends, method="bounded",
                                    options={"xatol": 1e-9 * abs(ends[1])})  # fmt: skip
            if abs(least.fun) <= _MEETS:
                found.append(float(least.x))
    return found


def _leaves_free(
    values: Mapping[str, float], equations: list[tuple[Node, Node]], asked: _Lines
) -> bool:
    """Whether a value can move with the others so that every line still holds."""
    if len(asked.sought) < 2:
        return False
    columns = []
    for name in asked.sought:
        near = [{**values, name: values[name] * (1 + way * _MOVED)} for way in (1, -1)]
        ahead, behind = (np.array(_residual(equations, asked, each)) for each in near)
        columns.append((ahead - behind) / (2 * _MOVED))
    sizes = np.linalg.svd(np.column_stack(columns), compute_uv=False)
    return bool(sizes[-1] <= _FREE * max(sizes[0], 1e-300)) if np.isfinite(sizes).all() else False


def _checked(
    solution: Solution, equations: list[tuple[Node, Node]], asked: _Lines, positive: frozenset[str]
) -> Solution | None:
    """With what speaks against it; None where it does not meet every line."""
    values = solution.values
    left = _residual(equations, asked, values)
    if any(not abs(each) <= _MEETS for each in left):
        return None
    below = [name for name, v in values.items() if name in positive and v <= 0]
    refused = f"{' and '.join(below)} would have to be zero or less" if below else ""
    formulas = {n: t for n, t in solution.formulas.items() if _is_writable(n, t, asked, values)}
    return Solution(values, formulas, refused)


def _is_writable(name: str, text: str, asked: _Lines, values: Mapping[str, float]) -> bool:
    """Whether a formula has its place in the product's own language, and comes to what was found."""
    try:
        found = evaluate(parse(text), asked.known)
    except FormulaError:
        return False
    near = abs(complex(found.value) - values[name]) <= _MEETS * abs(values[name])
    return near and found.dimension == asked.dimensions[name]


def _distinct(solutions: list[Solution]) -> list[Solution]:
    kept: list[Solution] = []
    for each in solutions:
        alike = any(
            all(
                abs(each.values[n] - other.values[n]) <= _SAME * abs(other.values[n])
                for n in each.values
            )
            for other in kept
        )
        if not alike:
            kept.append(each)
    return kept
