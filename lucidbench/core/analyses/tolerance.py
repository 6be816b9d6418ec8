"""How far the operating point may lie from nominal, given the tolerances of the parts.

Each part's marked tolerance a is taken as the half-width of a rectangular distribution, standard
uncertainty a/√3 (JCGM 100:2008, 4.3.7). First-order sensitivities carry them to the results, where
they add in quadrature (5.1.2); the result is expanded by the coverage factor 2 (6.2.1, 6.3).
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from lucidbench.core.analyses.operating_point import read_solution
from lucidbench.core.analyses.system import Array, System, assemble, stamp_element
from lucidbench.core.devices import Stamps
from lucidbench.core.netlist import Circuit, Element

COVERAGE_FACTOR = 2.0
_RELATIVE_STEP = 1e-4  # central differences of smooth stamps: error of order 1e-8


def operating_point_uncertainty(circuit: Circuit) -> dict[str, float]:
    """Expanded uncertainty of each operating-point value, by its textbook name, in its own unit.

    Empty where no part has a tolerance. Raises what `operating_point` raises; give it a circuit that
    has one.
    """
    system = assemble(circuit)
    spreads = [(e, key, a) for e in circuit for key, a in e.spreads.items() if a > 0]
    if not spreads or not system.size:
        return {}
    solve = system.solver()
    x = solve(system.drive())
    residuals = np.column_stack([_residual_change(system, e, key, x) for e, key, _ in spreads])
    shifts = -solve(residuals)  # dx for one relative step of each parameter
    variances: dict[str, float] = {}
    for column, (element, key, half_width) in enumerate(spreads):
        above = _values(system, element, key, 1 + _RELATIVE_STEP, x + shifts[:, column])
        below = _values(system, element, key, 1 - _RELATIVE_STEP, x - shifts[:, column])
        scale = half_width / math.sqrt(3) / (2 * _RELATIVE_STEP)
        for name in above:
            change = (above[name] - below[name]) * scale
            variances[name] = variances.get(name, 0.0) + change**2
    return {name: COVERAGE_FACTOR * math.sqrt(variance) for name, variance in variances.items()}


def _scaled(element: Element, key: str, factor: float) -> Element:
    return replace(element, values={**element.values, key: element.values[key] * factor})


def _values(
    system: System, element: Element, key: str, factor: float, x: Array
) -> dict[str, float]:
    elements = tuple(
        _scaled(e, key, factor) if e is element else e for e in system.circuit.elements
    )
    changed = replace(system, circuit=replace(system.circuit, elements=elements))
    return read_solution(changed, x).values


def _residual_change(system: System, element: Element, key: str, x: Array) -> Array:
    """Change of f(x) - b, shape (n,), for one relative step of a parameter, x held."""
    change = np.zeros(system.size)
    for sign in (+1, -1):
        stamps = Stamps()
        varied = _scaled(element, key, 1 + sign * _RELATIVE_STEP)
        stamp_element(system, varied, varied.values, stamps)
        for row, column, value in stamps.conductances:
            change[row] += sign * value * x[column] / 2
        for row, value in stamps.drives:
            change[row] -= sign * value / 2
    return change
