"""Results that are told in tables and formulas rather than drawn as curves."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from lucidbench.core.analyses import (
    NaturalFrequencies,
    OperatingPoint,
    Phasors,
    RunRefused,
    Watch,
    zeros,
)
from lucidbench.core.analyses.device_regions import device_states, linear_equivalent
from lucidbench.core.analyses.equivalents import equivalent, two_port
from lucidbench.core.analyses.factored import factored_transfer
from lucidbench.core.analyses.fourier import harmonics, largest_output
from lucidbench.core.analyses.settled import PeriodicSteadyState
from lucidbench.core.analyses.symbolic import nodal_equations, transfer
from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.equations.system import assemble
from lucidbench.core.formula import name_latex
from lucidbench.core.netlist import GROUND_NODE, Circuit
from lucidbench.core.readings.reading import DEGREE
from lucidbench.core.residue import cleared, is_residue
from lucidbench.core.runs.looks import (
    BarLook,
    CellLook,
    ColumnLook,
    CurveLook,
    FigureLook,
    FormulaLook,
    RootLook,
    TableLook,
    TableRowLook,
)
from lucidbench.core.runs.traces import dimensions_of
from lucidbench.core.units import engineering
from lucidbench.core.units.dimensions import NUMBER

MOST_HARMONICS = 20
MOST_TURNED_UP = 10_000.0  # how many times its own amplitude a source is turned up at most
MOST_LETTERS = 8  # more take many seconds, and the formula fills the page
LEAST_HARMONIC = 1e-5  # of the largest: what is smaller is not told


def _word(text: str) -> CellLook:
    return CellLook(text=text)


def _cell(value: float, unit: str, digits: int = 4) -> CellLook:
    told = float(value) if np.isfinite(value) else None
    return CellLook(text=engineering(float(value), unit, digits), value=told, unit=unit)


def _head(words: Mapping[str, str]) -> list[ColumnLook]:
    return [ColumnLook(key=key, text=text) for key, text in words.items()]


def _row(*cells: CellLook, key: str = "", of: str = "") -> TableRowLook:
    return TableRowLook(cells=list(cells), key=key, subject=of)


def resting(point: OperatingPoint) -> Iterator[TableLook]:
    """The operating point: voltages, currents and powers, and what transistors and diodes do there."""
    told = point.node_voltages
    yield TableLook(
        key="voltages", title="Voltages", head=_head({"node": "node", "V": "V"}),
        rows=[
            _row(_word(node), _cell(v, "V") if node in told else _word("undetermined"), of=f"V_{node}")
            for node, v in point.voltages.items() if node != GROUND_NODE
        ],
    )  # fmt: skip
    names = dict.fromkeys([*point.currents, *point.powers])
    nothing = _word("")
    yield TableLook(
        key="currents", title="Currents and powers",
        head=_head({"part": "part", "I": "I into the first pin", "P": "P taken"}),
        rows=[
            _row(
                _word(name),
                _cell(point.currents[name], "A") if name in point.currents else nothing,
                _cell(point.powers[name], "W") if name in point.powers else nothing,
                of=name,
            )
            for name in names
        ],
    )  # fmt: skip
    states = device_states(point)
    if states:
        head = {"part": "part", "region": "region", "first": "V_BE, V_GS, V_D",
                "second": "V_CE, V_DS", "P": "P"}  # fmt: skip
        yield TableLook(
            key="devices", title="Devices", head=_head(head),
            rows=[
                _row(_word(name), _word(s.region), *_between_pins(s.voltages),
                     _cell(point.powers[name], "W"), of=name)
                for name, s in states.items()
            ],
        )  # fmt: skip
        yield TableLook(
            key="small_signal", title="Small-signal values",
            head=_head({"part": "part", "values": "values"}),
            rows=[
                _row(_word(name), _word(_small(s.values)), of=name)
                for name, s in states.items() if s.values
            ],
        )  # fmt: skip


def _between_pins(voltages: Mapping[str, float]) -> list[CellLook]:
    """The first two, each with its symbol."""
    cells = [
        CellLook(text=f"{symbol} = {engineering(volts, 'V')}", value=volts, unit="V")
        for symbol, volts in voltages.items()
    ]
    return [*cells, _word(""), _word("")][:2]


def _small(values: Mapping[str, float]) -> str:
    return ", ".join(f"{k} = {engineering(v, _small_unit(k))}" for k, v in values.items())


def _small_unit(name: str) -> str:
    return {"g": "S", "r": "Ω", "C": "F", "c": "F"}.get(name[:1], "")


def modes(found: NaturalFrequencies) -> TableLook:
    """The natural frequencies, slowest first."""
    rows = [
        _row(
            _word(_complex(mode.s, "1/s")),
            _cell(mode.time_constant, "s"),
            _cell(mode.frequency, "Hz"),
            _cell(mode.damping, "", 3),
            _cell(mode.quality, "", 3) if mode.is_pair else _word(""),
            key=str(k),
        )
        for k, mode in enumerate(found.modes, 1)
    ]
    title = (
        "Stable: everything fades"
        if found.stable
        else "Unstable: it grows until something limits it"
    )
    head = {"s": "s", "time_constant": "time constant", "frequency": "frequency",
            "damping": "damping ζ", "quality": "Q"}  # fmt: skip
    return TableLook(key="modes", title=title, head=_head(head), rows=rows)


def roots_of(found: NaturalFrequencies, output: str) -> Iterator[RootLook]:
    """Poles, and the zeros on the way to the node `output` where one is given."""
    at_zero = zeros(found.circuit, output) if output else ()
    for kind, places in (("pole", found.poles), ("zero", at_zero)):
        for s in places:
            yield RootLook(
                kind="pole" if kind == "pole" else "zero", re=s.real, im=s.imag,
                text=f"{kind} at {_complex(s, '1/s', one=True)}",
            )  # fmt: skip


def _complex(s: complex, unit: str, one: bool = False) -> str:
    """A root; both of a pair at once unless `one` is meant."""
    sign = "" if not s.imag else "±" if not one else "+" if s.imag > 0 else "−"
    tail = f" {sign} j{engineering(abs(s.imag), '', 4)}" if s.imag else ""
    return f"{engineering(s.real, '', 4)}{tail} {unit}"


def at_one_frequency(found: Phasors, told_as: str) -> Iterator[TableLook]:
    """Every phasor in polar and rectangular form; `told_as` "peak" or "RMS" is what they are."""

    def table(
        key: str,
        title: str,
        letter: str,
        named: Mapping[str, complex],
        units: tuple[str, str, str],
        head: Mapping[str, str],
    ) -> TableLook:
        size, real, imaginary = units
        rows = [
            _row(
                _word(name),
                _cell(abs(v), size),
                _cell(float(np.degrees(np.angle(v))), DEGREE),
                _cell(v.real, real),
                _cell(v.imag, imaginary),
                of=f"{letter}{name}",
            )
            for name, v in named.items()
            if name != GROUND_NODE
        ]
        return TableLook(key=key, title=title, head=_head(head), rows=rows)  # fmt: skip

    head = {"size": told_as, "angle": "angle", "real": "real", "imaginary": "imaginary"}
    volts, amperes, powers = ("V", "V", "V"), ("A", "A", "A"), ("VA", "W", "var")
    yield table("voltages", "Voltages", "V_", found.voltages, volts, {"node": "node", **head})
    yield table("currents", "Currents", "", found.currents, amperes, {"part": "part", **head})
    yield table("powers", "Complex powers", "", found.powers, powers,
                {"part": "part", "size": "S", "angle": "angle", "real": "P", "imaginary": "Q"})  # fmt: skip


def harmonics_of(
    state: PeriodicSteadyState, trace: str, unit: str
) -> tuple[list[TableLook], list[BarLook]]:
    """The harmonics of a settled waveform, and their sizes side by side."""
    found = harmonics(state, trace, MOST_HARMONICS)
    sizes = [abs(found.mean), *np.abs(found.phasors[1:]).tolist()]
    largest = max(sizes) or 1.0
    told = [k for k, size in enumerate(sizes) if k <= 1 or size > LEAST_HARMONIC * largest]
    first = sizes[1] or 1.0
    head = {"harmonic": "harmonic", "frequency": "frequency", "peak": "peak",
            "share": "of the first", "phase": "phase"}  # fmt: skip
    rows = [
        _row(
            _word(str(k)) if k else _word("mean"),
            _cell(k * found.frequency, "Hz") if k else _word(""),
            _cell(sizes[k] if k else found.mean, unit),
            _cell(100 * sizes[k] / first, "%", 3) if k else _word(""),
            _cell(float(np.degrees(np.angle(found.phasors[k]))), DEGREE) if k else _word(""),
            key=str(k),
        )
        for k in told
    ]
    table = TableLook(key="harmonics", title="Harmonics", head=_head(head), rows=rows)
    distortion = TableLook(
        key="distortion", head=_head({"figure": "", "share": "of the first"}),
        rows=[_row(_word("THD"), _cell(100 * found.distortion, "%", 4), key="thd")],
    )  # fmt: skip
    bars = [
        BarLook(label=str(k), share=sizes[k] / largest, text=engineering(sizes[k], unit))
        for k in range(min(len(sizes), 1 + max(told)))
    ]
    return [distortion, table], bars


def largest(circuit: Circuit, source: str, trace: str, limit: float, watch: Watch) -> TableLook:
    """How far the source can be turned up until the output has `limit` [%] of distortion."""
    element = circuit.element(source)
    if assemble(circuit).is_linear and isinstance(element.waveform, Sine):
        raise RunRefused(
            "Every part of the circuit is linear, so its output is a sine of any size, undistorted."
        )
    wave = element.waveform
    highest = MOST_TURNED_UP * wave.amplitude if isinstance(wave, Sine) else 1.0
    found = largest_output(circuit, source, trace, limit / 100, highest, watch=watch)
    known = dimensions_of(circuit).get(trace, NUMBER)
    unit = element.imposes
    at_most = found.distortion * 100 <= 0.98 * limit
    return TableLook(
        title=f"Undistorted up to {engineering(MOST_TURNED_UP, '')} times the source as it is"
        if at_most
        else f"At {engineering(limit, '%')} of distortion",
        key="largest",
        head=_head({"figure": "", "value": "value"}),
        rows=[
            _row(
                _word(f"largest output, {trace}, peak"),
                _cell(found.output, known.unit),
                key="output",
            ),
            _row(
                _word(f"from {source} with a peak of"), _cell(found.amplitude, unit), key="source"
            ),
            _row(_word("distortion (THD)"), _cell(100 * found.distortion, "%", 3), key="thd"),
        ],
    )


def equivalents(circuit: Circuit, node: str, frequency: float | None) -> Iterator[TableLook]:
    """Thévenin and Norton seen from a node and ground; and each source as a two-port to that node."""
    seen = equivalent(circuit, node, frequency=frequency)
    rows = [
        _row(_word("Thévenin voltage"), _polar(seen.voltage, "V"), key="voltage"),
        _row(_word("Impedance"), _polar(seen.impedance, "Ω"), key="impedance"),
    ]
    if seen.current is not None:
        norton = _row(_word("Norton current"), _polar(seen.current, "A"), key="current")
        rows.insert(1, norton)
    at = f" at {engineering(frequency, 'Hz')}" if frequency else " at DC"
    yield TableLook(
        key="equivalent", title=f"Seen from {node} and ground{at}",
        head=_head({"figure": "", "value": "value"}), rows=rows,
    )  # fmt: skip
    ports = []
    for element in circuit:
        if element.imposes:
            port = two_port(circuit, element.name, node, frequency=frequency)
            gain_unit = "" if element.imposes == "V" else "Ω"
            ports.append(_row(
                _word(element.name), _polar(port.gain, gain_unit), _polar(port.input_impedance, "Ω"),
                _polar(port.output_impedance, "Ω"), of=element.name,
            ))  # fmt: skip
    head = {"source": "source", "gain": "gain", "input": "sees", "output": "output"}
    yield TableLook(key="ports", title=f"From each source to {node}", head=_head(head), rows=ports)


def _polar(z: complex, unit: str) -> CellLook:
    if not np.isfinite(z):
        return _word("∞")
    z = complex(z)
    if is_residue(z.imag, z.real):
        return _cell(z.real, unit)
    angle = engineering(float(np.degrees(np.angle(z))), DEGREE)
    return CellLook(text=f"{engineering(abs(z), unit)} ∠ {angle}", value=abs(z), unit=unit)


_OVER_BUILDS = {"nominal": "nominal", "least": "least", "mean": "mean", "largest": "largest",
                "deviation": "deviation"}  # fmt: skip


def _over_builds(nominal: float, values: np.ndarray, unit: str) -> list[CellLook]:
    deviation = cleared(float(values.std()), nominal)
    told = (nominal, values.min(), values.mean(), values.max(), deviation)
    return [_cell(float(v), unit) for v in told]


def over_the_members(curves: Sequence[CurveLook]) -> Iterator[TableLook]:
    """What is read off each formula's curves, from the least to the largest of all members."""
    for text in dict.fromkeys(curve.text for curve in curves):
        found: dict[str, list[FigureLook]] = {}
        for curve in curves:
            if curve.text == text:
                for figure in curve.readings:
                    found.setdefault(figure.key, []).append(figure)
        rows = []
        for key, figures in found.items():
            values = np.array([figure.value for figure in figures])
            cells = _over_builds(figures[0].value, values, figures[0].unit)
            rows.append(_row(_word(figures[0].label), *cells, key=key, of=text))
        head = _head({"reading": text, **_OVER_BUILDS})
        yield TableLook(key="readings", title=f"{text} over the builds", head=head, rows=rows)


