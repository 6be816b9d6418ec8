"""Node equations: Kirchhoff's current law at every node whose voltage is not known, then elimination.

Voltage sources tie nodes together; what is tied has one unknown, and one equation around all of it. An ideal
op-amp holds its inputs at one voltage, and its output takes no equation.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from lucidbench.core.formula import Known, names_in
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.sympy_bridge import formula_text, symbolic
from lucidbench.core.graphs import connected
from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.units.dimensions import VOLTAGE
from lucidbench.core.working.elimination import eliminate
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.writing import bracketed, summed


@dataclass(frozen=True)
class _Potential:
    """A node's voltage as that of another and what sources add; `base` is None where it is known outright."""

    base: str | None
    text: str
    value: complex


def node_equations(
    network: Network, pad: Derivation, wanted: frozenset[str] = frozenset(), suffix: str = ""
) -> dict[str, str]:
    """Writes the equations and solves them; gives every node's voltage as an expression. `suffix` is put
    behind the names of voltages. Raises NoWorking."""
    potentials = _potentials(network, wanted, suffix)
    bases = list(dict.fromkeys(p.base for p in potentials.values() if p.base))
    solved = network.solved
    names = {base: f"V_{base}{suffix}" for base in bases}
    unknowns = {names[base]: Known(_number(solved.voltages[base]), VOLTAGE) for base in bases}
    groups = _groups(network)
    if len(groups) != len(bases):
        raise NoWorking("There are not as many node equations as unknown voltages.")
    listed = ", ".join(names.values())
    if not bases:
        return {node: p.text for node, p in potentials.items()}
    words = "voltage is" if len(bases) == 1 else "voltages are"
    pad.say(
        f"The unknown {words} {listed}. What flows out of a node through its branches adds up to zero."
    )
    matrix = np.zeros((len(bases), len(bases)), complex)
    right = np.zeros(len(bases), complex)
    equations: list[str] = []
    for row, group in enumerate(groups):
        terms: list[str] = []
        parts: list[str] = []
        for b in network.branches:
            inside = [n in group for n in b.nodes]
            if b.kind in ("voltage", "opamp") or inside[0] == inside[1]:
                continue
            here, there = b.nodes if inside[0] else b.nodes[::-1]
            parts += b.parts
            terms.append(_term(b, here, there, potentials))
            _stamp(matrix, right, row, b, here, there, potentials, bases)
        where = " and ".join(sorted(group)) if len(group) > 1 else f"node {next(iter(group))}"
        around = "together, tied by a source" if len(group) > 1 else ""
        words = f"At {where}{' ' + around if around else ''}:"
        equations.append(summed([term.replace("0 V", "0") for term in terms]))
        pad.equation(words, summed(terms), "0 A", unknowns, tuple(dict.fromkeys(parts)))
    if len(bases) == 1:
        name = names[bases[0]]
        body = _in_letters(name, f"{equations[0]} = 0")
        body = "0 V" if body == "0" else body
        pad.write("Solved for it:", name, body, complex(unknowns[name].value))
        return {node: p.text for node, p in potentials.items()}
    eliminate(pad, list(names.values()), matrix, right, "S", "A", unknowns)
    for base in bases:
        if names[base] not in pad.names:
            raise NoWorking("The equations were not solved.")
    return {node: p.text for node, p in potentials.items()}


def _number(value: complex) -> complex | float:
    return value if complex(value).imag else complex(value).real


