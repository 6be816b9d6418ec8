"""The circuit in letters: transfer functions and DC quantities in part names, and the equations behind.

The same stamps that are added up as numbers are added up as symbols, and solved without a fraction.
Bounded: a circuit too large for letters is said to be.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, cast

from lucidbench.core.analyses.cramer import Column, quotient
from lucidbench.core.analyses.device_regions import linear_equivalent
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.equations.system import System, assemble, refuse_reactances
from lucidbench.core.errors import CircuitError, FormulaError
from lucidbench.core.formula import parse
from lucidbench.core.formula.sympy_bridge import symbolic
from lucidbench.core.netlist import GROUND_NODE, Circuit

LARGEST = 14  # unknowns: beyond it expressions fill pages and take minutes
MOST_SYMBOLS = 16
READABLE = 8  # symbols: up to so many, what makes parts practical has letters too
_PRACTICAL = {
    "series_resistance": "R_s",
    "leakage_resistance": "R_p",
    "internal_resistance": "R_i",
    "parallel_capacitance": "C_p",
}


@dataclass(frozen=True)
class Transfer:
    """`numerator`/`denominator` in s and part names; `values` are those of the symbols."""

    numerator: Any
    denominator: Any
    s: Any
    values: Mapping[Any, float]

    @property
    def expression(self) -> Any:
        return self.numerator / self.denominator

    @property
    def latex(self) -> str:
        import sympy

        n, d = (
            sympy.latex(sympy.collect(part, self.s)) for part in (self.numerator, self.denominator)
        )
        return n if self.denominator == 1 else rf"\frac{{{n}}}{{{d}}}"

    def at(self, s: complex) -> complex:
        """Its value at a complex frequency [1/s], with the circuit's own values."""
        above, below = self._evaluated(*self.values.values(), s)
        return complex(above / below)

    @cached_property
    def _evaluated(self) -> Callable[..., tuple[complex, complex]]:
        import sympy

        whole = (self.numerator, self.denominator)
        return cast(
            "Callable[..., tuple[complex, complex]]",
            sympy.lambdify([*self.values, self.s], whole, "math"),
        )

    @property
    def poles(self) -> tuple[Any, ...] | None:
        """Closed forms in part names; None where the degree is too high for any."""
        return _roots(self.denominator, self.s)

    @property
    def zeros(self) -> tuple[Any, ...] | None:
        return _roots(self.numerator, self.s)


def _roots(polynomial: Any, s: Any) -> tuple[Any, ...] | None:
    import sympy

    found: list[Any] = []
    for factor, times in sympy.factor_list(polynomial)[1]:
        degree = sympy.degree(factor, s)
        if degree > 2:
            return None
        if degree > 0:
            found += [sympy.simplify(root) for root in sympy.solve(factor, s)] * times
    return tuple(found)


def transfer(circuit: Circuit, source: str, output: str, reference: str = GROUND_NODE) -> Transfer:
    """From an independent source to the voltage between two nodes, in letters.

    Nonlinear parts are taken linearised, as g_m_Q1 and the like. Raises CircuitError, RunRefused.
    """
    import sympy

    element = circuit.element(source)
    if not element.imposes:
        raise CircuitError(f"{source} is no independent source.", (source,))
    refuse_reactances(circuit, "a formula in s")
    linear = linear_equivalent(circuit)
    lettered, values = in_letters(linear)
    system = assemble(lettered)
    s = sympy.Symbol("s")
    matrix = _matrix(system, system.conductances) + s * _matrix(system, system.charges)
    drive = sympy.zeros(system.size, 1)
    share = next(x for x in system.shares if x.element.name == element.name)
    for own, _ in share.stamps.drives:
        if share.row(own) >= 0:
            sign = -1 if element.imposes == "A" and own == 0 else 1
            drive[share.row(own)] += sign
    numerator, denominator = _solved(system, matrix, drive, output, reference)
    return Transfer(numerator, denominator, s, values)


def dc_quantity(circuit: Circuit, output: str, reference: str = GROUND_NODE) -> Transfer:
    """A DC voltage in part names, every source by its name. Raises CircuitError, RunRefused."""
    import sympy

    refuse_reactances(circuit, "a DC formula")
    if not assemble(circuit).is_linear:
        raise CircuitError("A circuit with nonlinear parts has no DC formula in letters.")
    lettered, values = in_letters(circuit, sources=True)
    system = assemble(lettered)
    matrix = _matrix(system, system.conductances)
    drive = sympy.zeros(system.size, 1)
    for row, imposed in system.drives:
        drive[row] += _exact(imposed.dc)
    numerator, denominator = _solved(system, matrix, drive, output, reference)
    return Transfer(numerator, denominator, sympy.Symbol("s"), values)


