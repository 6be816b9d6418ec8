"""The textbook form in letters: junctions that conduct at a constant 0.7 V, transistors at a fixed β.

What is not linear is exchanged for linear pieces: a junction for a source, a transistor in its active region
for the source at its base and β times that source's current at its collector (Sedra and Smith,
Microelectronic Circuits, 5th edition, section 5.2, from memory).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from lucidbench.core.analyses import operating_point
from lucidbench.core.analyses.symbolic import dc_voltages
from lucidbench.core.devices.bipolar import FIXED
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.working.at_rest import BREAKDOWN, textbook_form
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.transistor import gain

_CONDUCTS = 1e-9  # [A]
_MANY = 1e9  # β of a transistor whose base current is nothing
_SATURATED = 0.25  # [V] across collector and emitter; common practice, no published source


@dataclass(frozen=True)
class TextbookForm:
    """The `plain` circuit, in which β of a transistor is called as it is; in letters the base currents of
    `without_base_current` are nothing. `numbers` are what β and the junctions' voltages come to, `figures`
    all results in numbers: V_out [V], I_R1 [A], P_R1 [W]."""

    plain: Circuit
    numbers: Mapping[str, float]
    figures: Mapping[str, float]
    without_base_current: tuple[str, ...] = ()

    @cached_property
    def voltages(self) -> Mapping[str, Any]:
        """At rest, in letters; empty where it is too large for them."""
        try:
            found = dc_voltages(self.plain)
        except LucidError:
            return {}
        for name in self.without_base_current:
            found = {node: _at_infinity(voltage, name) for node, voltage in found.items()}
        return found


def textbook_forms(circuit: Circuit) -> list[TextbookForm]:
    """The whole form first, then those with the base current of one transistor neglected, or of all; none
    where it has no such form."""
    transistors = [e.name for e in circuit if e.kind in ("npn", "pnp")]
    every: list[tuple[str, ...]] = [(), *((name,) for name in transistors)]
    if len(transistors) > 1:
        every.append(tuple(transistors))
    try:
        plain, numbers = _linear(circuit)
        return [_form(circuit, plain, numbers, names) for names in every]
    except LucidError:
        return []


def _form(
    circuit: Circuit, plain: Circuit, numbers: Mapping[str, float], without: tuple[str, ...]
) -> TextbookForm:
    elements = tuple(e.with_value("gain", _MANY) if e.name in without else e for e in plain)
    point = operating_point(replace(plain, elements=elements))
    figures = {**point.values, **dict(_of_junctions(circuit, point.values))}
    return TextbookForm(plain, numbers, figures, without)


def _of_junctions(circuit: Circuit, values: Mapping[str, float]) -> Iterator[tuple[str, float]]:
    """Currents and powers of diodes and transistors, by what stands for them."""
    for e in circuit:
        if e.kind == "diode" and f"I_{e.name}" not in values:
            for letter in "IP":
                yield f"{letter}_{e.name}", values.get(f"{letter}_V_{e.name}", 0.0)
        elif e.kind in ("npn", "pnp"):
            base = values.get(f"I_V_BE_{e.name}", 0.0)
            collector = values.get(f"I_{e.name}", 0.0)
            pins = {"C": collector, "B": base, "E": -collector - base}
            yield from ((f"I_{e.name}.{pin}", current) for pin, current in pins.items())
            yield (
                f"P_{e.name}",
                values.get(f"P_{e.name}", 0.0) + values.get(f"P_V_BE_{e.name}", 0.0),
            )


def textbook_gains(circuit: Circuit, output: str) -> list[tuple[float, tuple[str, ...]]]:
    """(gain from the source of a signal to a node, the transistor whose base current is neglected) by bias
    and hybrid-π circuit: whole, then with that neglected. Raises LucidError where there is none."""
    whole = [e for e in circuit if e.kind in ("npn", "pnp")]
    without = tuple(e.name for e in whole)
    neglected = tuple(e.with_value("beta", _MANY) if e in whole else e for e in circuit)
    found = []
    for each, names in ((circuit, ()), (replace(circuit, elements=neglected), without)):
        pad = Derivation({})
        found.append((complex(pad.names[gain(each, output, pad)].value).real, names))
    return found


def _linear(circuit: Circuit) -> tuple[Circuit, dict[str, float]]:
    """Raises LucidError where a part has no such form as it is biased."""
    form = textbook_form(circuit)
    rest = operating_point(form)
    numbers: dict[str, float] = {}
    elements: list[Element] = []
    for e in form:
        if e.kind == "diode":
            elements += _diode(e, rest.currents[e.name] > _CONDUCTS, numbers)
        elif e.kind in ("npn", "pnp"):
            elements += _transistor(e, rest.voltages, numbers)
        else:
            if e.form == BREAKDOWN:
                numbers[e.name] = e.values["voltage"]
            elements.append(e)
    return replace(form, elements=tuple(elements)), numbers


def _diode(e: Element, conducts: bool, numbers: dict[str, float]) -> Iterator[Element]:
    if not conducts:
        return
    name = f"V_{e.name}"
    numbers[name] = 0.0 if e.form == "ideal" else float(e.values["forward_voltage"])
    yield Element(name, "voltage_source", e.nodes, {"voltage": numbers[name]})


def _transistor(
    e: Element, voltages: Mapping[str, float], numbers: dict[str, float]
) -> Iterator[Element]:
    assert e.form == FIXED
    sign = 1.0 if e.kind == "npn" else -1.0
    collector, base, emitter = e.nodes[:3]
    at = {node: voltages.get(node, 0.0) for node in e.nodes}
    junction = float(e.values["base_emitter_voltage"])
    if sign * (at[base] - at[emitter]) < 0.9 * junction:  # it is off
        return
    if sign * (at[collector] - at[emitter]) < _SATURATED:
        raise NoWorking(f"{e.name} is saturated.")
    name = f"V_BE_{e.name}"
    numbers[name], numbers[e.name] = sign * junction, float(e.values["beta"])
    yield Element(name, "voltage_source", (base, emitter), {"voltage": numbers[name]})
    # Named after the transistor, as β is in formulas.
    yield Element(
        e.name,
        "current_controlled_current",
        (collector, emitter),
        {"gain": numbers[e.name]},
        refers=(name,),
    )


def _at_infinity(expression: Any, name: str) -> Any:
    """A fraction of polynomials for a letter beyond all bounds."""
    import sympy

    letter = next((s for s in expression.free_symbols if str(s) == name), None)
    if letter is None:
        return expression
    above, below = (sympy.Poly(p, letter) for p in sympy.fraction(sympy.together(expression)))
    if above.degree() > below.degree():
        return sympy.oo
    if above.degree() < below.degree():
        return sympy.Integer(0)
    return above.LC() / below.LC()
