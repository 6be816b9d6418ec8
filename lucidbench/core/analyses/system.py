"""The circuit equation assembled: G, C and b of a circuit, and what its unknowns mean.

Unknowns x, length n: node voltages [V] in the circuit's order, then branch currents [A] element by
element. Small systems are solved dense, large ones sparse, both with one step of iterative
refinement (Higham, Accuracy and Stability of Numerical Algorithms, 2nd ed., 2002, chapter 12).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from lucidbench.core.devices import Stamps
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

Array = npt.NDArray[np.float64]
LARGEST_DENSE = 200  # unknowns; above it a sparse factorisation is the quicker one


@dataclass(frozen=True)
class System:
    """`rows[node]` is a node's row (-1 for ground); `branch_rows[name]` an element's first own row."""

    circuit: Circuit
    rows: dict[str, int]
    branch_rows: dict[str, int]
    size: int
    stamps: Stamps

    def matrix(self, triplets: list[tuple[int, int, float]]) -> Array:
        """Dense n x n matrix of `triplets`, repeated places summed."""
        dense = np.zeros((self.size, self.size))
        if triplets:
            rows, columns, values = zip(*triplets, strict=True)
            np.add.at(dense, (np.array(rows), np.array(columns)), np.array(values))
        return dense

    def drive(self) -> Array:
        """b, shape (n,)."""
        b = np.zeros(self.size)
        for row, value in self.stamps.drives:
            b[row] += value
        return b

    def solver(self) -> Callable[[Array], Array]:
        """A function solving G x = r for r of shape (n,) or (n, k), G factored once.

        Raises CircuitError where G is singular to working precision.
        """
        if self.size <= LARGEST_DENSE:
            return self._dense_solver()
        return self._sparse_solver()

    def _dense_solver(self) -> Callable[[Array], Array]:
        from scipy.linalg import lapack

        g = self.matrix(self.stamps.conductances)
        factors, pivots, info = lapack.dgetrf(g)
        if info != 0 or not np.all(np.isfinite(factors)):
            raise self._singular(info - 1 if info > 0 else None)

        def solve(r: Array) -> Array:
            x, _ = lapack.dgetrs(factors, pivots, r)
            correction, _ = lapack.dgetrs(factors, pivots, r - g @ x)
            return np.asarray(x + correction)

        return solve

    def _sparse_solver(self) -> Callable[[Array], Array]:
        from scipy.sparse import coo_array
        from scipy.sparse.linalg import splu

        rows, columns, values = zip(*self.stamps.conductances, strict=True)
        g = coo_array((values, (rows, columns)), shape=(self.size, self.size)).tocsc()
        try:
            factors = splu(g)
        except RuntimeError as failure:
            raise self._singular(None) from failure

        def solve(r: Array) -> Array:
            x = factors.solve(r)
            return np.asarray(x + factors.solve(r - g @ x))

        return solve

    def _singular(self, row: int | None) -> CircuitError:
        unknowns = [f"V_{n}" for n in self.rows if n != GROUND_NODE]
        unknowns += [f"I_{name}" for name in self.branch_rows]
        at = f" at {unknowns[row]}" if row is not None and row < len(unknowns) else ""
        return CircuitError(
            f"The circuit has no single solution{at}: the values are too far apart, or a part "
            f"constrains nothing. Check the values there."
        )


def assemble(circuit: Circuit) -> System:
    """Number the unknowns and let every element add its share."""
    rows = {node: row for row, node in enumerate(circuit.nodes)}
    rows[GROUND_NODE] = -1
    size = len(rows) - 1
    branch_rows: dict[str, int] = {}
    for element in circuit:
        if element.device.branches:
            branch_rows[element.name] = size
            size += element.device.branches
    system = System(circuit, rows, branch_rows, size, Stamps())
    for element in circuit:
        stamp_element(system, element, element.values, system.stamps)
    return system


def stamp_element(system: System, element: Element, values: dict[str, float], into: Stamps) -> None:
    """Let one element, with the given values, add its share to `into`."""
    nodes = [system.rows[node] for node in element.nodes]
    element.device.stamp(values, nodes, system.branch_rows.get(element.name, -1), into)
