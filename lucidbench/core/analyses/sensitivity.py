"""How a figure answers to every value in the circuit: one adjoint solve for all of them.

Director and Rohrer, The Generalized Adjoint Network and Network Sensitivities, IEEE Transactions on
Circuit Theory 16, 1969: with A·x = b and Aᵀ·λ = e, d(eᵀx)/dp = -λᵀ·d(A·x - b)/dp. At DC A is the slope
of the equation at the operating point; for phasors it is G + jωC, which moves with that point.
A current is the own unknown of a wire put into its pin.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import numpy as np

from lucidbench.core.analyses.compiled import Ready, evaluated, ready
from lucidbench.core.analyses.frequency import frequency_sweep
from lucidbench.core.analyses.operating_point import OperatingPoint, operating_point
from lucidbench.core.analyses.run import Watch
from lucidbench.core.analyses.small_signal import linearised, placed, slopes_at
from lucidbench.core.analyses.system import (
    LARGEST_DENSE,
    Array,
    ComplexArray,
    Share,
    System,
    dense_solver,
    sparse_solver,
    stamped,
)
from lucidbench.core.devices import Stamps
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

READING_STEP = 1e-3  # relative, of differences of whole readings, whose own error is near 1e-6
_SHIFT = 1e-5  # [V or A], of central differences along a move of the operating point
_STEP = 1e-5  # relative, of central differences of one element's own equations


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
    sensed, weights = _sensed(circuit, figure, reference)
    point = operating_point(sensed)
    system, x = point.system, point.x
    unit = _unit_vector(system, weights)
    adjoint = _solver(linearised(point)[0].T, system)(unit)
    total = float(unit @ x)
    found = []
    for share, key, value in _values(system):
        by_step = -float(adjoint @ residual_change(system, share, key, x))  # dF for dp = p
        relative = by_step / total if total else 0.0
        effect = Sensitivity(share.element.name, key, by_step / value, relative)
        found.append((abs(by_step), effect))
    return _largest_first(found)


def phasor_sensitivities(
    circuit: Circuit, frequency: float, figure: str, reference: str | None = None
) -> list[PhasorSensitivity]:
    """Of a phasor at `frequency` [Hz] to every value set in the circuit, largest effect first.

    Raises CircuitError, RunRefused.
    """
    sensed, weights = _sensed(circuit, figure, reference)
    sweep = frequency_sweep(sensed, [frequency])
    system, x = sweep.system, sweep.x[0]
    point = sweep.point
    s = 2j * np.pi * frequency
    matrix = _matrix(system, point, s)
    unit = _unit_vector(system, weights)
    adjoint = _solver(matrix.T, system)(unit.astype(complex))
    total = complex(unit @ x)
    rest = _solver(linearised(point)[0], system) if point else None
    found = []
    for share, key, value in _values(system):
        change = _phasor_change(system, share, key, x, s, point)
        if point is not None and rest is not None:  # the operating point moves too
            shift = -rest(residual_change(system, share, key, point.x))
            change = change + _turned(point, shift, x, s)
        by_step = -complex(adjoint @ change)
        ratio = by_step / total if total else 0j
        degrees = float(np.degrees(ratio.imag))
        effect = PhasorSensitivity(share.element.name, key, by_step / value, ratio.real, degrees)
        found.append((abs(by_step), effect))
    return _largest_first(found)


def reading_sensitivities(
    circuit: Circuit, reading: Callable[[Circuit], float], watch: Watch | None = None
) -> list[Sensitivity]:
    """Of any figure read off the circuit, to every value set in it, largest effect first.

    `reading` takes a circuit and gives a number: a bandwidth, a period, a distortion. It is read twice
    for each value, a little above and below, so it costs two analyses a value. Raises what it raises.
    """
    watch = watch or Watch(seconds=600.0)
    nominal = reading(circuit)
    named = [(e.name, key, v) for e in circuit for key, v in _set(e)]
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


def _set(element: Element) -> list[tuple[str, float]]:
    """The values of an element that can be a little larger or smaller."""
    return [(key, v) for key, v in element.values.items() if v and np.isfinite(v)]


def _values(system: System) -> Iterator[tuple[Share, str, float]]:
    for share in system.shares:
        for key, value in _set(share.element):
            yield share, key, value


def _sensed(
    circuit: Circuit, figure: str, reference: str | None
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


def _unit_vector(system: System, weights: list[tuple[str, float]]) -> Array:
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


def _phasor_change(
    system: System,
    share: Share,
    key: str,
    x: ComplexArray,
    s: complex,
    point: OperatingPoint | None,
) -> ComplexArray:
    """p·d(A·X - B)/dp, shape (n,), for one value p of one element, X and operating point held."""
    value = share.element.values[key]
    above, below = (
        _phasor_residual(system, moved(system, share, key, value * (1 + sign * _STEP)), x, s, point)
        for sign in (1, -1)
    )
    return np.asarray((above - below) / (2 * _STEP))


def _phasor_residual(
    system: System, share: Share, x: ComplexArray, s: complex, point: OperatingPoint | None
) -> ComplexArray:
    """A·X - B of one element alone, shape (n,)."""
    residual = np.zeros(system.size + 1, complex)  # the last one is ground's
    at = np.append(x, 0.0)
    stamps = share.stamps
    for entries, factor in (
        (stamps.conductances, 1.0),
        (stamps.charges, s),
        (stamps.impedances, 1j),
    ):
        for row, column, value in entries:
            residual[share.row(row)] += factor * value * at[share.row(column)]
    for row, drive in stamps.drives:
        residual[share.row(row)] -= drive.phasor
    if stamps.laws and point is not None:
        alone = _alone(system, share)
        g, c = slopes_at(alone, point.x)
        residual[:-1] += placed(alone.system, alone, g + s * c) @ x
    return residual[:-1]


def _turned(point: OperatingPoint, shift: Array, x: ComplexArray, s: complex) -> ComplexArray:
    """Change of A·X, shape (n,), as the operating point moves along `shift`."""
    if point.ready is None:
        return np.zeros_like(x)
    size = float(np.max(np.abs(shift), initial=0.0))
    if size == 0:
        return np.zeros_like(x)
    step = _SHIFT / size
    prepared = point.ready
    (g_above, c_above), (g_below, c_below) = (
        slopes_at(prepared, point.x + sign * step * shift) for sign in (1, -1)
    )
    values = ((g_above - g_below) + s * (c_above - c_below)) / (2 * step)
    return np.asarray(placed(point.system, prepared, values) @ x)


def _alone(system: System, share: Share) -> Ready:
    """One element's laws as a circuit of their own, in the numbering of the whole."""
    bare = Stamps()
    bare.laws = share.stamps.laws
    return ready(replace(system, shares=(share._replace(stamps=bare),)))


def residual_change(system: System, share: Share, key: str, x: Array) -> Array:
    """p·d(f - b)/dp, shape (n,), for one value p of one element, x held."""
    value = share.element.values[key]
    above, below = (
        _residual(system, moved(system, share, key, value * (1 + sign * _STEP)), x)
        for sign in (1, -1)
    )
    return np.asarray((above - below) / (2 * _STEP))


def moved(system: System, share: Share, key: str, value: float) -> Share:
    """An element's share with one of its values exchanged."""
    element = share.element.with_value(key, value)
    return share._replace(element=element, stamps=stamped(system.circuit, element))


def _residual(system: System, share: Share, x: Array) -> Array:
    """f - b of one element alone, shape (n,)."""
    residual = np.zeros(system.size + 1)  # the last one is ground's
    at = np.append(x, 0.0)
    for row, column, value in share.stamps.conductances:
        residual[share.row(row)] += value * at[share.row(column)]
    for row, drive in share.stamps.drives:
        residual[share.row(row)] -= drive.dc
    if not share.stamps.laws:
        return residual[:-1]
    f, _, _ = evaluated(_alone(system, share).tables, x)
    return residual[:-1] + f
