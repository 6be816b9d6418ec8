"""The circuit built many times over, each value drawn within its tolerance (JCGM 101:2008)."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from lucidbench.core.analyses.operating_point import operating_point
from lucidbench.core.analyses.run import Cost, RunRefused, Watch, refuse_numbers, refuse_points
from lucidbench.core.equations.currents import pin_currents_over, traces_of
from lucidbench.core.equations.system import System, assemble, refuse_faults
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit, topology_faults
from lucidbench.core.tolerance.intervals import NORMAL, UNIFORM, Array, intervals_of, places

_CHUNK = 4_000_000  # entries of all matrices solved at once


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
    if distribution not in (UNIFORM, NORMAL):
        raise RunRefused(f"“{distribution}” is no distribution; {UNIFORM} and {NORMAL} are.")
    refuse_points(draws, "study", "Take fewer draws.")
    intervals = intervals_of(circuit)
    if not intervals:
        raise CircuitError("No part has a tolerance, so there is nothing to draw.")
    random = np.random.default_rng(seed)
    return {
        (each.element.name, each.key): np.asarray(each.value(places(random, draws, distribution)))
        for each in intervals
    }


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
