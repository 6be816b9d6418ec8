"""The figures of a run that can stand on the drawing in the place of those at rest."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucidbench.core.evaluate.shapes import QuantityLook
from lucidbench.core.formula import name_latex
from lucidbench.core.runs import Result
from lucidbench.core.units.engineering import engineering, phasor

_KINDS = {"V": ("voltage", "V"), "I": ("current", "A"), "P": ("power", "W")}


@dataclass(frozen=True)
class DrawnLook:
    """`at` says of which frequency, or of which place of an axis, they are."""

    quantities: list[QuantityLook]
    at: str


def drawn_figures(result: Result, at: float | None = None) -> DrawnLook:
    """Every voltage, current and power: the phasors of a run at one frequency, or what a run over an axis
    comes to `at` a place of it. Of a family the first member's. None where it has no such figures."""
    if not result.members:
        return DrawnLook([], "")
    member = result.members[0]
    named: Mapping[str, complex] = member.solution.figures
    words, traces = member.solution.figures_at, member.solution.traces
    if not named and traces is not None and at is not None:
        names = [name for name in traces.dimensions if name[:2] in ("V_", "I_", "P_")]
        place = np.array([np.clip(at, traces.grid[0], traces.grid[-1])])
        found = traces.at(names, place)
        named = {name: np.asarray(found[name])[0] for name in names}
        words = f"{traces.axis} = {engineering(float(place[0]), traces.unit)}"
    if member.role != "alone":
        words = f"{words}, {member.label}"
    looks = [_look(name, value) for name, value in named.items() if np.isfinite(abs(value))]
    return DrawnLook(looks, words)


def _look(name: str, value: complex) -> QuantityLook:
    kind, unit = _KINDS[name[0]]
    is_phasor = isinstance(value, complex) and kind != "power"
    number = float(abs(value) if is_phasor else complex(value).real)
    # An arrow points where the current is less than a quarter turn from its reference.
    forth = complex(value).real > 0 or (complex(value).real == 0 and complex(value).imag > 0)
    flow: Literal[-1, 0, 1] = 0 if not number else 1 if forth else -1
    return QuantityLook(
        name=name,
        latex=name_latex(name),
        kind=kind,
        subject=name[2:],
        value=number,
        text=phasor(value, unit) if is_phasor else engineering(number, unit),
        exact=phasor(value, unit, 8) if is_phasor else engineering(number, unit, 8),
        magnitude=phasor(value * flow, unit) if is_phasor else engineering(abs(number), unit),
        flow=flow,
        uncertainty=None,
        meaning="",
    )
