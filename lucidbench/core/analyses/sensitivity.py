"""How a figure answers to every value in the circuit: one adjoint solve for all of them.

Director and Rohrer, The Generalized Adjoint Network and Network Sensitivities, IEEE Transactions on
Circuit Theory 16, 1969: with A·x = b and Aᵀ·λ = e, d(eᵀx)/dp = -λᵀ·d(A·x - b)/dp. At DC A is the slope
of the equation at the operating point; for phasors it is G + jωC, which moves with that point.
A current is the own unknown of a wire put into its pin.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import numpy as np

from lucidbench.core.analyses.frequency import FrequencySweep, frequency_sweep
from lucidbench.core.analyses.operating_point import OperatingPoint, operating_point
from lucidbench.core.analyses.parameter_derivatives import (
    Value,
    change,
    phasor_change,
    values_in,
    values_of,
)
from lucidbench.core.analyses.run import Watch
from lucidbench.core.analyses.small_signal import jacobian, linearised, placed, slopes_at
from lucidbench.core.equations.system import (
    LARGEST_DENSE,
    Array,
    ComplexArray,
    System,
    dense_solver,
    sparse_solver,
)
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

READING_STEP = 1e-3  # relative, of differences of whole readings, whose own error is near 1e-6
_SHIFT = 1e-5  # [V or A], of central differences along a move of the operating point


@dataclass(frozen=True)
class Sensitivity:
    """Of a figure F to one value p: `absolute` dF/dp, `relative` (p/F)·dF/dp (0 where F is 0)."""

    element: str
    parameter: str
    absolute: float
    relative: float


@dataclass(frozen=True)
class PhasorSensitivity:
    """Of a phasor F to one value p: `absolute` dF/dp; (p/|F|)·d|F|/dp; p·d(arg F)/dp [degree]."""

    element: str
    parameter: str
    absolute: complex
    magnitude: float
    phase: float

    @property
    def decibels(self) -> float:
        """Change of 20·lg|F| [dB] for a change of the value by itself, to first order."""
        return self.magnitude * 20 / float(np.log(10))


def sensitivities(circuit: Circuit, figure: str, reference: str | None = None) -> list[Sensitivity]:
    """Of a DC voltage or current, "V_out" or "I_Q1.C", to every value set in the circuit.

    `reference` is another figure to be taken from it: V_a less V_b. Largest effect first. Raises
    CircuitError.
    """
    circuit, weights = sensed(circuit, figure, reference)
    point = operating_point(circuit)
    system, x = point.system, point.x
    unit = unit_vector(system, weights)
    adjoint = _solver(jacobian(point).T, system)(unit)
    found = []
    for of in values_in(system):
        effect = change(system, of, x[:, None])
        found.append((of, -float(adjoint[effect.rows] @ effect.flows[:, 0])))  # dF for dp = p
    return told(found, float(unit @ x))


def phasor_sensitivities(
    circuit: Circuit, frequency: float, figure: str, reference: str | None = None
) -> list[PhasorSensitivity]:
    """Of a phasor at `frequency` [Hz] to every value set in the circuit, largest effect first.

    Raises CircuitError, RunRefused.
    """
    circuit, weights = sensed(circuit, figure, reference)
    sweep = frequency_sweep(circuit, [frequency])
    unit = unit_vector(sweep.system, weights)
    total = complex(unit @ sweep.x[0])
    found = []
    for of, effects in phasor_effects(sweep, unit):
        by_step = complex(effects[0])
        ratio = by_step / total if total else 0j
        degrees = float(np.degrees(ratio.imag))
        effect = PhasorSensitivity(
            of.share.element.name, of.key, by_step / of.value, ratio.real, degrees
        )
        found.append((abs(by_step), effect))
    return _largest_first(found)


def phasor_effects(sweep: FrequencySweep, unit: Array) -> list[tuple[Value, ComplexArray]]:
    """p·dF/dp at every frequency of a sweep for each value p in the circuit, where F = unit·X.

    One transposed solve a frequency, whatever the number of values.
    """
    system, point = sweep.system, sweep.point
    s: ComplexArray = np.asarray(2j * np.pi * sweep.frequencies, np.complex128)
    x = sweep.x.T
    adjoint = np.array([_solver(_matrix(system, point, at).T, system)(unit + 0j) for at in s])
    rest = _solver(jacobian(point), system) if point else None
    found = []
    for of in values_in(system):
        residual = phasor_change(system, of, x, s, point)
        if point is not None and rest is not None:  # the operating point moves too
            shift = -rest(change(system, of, point.x[:, None]).flows_over(system.size)[:, 0])
            residual = residual + _turned(point, shift, x, s)
        found.append((of, -np.einsum("tn,nt->t", adjoint, residual)))
    return found


def reading_sensitivities(
    circuit: Circuit, reading: Callable[[Circuit], float], watch: Watch | None = None
) -> list[Sensitivity]:
    """Of any figure read off the circuit, to every value set in it, largest effect first.

    `reading` takes a circuit and gives a number: a bandwidth, a period, a distortion. It is read twice
    for each value, a little above and below, so it costs two analyses a value. Raises what it raises.
    """
    watch = watch or Watch(seconds=600.0)
    nominal = reading(circuit)
    named = [(e.name, key, v) for e in circuit for key, v in values_of(e)]
    found = []
    for k, (name, key, value) in enumerate(named):
        above, below = (
            reading(circuit.with_value(name, key, value * (1 + sign * READING_STEP)))
            for sign in (1, -1)
        )
        by_step = (above - below) / (2 * READING_STEP)
        relative = by_step / nominal if nominal else 0.0
        found.append((abs(by_step), Sensitivity(name, key, by_step / value, relative)))
        watch.check((k + 1) / len(named), "search for sensitivities")
    return _largest_first(found)


Effect = TypeVar("Effect")


def _largest_first(found: list[tuple[float, Effect]]) -> list[Effect]:
    return [effect for _, effect in sorted(found, key=lambda pair: -pair[0])]


def told(found: list[tuple[Value, float]], total: float) -> list[Sensitivity]:
    """Sensitivities of a figure that is `total`, from p·dF/dp for each value, largest effect first."""
    return _largest_first(
        [
            (
                abs(by_step),
                Sensitivity(
                    of.share.element.name,
                    of.key,
                    by_step / of.value,
                    by_step / total if total else 0.0,
                ),
            )
            for of, by_step in found
        ]
    )


def sensed(
    circuit: Circuit, figure: str, reference: str | None = None
) -> tuple[Circuit, list[tuple[str, float]]]:
    """The circuit with a wire at every pin whose current is asked for, and the unknowns to be summed."""
    weights = []
    for name, sign in ((figure, 1.0), (reference, -1.0)):
        if name is None:
            continue
        kind, _, subject = name.partition("_")
        if kind == "V" and (subject == GROUND_NODE or subject in circuit.nodes):
            weights.append((name, sign))
        elif kind == "I" and subject:
            circuit, wire = _with_wire(circuit, name, subject)
            weights.append((f"I_{wire}", sign))
        else:
            what = f"no node called {subject}" if kind == "V" and subject else f"no figure “{name}”"
            raise CircuitError(
                f"There is {what}; sensitivities are of V_ and a node, or I_ and a part."
            )
    return circuit, weights


def _with_wire(circuit: Circuit, figure: str, subject: str) -> tuple[Circuit, str]:
    part, _, pin_name = subject.partition(".")
    element = circuit.element(part)
    pin = dict(element.device.description.currents).get(pin_name)
    if pin is None:
        told = ", ".join(n for n, _ in element.device.description.currents)
        raise CircuitError(
            f"{part} has no current called {figure}; of its pins these are told: {told}.", (part,)
        )
    wire, outer = f"wire.{figure}", element.nodes[pin]
    inner = f"{wire}.end"
    nodes = (*element.nodes[:pin], inner, *element.nodes[pin + 1 :])
    ammeter = Element(wire, "voltage_source", (outer, inner), {"voltage": 0.0})
    return circuit.with_element(replace(element, nodes=nodes)).with_element(ammeter), wire


def unit_vector(system: System, weights: list[tuple[str, float]]) -> Array:
    numbers = {unknown.name: k for k, unknown in enumerate(system.unknowns)}
    unit = np.zeros(system.size)
    for name, sign in weights:
        if name in numbers:  # ground is none of the unknowns
            unit[numbers[name]] += sign
    return unit


def _solver(matrix: Any, system: System) -> Callable[[Any], Any]:
    if isinstance(matrix, np.ndarray):
        return dense_solver(matrix, system)
    return sparse_solver(matrix.tocsc(), system)


def _matrix(system: System, point: OperatingPoint | None, s: complex) -> Any:
    """A = G + sC, with reactances given at one frequency."""
    form = system.matrix if system.size <= LARGEST_DENSE else system.sparse
    if point is None:
        g, c = form(system.conductances), form(system.charges)
    else:
        g, c = linearised(point)
    return g + s * c + 1j * form(system.imaginary)


def _turned(point: OperatingPoint, shift: Array, x: ComplexArray, s: ComplexArray) -> ComplexArray:
    """Change of A·X, shape (n, points), as the operating point moves along `shift`."""
    size = float(np.max(np.abs(shift), initial=0.0))
    prepared = point.ready
    if prepared is None or size == 0:
        return np.zeros_like(x)
    step = _SHIFT / size
    (g_above, c_above), (g_below, c_below) = (
        slopes_at(prepared, point.x + sign * step * shift) for sign in (1, -1)
    )
    g, c = (g_above - g_below) / (2 * step), (c_above - c_below) / (2 * step)
    system = point.system
    return np.asarray(placed(system, prepared, g) @ x + (placed(system, prepared, c) @ x) * s)
