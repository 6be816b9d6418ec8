"""A hand line beside the exact result, both in letters."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from lucidbench.core.analyses.symbolic import dc_voltages
from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.formula import names_in, parse
from lucidbench.core.formula.chains import terms_of
from lucidbench.core.formula.evaluate import CONSTANTS
from lucidbench.core.formula.expand import expanded
from lucidbench.core.formula.sympy_bridge import is_nothing, symbolic
from lucidbench.core.formula.tree import Name, Node
from lucidbench.core.formula.worksheet import PLUS_MINUS
from lucidbench.core.netlist import Circuit
from lucidbench.core.working.meant import meant_by
from lucidbench.core.working.same import MOST_OPERATIONS
from lucidbench.core.working.wanted import TargetQuantity, wanted_of

NO_NUMBERS: Mapping[str, float] = {}


def voltages_in_letters(circuit: Circuit) -> Mapping[str, Any]:
    """Those of every node at rest, exactly; empty where there are none in letters."""
    try:
        return dc_voltages(circuit)
    except LucidError:
        return {}


def is_same_in_letters(
    circuit: Circuit,
    voltages: Mapping[str, Any],
    figure: str,
    lines: Sequence[str],
    written: Mapping[str, str],
    numbers: Mapping[str, float] = NO_NUMBERS,
    is_turned: bool = False,
) -> bool | None:
    """Whether the line that gives a voltage, current or power at rest is the exact result; None where algebra
    cannot say. `voltages` are those in letters, `written` the texts of values, by the names of parts and
    parameters; `numbers` are what letters come to that the line may have as numbers. Where it `is_turned`,
    the line counts out of the part's first pin."""
    import sympy

    try:
        definitions = _definitions(lines)
        if figure not in definitions:
            return None
        by_names = _by_names(written)
        hand = expanded(definitions[figure], {**by_names, **definitions})
        terms = terms_of(parse(meant_by(figure, circuit) or figure).body)
        if not all(isinstance(each, Name) for _, each in terms):
            return None
        exact = sum(
            sign * _exact(circuit, voltages, wanted_of(each.name))
            for sign, each in terms
            if isinstance(each, Name)
        )
        exact = exact * (-1 if is_turned else 1)
    except LucidError:
        return None
    used = names_in(hand) - set(CONSTANTS)
    put_in = {s: numbers[str(s)] for s in exact.free_symbols if str(s) in set(numbers) - used}
    exact = exact.subs({s: sympy.nsimplify(x, rational=True) for s, x in put_in.items()})
    letters: dict[str, Any] = {str(symbol): symbol for symbol in exact.free_symbols}
    letters |= {name: letters.get(name, sympy.Symbol(name)) for name in used}
    try:
        instead = {
            symbol: symbolic(expanded(by_names[str(symbol)], by_names), _all(letters, by_names))
            for symbol in exact.free_symbols
            if str(symbol) in by_names
        }
        difference = exact.subs(instead) - symbolic(hand, _all(letters, by_names))
        nothing = {s: 0 for s in difference.free_symbols if str(s) in _of_nothing(circuit)}
        difference = difference.subs(nothing)
    except (FormulaError, TypeError):
        return None
    return is_nothing(difference, MOST_OPERATIONS)


def _of_nothing(circuit: Circuit) -> set[str]:
    """Sources that give nothing: an ammeter's leaves no letter behind."""
    return {e.name for e in circuit if e.imposes and not e.values.get(e.main_key, 0.0)}


def _all(letters: dict[str, Any], by_names: Mapping[str, Node]) -> dict[str, Any]:
    import sympy

    for body in by_names.values():
        for name in names_in(body) - set(CONSTANTS):
            letters.setdefault(name, sympy.Symbol(name))
    return letters


def _definitions(lines: Sequence[str]) -> dict[str, Node]:
    found: dict[str, Node] = {}
    for text in lines:
        try:
            formula = parse(text.partition(PLUS_MINUS)[0])
        except FormulaError:
            continue
        if formula.target:
            found.setdefault(formula.target, formula.body)
    return found


def _by_names(written: Mapping[str, str]) -> dict[str, Node]:
    """The values that are formulas of other names."""
    found: dict[str, Node] = {}
    for name, text in written.items():
        try:
            body = parse(text).body
        except FormulaError:
            continue
        if names_in(body) - set(CONSTANTS):
            found[name] = body
    return found


def _exact(circuit: Circuit, voltages: Mapping[str, Any], wanted: TargetQuantity) -> Any:
    """In SymPy's letters. Raises LucidError."""

    def volts(node: str) -> Any:
        if node not in voltages:
            raise LucidError(f"Node {node} has no voltage in letters.")
        return voltages[node]

    if wanted.kind == "V":
        return volts(wanted.nodes[0]) - volts(wanted.nodes[1])
    import sympy

    element = circuit.element(wanted.part)
    if element.imposes == "A" and wanted.kind == "I":
        return sympy.Symbol(element.name, real=True)
    across = volts(element.nodes[0]) - volts(element.nodes[1])
    if element.kind != "resistor":
        raise LucidError(f"{wanted.part} is no resistor.")
    current = across / sympy.Symbol(element.name, positive=True, real=True)
    return current if wanted.kind == "I" else across * current
