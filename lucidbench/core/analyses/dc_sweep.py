"""The DC sweep: operating points over the values of a source, a resistor, a parameter or temperature."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses.operating_point import (
    OperatingPoint,
    operating_point,
    read_solution,
    settle,
)
from lucidbench.core.analyses.run import Cost, RunRefused, Watch, refuse_numbers, refuse_points
from lucidbench.core.collection import collection_paused
from lucidbench.core.devices.temperature import CELSIUS_ZERO, temperature_fault
from lucidbench.core.equations.formulas import formula_parts, refuse_undefined
from lucidbench.core.equations.system import Array, System, stamped
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit, Element, value_fault

TEMPERATURE = "temp"


@dataclass(frozen=True)
class Axis:
    """What is swept, in which unit, over which values."""

    name: str
    unit: str
    values: Array


@dataclass(frozen=True)
class DcSweep:
    """Traces over `axis`, shape (points,); over `outer` too where a second one is nested around it,
    shape (outer points, points)."""

    circuit: Circuit
    axis: Axis
    outer: Axis | None
    traces: dict[str, Array]
    cost: Cost


def steps(start: float, stop: float, step: float) -> Array:
    """From `start` to `stop` by `step`, both ends told. Raises RunRefused."""
    if step == 0 or (stop - start) * step < 0 or not np.isfinite([start, stop, step]).all():
        raise RunRefused(f"Steps of {step:g} never lead from {start:g} to {stop:g}.")
    count = (stop - start) / step
    refuse_points(count, "sweep", "Take longer steps.")
    return np.asarray(start + step * np.arange(int(np.floor(count * (1 + 1e-12) + 1e-9)) + 1))


def axis_of(circuit: Circuit, subject: str, values: Array) -> Axis:
    """The axis of a swept thing, its name as the circuit spells it. Raises CircuitError."""
    if subject == TEMPERATURE:
        return Axis("temp", "°C", values)
    parameter = circuit.parameter(subject)
    if parameter is not None:
        return Axis(parameter, "", values)
    element = circuit.element(subject)
    if element.imposes:
        return Axis(element.name, element.imposes, values)
    main = element.device.description.main
    if main is None:
        raise CircuitError(f"{element.name} has no value to be swept.", (element.name,))
    return Axis(element.name, main.unit, values)


def changed(circuit: Circuit, subject: str, value: float) -> Circuit:
    """The circuit with the swept thing at `value`. Raises CircuitError where it cannot have that."""
    if subject == TEMPERATURE:
        fault = temperature_fault(value + CELSIUS_ZERO)
        if fault:
            raise CircuitError(f"{fault}.")
        return replace(circuit, temperature=value + CELSIUS_ZERO)
    if circuit.parameter(subject) is not None:
        return circuit.with_parameter(subject, value)
    element = circuit.element(subject)
    main = element.device.description.main
    assert main is not None
    fault = value_fault(element.kind, main.key, value)
    if fault:
        raise CircuitError(f"{element.name}: {fault}.", (element.name,))
    return circuit.with_value(element.name, main.key, value)


@collection_paused()
def dc_sweep(
    circuit: Circuit,
    subject: str,
    values: Array,
    outer: tuple[str, Array] | None = None,
    watch: Watch | None = None,
) -> DcSweep:
    """Operating points over `values` of `subject`, for each of the outer one's. Raises CircuitError."""
    began = time.monotonic()
    watch = watch or Watch(seconds=120.0)
    inner_axis = axis_of(circuit, subject, np.asarray(values, float))
    outer_axis = axis_of(circuit, outer[0], np.asarray(outer[1], float)) if outer else None
    around = outer_axis.values if outer_axis is not None else np.zeros(1)
    total = float(len(around) * len(values))
    refuse_points(total, "sweep", "Take longer steps.")
    names: list[str] = []
    rows: list[list[list[float]]] = []
    iterations = 0
    for k, around_value in enumerate(around):
        base = changed(circuit, outer[0], float(around_value)) if outer else circuit
        told: list[list[float]] = []
        for m, point in enumerate(_points(base, subject, inner_axis.values)):
            read = {**{f"V_{n}": v for n, v in point.node_voltages.items()},
                    **{f"I_{n}": i for n, i in point.currents.items()}}  # fmt: skip
            if not names:
                names = list(read)
                refuse_numbers(total * len(names), "sweep", "Take longer steps.")
            told.append(list(read.values()))
            iterations += point.iterations
            if not m % 16:
                watch.check((k * len(values) + m) / total, "sweep")
        rows.append(told)
    table = np.array(rows)  # (outer, inner, names)
    traces = {name: table[:, :, i] if outer else table[0, :, i] for i, name in enumerate(names)}
    cost = Cost(time.monotonic() - began, int(total), 0, iterations)
    return DcSweep(circuit, inner_axis, outer_axis, traces, cost)


def _points(circuit: Circuit, subject: str, values: Array) -> Iterator[OperatingPoint]:
    """Operating points one after the other, each begun from the last."""
    first = operating_point(changed(circuit, subject, float(values[0])))
    yield first
    solve = _solver_over_source(first, subject)
    before = first
    has_formulas = bool(formula_parts(first.system))
    for value in values[1:]:
        if solve is not None:
            before = solve(float(value), before)
            if has_formulas:
                refuse_undefined(before.system, before.x)
        else:
            here = changed(circuit, subject, float(value))
            same_size = len(before.x) == before.system.size
            before = operating_point(here, near=before.x if same_size else None)
        yield before


def _solver_over_source(
    first: OperatingPoint, subject: str
) -> Callable[[float, OperatingPoint], OperatingPoint] | None:
    """How to step a source without assembling anew; None where something else is swept."""
    circuit, system = first.circuit, first.system
    if subject == TEMPERATURE or circuit.parameter(subject) is not None:
        return None
    element = circuit.element(subject)
    if not element.imposes:
        return None
    key = element.main_key
    linear = system.solver() if system.is_linear else None
    prepared = first.ready

    def solve(value: float, before: OperatingPoint) -> OperatingPoint:
        here = _with_source(system, element.with_value(key, value))
        b = here.dc_drive()
        if linear is not None:
            return read_solution(here, linear(b), solve=linear)
        assert prepared is not None
        x, iterations = settle(prepared, b, before.x)
        return read_solution(here, x, prepared, iterations)

    return solve


def _with_source(system: System, source: Element) -> System:
    """The same system with one source at another value: all but its own stamps stays."""
    circuit = system.circuit.with_element(source)
    shares = tuple(
        share._replace(element=source, stamps=stamped(circuit, source))
        if share.element.name == source.name
        else share
        for share in system.shares
    )
    return replace(system, circuit=circuit, shares=shares)
