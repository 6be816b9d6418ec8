"""A circuit made ready for the kernels: its tables, and how its matrix is factored."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, TypeAlias, cast

import numpy as np
import numpy.typing as npt

from lucidbench.core.devices.base import GROUND_ROW
from lucidbench.core.equations.shared_flux import following, with_voltages_for_fluxes
from lucidbench.core.equations.system import LARGEST_DENSE, Array, System, laws

if TYPE_CHECKING:  # the kernels import the compiler, which costs half a second
    from lucidbench.core.kernels.tables import Plan, Tables

Pattern: TypeAlias = tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]  # rows, columns
_PLANNED = 1e-12  # of the largest entry: added to the diagonal where no order of pivots is found
SMALL = 48  # unknowns up to which the matrix is factored dense, with row exchange


@dataclass(frozen=True)
class CompiledSystem:
    """What the kernels need of one circuit."""

    system: System
    tables: Tables
    pattern: Pattern

    def plan(self, values: Array, dense: bool = False) -> Plan:
        """How to factor a matrix whose entries at the pattern's places are about `values`; `dense`
        where no fixed order of pivots serves. Raises CircuitError where none is found."""
        rows, columns = self.pattern
        n = self.system.size
        if n <= SMALL or (dense and n <= LARGEST_DENSE):
            return dense_plan(n, rows, columns)
        for _ in range(2):
            try:
                return sparse_plan(n, rows, columns, values)
            except RuntimeError:
                if n <= LARGEST_DENSE:
                    return dense_plan(n, rows, columns)
                # What hardly conducts is lost beside the rest, so that any order will do.
                values = values.copy()
                values[self.tables.diagonal] += _PLANNED * float(np.max(np.abs(values)))
        raise self.system.singular(None)


def compile_system(system: System, moving: bool = False) -> CompiledSystem:
    """Tables of `system`, of its equation at rest; with `moving`, sources follow their waveforms.

    What a run changes (the states of switches, the controls last used) is its own each time.
    """
    key = f"tables, moving {moving}"
    if key not in system.derived:
        system.derived[key] = tabulate(system, moving)
    tables, pattern = cast("tuple[Tables, Pattern]", system.derived[key])
    own = tables._replace(
        c=tables.c.copy(), parameters=tables.parameters.copy(), held=tables.held.copy()
    )
    return CompiledSystem(system, own, pattern)


def tabulate(system: System, moving: bool) -> tuple[Tables, Pattern]:
    from lucidbench.core.kernels.tables import Tables

    n = system.size
    uses = laws(system)
    places: dict[tuple[int, int], int] = {}

    place_of = places.setdefault

    def place(row: int, column: int) -> int:
        if row == GROUND_ROW or column == GROUND_ROW:
            return -1
        return place_of((row, column), len(places))

    if moving:
        resistive, storing = with_voltages_for_fluxes(
            following(system), system.conductances, system.charges
        )
    else:
        resistive, storing = [*system.conductances, *system.holding], system.charges
    linear = [(place_of((r, c), len(places)), g) for r, c, g in resistive]
    stored = [(place_of((r, c), len(places)), q) for r, c, q in storing]
    slots: list[int] = []
    numbers: dict[str, list[int]] = {"law": [], "plus": [], "minus": [], "source": [], "target": []}
    parameters: list[float] = []
    parameter_at, control_at, branch_at, slot_at = [0], [0], [0], [0]
    for share, use in uses:
        controls = [(share.row(a), share.row(b)) for a, b in use.controls]
        branches = [(share.row(a), share.row(b)) for a, b in use.branches]
        numbers["law"].append(int(use.law))
        parameters += use.parameters
        for plus, minus in controls:
            numbers["plus"].append(plus)
            numbers["minus"].append(minus)
        for source, target in branches:
            numbers["source"].append(source)
            numbers["target"].append(target)
            for plus, minus in controls:
                slots += (
                    place(source, plus),
                    place(source, minus),
                    place(target, plus),
                    place(target, minus),
                )
        parameter_at.append(len(parameters))
        control_at.append(len(numbers["plus"]))
        branch_at.append(len(numbers["source"]))
        slot_at.append(len(slots))
    diagonal = [place(k, k) for k in range(n)]
    m = len(places)
    g, c = np.zeros(m), np.zeros(m)
    for k, value in linear:
        g[k] += value
    for k, value in stored:
        c[k] += value
    constant = np.zeros(n)
    waves: list[tuple[int, int, tuple[float, ...]]] = []
    for row, source_drive in system.drives:
        if moving and source_drive.waveform is not None:
            shape, data = source_drive.waveform.row()
            waves.append((row, int(shape), data))
        else:
            constant[row] += source_drive.dc
    rows = np.array([r for r, _ in places], np.int32)
    columns = np.array([c for _, c in places], np.int32)
    integers = {key: np.array(value, np.int32) for key, value in numbers.items()}
    tables = Tables(
        n=n,
        rows=rows,
        columns=columns,
        g=g,
        c=c,
        constant=constant,
        is_node=np.array([u.unit == "V" for u in system.unknowns], bool),
        diagonal=np.array(diagonal, np.int32),
        wave_row=np.array([row for row, _, _ in waves], np.int32),
        wave_shape=np.array([shape for _, shape, _ in waves], np.int32),
        wave_at=np.cumsum([0, *(len(data) for _, _, data in waves)]).astype(np.int32),
        wave_data=np.array([number for _, _, data in waves for number in data], float),
        law=integers["law"],
        parameter_at=np.array(parameter_at, np.int32),
        parameters=np.array(parameters, float),
        control_at=np.array(control_at, np.int32),
        plus=integers["plus"],
        minus=integers["minus"],
        branch_at=np.array(branch_at, np.int32),
        source=integers["source"],
        target=integers["target"],
        slot_at=np.array(slot_at, np.int32),
        slots=np.array(slots, np.int32),
        held=np.zeros(len(numbers["plus"])),
    )
    return tables, (rows, columns)


def dense_plan(n: int, rows: npt.NDArray[np.int32], columns: npt.NDArray[np.int32]) -> Plan:
    from lucidbench.core.kernels.tables import Plan

    none = np.zeros(0, np.int32)
    return Plan(True, n * n, rows * n + columns, none, none, none, none, none)


def sparse_plan(
    n: int, rows: npt.NDArray[np.int32], columns: npt.NDArray[np.int32], values: Array
) -> Plan:
    """An order of rows and columns that keeps pivots large and fill small, and the filled pattern."""
    from scipy.sparse import coo_array
    from scipy.sparse.linalg import splu

    from lucidbench.core.kernels.tables import Plan

    # Places that are zero now may not stay so: they enter the pattern, too small to be pivots.
    sizes = np.abs(values[values != 0.0])
    shown = np.where(values == 0.0, 1e-3 * float(np.min(sizes, initial=1.0)), values)
    factors = splu(coo_array((shown, (rows, columns)), shape=(n, n)).tocsc())
    row_of = np.asarray(factors.perm_r, np.int32)  # row r becomes row row_of[r]
    column_of = np.asarray(factors.perm_c, np.int32)
    pattern: list[set[int]] = [set() for _ in range(n)]
    for r, c in zip(row_of[rows].tolist(), column_of[columns].tolist(), strict=True):
        pattern[r].add(c)
    _fill(pattern)
    start = [0]
    column: list[int] = []
    middle: list[int] = []
    for i, members in enumerate(pattern):
        ordered = sorted(members)
        middle.append(start[-1] + ordered.index(i))
        column += ordered
        start.append(len(column))
    index = {}
    for i in range(n):
        for k in range(start[i], start[i + 1]):
            index[i, column[k]] = k
    slot = [
        index[r, c] for r, c in zip(row_of[rows].tolist(), column_of[columns].tolist(), strict=True)
    ]
    return Plan(
        False,
        len(column),
        np.array(slot, np.int32),
        np.argsort(row_of).astype(np.int32),
        np.argsort(column_of).astype(np.int32),
        np.array(start, np.int32),
        np.array(column, np.int32),
        np.array(middle, np.int32),
    )


def _fill(pattern: list[set[int]]) -> None:
    """Add to each row what elimination brings into it."""
    upper: list[list[int]] = []
    for i, members in enumerate(pattern):
        members.add(i)
        pending = sorted(c for c in members if c < i)
        k = 0
        while k < len(pending):
            new = [c for c in upper[pending[k]] if c not in members]
            members.update(new)
            below = [c for c in new if c < i]
            k += 1
            if below:
                pending = pending[:k] + sorted(pending[k:] + below)
        upper.append([c for c in members if c > i])


def places_of(tables: Tables) -> Array:
    """Room for G and C, shape (2, m)."""
    return np.zeros((2, len(tables.rows)))


def evaluated(
    tables: Tables, x: Array, limiting: bool = False, time: float = 0.0
) -> tuple[Array, Array, Array]:
    """(f, q, places) at `x` and `time` [s]; places are G and C at the pattern's places, shape (2, m)."""
    from lucidbench.core.devices.laws.dispatch import ROOM
    from lucidbench.core.kernels.evaluate import evaluate

    f, q, places = np.empty(tables.n), np.empty(tables.n), places_of(tables)
    evaluate(tables, x, time, limiting, True, f, q, places[0], places[1], np.empty(ROOM))
    return f, q, places
