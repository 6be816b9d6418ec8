"""What was observed, and what a circuit would have shown in its place."""

from __future__ import annotations

import time
from abc import ABC, abstractmethod
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.errors import CircuitError, LucidError
from lucidbench.core.formula import Formula, names_in, parse
from lucidbench.core.formula.tree import Call, Name, Node, Operation
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

Array = npt.NDArray[np.float64]
_TURN = 360.0  # [°]
MOST_SECONDS = 20.0  # that one run for the sake of a cause may take
# And how many times as long as the run of what is drawn, but no less than some seconds.
_TIMES_AS_LONG, _LEAST_SECONDS = 30.0, 0.3
PROBE = "probe."  # what a loading element is called


@dataclass(frozen=True)
class View:
    """How what a circuit does came to be written down; as it stands: plainly.

    Values are taken `scale` times; a record began `shift` [s] later than it says, or so long after
    switch-on that the circuit `is_settled`; a coupling capacitor took the mean away (`is_ac_coupled`);
    the instrument loads the places it reads with `resistance` [Ω] and `capacitance` [F], and takes the
    `burden` [V] at the full scale of the range in which it reads a current; angles were written down in
    radians, frequencies as angular ones.
    """

    scale: float = 1.0
    shift: float = 0.0
    is_settled: bool = False
    is_ac_coupled: bool = False
    resistance: float | None = None
    capacitance: float = 0.0
    burden: float = 0.0
    in_radians: bool = False
    is_angular: bool = False


PLAIN = View()


@dataclass(frozen=True)
class Column:
    """One quantity as it was observed: `part` is "" for its value, "abs", "dB" or "arg" [°] of a phasor.

    `sigma` are standard uncertainties of `values`, `common` the standard share by which all of them may be
    off together.
    """

    formula: Formula
    part: str
    values: Array
    sigma: Array
    common: float = 0.0

    @property
    def text(self) -> str:
        return f"{self.part}({self.formula.text})" if self.part else self.formula.text

    def told(self, result: Any) -> Array:
        """What of a quantity is written down."""
        match self.part:
            case "abs":
                return np.asarray(np.abs(result))
            case "dB":
                with np.errstate(divide="ignore"):
                    return np.asarray(20 * np.log10(np.abs(result)))
            case "arg":
                return np.asarray(np.degrees(np.angle(result)))
            case _:
                return np.asarray(np.abs(result) if np.iscomplexobj(result) else result, float)


@dataclass(frozen=True)
class Block(ABC):
    """Columns that one run tells. `name` says in words what it is, `case` which circuit it is of; `given` are
    values that formulas may use beside the run's own. A run may take so many `seconds`."""

    columns: tuple[Column, ...]
    name: str = ""
    case: str = ""
    given: Mapping[str, complex] = field(default_factory=dict)
    seconds: float = MOST_SECONDS

    def predicted(self, circuit: Circuit, view: View = PLAIN) -> Array:
        """What would have been written down, all columns one after the other. Raises LucidError."""
        told = self.run(circuit, view)
        found = []
        for column, result in zip(self.columns, told, strict=True):
            values = column.told(np.broadcast_to(result, column.values.shape))
            if view.scale != 1.0 and column.part != "arg":
                gain = abs(view.scale) if column.part else view.scale
                values = values + 20 * np.log10(gain) if column.part == "dB" else values * gain
            if view.scale < 0 and column.part == "arg":
                values = values + _TURN / 2
            if view.in_radians and column.part == "arg":
                values = np.radians(values)
            found.append(values)
        return np.concatenate(found)

    @abstractmethod
    def run(self, circuit: Circuit, view: View) -> Sequence[Any]:
        """Each column's quantity. Raises LucidError."""

    @property
    def values(self) -> Array:
        return np.concatenate([column.values for column in self.columns])

    @property
    def sigma(self) -> Array:
        return np.concatenate([column.sigma for column in self.columns])

    @property
    def unsure_by(self) -> float:
        """How far [s] its beginning may lie beside what was written down, standard; zero without one."""
        return 0.0

    @property
    def is_angle(self) -> npt.NDArray[np.bool_]:
        return np.concatenate([np.full(len(c.values), c.part == "arg") for c in self.columns])

    @property
    def places(self) -> tuple[tuple[str, str], ...]:
        """The pairs of nodes at which voltages were read."""
        pairs = [place for column in self.columns for place in places_of(column.formula.body)]
        return tuple(dict.fromkeys(pairs))

    @property
    def carrying(self) -> tuple[str, ...]:
        """The parts whose currents were read."""
        names = {n for column in self.columns for n in names_in(column.formula.body)}
        return tuple(sorted(n[2:] for n in names if n.startswith("I_") and "." not in n))

    def loaded(self, circuit: Circuit, view: View, places: Iterable[tuple[str, str]]) -> Circuit:
        """The circuit with the instrument connected."""
        if view.resistance is None and not view.capacitance:
            return circuit
        more = []
        for k, pair in enumerate(places):
            if view.resistance is not None:
                ohms = {"resistance": view.resistance}
                more.append(Element(f"{PROBE}{k}", "resistor", pair, ohms))
            if view.capacitance:
                farads = {"capacitance": view.capacitance}
                more.append(Element(f"{PROBE}{k}.stray", "capacitor", pair, farads))
        return replace(circuit, elements=(*circuit.elements, *more))


