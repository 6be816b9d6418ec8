"""A table of what was measured of a circuit: a curve, or figures at rest. docs/causes.md shows both."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from lucidbench.core.analyses import TransientSettings
from lucidbench.core.diagnosis.blocks import AtRest, OverFrequency, OverSource, OverTime
from lucidbench.core.diagnosis.observed import Array, Block, Column, Observed, column_of
from lucidbench.core.errors import CircuitError, DocumentError, FormulaError, ValueTextError
from lucidbench.core.netlist import Circuit, Element, Netlist
from lucidbench.core.netlist.requests import TransientRequest
from lucidbench.core.units import parse_value
from lucidbench.core.units.uncertain import COVERAGE

MOST_ROWS = 5_000
MOST_COLUMNS = 32
_HEAD = re.compile(r"(.*?)\s*(?:\[([^\]]*)\])?\s*")
_OF_UNCERTAINTY = re.compile(r"u\((.*)\)\s*")
_FIGURES = ["quantity", "value", "unit", "uncertainty"]
_AXES = {"frequency": "f", "f": "f", "time": "t", "t": "t"}
_UNITS = {"f": "Hz", "t": "s"}
# What a curve is good for where nothing is said and nothing seen: common practice, no published source.
_SHARE, _DEGREES, _DECIBELS = 0.003, 0.2, 0.03
_OF_FIGURE = 0.005
_SMOOTH = 5  # points of a piece whose scatter about a cubic is looked at
# Standard deviation of a point less what its neighbours tell of it.
_OF_CUBIC = np.sqrt(1 + (16 + 16 + 1 + 1) / 36)
_OF_MEDIAN = 1.4826


@dataclass(frozen=True)
class Measured:
    """What a table says of a circuit; `notes` are what was assumed for want of being told."""

    observed: Observed
    notes: tuple[str, ...]


def read_bench_table(text: str, netlist: Netlist) -> Measured:
    """Raises DocumentError naming line and column, or CircuitError where it is not of this circuit."""
    rows = [
        (number, [cell.strip() for cell in row])
        for number, row in enumerate(csv.reader(io.StringIO(text.removeprefix("\ufeff"))), start=1)
        if any(cell.strip() for cell in row) and not row[0].lstrip().startswith("#")
    ]
    if len(rows) < 2:
        raise DocumentError(
            "The table has a head and at least one row of numbers; here is neither."
        )
    if len(rows) - 1 > MOST_ROWS:
        raise DocumentError(f"The table has {len(rows) - 1:,} rows; {MOST_ROWS:,} are the most.")
    head = rows[0][1]
    if [cell.lower() for cell in head] == _FIGURES:
        return _figures(rows[1:], netlist.circuit)
    return _curve(head, rows[1:], netlist)


def _figures(rows: Sequence[tuple[int, list[str]]], circuit: Circuit) -> Measured:
    columns: list[Column] = []
    notes: list[str] = []
    for number, row in rows:
        quantity, value, unit, spread = [*row, "", "", "", ""][:4]
        told = _number(value, number, "value") * _scale(unit, number)
        if spread:
            sigma = _number(spread, number, "uncertainty") * _scale(unit, number) / COVERAGE
        else:
            sigma = _OF_FIGURE * abs(told)
            notes.append(f"{quantity} is taken to be known to 1 %, as no uncertainty is told")
        if sigma <= 0:
            raise DocumentError(f"Line {number}: the uncertainty of {quantity} must be above zero.")
        columns.append(_column(quantity, np.array([told]), np.array([sigma]), number))
    block = AtRest(tuple(columns), "the table", given=_given(circuit))
    return Measured(Observed({"": circuit}, (block,)), tuple(notes))


def _curve(head: list[str], rows: Sequence[tuple[int, list[str]]], netlist: Netlist) -> Measured:
    if len(head) < 2 or len(head) > MOST_COLUMNS:
        raise DocumentError("Line 1: a curve has two columns or more, parted by commas.")
    numbers = np.array(
        [
            [_number(row[k] if k < len(row) else "", number, head[k]) for k in range(len(head))]
            for number, row in rows
        ]
    )
    names, units = zip(*(_head(cell) for cell in head), strict=True)
    axis = _AXES.get(names[0].lower(), names[0])
    x = numbers[:, 0] * _scale(units[0], 1)
    order = np.argsort(x, kind="stable")
    x, numbers = x[order], numbers[order]
    if np.any(np.diff(x) <= 0):
        raise DocumentError(f"The table has two rows at the same {names[0]}.")
    columns, notes = _columns(head, names, units, numbers)
    circuit = netlist.circuit
    given = _given(circuit)
    block: Block
    if axis == "f":
        if x[0] <= 0:
            raise DocumentError(f"{head[0]}: a frequency is above 0 Hz.")
        circuit, assumed = _with_phasor(circuit)
        notes += assumed
        block = OverFrequency(columns, "the table", given=given, frequencies=x)
    elif axis == "t":
        settings = _settings(netlist, float(x[-1]))
        block = OverTime(columns, "the table", given=given, times=x, settings=settings)
    else:
        circuit.element(axis)
        block = OverSource(columns, "the table", given=given, swept=axis, steps=x)
    return Measured(Observed({"": circuit}, (block,)), tuple(notes))


def _columns(
    head: list[str], names: tuple[str, ...], units: tuple[str, ...], numbers: Array
) -> tuple[tuple[Column, ...], list[str]]:
    spreads = {m[1]: k for k, name in enumerate(names) if (m := _OF_UNCERTAINTY.fullmatch(name))}
    unused = [name for name in spreads if name not in names[1:]]
    if unused:
        raise DocumentError(
            f"Line 1: u({unused[0]}) is of no column; one headed {unused[0]} is missing."
        )
    found, notes = [], []
    for k, name in enumerate(names):
        if k == 0 or k in spreads.values():
            continue
        in_radians = name.startswith("arg(") and units[k].strip() == "rad"
        factor = float(np.degrees(1.0)) if in_radians else _scale(units[k], 1)
        values = numbers[:, k] * factor
        of = spreads.get(name)
        if of is None:
            sigma = _sigma(name, values)
            notes.append(f"{name} is taken to be as uncertain as it scatters, as nothing is told")
        else:
            unit = units[of] or units[k]
            own = float(np.degrees(1.0)) if unit.strip() == "rad" else _scale(unit, 1)
            sigma = np.abs(numbers[:, of]) * own / COVERAGE
        if np.any(sigma <= 0):
            raise DocumentError(f"Column {k + 1}, {head[k]}: its uncertainties must be above zero.")
        found.append(_column(name, values, sigma, 1))
    if not found:
        raise DocumentError("Line 1: there is no column of values beside the first.")
    return tuple(found), notes


def _sigma(name: str, values: Array) -> Array:
    """What the values scatter by about a smooth curve, and no less than instruments do."""
    least = np.full(len(values), _DEGREES if name.startswith("arg(") else _DECIBELS)
    if not name.startswith(("arg(", "dB(")):
        least = _SHARE * np.abs(values) + _SHARE / 10 * float(np.max(np.abs(values)))
    least = np.asarray(np.maximum(least, 1e-300))
    if len(values) < 2 * _SMOOTH:
        return least
    told = (4 * (values[1:-3] + values[3:-1]) - (values[:-4] + values[4:])) / 6
    apart = np.abs(values[2:-2] - told) / least[2:-2]
    seen = float(_OF_MEDIAN * np.median(apart) / _OF_CUBIC)
    return np.asarray(least * max(1.0, seen))


def _column(quantity: str, values: Array, sigma: Array, line: int) -> Column:
    try:
        return column_of(quantity, values, sigma)
    except FormulaError as error:
        raise DocumentError(f"Line {line}: {quantity} cannot be read; {error}.") from error


def _head(cell: str) -> tuple[str, str]:
    match = _HEAD.fullmatch(cell)
    return (match[1].strip(), (match[2] or "").strip()) if match else (cell.strip(), "")


def _number(text: str, line: int, column: str) -> float:
    try:
        value = float(text)
    except ValueError:
        raise DocumentError(f"Line {line}, {column}: “{text}” is no number.") from None
    if not np.isfinite(value):
        raise DocumentError(f"Line {line}, {column}: “{text}” is no finite number.")
    return value


def _scale(unit: str, line: int) -> float:
    """The factor to SI units."""
    plain = unit.strip()
    if plain in ("", "°", "deg", "dB", "V", "A", "W", "Ω", "Hz", "s", "V/V"):
        return 1.0
    if plain == "%":
        return 0.01
    try:
        return parse_value(f"1 {plain}", plain[-2:] if plain.endswith("Hz") else plain[-1]).number
    except ValueTextError as error:
        raise DocumentError(f"Line {line}: “{unit}” is no unit that is known here.") from error


def _given(circuit: Circuit) -> dict[str, complex]:
    """Part names stand for their values, as drawn."""
    return {
        e.name: complex(e.values[e.main_key])
        for e in circuit
        if e.main_key and e.main_key in e.values
    }


def _settings(netlist: Netlist, stop: float) -> TransientSettings:
    asked = next((r for r in netlist.requests if isinstance(r, TransientRequest)), None)
    if asked is None:
        return TransientSettings(stop)
    return TransientSettings(
        stop, longest=asked.longest, from_given=asked.from_given, node_voltages=asked.node_voltages
    )


def _with_phasor(circuit: Circuit) -> tuple[Circuit, list[str]]:
    """Where no source has a phasor, the only one is given one."""
    sources = [e for e in circuit if e.imposes]
    if any(e.values.get("magnitude") for e in sources):
        return circuit, []
    if len(sources) != 1:
        raise CircuitError(
            "No source has a phasor; write AC 1 behind the one that drives the response."
        )
    only: Element = sources[0]
    driven = replace(only, values={**only.values, "magnitude": 1.0})
    return circuit.with_element(driven), [f"{only.name} has no phasor; it is taken as AC 1"]
