"""Node equations: Kirchhoff's current law at every node whose voltage is not known, then elimination.

Voltage sources tie nodes together; what is tied has one unknown, and one equation around all of it. An ideal
op-amp holds its inputs at one voltage, and its output takes no equation.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components, maximum_bipartite_matching

from lucidbench.core.formula import Known, names_in
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.sympy_bridge import formula_text, symbolic
from lucidbench.core.graphs import connected
from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.units.dimensions import VOLTAGE
from lucidbench.core.working.elimination import eliminate
from lucidbench.core.working.network import TYING, Branch, Network, NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.writing import bracketed, summed

_BY_OTHERS = ("dependent", "transformer")  # tie by the voltage between other nodes
_UNTOLD = "Controlled sources or op-amps leave voltages here that no node's equation tells."


@dataclass(frozen=True)
class _Potential:
    """A node's voltage by those that are to be found, each with its factor, and what sources add [V]."""

    text: str
    value: complex = 0j
    factors: Mapping[str, complex] = field(default_factory=dict)

    def moved(self, text: str, other: _Potential, factor: complex) -> _Potential:
        """With another, times a factor, added."""
        factors = dict(self.factors)
        for base, own in other.factors.items():
            factors[base] = factors.get(base, 0j) + factor * own
        return _Potential(text, self.value + factor * other.value, factors)


class NodeVoltages:
    """Every node's voltage as an expression. The equations that one takes are written, and solved, when it is
    first asked for: those that have unknowns of their own before those that go by them."""

    def __init__(
        self,
        network: Network,
        pad: Derivation,
        wanted: frozenset[str] = frozenset(),
        suffix: str = "",
    ) -> None:
        """`suffix` is put behind the names of voltages; nodes that are `wanted` had better be unknowns.
        Raises NoWorking."""
        self._network, self._pad = network, pad
        self._potentials = _potentials(network, wanted, suffix)
        self._bases = list(dict.fromkeys(b for p in self._potentials.values() for b in p.factors))
        self._groups = _groups(network)
        if len(self._groups) != len(self._bases):
            raise NoWorking(_UNTOLD)
        solved = network.solved
        self._names = [f"V_{base}{suffix}" for base in self._bases]
        self._truths = {
            name: Known(_number(solved.voltages[base]), VOLTAGE)
            for name, base in zip(self._names, self._bases, strict=True)
        }
        self._ratios = {b.gain: b.value for b in network.branches if b.kind == "transformer"}
        self._ratios[""] = 1.0
        size = len(self._bases)
        self._matrix, self._right = np.zeros((size, size), complex), np.zeros(size, complex)
        for row, group in enumerate(self._groups):
            for b, here, there in self._leaving(group):
                share = 1 / self._ratios[group[here]]
                _stamp(
                    self._matrix[row], self._right[row : row + 1], b, here, there, share,
                    self._potentials, self._bases,
                )  # fmt: skip
        self._row_of = _own_rows(self._matrix)
        self._blocks = _blocks(self._matrix[self._row_of]) if size else []
        self._written: set[int] = set()

    def __getitem__(self, node: str) -> str:
        """Writes what it takes. Raises NoWorking."""
        told = self._potentials[node]
        for base in told.factors:
            self._write(self._bases.index(base))
        return told.text

    def _leaving(self, group: Mapping[str, str]) -> Iterator[tuple[Branch, str, str]]:
        """(branch, its end in the group, its other end) of all that leads away from it, and both ways of what
        lies across a transformer."""
        for b in self._network.branches:
            one, other = b.nodes
            if b.kind in TYING or (group.get(one) == group.get(other)):
                continue
            if one in group:
                yield b, one, other
            if other in group:
                yield b, other, one

    def _write(self, unknown: int) -> None:
        if unknown in self._written:
            return
        block = sorted(next(each for each in self._blocks if unknown in each))
        rows = [self._row_of[k] for k in block]
        self._written.update(block)
        before = [
            k for k in range(len(self._bases)) if k not in block and np.any(self._matrix[rows, k])
        ]
        for k in before:
            self._write(k)
        pad, names = self._pad, [self._names[k] for k in block]
        words = "voltage is" if len(block) == 1 else "voltages are"
        pad.say(
            f"The unknown {words} {', '.join(names)}. What flows out of a node through its branches adds up "
            f"to zero."
        )
        for node in sorted(n for row in rows for n in self._groups[row]):
            self._say_feedback(node)
        equations = [self._equation(row) for row in rows]
        if len(block) == 1:
            body = _in_letters(names[0], f"{equations[0]} = 0")
            body = "0 V" if body == "0" else body
            pad.write("Solved for it:", names[0], body, complex(self._truths[names[0]].value))
            return
        matrix = self._matrix[np.ix_(rows, block)]
        right = self._right[rows] - self._matrix[np.ix_(rows, before)] @ np.array(
            [complex(self._truths[self._names[k]].value) for k in before]
        )
        eliminate(pad, names, matrix, right, "S", "A", self._truths)
        if any(name not in pad.names for name in names):
            raise NoWorking("The equations were not solved.")

    def _say_feedback(self, node: str) -> None:
        """The two rules of an op-amp whose input is at the node."""
        for b in self._network.branches:
            if b.kind == "opamp" and node in b.senses:
                self._pad.say(
                    f"No current flows into the inputs of {b.name}; its feedback holds them at one voltage.",
                    b.parts,
                )

    def _equation(self, row: int) -> str:
        """Writes it down. Its sum as it is solved in letters."""
        group = self._groups[row]
        terms: list[str] = []
        parts: list[str] = []
        for b, here, there in self._leaving(group):
            parts += b.parts
            term, by = _term(b, here, there, self._potentials), group[here]
            if by and b.kind == "impedance":
                term = f"{term.removesuffix('/' + b.name)}/({b.name}*{by})"
            elif by:
                term = f"{term}/{by}"
            terms.append(term)
        where = " and ".join(sorted(group)) if len(group) > 1 else f"node {next(iter(group))}"
        ratios = sorted(set(group.values()) - {""})
        around = " together, tied by a source" if len(group) > 1 else ""
        if ratios:
            behind = " and ".join(sorted(n for n in group if group[n]))
            around = f", with what flows out at {behind} divided by the ratio of {ratios[0]}"
        self._pad.equation(
            f"At {where}{around}:",
            summed(terms), "0 A", self._truths, tuple(dict.fromkeys(parts)),
        )  # fmt: skip
        return summed([term.replace("0 V", "0").replace("0 A", "0") for term in terms])


