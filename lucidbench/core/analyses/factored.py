"""A transfer function in numbers: gain, corners and resonances, for circuits too large for letters."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses.frequency import frequency_sweep
from lucidbench.core.analyses.natural import natural_frequencies, zeros
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.errors import CircuitError
from lucidbench.core.formula.typeset import quantity_latex
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.units import engineering
from lucidbench.core.units.engineering import typed

_SAME = 1e-6  # of a root: a pole and a zero this near cancel
_NOTHING = 1e-9  # of the slowest other root: a root this small is at zero
_BESIDE = 1.37  # of the roots' middle: where the gain is read, off all of them
_MOST = 40  # factors that are written out


@dataclass(frozen=True)
class Factored:
    """gain · (s·unit)^order · Π(1 - s/z) / Π(1 - s/p), roots [1/s] with both halves of each pair.

    `unit` [s] is the slowest pole's time constant; `of` is the gain's unit, "" or "Ω".
    """

    gain: float
    of: str
    order: int
    unit: float
    zeros: tuple[complex, ...]
    poles: tuple[complex, ...]

    def at(self, s: complex) -> complex:
        """Its value at a complex frequency [1/s]."""
        above = np.prod([1 - s / z for z in self.zeros])
        below = np.prod([1 - s / p for p in self.poles])
        return complex(self.gain * (s * self.unit) ** self.order * above / below)

    @property
    def latex(self) -> str:
        above = [_factor_latex(f) for f in _factors(self.zeros)]
        below = [_factor_latex(f) for f in _factors(self.poles)]
        powers = self._power(rf"s \cdot {_time_latex(self.unit)}", r"\left(", r"\right)", "^{{{}}}")
        above, below = ([*powers, *above], below) if self.order > 0 else (above, [*powers, *below])
        gain = quantity_latex(engineering(self.gain, self.of))
        if not below:
            return r" \cdot ".join([gain, *above])
        return rf"{gain} \cdot \frac{{{' '.join(above) or '1'}}}{{{' '.join(below)}}}"

    @property
    def text(self) -> str:
        """The same in the formula language, to six digits."""
        gain = _written(self.gain, self.of)
        sign = "/(" if self.order < 0 else "*("
        power = "".join(self._power(f"s*{_written(self.unit, 's')}", sign, ")", "^{}"))
        above = "".join(f"*({_factor_text(f)})" for f in _factors(self.zeros))
        below = "".join(f"/({_factor_text(f)})" for f in _factors(self.poles))
        return gain + power + above + below

    def _power(self, base: str, opens: str, closes: str, raised: str) -> list[str]:
        if not self.order:
            return []
        times = abs(self.order)
        return [f"{opens}{base}{closes}" + (raised.format(times) if times > 1 else "")]


def factored_transfer(
    circuit: Circuit, source: str, output: str, reference: str = GROUND_NODE
) -> Factored:
    """From an independent source to the voltage between two nodes, about the operating point.

    Raises CircuitError, RunRefused.
    """
    element = circuit.element(source)
    if not element.imposes:
        raise CircuitError(f"{source} is no independent source.", (source,))
    alone = replace(circuit, elements=tuple(_driven(e, source) for e in circuit))
    poles = list(natural_frequencies(alone).poles)
    nulls = list(zeros(alone, output, reference))
    sizes = [abs(root) for root in (*poles, *nulls) if root]
    least = _NOTHING * float(np.median(sizes)) if sizes else 0.0
    at_zero = sum(abs(z) <= least for z in nulls) - sum(abs(p) <= least for p in poles)
    poles, nulls = _uncancelled(
        [p for p in poles if abs(p) > least], [z for z in nulls if abs(z) > least]
    )
    if len(poles) + len(nulls) > _MOST:
        raise RunRefused(
            f"The transfer function has {len(poles)} poles and {len(nulls)} zeros, too many to be "
            f"written out; a frequency sweep tells the same."
        )
    unit = 1 / min((abs(p) for p in poles), default=1.0)
    bare = Factored(
        1.0,
        "Ω" if element.imposes == "A" else "",
        at_zero,
        unit,
        tuple(nulls),
        tuple(poles),
    )
    middle = _BESIDE * float(np.exp(np.mean(np.log(sizes)))) if sizes else 1.0
    sweep = frequency_sweep(alone, [middle / (2 * np.pi)])
    read = sweep.voltage(output, reference)[0] / bare.at(1j * middle)
    return replace(bare, gain=float(read.real))


def _driven(element: Element, source: str) -> Element:
    """The source with a phasor of one, all others silent."""
    if not element.imposes:
        return element
    values = {**element.values, "magnitude": float(element.name == source), "phase": 0.0}
    return replace(element, values=values)


def _uncancelled(poles: list[complex], nulls: list[complex]) -> tuple[list[complex], list[complex]]:
    """Poles and zeros without the pairs that take each other away."""
    left, kept = list(nulls), []
    for pole in poles:
        near = next((z for z in left if abs(z - pole) <= _SAME * abs(pole)), None)
        if near is None:
            kept.append(pole)
        else:
            left.remove(near)
    return kept, left


# A factor is (time constant [s], Q): 1 + s·τ with Q None, else 1 + s·τ/Q + (s·τ)².
_Factor = tuple[float, float | None]


def _factors(roots: tuple[complex, ...]) -> list[_Factor]:
    found: list[_Factor] = []
    for root in roots:
        if root.imag == 0:
            found.append((-1 / root.real, None))
        elif root.imag > 0:
            size = abs(root)
            found.append((1 / size, np.inf if root.real == 0 else -size / (2 * root.real)))
    return sorted(found, key=lambda factor: -abs(factor[0]))


def _time_latex(seconds: float) -> str:
    return quantity_latex(engineering(abs(seconds), "s"))


def _factor_latex(factor: _Factor) -> str:
    tau, quality = factor
    if quality is None:
        return rf"\left(1 {'-' if tau < 0 else '+'} s \cdot {_time_latex(tau)}\right)"
    middle = ""
    if np.isfinite(quality):
        sign = "-" if quality < 0 else "+"
        middle = rf" {sign} \frac{{s \cdot {_time_latex(tau)}}}{{{engineering(abs(quality))}}}"
    return rf"\left(1{middle} + \left(s \cdot {_time_latex(tau)}\right)^2\right)"


def _factor_text(factor: _Factor) -> str:
    tau, quality = factor
    if quality is None:
        return f"1 {'-' if tau < 0 else '+'} s*{_written(abs(tau), 's')}"
    middle = ""
    if np.isfinite(quality):
        middle = (
            f" {'-' if quality < 0 else '+'} s*{_written(tau, 's')}/{_written(abs(quality), '')}"
        )
    return f"1{middle} + (s*{_written(tau, 's')})^2"


def _written(value: float, unit: str) -> str:
    """A figure as one types it, six digits and a plain minus sign."""
    if not unit:
        return f"{value:.6g}"
    return typed(value, unit, 6)
