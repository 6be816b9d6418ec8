"""How far the operating point may lie from nominal, given the tolerances of the parts.

Each part's marked tolerance a is taken as the half-width of a rectangular distribution, standard
uncertainty a/√3 (JCGM 100:2008, 4.3.7). First-order sensitivities carry them to the results, where
they add in quadrature (5.1.2); the result is expanded by the coverage factor 2 (6.2.1, 6.3).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from lucidbench.core.analyses.system import Array, System, assemble, stamp_element
from lucidbench.core.devices import Stamps
from lucidbench.core.devices.base import GROUND_ROW
from lucidbench.core.netlist import Circuit, Element

COVERAGE_FACTOR = 2.0
_RELATIVE_STEP = 1e-4  # central differences of smooth stamps: error of order 1e-8
_DUST = 1e-9  # of the nominal value; far below any tolerance a part is sold with


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
    shifts = -solve(residuals)  # (n, k): dx for one relative step of each of k parameters
    nominal = [*x.tolist(), 0.0]
    above, below = _with_ground(x[:, None] + shifts), _with_ground(x[:, None] - shifts)
    half_widths = np.array([half_width for _, _, half_width in spreads])
    scale = COVERAGE_FACTOR * half_widths / math.sqrt(3) / (2 * _RELATIVE_STEP)

    found: dict[str, float] = {}
    voltage_uncertainty = np.sqrt((((above - below) * scale) ** 2).sum(axis=1))
    for node, row in system.rows.items():
        if row != GROUND_ROW:
            found[f"V_{node}"] = _without_dust(voltage_uncertainty[row], x[row])
    own: dict[str, list[tuple[int, str]]] = {element.name: [] for element in circuit}
    for column, (element, key, _) in enumerate(spreads):
        own[element.name].append((column, key))
    for element in circuit:
        high = _current_and_power(system, element, element.values, above)
        low = _current_and_power(system, element, element.values, below)
        change = high - low
        for column, key in own[element.name]:  # it depends on its own value directly too
            up, down = (_scaled(element, key, 1 + s * _RELATIVE_STEP) for s in (1, -1))
            change[:, column] += _current_and_power(system, element, up, nominal)
            change[:, column] -= _current_and_power(system, element, down, nominal)
        at_nominal = _current_and_power(system, element, element.values, nominal)
        uncertainty = np.sqrt(((change * scale) ** 2).sum(axis=1))
        for letter, value, spread in zip("IP", at_nominal, uncertainty, strict=True):
            found[f"{letter}_{element.name}"] = _without_dust(spread, value)
    return found


def _with_ground(x: Array) -> Array:
    """Unknowns (n, k) with a last row of zeros, which is where ground's row -1 points."""
    return np.vstack([x, np.zeros(x.shape[1])])


def _current_and_power(
    system: System, element: Element, values: dict[str, float], x: Sequence[Any] | Array
) -> Array:
    """Current [A] and power [W] of an element, at unknowns `x` with ground's row last.

    Shape (2,) for a list of numbers, (2, k) for an array of shape (n + 1, k).
    """
    volts = [x[system.rows[node]] for node in element.nodes]
    branch = x[system.branch_rows.get(element.name, GROUND_ROW)]
    current = element.device.current(values, volts, branch)
    return np.array((current, (volts[0] - volts[1]) * current))


def _without_dust(uncertainty: float, nominal: float) -> float:
    """Zero where it is rounding beside the nominal value."""
    return float(uncertainty) if uncertainty > _DUST * abs(nominal) else 0.0


def _scaled(element: Element, key: str, factor: float) -> dict[str, float]:
    return {**element.values, key: element.values[key] * factor}


def _residual_change(system: System, element: Element, key: str, x: Array) -> Array:
    """Change of f(x) - b, shape (n,), for one relative step of a parameter, x held."""
    change = np.zeros(system.size)
    for sign in (+1, -1):
        stamps = Stamps()
        stamp_element(system, element, _scaled(element, key, 1 + sign * _RELATIVE_STEP), stamps)
        for row, column, value in stamps.conductances:
            change[row] += sign * value * x[column] / 2
        for row, value in stamps.drives:
            change[row] -= sign * value / 2
    return change
