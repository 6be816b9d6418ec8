"""The circuit equation assembled: what its unknowns mean, and its linear shares G, C and b.

Unknowns x, length n: node voltages [V] in the circuit's order, then each element's own unknowns.
Small systems are solved dense, large ones sparse, both with one step of iterative refinement (Higham,
Accuracy and Stability of Numerical Algorithms, 2nd ed., 2002, chapter 12).
"""

from __future__ import annotations

import weakref
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import chain
from typing import Any, NamedTuple, cast

import numpy as np
import numpy.typing as npt

from lucidbench.core.devices import Setting, Stamps
from lucidbench.core.devices.base import GROUND_ROW, LawUse
from lucidbench.core.devices.waveforms import Waveform
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element, Fault, listed, unheld
from lucidbench.core.pickling import PickledByFields

Array = npt.NDArray[np.float64]
Places = npt.NDArray[np.intp]
ComplexArray = npt.NDArray[np.complex128]
Triplet = tuple[int, int, Any]
LARGEST_DENSE = 200  # unknowns; above it a sparse factorisation is the quicker one


class Unknown(NamedTuple):
    """One entry of x: "V_out", "I_V1", or an element's inner node."""

    name: str
    unit: str  # "V" or "A"
    element: str | None = None  # None for a node of the circuit


class ElementStamp(NamedTuple):
    """One element's stamps. `rows[k]` is the row of its own number k; ground has row -1."""

    element: Element
    rows: tuple[int, ...]
    stamps: Stamps

    def row(self, own: int) -> int:
        return GROUND_ROW if own == GROUND_ROW else self.rows[own]

    def placed(self, own: Sequence[Triplet]) -> list[Triplet]:
        """Triplets of the element's own numbering in that of the system, without ground's."""
        rows = self.rows
        found: list[Triplet] = []
        for a, b, value in own:
            if a != GROUND_ROW and b != GROUND_ROW:
                row, column = rows[a], rows[b]
                if row != GROUND_ROW and column != GROUND_ROW:
                    found.append((row, column, value))
        return found


class Terms(NamedTuple):
    """Numbers of all elements in one row, each with the two places it belongs to; those of element k
    begin at `first[k]`."""

    first: Places
    rows: Places
    columns: Places
    values: Array


def terms_of(by_element: Sequence[Sequence[Triplet]]) -> Terms:
    """Those of each element in turn."""
    first = np.cumsum([0, *map(len, by_element)], dtype=np.intp)
    every = list(chain.from_iterable(by_element))
    rows, columns, values = zip(*every, strict=True) if every else ((), (), ())
    return Terms(
        first, np.array(rows, np.intp), np.array(columns, np.intp), np.array(values, float)
    )


def summed(places: Places, values: Array, size: int) -> Array:
    """Of the values, those of each place together, in their order, shape (size,)."""
    return np.bincount(places, values, minlength=size).astype(float, copy=False)