def _own_rows(matrix: np.ndarray) -> list[int]:
    """Pairs each unknown with an equation that contains it. Raises NoWorking."""
    found = maximum_bipartite_matching(csr_array(matrix != 0), perm_type="row")
    if np.any(found < 0):
        raise NoWorking(_UNTOLD)
    return [int(row) for row in found]


def _blocks(matrix: np.ndarray) -> list[set[int]]:
    """The unknowns that are to be solved for together."""
    count, labels = connected_components(csr_array(matrix != 0), connection="strong")
    return [set(map(int, np.nonzero(labels == k)[0])) for k in range(count)]


def _number(value: complex) -> complex | float:
    return value if complex(value).imag else complex(value).real


def _potentials(network: Network, wanted: frozenset[str], suffix: str) -> dict[str, _Potential]:
    """Every node's voltage, from ground and then from nodes that are as good as any."""
    found: dict[str, _Potential] = {GROUND_NODE: _Potential("0 V")}
    ties = [b for b in network.branches if b.kind in TYING]
    dependent = {node for b in ties if b.kind in _BY_OTHERS for node in b.nodes}

    def spread() -> None:
        grown = True
        while grown:
            grown = False
            for b in ties:
                if b.kind == "transformer":
                    grown |= _behind(b, found)
                a, c = b.senses if b.kind == "opamp" else b.nodes
                for here, there, sign in ((a, c, -1), (c, a, 1)):
                    if here in found and there not in found and _is_known(b, found):
                        found[there] = _tied(found[here], b, sign, found)
                        grown = True

    spread()
    degree = {node: len(network.at(node)) for node in network.nodes}
    order = sorted(
        network.nodes, key=lambda node: (node in dependent, node not in wanted, -degree[node])
    )
    for node in order:
        if node not in found:
            found[node] = _Potential(f"V_{node}{suffix}", 0j, {node: 1 + 0j})
            spread()
    return found