def dc_voltages(circuit: Circuit) -> dict[str, Any]:
    """Every node's DC voltage in part names, sources by their names. Raises CircuitError, RunRefused."""
    import sympy

    refuse_reactances(circuit, "a DC formula")
    if not assemble(circuit).is_linear:
        raise CircuitError("A circuit with nonlinear parts has no DC formula in letters.")
    lettered, _ = in_letters(circuit, sources=True)
    system = assemble(lettered)
    drive = sympy.zeros(system.size, 1)
    for row, imposed in system.drives:
        drive[row] += _exact(imposed.dc)
    ring, columns = _polynomials(_matrix(system, system.conductances).row_join(drive))
    found = {GROUND_NODE: sympy.Integer(0)}
    for node, row in system.rows.items():
        if row >= 0:
            above, below = _fraction(system, ring, columns, row)
            found[node] = above / below
    return found


def in_letters(circuit: Circuit, sources: bool = False) -> tuple[Circuit, dict[Any, float]]:
    """(the circuit with its main values as symbols, the values of those). Raises RunRefused."""
    import sympy

    system = assemble(circuit)
    if system.size > LARGEST:
        raise RunRefused(
            f"The circuit has {system.size} unknowns, too many for letters; {LARGEST} are the most. "
            f"factored_transfer tells the same in numbers."
        )
    values: dict[Any, float] = {}
    elements = []
    for element in circuit:
        main = element.device.description.main
        is_source = bool(element.imposes)
        if main is None or main.key not in element.values or (is_source and not sources):
            elements.append(element)
            continue
        positive = bool(main.positive)
        symbol = sympy.Symbol(element.name, positive=True if positive else None, real=True)
        values[symbol] = float(element.values[main.key])
        elements.append(element.with_value(main.key, symbol))
    practical = [
        (k, key) for k, e in enumerate(elements) for key in _PRACTICAL if e.values.get(key)
    ]
    if len(values) + len(practical) <= READABLE:
        for k, key in practical:
            symbol = sympy.Symbol(f"{_PRACTICAL[key]}_{elements[k].name}", positive=True)
            values[symbol] = float(elements[k].values[key])
            elements[k] = elements[k].with_value(key, symbol)
    if len(values) > MOST_SYMBOLS:
        raise RunRefused(
            f"The circuit has {len(values)} values, too many for letters; {MOST_SYMBOLS} are the most."
        )
    return replace(circuit, elements=tuple(elements)), values


def _matrix(system: System, triplets: list[tuple[int, int, Any]]) -> Any:
    import sympy

    matrix = sympy.zeros(system.size, system.size)
    for row, column, value in triplets:
        matrix[row, column] += _exact(value)
    return matrix


def _exact(value: Any) -> Any:
    """A number or expression with its decimals as fractions, so that 1.0·R is R."""
    import sympy

    return sympy.nsimplify(value, rational=True)


def _solved(
    system: System, matrix: Any, drive: Any, output: str, reference: str
) -> tuple[Any, Any]:
    """(numerator, denominator) of a voltage, in lowest terms. Raises CircuitError."""
    import sympy

    plus, minus = system.row(output), system.row(reference)
    if plus == minus:
        return sympy.Integer(0), sympy.Integer(1)
    sign = 1
    if plus < 0:
        plus, minus, sign = minus, plus, -1
    if minus >= 0:
        # For the voltage between the two as an unknown in the place of the first.
        matrix = matrix.copy()
        matrix[:, minus] += matrix[:, plus]
    ring, columns = _polynomials(matrix.row_join(sign * drive))
    numerator, denominator = _fraction(system, ring, columns, plus)
    # Roots of letters, as of coupled coils, count as letters of their own there.
    powers = (numerator / denominator).atoms(sympy.Pow)
    if any(power.exp.is_Rational and not power.exp.is_Integer for power in powers):
        reduced = sympy.fraction(sympy.cancel(sympy.together(numerator / denominator)))
        numerator, denominator = (sympy.expand(part) for part in reduced)
    return numerator, denominator