@dataclass(frozen=True)
class System(PickledByFields):
    """`rows[node]` is a node's row (-1 for ground); `own_rows[name]` those of an element."""

    circuit: Circuit
    rows: dict[str, int]
    own_rows: dict[str, tuple[int, ...]]
    unknowns: tuple[Unknown, ...]
    shares: tuple[ElementStamp, ...]
    # Its tables, once made (equations/compiled.py); a changed copy begins empty.
    derived: dict[str, object] = field(default_factory=dict, init=False, compare=False, repr=False)

    def row(self, node: str) -> int:
        """The row of a node, -1 for ground. Raises CircuitError where there is none of that name."""
        if node not in self.rows:
            raise CircuitError(f"There is no node called {node}.", (), (node,))
        return self.rows[node]

    @property
    def size(self) -> int:
        return len(self.unknowns)

    @cached_property
    def is_linear(self) -> bool:
        return not any(share.stamps.laws for share in self.shares)

    @cached_property
    def conductances(self) -> list[Triplet]:
        """Linear share of G as (row, column, value)."""
        return self._triplets("conductances")

    @cached_property
    def charges(self) -> list[Triplet]:
        """Linear share of C."""
        return self._triplets("charges")

    @cached_property
    def imaginary(self) -> list[Triplet]:
        """What reactances given at one frequency add to the imaginary part of the matrix."""
        return self._triplets("impedances")

    @cached_property
    def unheld(self) -> tuple[int, ...]:
        """A row of each group of nodes that nothing holds at DC. Held at zero there by a conductance,
        which carries nothing, the equation has one solution."""
        return tuple(self.rows[nodes[0]] for nodes in unheld(self.circuit))

    @property
    def holding(self) -> list[Triplet]:
        """These conductances, of the equation at rest only."""
        return [(row, row, 1.0) for row in self.unheld]

    def _triplets(self, kind: str) -> list[Triplet]:
        return [
            triplet
            for share in self.shares
            for triplet in share.placed(getattr(share.stamps, kind))
        ]

    @property
    def linear_terms(self) -> Terms:
        """The linear share of G, element by element."""
        if "linear terms" not in self.derived:
            placed = [share.placed(share.stamps.conductances) for share in self.shares]
            self.derived["linear terms"] = terms_of(placed)
        return cast(Terms, self.derived["linear terms"])

    def matrix(self, triplets: list[Triplet]) -> Array:
        """Dense n x n matrix of `triplets`, repeated places summed."""
        dense = np.zeros((self.size, self.size))
        if triplets:
            rows, columns, values = zip(*triplets, strict=True)
            np.add.at(dense, (np.array(rows), np.array(columns)), np.array(values))
        return dense

    def sparse(self, triplets: list[Triplet]) -> Any:
        """The same as a compressed sparse matrix."""
        from scipy.sparse import coo_array

        rows, columns, values = zip(*triplets, strict=True) if triplets else ((), (), ())
        return coo_array((values, (rows, columns)), shape=(self.size, self.size)).tocsc()

    def dc_drive(self) -> Array:
        """b at DC, shape (n,)."""
        b = np.zeros(self.size)
        for row, drive in self.drives:
            b[row] += drive.dc
        return b

    def phasor_drive(self) -> ComplexArray:
        """B, peak phasors, shape (n,)."""
        b = np.zeros(self.size, complex)
        for row, drive in self.drives:
            b[row] += drive.phasor
        return b

    @cached_property
    def drives(self) -> list[tuple[int, Any]]:
        return [
            (share.row(own), drive)
            for share in self.shares
            for own, drive in share.stamps.drives
            if share.row(own) != GROUND_ROW
        ]

    @cached_property
    def waveforms(self) -> list[tuple[int, Waveform]]:
        return [(row, drive.waveform) for row, drive in self.drives if drive.waveform is not None]

    def solver(self) -> Callable[[Array], Array]:
        """A function solving G x = r at rest for r of shape (n,) or (n, k), G factored once.

        Raises CircuitError where G is singular to working precision.
        """
        _, rows, columns, values = self.linear_terms
        if self.unheld:
            rows, columns = (np.append(places, self.unheld) for places in (rows, columns))
            values = np.append(values, np.ones(len(self.unheld)))
        return self.solver_of(rows, columns, values)

    def solver_of(self, rows: Places, columns: Places, values: Array) -> Callable[[Array], Array]:
        """The same of a matrix by its places, repeated ones summed."""
        n = self.size
        if n <= LARGEST_DENSE:
            dense = summed(n * rows + columns, values, n * n)
            return dense_solver(dense.reshape(n, n), self)
        from scipy.sparse import coo_array

        sparse = coo_array((values, (rows, columns)), shape=(n, n)).tocsc()
        return sparse_solver(sparse, self)

    def singular(self, row: int | None) -> CircuitError:
        """What to say where the matrix has no inverse; `row` is where that was noticed."""
        unknown = self.unknowns[row] if row is not None and row < self.size else None
        if unknown is None:
            return CircuitError(
                "The circuit has no single solution: the values are too far apart, or a part "
                "constrains nothing."
            )
        node = unknown.name[2:] if unknown.element is None else ""
        parts = tuple(e.name for e in self.circuit if e.name == unknown.element or node in e.nodes)
        return CircuitError(
            f"The circuit has no single solution at {unknown.name}: the values are too far apart, or a "
            f"part there constrains nothing. Check {listed(parts)}.",
            parts,
            (node,) if node else (),
        )


