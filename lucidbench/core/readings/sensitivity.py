"""How a reading of a curve answers to every value in the circuit: the curve's own change, read off it.

Over frequency the change of the curve comes from adjoint solves, over time from the run's linearised
steps. The reading is then taken twice a value, of the curve moved a little one way and the other.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from lucidbench.core.analyses import FrequencySweep, Transient, Watch, frequency_sweep, transient
from lucidbench.core.analyses.parameter_derivatives import Value
from lucidbench.core.analyses.sensitivity import (
    Sensitivity,
    phasor_effects,
    reading_sensitivities,
    sensed,
    told,
    unit_vector,
)
from lucidbench.core.analyses.settled import PeriodicSteadyState, settled
from lucidbench.core.analyses.tangents import has_tangents, tangents
from lucidbench.core.equations.system import ComplexArray
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings.curve import Array, Curve
from lucidbench.core.readings.curves_of import frequency_curve, time_curve
from lucidbench.core.readings.frequency import beyond

_MOVED = 1e-4  # of a value: how far the curve is moved either way
_FINE = 1e-8  # of the largest magnitude: how well a curve over frequency is known between points
_MOST_HALVINGS = 8  # of the intervals between them

CurveReading = Callable[[Curve], float]


def curve_sensitivities(
    result: Transient | PeriodicSteadyState | FrequencySweep,
    name: str,
    reading: CurveReading,
    reference: str | None = None,
    watch: Watch | None = None,
) -> list[Sensitivity]:
    """Of `reading`, taken of the trace `name`, to every value set in the circuit, largest effect first.

    `reference` is the trace a sweep's is divided by. What moves a run by more than its linear share, a
    switch thrown or a jump, is told by whole analyses on either side instead. Raises CircuitError,
    RunRefused, NoReading.
    """
    watch = watch or Watch(seconds=600.0)
    if isinstance(result, FrequencySweep):
        return _over_frequency(result, name, reading, reference)
    if has_tangents(result.run if isinstance(result, PeriodicSteadyState) else result):
        return _over_time(result, name, reading, watch)
    again = _again(result)
    return reading_sensitivities(
        result.circuit, lambda circuit: reading(time_curve(again(circuit), name)), watch
    )


def _again(
    result: Transient | PeriodicSteadyState,
) -> Callable[[Circuit], Transient | PeriodicSteadyState]:
    """The same analysis of another circuit."""
    if isinstance(result, PeriodicSteadyState):
        periods = result.periods
        return lambda circuit: settled(circuit, periods)
    settings = result.settings
    return lambda circuit: transient(circuit, settings)


def _over_time(
    result: Transient | PeriodicSteadyState, name: str, reading: CurveReading, watch: Watch
) -> list[Sensitivity]:
    circuit, weights = sensed(result.circuit, name)
    begins = 0.0
    if isinstance(result, Transient) and result.settings.start > 0:
        begins = result.settings.start  # what came before the window moves it as well
        result = transient(circuit, replace(result.settings, start=0.0))
    elif circuit is not result.circuit:
        result = _again(result)(circuit)
    run = result.run if isinstance(result, PeriodicSteadyState) else result
    unit = unit_vector(run.system, weights)
    values, moved = tangents(run, unit, isinstance(result, PeriodicSteadyState), watch)
    curve = time_curve(result, name)
    known, shifts = run.pieces(run.stages @ unit), run.pieces(moved)

    def along(column: int, share: float) -> Curve:
        points = known + share * shifts[:, :, column]

        def at(times: Array) -> Array:
            k, weights_there = run.weights(np.asarray(times, float))
            return np.asarray(np.einsum("wt,tw->t", weights_there, points[k]))

        whole = replace(curve, at=at)
        return whole.part(begins, float(curve.grid[-1])) if begins > 0 else whole

    return _read_either_side(values, along, reading)


def _over_frequency(
    sweep: FrequencySweep, name: str, reading: CurveReading, reference: str | None
) -> list[Sensitivity]:
    nodes = _nodes(frequency_curve(sweep, name, reference))
    values, phasors, effects = _effects(sweep.circuit, nodes, name)
    if reference is not None:
        _, below, effects_below = _effects(sweep.circuit, nodes, reference)
        effects = (effects - phasors / below * effects_below) / below
        phasors = phasors / below
    curve = frequency_curve(sweep, name, reference)

    def along(column: int, share: float) -> Curve:
        return replace(curve, at=_through(nodes, phasors + share * effects[column]))

    return _read_either_side(values, along, reading)


def _effects(
    circuit: Circuit, nodes: Array, name: str
) -> tuple[list[Value], ComplexArray, ComplexArray]:
    """The values set, a trace's phasors at `nodes` [Hz], and what each value does to them."""
    wired, weights = sensed(circuit, name)
    sweep = frequency_sweep(wired, nodes)
    unit = unit_vector(sweep.system, weights)
    found = [
        (of, effect)
        for of, effect in phasor_effects(sweep, unit)
        if of.share.element.name in circuit.by_name
    ]
    return [of for of, _ in found], sweep.x @ unit, np.array([effect for _, effect in found])


def _nodes(curve: Curve) -> Array:
    """Frequencies [Hz] close enough that a smooth curve through them is the curve itself."""
    nodes = np.unique(np.concatenate([curve.grid, beyond(curve)]))
    if len(nodes) < 2:
        return nodes
    for _ in range(_MOST_HALVINGS):
        between = _middles(nodes)
        exact = np.asarray(curve.at(between))
        off = np.abs(_through(nodes, np.asarray(curve.at(nodes)))(between) - exact)
        rough = off > _FINE * np.max(np.abs(exact), initial=0.0)
        if not np.any(rough):
            break
        near = rough | np.append(rough[1:], False) | np.append(False, rough[:-1])
        nodes = np.sort(np.concatenate([nodes, between[near]]))
    return nodes


def _middles(nodes: Array) -> Array:
    low, high = nodes[:-1], nodes[1:]
    return np.where(low > 0, np.sqrt(low * high), (low + high) / 2)


def _through(nodes: Array, phasors: ComplexArray) -> Callable[[Any], Any]:
    """A smooth curve through phasors at `nodes`, over the logarithm of frequency where it has one; not a
    number beyond them."""
    from scipy.interpolate import CubicSpline

    if len(nodes) < 2:
        return lambda at: np.full(np.shape(at), phasors[0])
    scale = np.log if nodes[0] > 0 else np.asarray
    spline = CubicSpline(scale(nodes), phasors, extrapolate=False)
    return lambda at: spline(scale(at))


def _read_either_side(
    values: list[Value], along: Callable[[int, float], Curve], reading: CurveReading
) -> list[Sensitivity]:
    """Central differences of `reading` on the curve moved along each value's share of it."""
    found = []
    for column, of in enumerate(values):
        above, below = (float(reading(along(column, sign * _MOVED))) for sign in (1, -1))
        found.append((of, (above - below) / (2 * _MOVED)))
    return told(found, float(reading(along(0, 0.0))) if values else 0.0)