Told = Sequence[tuple[str, str, list[TableLook]]]  # (key, name, tables) of each member of a family


def beside(members: Told) -> Iterator[TableLook]:
    """The tables of all members in one: the same row of one after the other, by the member's name."""
    for k, table in enumerate(members[0][2]):
        rows = [
            (
                place,
                row.model_copy(
                    update={"cells": [row.cells[0], _word(name), *row.cells[1:]], "member": key}
                ),
            )
            for key, name, others in members
            for place, row in enumerate(others[k].rows if k < len(others) else ())
        ]
        yield TableLook(
            key=table.key,
            title=table.title,
            head=[table.head[0], ColumnLook(key="with", text="with"), *table.head[1:]],
            rows=[row for _, row in sorted(rows, key=lambda pair: pair[0])],
        )


def studied(members: Told) -> Iterator[TableLook]:
    """What becomes of each figure over all builds: least, mean, largest, deviation."""
    for k, table in enumerate(members[0][2]):
        same = [others[k] for *_, others in members if k < len(others)]
        rows = []
        for place, row in enumerate(table.rows):
            others = [t.rows[place].cells for t in same if place < len(t.rows)]
            for column, cell in enumerate(row.cells[1:], 1):
                told = [r[column].value for r in others if column < len(r)]
                values = np.array([v for v in told if v is not None])
                if cell.value is None or not len(values):
                    continue
                head = table.head[column]
                name = ", ".join([row.cells[0].text, *([head.text] if len(table.head) > 2 else [])])
                cells = _over_builds(cell.value, values, cell.unit)
                rows.append(_row(_word(name), *cells, key=f"{row.key} {head.key}", of=row.subject))
        if rows:
            yield TableLook(
                key=table.key,
                title=f"{table.title} over the builds".strip(),
                head=[table.head[0], *_head(_OVER_BUILDS)],
                rows=rows,
            )