def dense_solver(a: npt.NDArray[Any], system: System) -> Callable[[Any], Any]:
    """A function solving a·x = r, `a` real or complex. Raises CircuitError where it is singular."""
    from scipy.linalg import lapack

    complex_valued = np.iscomplexobj(a)
    factorise = lapack.zgetrf if complex_valued else lapack.dgetrf
    substitute = lapack.zgetrs if complex_valued else lapack.dgetrs
    factors, pivots, info = factorise(a)
    if info != 0 or not np.all(np.isfinite(factors)):
        raise system.singular(info - 1 if info > 0 else None)

    def solve(r: Any) -> Any:
        x, _ = substitute(factors, pivots, r)
        correction, _ = substitute(factors, pivots, r - a @ x)
        return np.asarray(x + correction)

    return solve


def sparse_solver(a: Any, system: System) -> Callable[[Any], Any]:
    """The same for a sparse matrix."""
    from scipy.sparse.linalg import splu

    try:
        factors = splu(a)
    except RuntimeError as failure:
        raise system.singular(None) from failure

    def solve(r: Any) -> Any:
        x = factors.solve(r)
        return np.asarray(x + factors.solve(r - a @ x))

    return solve


def assemble(circuit: Circuit) -> System:
    """Number the unknowns and let every element add its share.

    Raises CircuitError where an element refers to one that is not there or carries no current.
    """
    # Known again while any result of the circuit is kept. A firm hold would be a circle, and large
    # circuits would pile up until the collector comes by.
    known = cast("weakref.ref[System] | None", circuit.derived.get("system"))
    system = known() if known is not None else None
    if system is None:
        system = _assembled(circuit)
        circuit.derived["system"] = weakref.ref(system)
    return system


def _assembled(circuit: Circuit) -> System:
    rows = {node: row for row, node in enumerate(circuit.nodes)}
    unknowns = [Unknown(f"V_{node}", "V") for node in circuit.nodes]
    rows[GROUND_NODE] = GROUND_ROW
    own_rows: dict[str, tuple[int, ...]] = {}
    for element in circuit:
        own = element.device.own(element)
        if own:
            own_rows[element.name] = tuple(range(len(unknowns), len(unknowns) + len(own)))
            for name, unit in own:
                letter = "I" if unit == "A" else "V"
                unknowns.append(
                    Unknown(
                        f"{letter}_{element.name}{'.' if name else ''}{name}", unit, element.name
                    )
                )
    referred = {
        element.name: _referred(circuit, element, own_rows, unknowns)
        for element in circuit
        if element.refers
    }
    _refuse_impossible_coupling(circuit, referred)
    shares = []
    for element in circuit:
        local = tuple([rows[node] for node in element.nodes]) + own_rows.get(element.name, ())
        others: tuple[Element, ...] = ()
        if element.refers:
            others, other_rows = referred[element.name]
            local += other_rows
        shares.append(ElementStamp(element, local, _stamps(element, circuit.temperature, others)))
    return System(circuit, rows, own_rows, tuple(unknowns), tuple(shares))


