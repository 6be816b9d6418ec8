"""Results that are told in tables and formulas rather than drawn as curves."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from lucidbench.core.analyses import natural_frequencies, operating_point, phasors
from lucidbench.core.analyses.dc_sweep import SOURCES
from lucidbench.core.analyses.equivalents import equivalent, two_port
from lucidbench.core.analyses.fourier import harmonics
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.analyses.settled import Settled
from lucidbench.core.analyses.states import device_states, linear_equivalent
from lucidbench.core.analyses.symbolic import nodal_equations, transfer
from lucidbench.core.formula import name_latex
from lucidbench.core.netlist import Circuit
from lucidbench.core.readings.reading import DEGREE
from lucidbench.core.runs.looks import BarLook, FormulaLook, TableLook
from lucidbench.core.units import engineering

MOST_HARMONICS = 20
MOST_LETTERS = 8  # more take many seconds, and the formula fills the page
LEAST_HARMONIC = 1e-5  # of the largest: what is smaller is not told


def resting(circuit: Circuit) -> Iterator[TableLook]:
    """The operating point: voltages, currents and powers, and what transistors and diodes do there."""
    point = operating_point(circuit)
    yield TableLook(title="Voltages", head=["node", "V"], rows=[
        [node, engineering(v, "V")] for node, v in point.voltages.items() if node != "0"])  # fmt: skip
    yield TableLook(title="Currents and powers", head=["part", "I", "P"], rows=[
        [name, engineering(i, "A"), engineering(point.powers[name], "W") if name in point.powers else ""]
        for name, i in point.currents.items()])  # fmt: skip
    states = device_states(point)
    if states:
        yield TableLook(title="Small signals", head=["part", "region", "values"], rows=[
            [name, s.region, _small(s.values)] for name, s in states.items()])  # fmt: skip


def _small(values: Mapping[str, float]) -> str:
    return ", ".join(f"{k} = {engineering(v, _small_unit(k))}" for k, v in values.items())


def _small_unit(name: str) -> str:
    return {"g": "S", "r": "Ω", "C": "F", "c": "F"}.get(name[:1], "")


def modes(circuit: Circuit) -> TableLook:
    """The natural frequencies, slowest first. Raises RunRefused where there are none."""
    found = natural_frequencies(circuit)
    if not found.modes:
        raise RunRefused("Nothing in the circuit stores energy, so it has no natural frequencies.")
    rows = [
        [
            _complex(mode.s, "1/s"),
            engineering(mode.time_constant, "s"),
            engineering(mode.frequency, "Hz"),
            engineering(mode.damping, "", 3),
            engineering(mode.quality, "", 3) if mode.is_pair else "",
        ]
        for mode in found.modes
    ]
    title = (
        "Stable: everything fades"
        if found.stable
        else "Unstable: it grows until something limits it"
    )
    return TableLook(
        title=title, head=["s", "time constant", "frequency", "damping ζ", "Q"], rows=rows
    )


def _complex(s: complex, unit: str) -> str:
    sign = "±" if s.imag else ""
    tail = f" {sign} j{engineering(abs(s.imag), '', 4)}" if s.imag else ""
    return f"{engineering(s.real, '', 4)}{tail} {unit}"


def at_one_frequency(circuit: Circuit, frequency: float) -> Iterator[TableLook]:
    """Every phasor at `frequency` [Hz], in polar and rectangular form, peak values."""
    found = phasors(circuit, frequency)

    def rows(named: Mapping[str, complex], unit: str) -> list[list[str]]:
        return [
            [name, engineering(abs(v), unit), _angle(v),
             engineering(v.real, unit), engineering(v.imag, unit)]
            for name, v in named.items() if name != "0"
        ]  # fmt: skip

    head = ["peak", "angle", "real", "imaginary"]
    yield TableLook(title="Voltages", head=["node", *head], rows=rows(found.voltages, "V"))
    yield TableLook(title="Currents", head=["part", *head], rows=rows(found.currents, "A"))
    yield TableLook(title="Complex powers", head=["part", "S", "angle", "P", "Q"],
                    rows=rows(found.powers, "W"))  # fmt: skip


def harmonics_of(state: Settled, trace: str, unit: str) -> tuple[TableLook, list[BarLook]]:
    """The harmonics of a settled waveform, and their sizes side by side."""
    found = harmonics(state, trace, MOST_HARMONICS)
    sizes = [abs(found.mean), *np.abs(found.phasors[1:]).tolist()]
    largest = max(sizes) or 1.0
    told = [k for k, size in enumerate(sizes) if k <= 1 or size > LEAST_HARMONIC * largest]
    texts = {k: engineering(sizes[k] if k else found.mean, unit) for k in told}
    first = sizes[1] or 1.0
    table = TableLook(
        title=f"THD {engineering(100 * found.distortion, '%', 3)}",
        head=["harmonic", "frequency", "peak", "of the first", "phase"],
        rows=[
            [
                str(k) if k else "mean",
                engineering(k * found.frequency, "Hz") if k else "",
                texts[k],
                f"{engineering(100 * sizes[k] / first, '', 3)} %" if k else "",
                _angle(found.phasors[k]) if k else "",
            ]
            for k in told
        ],
    )
    bars = [
        BarLook(label=str(k), share=sizes[k] / largest, text=engineering(sizes[k], unit))
        for k in range(min(len(sizes), 1 + max(told)))
    ]
    return table, bars


def equivalents(circuit: Circuit, node: str, frequency: float | None) -> Iterator[TableLook]:
    """Thévenin and Norton seen from a node and ground; and each source as a two-port to that node."""
    seen = equivalent(circuit, node, frequency=frequency)
    rows = [
        ["Thévenin voltage", _polar(seen.voltage, "V")],
        ["Impedance", _polar(seen.impedance, "Ω")],
    ]
    if seen.current is not None:
        rows.insert(1, ["Norton current", _polar(seen.current, "A")])
    at = f" at {engineering(frequency, 'Hz')}" if frequency else " at DC"
    yield TableLook(title=f"Seen from {node} and ground{at}", head=["", "value"], rows=rows)
    ports = []
    for element in circuit:
        if element.kind in SOURCES:
            port = two_port(circuit, element.name, node, frequency=frequency)
            gain_unit = "" if element.kind == "voltage_source" else "Ω"
            ports.append([
                element.name, _polar(port.gain, gain_unit), _polar(port.input_impedance, "Ω"),
                _polar(port.output_impedance, "Ω"),
            ])  # fmt: skip
    yield TableLook(
        title=f"From each source to {node}", head=["source", "gain", "sees", "output"], rows=ports
    )


def _angle(z: complex) -> str:
    return engineering(float(np.degrees(np.angle(z))), DEGREE)


def _polar(z: complex, unit: str) -> str:
    if not np.isfinite(z):
        return "∞"
    z = complex(z)
    if abs(z.imag) <= 1e-12 * abs(z.real):
        return engineering(z.real, unit)
    return f"{engineering(abs(z), unit)} ∠ {_angle(z)}"


def in_letters(circuit: Circuit, source: str, node: str) -> list[FormulaLook]:
    """The transfer function with its poles and zeros, and the equations it comes from."""
    import sympy

    letters = sum(
        1 for e in linear_equivalent(circuit) if e.device.description.main and e.kind not in SOURCES
    )
    if letters > MOST_LETTERS:
        raise RunRefused(
            f"The circuit has {letters} values, too many for a formula one could read; {MOST_LETTERS} "
            f"are the most. A frequency sweep tells the same in numbers."
        )
    exact = transfer(circuit, source, node)
    left = rf"\frac{{{name_latex('V_' + node)}}}{{{name_latex(source)}}}"
    found = [FormulaLook(title="Transfer function", latex=f"{left} = {exact.latex}")]
    for title, letter, roots in (("Poles", "p", exact.poles), ("Zeros", "z", exact.zeros)):
        if roots:
            found += [
                FormulaLook(
                    title=title if k == 1 else "", latex=f"{letter}_{{{k}}} = {sympy.latex(root)}"
                )
                for k, root in enumerate(roots, 1)
            ]
    found += [
        FormulaLook(title=_where(equation.at), latex=equation.latex)
        for equation in nodal_equations(circuit)
    ]
    return found


def _where(unknown: str) -> str:
    """Whose equation it is: Kirchhoff's current law of a node, or the law of a branch."""
    letter, _, name = unknown.partition("_")
    return f"Currents at node {name}" if letter == "V" else f"Branch {name}"