def _fraction(system: System, ring: Any, columns: Sequence[Column], row: int) -> tuple[Any, Any]:
    """(numerator, denominator) of an unknown; the last column is the right-hand side. Raises CircuitError."""
    above, below = quotient(columns[:-1], row, columns[-1])
    if below is None:
        raise system.singular(None)
    fractions = ring.get_field()
    total = fractions.convert_from(ring.zero if above is None else above, ring)
    total = total / fractions.convert_from(below, ring)
    return ring.to_sympy(fractions.numer(total)), ring.to_sympy(fractions.denom(total))


def _polynomials(matrix: Any) -> tuple[Any, list[Column]]:
    """(their ring, the matrix by columns), each row multiplied by what its entries are divided by."""
    from sympy.polys.matrices import DomainMatrix

    _, cleared = DomainMatrix.from_Matrix(matrix).to_field().clear_denoms_rowwise(convert=True)
    columns: list[Column] = [{} for _ in range(matrix.cols)]
    for row, entries in cleared.to_dod().items():
        for column, entry in entries.items():
            columns[column][row] = entry
    return cleared.domain, columns


@dataclass(frozen=True)
class NodeEquation:
    """Kirchhoff's current law at a node, or the law of a branch, as a student writes it."""

    at: str
    equation: Any  # a SymPy equation

    @property
    def latex(self) -> str:
        import sympy

        return str(sympy.latex(self.equation))


def nodal_equations(circuit: Circuit) -> list[NodeEquation]:
    """The equations of a linear circuit in letters, one for each unknown. Raises RunRefused."""
    import sympy

    circuit = linear_equivalent(circuit)
    lettered, _ = in_letters(circuit, sources=True)
    system = assemble(lettered)
    s = sympy.Symbol("s")
    names = [sympy.Symbol(unknown.name) for unknown in system.unknowns]
    rows: list[Any] = [sympy.Integer(0)] * system.size
    for share in system.shares:  # terms stay one an element: (V_a - V_b)/R_1
        own: dict[int, Any] = {}
        for triplets, factor in ((share.stamps.conductances, 1), (share.stamps.charges, s)):
            for row, column, value in triplets:
                at, of = share.row(row), share.row(column)
                if at >= 0 and of >= 0:
                    own[at] = own.get(at, 0) + factor * _exact(value) * names[of]
        for row, drive in share.stamps.drives:
            if share.row(row) >= 0:
                own[share.row(row)] = own.get(share.row(row), 0) - _exact(drive.dc)
        for at, term in own.items():
            rows[at] = sympy.Add(rows[at], sympy.factor_terms(term), evaluate=True)
    return [
        NodeEquation(unknown.name, sympy.Eq(row, 0, evaluate=False))
        for unknown, row in zip(system.unknowns, rows, strict=True)
    ]


@dataclass(frozen=True)
class Comparison:
    """Whether a formula says the same as the exact one; if not, by how much at the circuit's values."""

    equivalent: bool
    difference: Any  # exact minus given, simplified
    error: float  # relative, at the circuit's own values


def compare(exact: Transfer, given: str) -> Comparison:
    """A formula such as "R2/(R1 + R2)" against the exact one, as functions. Raises RunRefused.

    Names are those of the parts, and s.
    """
    import sympy

    known = {str(symbol): symbol for symbol in exact.values} | {"s": exact.s}
    try:
        formula = symbolic(parse(given).body, known)
    except FormulaError as error:
        raise RunRefused(str(error)) from error
    difference = sympy.cancel(sympy.together(exact.expression - formula))
    same = difference == 0 or sympy.simplify(difference) == 0
    at = {**exact.values, exact.s: 1j * _typical(exact)}
    right = complex(exact.expression.subs(at).evalf())
    off = complex(sympy.N(difference.subs(at)))
    return Comparison(bool(same), difference, abs(off) / abs(right) if right else abs(off))


def _typical(exact: Transfer) -> float:
    """A frequency [1/s] at which the circuit's own values matter: its poles' mean size."""
    import numpy as np
    import sympy

    poly = sympy.Poly(exact.denominator.subs(exact.values), exact.s)
    sizes = [abs(complex(r)) for r in np.roots([complex(c) for c in poly.all_coeffs()])]
    sizes = [size for size in sizes if size > 0]
    return float(np.exp(np.mean(np.log(sizes)))) if sizes else 0.0