def _potentials(network: Network, wanted: frozenset[str], suffix: str) -> dict[str, _Potential]:
    """Every node's voltage, from ground and then from nodes that are as good as any."""
    found: dict[str, _Potential] = {GROUND_NODE: _Potential(None, "0 V", 0j)}
    ties = [b for b in network.branches if b.kind in ("voltage", "opamp")]

    def spread() -> None:
        grown = True
        while grown:
            grown = False
            for b in ties:
                a, c = b.nodes if b.kind == "voltage" else b.senses
                for here, there, sign in ((a, c, -1), (c, a, 1)):
                    if here in found and there not in found:
                        found[there] = _tied(found[here], b, sign)
                        grown = True

    spread()
    degree = {node: len(network.at(node)) for node in network.nodes}
    order = sorted(network.nodes, key=lambda node: (node not in wanted, -degree[node]))
    for node in order:
        if node not in found:
            found[node] = _Potential(node, f"V_{node}{suffix}", 0j)
            spread()
    return found


def _tied(at: _Potential, source: Branch, sign: int) -> _Potential:
    """The other end of a source: the + end lies its value above the other."""
    if source.kind == "opamp":
        return at
    name, value = source.name, source.value
    if at.base is None and at.text == "0 V":
        text = name if sign > 0 else f"-{name}"
    else:
        text = f"{at.text} {'+' if sign > 0 else '-'} {name}"
    return _Potential(at.base, text, at.value + sign * value)


def _groups(network: Network) -> list[set[str]]:
    """Nodes that sources tie together, without those tied to ground or given by an op-amp."""
    sources = [b.nodes for b in network.branches if b.kind == "voltage"]
    groups = connected([GROUND_NODE, *network.nodes], sources)
    outputs = {b.nodes[0] for b in network.branches if b.kind == "opamp"}
    return [g for g in groups if GROUND_NODE not in g and not g & outputs and _carries(network, g)]


def _carries(network: Network, group: set[str]) -> bool:
    """Whether anything leads away from it: an input by itself needs no equation."""
    return any(
        (b.nodes[0] in group) != (b.nodes[1] in group) and b.kind != "opamp"
        for b in network.branches
    )


def _term(b: Branch, here: str, there: str, potentials: dict[str, _Potential]) -> str:
    """What flows out of a node through a branch."""
    if b.kind == "current":
        return b.name if b.nodes[0] == here else f"-{b.name}"
    if b.kind == "controlled":
        across = _difference(potentials[b.senses[0]].text, potentials[b.senses[1]].text)
        sign = "" if b.nodes[0] == here else "-"
        return f"{sign}{b.name}*{bracketed(across)}"
    across = _difference(potentials[here].text, potentials[there].text)
    if across == "0 V":
        return f"0 V/{b.name}"
    return f"{bracketed(across)}/{b.name}"


def _in_letters(name: str, equation: str) -> str:
    """An equation with one unknown solved for it, as a formula."""
    import sympy

    sides = sides_of(equation)
    letters = {n: sympy.Symbol(n) for side in sides for n in names_in(side.body)}
    left, right = (symbolic(side.body, letters) for side in sides)
    found = sympy.solve(sympy.Eq(left, right), letters[name])
    return formula_text(sympy.factor_terms(sympy.cancel(found[0])))


def _difference(a: str, b: str) -> str:
    if b == "0 V":
        return a
    if a == "0 V":
        return b[1:] if b.startswith("-") and " " not in b else f"-{bracketed(b)}"
    if b.startswith("-") and " " not in b:
        return f"{a} + {b[1:]}"
    return f"{a} - {bracketed(b)}"


def _stamp(
    matrix: np.ndarray, right: np.ndarray, row: int, b: Branch, here: str, there: str,
    potentials: dict[str, _Potential], bases: list[str],
) -> None:  # fmt: skip
    def add(node: str, factor: complex) -> None:
        p = potentials[node]
        if p.base:
            matrix[row, bases.index(p.base)] += factor
        right[row] -= factor * p.value

    if b.kind == "current":
        right[row] -= b.value if b.nodes[0] == here else -b.value
    elif b.kind == "controlled":
        sign = 1 if b.nodes[0] == here else -1
        add(b.senses[0], sign * b.value)
        add(b.senses[1], -sign * b.value)
    else:
        add(here, 1 / b.value)
        add(there, -1 / b.value)
