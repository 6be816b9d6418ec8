"""The working of an exercise in one case, worked out: each line at what it is about."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from lucidbench.core.analyses import phasors
from lucidbench.core.cases import lines_in
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known, WorkedLine, work_out
from lucidbench.core.formula.worksheet import ANGULAR
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings import Quantity, kind_of
from lucidbench.core.runs.kinds.base import driven
from lucidbench.core.schematic import Reading, values_by_name
from lucidbench.core.units.dimensions import FREQUENCY
from lucidbench.core.working.about import About, At, abouts_of, driven_at, sources_at

_USUAL = 1e3  # [Hz] of phasors where nothing says which


@dataclass(frozen=True)
class HandPage:
    """`lines` as they are worked out, and what each is about; `frequency` [Hz] is that of phasors, told by
    `because`."""

    lines: Sequence[WorkedLine]
    abouts: Sequence[About]
    frequency: float
    because: str
    circuit: Circuit = field(repr=False)
    is_sound: bool = True  # whether the circuit can be analysed

    @property
    def has_phasors(self) -> bool:
        return "phasor" in self.abouts

    @cached_property
    def phasors(self) -> Mapping[str, complex]:
        """Of every voltage, current and mean power, by name; empty where there are none."""
        if not self.is_sound:
            return {}
        try:
            return phasors_of(self.circuit, self.frequency)
        except LucidError:
            return {}

    def in_phasors(self) -> Iterator[tuple[str, WorkedLine]]:
        """(name, line) of what is worked out as a phasor."""
        for line, about in zip(self.lines, self.abouts, strict=True):
            if about == "phasor" and line.target:
                yield line.target, line


def phasors_of(circuit: Circuit, frequency: float) -> dict[str, complex]:
    """Of every voltage, current and mean power, by name: peak values. Raises LucidError."""
    found = phasors(driven(circuit)[0], frequency)
    told = {name: value for name, value in found.values.items() if not name.startswith("S_")}
    return told | {f"P_{name}": complex(s.real) for name, s in found.powers.items()}


def hand_page(
    exercise: Exercise, case: str, drawing: Reading, results: Mapping[str, Quantity]
) -> HandPage:
    """`exercise` is that of the case. Lines of other cases are passed over, and those of all where the case
    has its own of that name."""
    names = values_by_name(exercise.schematic, drawing)
    simulated = {q.name: Known(q.value, q.dimension, simulated=True) for q in results.values()}
    texts = lines_in(exercise, case)
    circuit = drawing.circuit
    if not any(text.strip() for text in texts):
        return HandPage(
            [WorkedLine(text) for text in texts], ["rest"] * len(texts), _USUAL, "", circuit
        )
    is_sound = not any(finding.severity == "fault" for finding in drawing.findings)
    usual: About = "phasor" if is_sound and driven_at(circuit) else "rest"
    chosen = [line.about for line in exercise.hand]
    rows = {row.name for row in exercise.ledger}
    abouts = abouts_of(texts, chosen, names, usual, rows)
    frequency, because = _USUAL, ""
    if is_sound and set(abouts) != {"rest"}:
        circuit = _driven(circuit)
        frequency, because = _frequency(texts, names, circuit)
    page = HandPage([], abouts, frequency, because, circuit, is_sound)
    at = {about: sources_at(circuit, At(about, _x(about, frequency))) for about in set(abouts)}
    if page.has_phasors:
        told = {name: kind_of(name) for name in page.phasors}
        of_phasors = {
            name: Known(page.phasors[name], kind[2], simulated=True)
            for name, kind in told.items()
            if kind
        }
        at["phasor"] = {**of_phasors, **at["phasor"]}
    parameters = drawing.parameters.keys()
    lines = work_out(texts, names, simulated, parameters, [at[about] for about in abouts])
    return replace(page, lines=lines)


def _driven(circuit: Circuit) -> Circuit:
    try:
        return driven(circuit)[0]
    except LucidError:
        return circuit


def _x(about: About, frequency: float) -> float:
    return 1.0 if about == "time" else frequency


def _frequency(
    texts: Sequence[str], names: Mapping[str, Known], circuit: Circuit
) -> tuple[float, str]:
    """[Hz] of the phasors, and what says so: a line of the working, the sources, or nothing."""
    for line in work_out(texts, names, {}):
        if line.target in ("f", *ANGULAR) and line.result and line.result.dimension == FREQUENCY:
            value = complex(line.result.value).real
            if value > 0:
                return (value if line.target == "f" else value / 6.283185307179586), line.text
    told = driven_at(circuit)
    if told:
        return told, "the sources"
    for element in circuit:
        given = element.values.get("frequency")
        if element.device.description.plain_at_one_frequency and given:
            return float(given), element.name
    return _USUAL, ""