def _behind(transformer: Branch, found: dict[str, _Potential]) -> bool:
    """Tells the first end of the second winding by the first winding, where that is known; whether it did."""
    (a, b), (c, d) = transformer.nodes, transformer.senses
    if c in found or not {a, b, d} <= found.keys():
        return False
    across = _difference(found[a].text, found[b].text)
    text = "0 V" if across == "0 V" else f"{bracketed(across)}/{transformer.gain}"
    if found[d].text != "0 V":
        text = f"{found[d].text} + {text}"
    one = found[d].moved(text, found[a], 1 / transformer.value)
    found[c] = one.moved(text, found[b], -1 / transformer.value)
    return True


def _is_known(tie: Branch, found: Mapping[str, _Potential]) -> bool:
    """Whether it is known what a tie puts between its ends."""
    return tie.kind not in _BY_OTHERS or all(node in found for node in tie.senses)


def _tied(at: _Potential, source: Branch, sign: int, found: Mapping[str, _Potential]) -> _Potential:
    """The other end of a source: the + end lies its value above the other."""
    if source.kind == "opamp":
        return at
    if source.kind == "voltage":
        given = _Potential(source.name, source.value)
    else:
        plus, minus = (found[node] for node in source.senses)
        across = _difference(plus.text, minus.text)
        of = plus.moved(across, minus, -1)
        text = "0 V" if across == "0 V" else f"{source.gain}*{bracketed(across)}"
        given = _Potential("0 V").moved(text, of, source.value)
    if given.text == "0 V":
        return at
    if at.text == "0 V":
        text = given.text if sign > 0 else f"-{given.text}"
    else:
        text = f"{at.text} {'+' if sign > 0 else '-'} {given.text}"
    return at.moved(text, given, sign)


def _groups(network: Network) -> list[dict[str, str]]:
    """Nodes that sources and transformers tie together, without those tied to ground or given by an op-amp;
    of each what its currents are divided by, as it is written, "" for nothing. Raises NoWorking."""
    sources = [b.nodes for b in network.branches if b.kind in ("voltage", "dependent")]
    groups = connected([GROUND_NODE, *network.nodes], sources)
    outputs = {b.nodes[0] for b in network.branches if b.kind == "opamp"}
    known = next(g for g in groups if GROUND_NODE in g) | {
        node for g in groups if g & outputs for node in g
    }
    free: list[dict[str, str]] = [dict.fromkeys(g, "") for g in groups if not g & known]
    for b in network.branches:
        if b.kind != "transformer":
            continue
        if not {b.nodes[1], b.senses[1]} <= known:
            raise NoWorking(
                f"{b.name} is worked out by hand here where one end of each winding is at a known voltage."
            )
        first, second = (
            next((g for g in free if node in g), None) for node in (b.nodes[0], b.senses[0])
        )
        held = [g for g in (first, second) if g]
        free = [g for g in free if g not in held]
        if first and second and first is not second:
            free.append(first | {node: f"{own}{b.gain}" for node, own in second.items() if not own})
            if any(second.values()):
                raise NoWorking(
                    "Transformers one behind the other are not worked out by hand here."
                )
    return [g for g in free if _carries(network, set(g))]


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
        return "0 A" if across == "0 V" else f"{sign}{b.gain or b.name}*{bracketed(across)}"
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
    row: np.ndarray, right: np.ndarray, b: Branch, here: str, there: str, share: complex,
    potentials: dict[str, _Potential], bases: list[str],
) -> None:  # fmt: skip
    """Adds a branch, its current times `share`, to one row of the equations."""

    def add(node: str, factor: complex) -> None:
        p = potentials[node]
        for base, own in p.factors.items():
            row[bases.index(base)] += share * factor * own
        right[0] -= share * factor * p.value

    if b.kind == "current":
        right[0] -= share * (b.value if b.nodes[0] == here else -b.value)
    elif b.kind == "controlled":
        sign = 1 if b.nodes[0] == here else -1
        add(b.senses[0], sign * b.value)
        add(b.senses[1], -sign * b.value)
    else:
        add(here, 1 / b.value)
        add(there, -1 / b.value)
