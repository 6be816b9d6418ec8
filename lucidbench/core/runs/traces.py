"""Results over an axis as formulas see them: any quantity by name, at any abscissa."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses import Transient
from lucidbench.core.analyses.dc_sweep import DcSweep
from lucidbench.core.analyses.frequency import FrequencySweep
from lucidbench.core.analyses.settled import driving_periods
from lucidbench.core.errors import FormulaError
from lucidbench.core.formula import Formula, Known, names_in, parse
from lucidbench.core.formula.functions import RECORDED
from lucidbench.core.formula.tree import Name, Node, calls_of, replaced
from lucidbench.core.formula.vectorised import dimension_of, evaluate_over
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.readings.curve import Curve
from lucidbench.core.readings.curves_of import points_within, traces_at
from lucidbench.core.records.curves import BenchCurve
from lucidbench.core.units.dimensions import (
    CURRENT,
    FREQUENCY,
    NUMBER,
    POWER,
    TIME,
    UNITS,
    VOLTAGE,
    Dimension,
)

Array = npt.NDArray[np.float64]
Samples = Callable[[Collection[str], Array], Mapping[str, Any]]


def shown_formula(text: str) -> Formula:
    """What of a shown text is drawn: behind an = stands what is said by hand of the quantity before it.
    Raises FormulaError."""
    _, equals, behind = text.partition("=")
    return parse(behind if equals else text)


@dataclass(frozen=True)
class Traces:
    """`at(names, x)` gives the named traces at abscissas x; `grid` has a point in every piece. `driven` and
    `repeats` are as curves have them."""

    axis: str  # "t", "f" or the swept name
    unit: str
    is_log: bool
    grid: Array
    dimensions: Mapping[str, Dimension]
    at: Samples
    recorded: Mapping[str, BenchCurve] = field(default_factory=dict)  # by formula, beside it
    driven: tuple[float, ...] = ()
    repeats: float | None = None

    def curve(self, formula: Formula, text: str, values: Mapping[str, Known]) -> Curve:
        """What a formula of traces and part values does over the axis. Raises FormulaError."""
        formula, recorded = self._with_records(formula)
        wanted = names_in(formula.body) & set(self.dimensions)
        known = {name: Known(1.0, dimension) for name, dimension in self.dimensions.items()}
        known |= {n: Known(1.0, UNITS.get(of.unit, NUMBER)) for n, of in recorded.items()}
        unit = dimension_of(formula, {**values, **known}).unit
        plain = {name: value.value for name, value in values.items()}

        def at(x: Array) -> Any:
            measured = {name: of.at(x) for name, of in recorded.items()}
            result = evaluate_over(formula, {**plain, **measured, **self.at(wanted, x)})
            return result if result.shape == x.shape else np.broadcast_to(result, x.shape)

        return Curve(text, unit, self.unit, self.grid, at, self.driven, self.repeats)

    def _with_records(self, formula: Formula) -> tuple[Formula, dict[str, BenchCurve]]:
        """`bench(V_out)` is what the record beside it says of V_out. Raises FormulaError without one."""
        found: dict[str, BenchCurve] = {}
        instead: dict[Node, Node] = {}
        for k, call in enumerate(calls_of(formula.body, RECORDED)):
            text = formula.text[call.argument.at : call.argument.end]
            of = self.recorded.get(text.replace(" ", ""))
            if of is None:
                sentence = f"no record of {text} stands beside this run"
                raise FormulaError(sentence, call.at, call.end - call.at)
            name = f"{RECORDED} {k}"
            found[name], instead[call] = of, Name(name, call.at, call.end)
        if not found:
            return formula, found
        return Formula(formula.target, replaced(formula.body, instead), formula.text), found


def dimensions_of(circuit: Circuit) -> dict[str, Dimension]:
    """Every trace of a circuit, with what it is: V_<node>, I_<part>, P_<part>."""
    found = {f"V_{node}": VOLTAGE for node in circuit.nodes}
    for element in circuit:
        for name, _ in element.device.description.currents:
            found[f"I_{element.name}.{name}" if name else f"I_{element.name}"] = CURRENT
        if len(element.nodes) == 2:
            found[f"P_{element.name}"] = POWER
    return found


def _with_powers(
    circuit: Circuit, wanted: Collection[str], traces: Mapping[str, Any]
) -> dict[str, Any]:
    """The wanted traces; a power is the product of voltage and current of a part with two pins."""
    found = dict[str, Any]()
    for name in wanted:
        if name.startswith("P_"):
            element = circuit.element(name[2:])
            a, b = (0.0 if node == GROUND_NODE else traces[f"V_{node}"] for node in element.nodes)
            found[name] = (a - b) * traces[f"I_{element.name}"]
        else:
            found[name] = traces[name]
    return found


def over_time(
    run: Transient, start: float, stop: float, offset: float = 0.0, repeats: float | None = None
) -> Traces:
    """A run between two times [s], counted from `offset`; with the period that it is settled into."""
    grid = points_within(run, start + offset, stop + offset) - offset
    dimensions = dimensions_of(run.circuit)
    own = {"t": TIME} if "t" not in dimensions else {}
    at = partial(_at_times, run, offset, set(own))
    return Traces(
        "t", "s", False, grid, dimensions | own, at,
        driven=driving_periods(run.circuit), repeats=repeats,
    )  # fmt: skip


def _at_times(
    run: Transient, offset: float, own: set[str], wanted: Collection[str], x: Array
) -> Mapping[str, Any]:
    times = np.asarray(x, float) + offset if offset else np.asarray(x, float)
    of_circuit = set(wanted) - own
    axis = dict.fromkeys(set(wanted) & own, times)
    if all(name.startswith("V_") for name in of_circuit):
        return axis | {name: run.trace(name, times) for name in of_circuit}
    return axis | _with_powers(run.circuit, of_circuit, run.traces(times))


def over_frequency(sweep: FrequencySweep) -> Traces:
    """Phasors over frequency; between the points the circuit is solved again."""
    plain = {n: d for n, d in dimensions_of(sweep.circuit).items() if not n.startswith("P_")}
    # A transfer function written by hand is drawn beside the simulated one: s = j·2πf.
    own = {name: FREQUENCY for name in ("s", "f", "w") if name not in plain}
    at = partial(_at_frequencies, sweep, set(own))
    return Traces("f", "Hz", True, sweep.frequencies, plain | own, at)


def _at_frequencies(
    sweep: FrequencySweep, own: set[str], wanted: Collection[str], x: Array
) -> Mapping[str, Any]:
    f = np.asarray(x, float)
    axis = {"s": 2j * np.pi * f, "f": f + 0j, "w": 2 * np.pi * f + 0j}
    of_circuit = set(wanted) - own
    traces = traces_at(sweep, f, of_circuit) if of_circuit else {}
    return {name: traces[name] if name in of_circuit else axis[name] for name in wanted}


def over_value(sweep: DcSweep) -> Traces:
    """A DC sweep, straight between its points."""
    grid = sweep.axis.values[_rising(sweep)]
    dimensions, at = dimensions_of(sweep.circuit), partial(_at_values, sweep)
    return Traces(sweep.axis.name, sweep.axis.unit, False, grid, dimensions, at)


def _rising(sweep: DcSweep) -> slice:
    swept = sweep.axis.values
    return slice(None, None, 1 if swept[0] <= swept[-1] else -1)


def _at_values(sweep: DcSweep, wanted: Collection[str], x: Array) -> Mapping[str, Any]:
    order = _rising(sweep)
    grid = sweep.axis.values[order]
    told = _with_powers(sweep.circuit, wanted, sweep.traces)
    return {name: np.interp(x, grid, values[order]) for name, values in told.items()}
