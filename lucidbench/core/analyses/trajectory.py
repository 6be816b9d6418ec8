"""A run in time, known between and at the solver's own steps: its dense output, its traces."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

from lucidbench.core.analyses.run import (
    Cost,
    refuse_numbers,
)
from lucidbench.core.devices.base import Drive
from lucidbench.core.equations.compiled import CompiledSystem
from lucidbench.core.equations.currents import (
    law_currents_over,
    pin_currents_over,
    pins_of,
    traces_of,
)
from lucidbench.core.equations.system import (
    Array,
    System,
    summed,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit
from lucidbench.core.residue import OF_STEPS

RELATIVE = 1e-6  # of an unknown's peak: the error allowed at each step
_NODES = np.array([0.0, (4.0 - 6.0**0.5) / 10.0, (4.0 + 6.0**0.5) / 10.0, 1.0])


@dataclass(frozen=True)
class TransientSettings:
    """`stop` [s]; recorded from `start` on. `step` is the grid of the output, None the solver's own.

    `from_given` starts from the parts' starting values instead of the operating point, all others at
    rest; `node_voltages` [V] hold nodes meanwhile, or start them. `longest` bounds the solver's step.
    """

    stop: float
    start: float = 0.0
    step: float | None = None
    longest: float | None = None
    from_given: bool = False
    node_voltages: Mapping[str, float] = field(default_factory=dict)
    relative: float = RELATIVE


@dataclass(frozen=True)
class Transient:
    """A run. Each step k > 0 leads from `ends[k] - lengths[k]` to `ends[k]` [s] through `stages[k]`,
    shape (3, n); a length of 0 marks a fresh start after a corner, where values may jump.
    """

    system: System
    settings: TransientSettings
    ends: Array
    lengths: Array
    stages: Array
    cost: Cost
    notes: tuple[str, ...]
    ready: CompiledSystem = field(repr=False)

    @property
    def circuit(self) -> Circuit:
        return self.system.circuit

    @cached_property
    def _steps(self) -> tuple[Array, Array, Array]:
        """(starts, lengths, points) of the real steps; points, shape (steps, 4, n), start first."""
        real = self._real
        return self.ends[real] - self.lengths[real], self.lengths[real], self.pieces(self.stages)

    def _points_of(self, row: int) -> Array:
        """The points of one unknown, shape (steps, 4), kept: curves are asked many times."""
        kept = self._kept_points
        if row not in kept:
            points = np.ascontiguousarray(self._steps[2][:, :, row])
            kept[row] = np.zeros_like(points) if self._still[row] else points
        return kept[row]

    @cached_property
    def _kept_points(self) -> dict[int, Array]:
        return {}

    @cached_property
    def _still(self) -> npt.NDArray[np.bool_]:
        """Whether an unknown is the voltage of a node that never rises above the rounding of others."""
        sizes = np.maximum(self.stages.max((0, 1)), -self.stages.min((0, 1)))
        nodes = len(self.system.rows) - 1
        still = sizes <= OF_STEPS * sizes[:nodes].max(initial=0.0)
        still[nodes:] = False
        return np.asarray(still)

    @cached_property
    def _real(self) -> npt.NDArray[np.intp]:
        """The records that are steps of some length, with another before them."""
        real = np.flatnonzero(self.lengths > 0)
        return real[real > 0]

    def pieces(self, stages: Array) -> Array:
        """Anything known at the stages of every record, shape (records, 3, ..), as the four points of
        each real step, shape (steps, 4, ..), its start first; `weights` gives it in between."""
        real = self._real
        return np.concatenate([stages[real - 1, 2][:, None], stages[real]], axis=1)

    @property
    def grid(self) -> Array:
        """The times of the output [s]: every `step` from start to stop, or the solver's own."""
        s = self.settings
        if s.step is None:
            inside = self.ends[(self.ends > s.start) & (self.ends < s.stop)]
            return np.asarray(np.unique(np.concatenate([[s.start], inside, [s.stop]])), float)
        count = int(np.floor((s.stop - s.start) / s.step * (1 + 1e-12)))
        times: Array = s.start + s.step * np.arange(count + 1, dtype=float)
        if s.stop - times[-1] > 1e-9 * s.step:
            return np.append(times, s.stop)
        times[-1] = min(times[-1], s.stop)
        return times

    def unknowns(self, times: Array, derivative: bool = False) -> Array:
        """x, or dx/dt, at `times`, shape (n, len(times)); at a jump, after it."""
        k, weights = self.weights(times, derivative)
        found = np.asarray(np.einsum("wt,twn->nt", weights, self._steps[2][k]))
        found[self._still] = 0.0
        return found

    def weights(self, times: Array, derivative: bool = False) -> tuple[npt.NDArray[np.intp], Array]:
        """The step each time falls into, and what its four points count for there, shape (4, times)."""
        starts, lengths, _ = self._steps
        # Not np.clip, which takes longer than all the rest for a few times.
        k = np.maximum(np.searchsorted(starts, times, side="right") - 1, 0)
        k = np.minimum(k, len(starts) - 1)
        theta = np.minimum(np.maximum((times - starts[k]) / lengths[k], 0.0), 1.0)
        return k, _basis_slopes(theta) / lengths[k] if derivative else _basis(theta)

    def _charge_rates(self, times: Array) -> Array:
        """dq/dt of every law's branches [A], shape (branches, times): of the charges' own polynomial,
        so that currents add up at each node as they did in the solver."""
        k, weights = self.weights(times, derivative=True)
        used, place = np.unique(k, return_inverse=True)
        points = self._steps[2][used]
        flat = points.reshape(-1, self.system.size).T
        _, charges = law_currents_over(self.ready.tables, flat)
        shaped = charges.reshape(len(charges), len(used), 4)
        return np.asarray(np.einsum("wt,btw->bt", weights, shaped[:, place]))

    def traces(self, times: Array | None = None) -> dict[str, Array]:
        """Every V_<node> and I_<element> at `times` (the grid where left out)."""
        at = self.grid if times is None else times
        system = self.system
        refuse_numbers(
            float(len(at)) * 3 * max(system.size, 1),
            "output",
            "Take a longer step, or a shorter run.",
        )
        x, rates = self.unknowns(at), self.unknowns(at, derivative=True)
        inside = np.nextafter(at, np.inf) if len(at) else at
        through, _ = law_currents_over(self.ready.tables, x, at)
        charge_rates = self._charge_rates(at)

        def told(drive: Drive) -> Array:
            if drive.waveform is None:
                return np.full(len(inside), drive.dc)
            return drive.waveform.value(inside)

        flows = pin_currents_over(system, x, rates, told, through, charge_rates)
        least = self._least_flows
        for into, nothing in zip((pin for flow in flows for pin in flow), least, strict=True):
            if np.abs(into).max(initial=0.0) <= nothing:
                into[:] = 0.0
        return traces_of(system, x, flows)

    @cached_property
    def _least_flows(self) -> list[float]:
        """By pin of all elements, the current [A] that rounding of the unknowns alone may let flow."""
        pins = pins_of(self.system)
        sizes = np.append(np.abs(self.stages).max((0, 1), initial=0.0), (0.0, 0.0))
        sizes[:-2][self._still] = 0.0
        _, into, columns, values = pins.flows
        moved = summed(into, OF_STEPS * np.abs(values) * sizes[columns], len(pins.nodes))
        return list(moved)

    def trace(self, name: str, times: Array | None = None) -> Array:
        """One of the traces. Raises CircuitError where there is none of that name."""
        at = self.grid if times is None else np.ascontiguousarray(times, float)
        if name.startswith("V_") and name[2:] in self.system.rows:
            row = self.system.rows[name[2:]]
            if row < 0:
                return np.zeros(len(at))
            from lucidbench.core.kernels.dense_output import dense_output

            starts, lengths, _ = self._steps
            return np.asarray(dense_output(starts, lengths, self._points_of(row), at))
        found = self.traces(at)
        if name not in found:
            raise CircuitError(f"The run has no trace called {name}.")
        return found[name]


def _basis(theta: Array) -> Array:
    """Weights of a step's start and stages at its share `theta`, shape (4, len(theta))."""
    return np.array(_without_one(theta - _NODES[:, None])) / _BASIS_SCALE


def _without_one(factors: Array) -> list[Array]:
    """The products of all but one of four factors, which it is in turn."""
    a, b, c, d = factors
    ab, cd = a * b, c * d
    return [b * cd, a * cd, ab * d, ab * c]


# What those are at the node of the one: with it each weight is 1 there, and 0 at the other three.
_BASIS_SCALE = np.diag(_without_one(_NODES - _NODES[:, None]))[:, None]


def _basis_slopes(theta: Array) -> Array:
    """Their derivatives over `theta`."""
    a, b, c, d = theta - _NODES[:, None]
    ab, cd, sum_ab, sum_cd = a * b, c * d, a + b, c + d
    without_one = [cd + b * sum_cd, cd + a * sum_cd, ab + d * sum_ab, ab + c * sum_ab]
    return np.array(without_one) / _BASIS_SCALE