def places_of(node: Node) -> list[tuple[str, str]]:
    """The pairs of nodes that a formula's voltages lie between."""
    match node:
        case Name() if node.name.startswith("V_"):
            return [(node.name[2:], GROUND_NODE)]
        case Operation(operator="-", left=Name() as one, right=Name() as other) if (
            one.name.startswith("V_") and other.name.startswith("V_")
        ):
            return [(one.name[2:], other.name[2:])]
        case Operation():
            return places_of(node.left) + places_of(node.right)
        case Call():
            return places_of(node.argument)
    operand = getattr(node, "operand", None)
    return places_of(operand) if operand is not None else []


@dataclass(frozen=True)
class Observed:
    """All that was observed: `blocks`, and the circuit of each case they are of."""

    circuits: Mapping[str, Circuit]
    blocks: tuple[Block, ...]

    @property
    def values(self) -> Array:
        return np.concatenate([block.values for block in self.blocks])

    @property
    def sigma(self) -> Array:
        return np.concatenate([block.sigma for block in self.blocks])

    @property
    def points(self) -> int:
        return sum(len(column.values) for block in self.blocks for column in block.columns)

    @property
    def elements(self) -> dict[str, Element]:
        """Every element of any case, by name; as it is in the first case that has it."""
        found: dict[str, Element] = {}
        for circuit in self.circuits.values():
            for element in circuit:
                found.setdefault(element.name, element)
        return found

    def misfit(self, predicted: Array) -> Array:
        """Observed less predicted, in standard uncertainties; angles by the shorter way round."""
        less = self.values - predicted
        angle = np.concatenate([block.is_angle for block in self.blocks])
        less[angle] = np.mod(less[angle] + _TURN / 2, _TURN) - _TURN / 2
        return np.asarray(less / self.sigma)


def between(one: Array, other: Array, observed: Observed) -> float:
    """How far two predictions lie apart: the sum of squares of their differences in uncertainties."""
    apart = observed.misfit(observed.values - (one - other))
    return float(apart @ apart)


_OF = ("abs", "dB", "arg")


def column_of(text: str, values: Array, sigma: Array, common: float = 0.0) -> Column:
    """Of a quantity as it is written, `abs(V_out/V_in)`. Raises FormulaError."""
    formula = parse(text)
    body = formula.body
    if isinstance(body, Call) and body.function in _OF:
        inner = body.argument
        inside = replace(formula, body=inner, text=text[inner.at : inner.end])
        return Column(inside, body.function, values, sigma, common)
    return Column(formula, "", values, sigma, common)


def checked(observed: Observed) -> Observed:
    """The same, each run allowed some times as long as that of what is drawn. Raises CircuitError where a
    quantity is not of the circuit, or the circuit does not tell it."""
    blocks = []
    for block in observed.blocks:
        circuit = observed.circuits[block.case]
        for column in block.columns:
            for name in sorted(names_in(column.formula.body)):
                kind, _, of = name.partition("_")
                if kind == "V" and of and of not in circuit.nodes and of != GROUND_NODE:
                    known = ", ".join(f"V_{node}" for node in circuit.nodes)
                    raise CircuitError(f"{column.text}: there is no node {of}; there are {known}.")
        began = time.monotonic()
        try:
            told = block.predicted(circuit)
        except LucidError as error:
            raise CircuitError(f"{block.name or 'The table'}: {error}") from error
        if np.any(np.isnan(told)):
            raise CircuitError(
                f"{block.name or 'The table'}: the circuit as it is drawn gives no value for it; is there "
                f"a source that drives it?"
            )
        seconds = max(_LEAST_SECONDS, _TIMES_AS_LONG * (time.monotonic() - began))
        blocks.append(replace(block, seconds=min(seconds, MOST_SECONDS)))
    return replace(observed, blocks=tuple(blocks))