def in_letters(circuit: Circuit, source: str, node: str) -> tuple[list[FormulaLook], list[str]]:
    """The transfer function with its poles and zeros, and the equations it comes from; and notes.

    In numbers where there are too many letters.
    """
    import sympy

    letters = sum(
        1 for e in linear_equivalent(circuit) if e.device.description.main and not e.imposes
    )
    left = rf"\frac{{{name_latex('V_' + node)}}}{{{name_latex(source)}}}"
    if letters > MOST_LETTERS:
        numbers = factored_transfer(circuit, source, node)
        told = FormulaLook(title="Transfer function in numbers", latex=f"{left} = {numbers.latex}",
                           text=numbers.text, beside=f"V_{node}/{_imposed(circuit, source)}")  # fmt: skip
        note = (
            f"The circuit has {letters} values, too many letters for a formula one could read "
            f"({MOST_LETTERS} are the most), so it is told in numbers."
        )
        return [told], [note]
    exact = transfer(circuit, source, node)
    text = re.sub(r"\*\*", "^", str(exact.expression))
    found = [FormulaLook(title="Transfer function", latex=f"{left} = {exact.latex}", text=text,
                         beside=f"V_{node}/{_imposed(circuit, source)}")]  # fmt: skip
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
    return found, []


def _imposed(circuit: Circuit, source: str) -> str:
    """The formula of what a source imposes."""
    element = circuit.element(source)
    if element.imposes == "A":
        return f"I_{element.name}"
    a, b = (f"V_{node}" if node != GROUND_NODE else "" for node in element.nodes)
    return f"({a} - {b})" if a and b else a or f"(-{b})"


def _where(unknown: str) -> str:
    """Whose equation it is: Kirchhoff's current law of a node, or the law of a branch."""
    letter, _, name = unknown.partition("_")
    return f"Currents at node {name}" if letter == "V" else f"Branch {name}"