def _refuse_impossible_coupling(
    circuit: Circuit, referred: dict[str, tuple[tuple[Element, ...], tuple[int, ...]]]
) -> None:
    """Raise CircuitError where coils are coupled more than their flux allows.

    Their inductance matrix must not have a negative eigenvalue: else some set of currents would store
    less than no energy.
    """
    pairs = [(e, *referred[e.name][0]) for e in circuit if e.device.description.couples]
    seen: set[frozenset[str]] = set()
    for coupling, first, second in pairs:
        both = frozenset((first.name, second.name))
        if len(both) < 2 or both in seen:
            raise CircuitError(
                f"{coupling.name} couples {first.name} with itself."
                if len(both) < 2
                else f"{first.name} and {second.name} are coupled twice; take {coupling.name} out.",
                (coupling.name,),
            )
        seen.add(both)
    coils = list(dict.fromkeys(coil.name for _, a, b in pairs for coil in (a, b)))
    if len(coils) < 3 or any(not isinstance(e.values["coupling"], float) for e, _, _ in pairs):
        return
    factors = np.eye(len(coils))
    for coupling, first, second in pairs:
        i, j = coils.index(first.name), coils.index(second.name)
        factors[i, j] = factors[j, i] = coupling.values["coupling"]
    if np.linalg.eigvalsh(factors)[0] < -1e-12:
        names = tuple(e.name for e, _, _ in pairs)
        raise CircuitError(
            f"{listed(names)} ask for more coupling than {listed(coils)} can have together: two coils "
            f"coupled closely to a third are coupled to each other as well.",
            names,
        )


def stamped(circuit: Circuit, element: Element) -> Stamps:
    """One element's share, in its own numbering."""
    referred = tuple(circuit.element(name) for name in element.refers)
    return _stamps(element, circuit.temperature, referred)


def _stamps(element: Element, temperature: float, referred: tuple[Element, ...]) -> Stamps:
    """The same; known again of an element that stands alone, as most do through many circuits."""
    key = ("stamps", temperature)
    known = element.derived.get(key) if not referred else None
    if known is not None:
        return cast(Stamps, known)
    stamps = Stamps()
    try:
        element.device.stamp(element, Setting(temperature, referred), stamps)
    except ArithmeticError as error:
        raise CircuitError(
            f"The values of {element.name} are too extreme to be worked out.", (element.name,)
        ) from error
    if not referred:
        element.derived[key] = stamps
    return stamps


def _referred(
    circuit: Circuit,
    element: Element,
    own_rows: dict[str, tuple[int, ...]],
    unknowns: list[Unknown],
) -> tuple[tuple[Element, ...], tuple[int, ...]]:
    """The elements it refers to, and the rows of their currents."""
    others = []
    rows = []
    for name in element.refers:
        try:
            other = circuit.element(name)
        except CircuitError:
            raise CircuitError(
                f"{element.name} refers to {name}, and there is no such element.", (element.name,)
            ) from None
        rows_of_other = own_rows.get(other.name, ())
        row = next((r for r in rows_of_other if unknowns[r].name == f"I_{other.name}"), None)
        wanted = element.device.description.couples
        if row is None or (wanted and other.device.description.stores != "flux"):
            what = "couples inductors" if wanted else "senses the current of a voltage source"
            raise CircuitError(
                f"{element.name} {what}, and {other.name} is "
                f"a {other.device.description.label.lower()}"
                + ("." if wanted else "; put an ammeter, or a source of 0 V, in series with it."),
                (element.name, other.name),
            )
        others.append(other)
        rows.append(row)
    return tuple(others), tuple(rows)


def refuse_faults(faults: Sequence[Fault], rather: str = "") -> None:
    """Raise CircuitError for the gravest, if there are any; `rather` says what else may be done."""
    if faults:
        raise CircuitError(faults[0].sentence + rather, faults[0].elements, faults[0].nodes)


def refuse_reactances(circuit: Circuit, analysis: str) -> None:
    """Raise CircuitError where a part is given at one frequency only, which `analysis` cannot take."""
    given = [
        e.name
        for e in circuit
        if e.device.description.plain_at_one_frequency
        and e.values.get("reactance", 0.0) != 0
        and not e.values.get("frequency")
    ]
    if given:
        raise CircuitError(
            f"{listed(given)} {'is' if len(given) == 1 else 'are'} given as a reactance, which holds "
            f"at one frequency only; {analysis} needs the capacitance or inductance behind it: say in "
            f"{'its card' if len(given) == 1 else 'their cards'} at which frequency it is given.",
            tuple(given),
        )


def laws(system: System) -> list[tuple[ElementStamp, LawUse]]:
    """Every use of a compiled law, with the element it belongs to."""
    return [(share, use) for share in system.shares for use in share.stamps.laws]
