"""One analysis over many values: families of curves, worst case, Monte Carlo."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Generic, TypeVar

import numpy as np

from lucidbench.core.analyses.dc_sweep import changed
from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.analyses.run import Cost, RunRefused, Watch, refuse_numbers, refuse_points
from lucidbench.core.analyses.sensitivity import (
    Sensitivity,
    reading_sensitivities,
    sensitivities,
)
from lucidbench.core.equations.currents import pin_currents_over, traces_of
from lucidbench.core.equations.system import Array, System, assemble, refuse_faults
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, topology_faults

Result = TypeVar("Result")
UNIFORM = "uniform"
NORMAL = "normal"
_SIGMAS = (
    3.0  # a normal draw's standard deviations within the tolerance; what lies beyond is drawn anew
)
_CHUNK = 4_000_000  # entries of all matrices solved at once


@dataclass(frozen=True)
class Member(Generic[Result]):
    """One member of a family: the values it was run at, and what came out."""

    values: Mapping[str, float]
    result: Result


def family(
    circuit: Circuit,
    over: Mapping[str, Sequence[float]],
    analysis: Callable[[Circuit], Result],
    watch: Watch | None = None,
) -> Iterator[Member[Result]]:
    """`analysis` at every combination of the values of `over`: sources, main values of elements,
    circuit parameters, or "temp" [°C]. Raises CircuitError, RunRefused.
    """
    watch = watch or Watch(seconds=600.0)
    axes = [[(subject, float(v)) for v in values] for subject, values in over.items()]
    total = int(np.prod([len(axis) for axis in axes])) if axes else 0
    refuse_points(total, "family", "Take fewer values.")
    for k, combination in enumerate(product(*axes)):
        here = circuit
        for subject, value in combination:
            here = changed(here, subject, value)
        yield Member(dict(combination), analysis(here))
        watch.check((k + 1) / total, "family")


@dataclass(frozen=True)
class Spread:
    """Every V_<node> and I_<element> of each draw, shape (draws,)."""

    circuit: Circuit
    traces: dict[str, Array]
    seed: int
    cost: Cost

    def mean(self, name: str) -> float:
        return float(np.mean(self.traces[name]))

    def deviation(self, name: str) -> float:
        """Standard deviation of the draws."""
        return float(np.std(self.traces[name], ddof=1))

    def within(self, name: str, share: float = 0.95) -> tuple[float, float]:
        """The middle range that holds `share` of the draws."""
        low, high = np.quantile(self.traces[name], [(1 - share) / 2, (1 + share) / 2])
        return float(low), float(high)


def builds(
    circuit: Circuit, draws: int, seed: int = 1, distribution: str = UNIFORM
) -> Iterator[Circuit]:
    """The circuit `draws` times over, each value drawn within its tolerance: for any analysis.

    Raises RunRefused, CircuitError.
    """
    drawn = _drawn(circuit, draws, seed, distribution)
    for k in range(draws):
        yield _with(circuit, drawn, k)


def monte_carlo(
    circuit: Circuit,
    draws: int,
    seed: int = 1,
    distribution: str = UNIFORM,
    watch: Watch | None = None,
) -> Spread:
    """Operating points of `draws` builds, each value drawn within its tolerance. Raises RunRefused,
    CircuitError. A linear circuit is solved for all draws at once.
    """
    began = time.monotonic()
    watch = watch or Watch(seconds=600.0)
    drawn = _drawn(circuit, draws, seed, distribution)
    refuse_faults(topology_faults(circuit))
    if assemble(circuit).is_linear:
        traces = _all_at_once(circuit, drawn, draws, watch)
    else:
        traces = _one_by_one(circuit, drawn, draws, watch)
    return Spread(circuit, traces, seed, Cost(time.monotonic() - began, draws))


def _drawn(
    circuit: Circuit, draws: int, seed: int, distribution: str
) -> dict[tuple[str, str], Array]:
    """Every toleranced value of every build, shape (draws,), by element and key."""
    if draws < 2:
        raise RunRefused("A tolerance study needs two draws or more.")
    refuse_points(draws, "study", "Take fewer draws.")
    spreads = [(e, key, a) for e in circuit for key, a in e.spreads.items() if a > 0]
    if not spreads:
        raise CircuitError("No part has a tolerance, so there is nothing to draw.")
    random = np.random.default_rng(seed)
    return {
        (e.name, key): e.values[key] * (1 + a * _shares(random, draws, distribution))
        for e, key, a in spreads
    }


def _shares(random: np.random.Generator, draws: int, distribution: str) -> Array:
    """Draws within -1 and 1."""
    if distribution == UNIFORM:
        return random.uniform(-1.0, 1.0, draws)
    if distribution != NORMAL:
        raise RunRefused(f"“{distribution}” is no distribution; {UNIFORM} and {NORMAL} are.")
    found = random.normal(0.0, 1 / _SIGMAS, draws)
    while np.any(outside := np.abs(found) > 1.0):
        found[outside] = random.normal(0.0, 1 / _SIGMAS, int(outside.sum()))
    return found


def _with(circuit: Circuit, drawn: Mapping[tuple[str, str], Array], part: slice | int) -> Circuit:
    for (name, key), values in drawn.items():
        circuit = circuit.with_value(name, key, values[part])
    return circuit


def _all_at_once(
    circuit: Circuit, drawn: Mapping[tuple[str, str], Array], draws: int, watch: Watch
) -> dict[str, Array]:
    n = assemble(circuit).size
    chunk = max(1, min(draws, _CHUNK // max(1, n * n)))
    refuse_numbers(float(draws) * 3 * n, "study", "Take fewer draws.")
    parts: list[dict[str, Array]] = []
    for k in range(0, draws, chunk):
        system = assemble(_with(circuit, drawn, slice(k, k + chunk)))
        parts.append(_batch(system, min(chunk, draws - k)))
        watch.check((k + chunk) / draws, "study")
    return {name: np.concatenate([part[name] for part in parts]) for name in parts[0]}


def _batch(system: System, count: int) -> dict[str, Array]:
    """Solve `count` draws of a system whose values are arrays of that length."""
    n = system.size
    g = np.zeros((count, n, n))
    for row, column, value in (*system.conductances, *system.holding):
        g[:, row, column] += value
    b = np.zeros((count, n))
    for row, drive in system.drives:
        b[:, row] += drive.dc
    try:
        x = np.linalg.solve(g, b[..., None])[..., 0].T
    except np.linalg.LinAlgError:
        raise system.singular(None) from None
    flows = pin_currents_over(
        system, x, 0 * x, lambda drive: np.broadcast_to(drive.dc, count), None, None
    )
    return traces_of(system, x, flows)


def _one_by_one(
    circuit: Circuit, drawn: Mapping[tuple[str, str], Array], draws: int, watch: Watch
) -> dict[str, Array]:
    nominal = operating_point(circuit)
    names = [n for n in nominal.values if not n.startswith("P_")]
    table = np.empty((draws, len(names)))
    for k in range(draws):
        values = operating_point(_with(circuit, drawn, k), near=nominal.x).values
        table[k] = [values[name] for name in names]
        watch.check((k + 1) / draws, "study")
    return {name: table[:, i] for i, name in enumerate(names)}


@dataclass(frozen=True)
class WorstCase:
    """The lowest and highest value of a figure, and where each toleranced value stands then."""

    lowest: float
    nominal: float
    highest: float
    at_lowest: Mapping[str, float]
    at_highest: Mapping[str, float]


def worst_case(circuit: Circuit, figure: str, reference: str | None = None) -> WorstCase:
    """Of a DC voltage or current, "V_out" or "I_R1", less another where given. Raises CircuitError."""

    def value(here: Circuit) -> float:
        found = {**operating_point(here).values, f"V_{GROUND_NODE}": 0.0}
        return found[figure] - (found[reference] if reference else 0.0)

    return _at_the_ends(circuit, value, sensitivities(circuit, figure, reference))


def worst_case_of(
    circuit: Circuit, reading: Callable[[Circuit], float], watch: Watch | None = None
) -> WorstCase:
    """Of any figure read off the circuit. Raises what `reading` raises."""
    return _at_the_ends(circuit, reading, reading_sensitivities(circuit, reading, watch))


def _at_the_ends(
    circuit: Circuit, reading: Callable[[Circuit], float], found: list[Sensitivity]
) -> WorstCase:
    """Each toleranced value at the end that its sensitivity points to.

    Exact where the figure is monotonic in each value within its tolerance, as a voltage is in a divider
    or ladder; elsewhere an estimate.
    """
    slopes = {(s.element, s.parameter): s.absolute for s in found}
    ends = []
    for sign in (-1.0, 1.0):
        here, at = circuit, {}
        for element in circuit:
            for key, a in element.spreads.items():
                direction = np.sign(slopes.get((element.name, key), 0.0))
                value = element.values[key] * (1 + sign * float(direction) * a)
                here = here.with_value(element.name, key, value)
                at[f"{element.name}.{key}"] = value
        ends.append((reading(here), at))
    (low, at_low), (high, at_high) = ends
    return WorstCase(low, reading(circuit), high, at_low, at_high)
