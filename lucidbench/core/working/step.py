"""Steps of a working: each a sentence, a line in the language of formulas, and what it speaks of.

No step is told that is not true: `Derivation` works every line out with numbers as it is written down, and
holds it against what the network itself comes to.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Known, evaluate, names_in, parse
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.units.dimensions import NUMBER, UNITS
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.same import scale_of

WITHIN = 1e-6  # relative: of lines in letters
WITHIN_NUMBERS = 2e-4  # of lines with numbers of six digits put in
MOST_STEPS = 120
UNITS_OF = {
    "impedance": "Ω",
    "voltage": "V",
    "current": "A",
}  # of what branches of a kind are written with
_NOTHING = 1e-11  # [V, A]: rounding, where something is zero


@dataclass(frozen=True)
class Step:
    """`line` is a formula with a name before its =, or an equation, or "" where the sentence stands alone;
    `value` what a name comes to. `network` is the circuit as it then is, where that has changed. What is said
    `of` a name is told only where a line speaks of it."""

    sentence: str
    line: str = ""
    value: Known | None = None
    parts: tuple[str, ...] = ()
    network: Network | None = None
    heading: bool = False
    of: str = ""

    @property
    def target(self) -> str | None:
        return parse(self.line).target if self.line and self.value is not None else None


def used(steps: Sequence[Step], answers: Collection[str]) -> list[Step]:
    """Without the lines that nothing on the way to the answers goes by."""
    needed = set(answers)
    kept: list[Step] = []
    for step in reversed(steps):
        if step.line and step.target and step.target not in needed:
            continue
        if step.of and step.of not in needed:
            continue
        if step.line:
            sides = sides_of(step.line) if step.value is None else (parse(step.line),)
            needed |= {name for side in sides for name in names_in(side.body)}
        kept.append(step)
    return kept[::-1]


class InconsistentStep(NoWorking):
    """A line that does not hold in numbers: the working it is in is not told."""


@dataclass
class Derivation:
    """What is written so far. `names` are the values that letters stand for; `of_peaks` where they are
    phasors."""

    names: dict[str, Known]
    steps: list[Step] = field(default_factory=list)
    lines: dict[str, str] = field(default_factory=dict)  # what was written for each name
    of_peaks: bool = False

    def say(
        self,
        sentence: str,
        parts: tuple[str, ...] = (),
        network: Network | None = None,
        heading: bool = False,
        of: str = "",
    ) -> None:
        self._add(Step(sentence, parts=parts, network=network, heading=heading, of=of))

    def know(self, branches: Iterable[Branch]) -> None:
        """What the names of branches stand for, but for those that are known already."""
        for branch in branches:
            if branch.kind in UNITS_OF:
                self.names.setdefault(branch.name, known(branch.value, UNITS_OF[branch.kind]))

    def free(self, wanted: str) -> str:
        """A name that stands for nothing yet."""
        name, k = wanted, 1
        while name in self.names:
            k += 1
            name = f"{wanted}_{k}"
        return name

    def write(
        self,
        sentence: str,
        name: str,
        body: str,
        truth: complex,
        parts: tuple[str, ...] = (),
        network: Network | None = None,
        within: float = WITHIN,
    ) -> str:
        """`name = body`, which must come to `truth`; returns the name. Raises InconsistentStep."""
        line = f"{name} = {body}"
        try:
            known = evaluate(parse(line), self.names)
        except FormulaError as error:
            raise InconsistentStep(f"{line}: {error}") from error
        scale = scale_of(parse(line), self.names)
        if abs(complex(known.value) - complex(truth)) > within * max(abs(truth), scale) + _NOTHING:
            raise InconsistentStep(f"{line} comes to {known.value}, and should be {truth}")
        if within > WITHIN:  # what was rounded to be written goes on in full
            told = 0j if abs(truth) <= _NOTHING else complex(truth)
            known = Known(told if told.imag else told.real, known.dimension)
        self.names[name] = known
        self.lines[name] = body
        self._add(Step(sentence, line, known, parts, network))
        return name

    def equation(
        self,
        sentence: str,
        left: str,
        right: str,
        unknowns: Mapping[str, Known],
        parts: tuple[str, ...] = (),
        within: float = WITHIN,
    ) -> None:
        """`left = right`, which must hold with the `unknowns` at what they are. Raises InconsistentStep."""
        line = f"{left} = {right}"
        names = {**self.names, **unknowns}
        sides = sides_of(line)
        try:
            one, other = (complex(evaluate(side, names).value) for side in sides)
            scale = max(scale_of(side, names) for side in sides)
        except FormulaError as error:
            raise InconsistentStep(f"{line}: {error}") from error
        if abs(one - other) > within * scale + _NOTHING:
            raise InconsistentStep(f"{line} does not hold: {one} and {other}")
        self._add(Step(sentence, line, None, parts))

    def _add(self, step: Step) -> None:
        if len(self.steps) >= MOST_STEPS:
            raise NoWorking("This way takes more steps than anyone would write.")
        self.steps.append(step)


def known(value: complex, unit: str) -> Known:
    """A number with its unit, real where it is."""
    number: complex | float = complex(value)
    if abs(complex(value).imag) == 0:
        number = complex(value).real
    return Known(number, UNITS.get(unit, NUMBER))
