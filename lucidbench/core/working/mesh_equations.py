"""Mesh equations: Kirchhoff's voltage law around every mesh, with a current of its own in each.

The meshes are a shortest set of loops that everything can be said by (a minimum cycle basis; Horton, A
polynomial-time algorithm to find the shortest cycle basis of a graph, SIAM J. Comput. 16, 1987).
"""

from __future__ import annotations

import numpy as np

from lucidbench.core.formula import Known
from lucidbench.core.graphs import connected, tree_from, way_to
from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.units.dimensions import CURRENT
from lucidbench.core.working.elimination import eliminate
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.writing import summed

Loop = list[tuple[Branch, int]]  # and +1 where it is gone through from its first node to its second


def mesh_equations(network: Network, pad: Derivation, suffix: str = "") -> dict[str, str]:
    """Writes and solves them; gives every branch's current as an expression. Raises NoWorking."""
    if any(b.kind not in ("impedance", "voltage") for b in network.branches):
        raise NoWorking("Mesh equations are written here for voltage sources and impedances alone.")
    loops = meshes(network)
    if not loops:
        raise NoWorking("Nothing goes round in this circuit: it has no mesh.")
    names = [pad.free(f"I_m{k}{suffix}") for k in range(1, len(loops) + 1)]
    currents = _mesh_currents(network, loops)
    unknowns = {n: Known(_number(i), CURRENT) for n, i in zip(names, currents, strict=True)}
    pad.say(
        f"In each mesh a current goes round: {', '.join(names)}. Around a mesh the voltages add up to zero; "
        f"where two meshes share a part, both currents flow through it."
    )
    matrix, right = np.zeros((len(loops),) * 2, complex), np.zeros(len(loops), complex)
    through = _shared(network, loops, names)
    for k, loop in enumerate(loops):
        terms: list[str] = []
        parts: list[str] = []
        for b, way in loop:
            parts += b.parts
            if b.kind == "voltage":
                terms.append(b.name if way > 0 else f"-{b.name}")
                right[k] -= way * b.value
                continue
            expression = through[b.name]
            if way < 0:
                expression = _negative(expression)
            terms.append(_product(b.name, expression))
            for other, sign in _signs(b, loops):
                matrix[k, other] += way * sign * b.value
        words = f"Around {', '.join(b.name for b, _ in loop)}:"
        pad.equation(words, summed(terms), "0 V", unknowns, tuple(dict.fromkeys(parts)))
    eliminate(pad, names, matrix, right, "Ω", "V", unknowns)
    return through


def without_current_sources(network: Network, pad: Derivation) -> Network:
    """Each with an impedance across it as a voltage source in series with that. Raises NoWorking."""
    for source in [b for b in network.branches if b.kind == "current"]:
        across = next(
            (
                b
                for b in network.branches
                if b.kind == "impedance" and set(b.nodes) == set(source.nodes)
            ),
            None,
        )
        if across is None:
            raise NoWorking(
                f"{source.name} has no impedance across it, so it is no voltage source in a mesh."
            )
        a, b = across.nodes
        sign = 1 if source.nodes[1] == a else -1
        value = sign * source.value * across.value
        node = f"in{source.parts[0]}"
        parts = (*source.parts, *across.parts)
        body = f"{'-' if sign < 0 else ''}{source.name}*{across.name}"
        after = network.without(source.name, across.name)
        name = pad.free(f"V_{source.parts[0]}_eq")
        after = after.with_branch(Branch(name, "voltage", (node, b), value, parts, wires=None))
        after = after.with_branch(
            Branch(across.name, "impedance", (a, node), across.value, parts, wires=None)
        )
        pad.write(
            f"{source.name} with {across.name} across it acts as a voltage source in series with that.",
            name, body, value, parts, after,
        )  # fmt: skip
        network = after
    return network


def meshes(network: Network) -> list[Loop]:
    """The shortest loops that are independent of each other."""
    branches = list(network.branches)
    found: list[Loop] = []
    rank = np.zeros((0, len(branches)))
    nodes = {node for b in branches for node in b.nodes}
    wanted = len(branches) - len(nodes) + len(connected(nodes, [b.nodes for b in network.branches]))
    if not wanted:
        return []
    candidates = sorted(_loops(network), key=lambda loop: (len(loop), [b.name for b, _ in loop]))
    for loop in candidates:
        row = np.zeros(len(branches))
        for b, way in loop:
            row[branches.index(b)] = way
        grown = np.vstack([rank, row])
        if np.linalg.matrix_rank(grown) > len(rank):
            rank = grown
            found.append(loop)
        if len(found) == wanted:
            return found
    raise NoWorking("The meshes are not found.")


def _loops(network: Network) -> list[Loop]:
    """For every branch and node, the loop by way of shortest paths."""
    found: list[Loop] = []
    for root in [GROUND_NODE, *network.nodes]:
        tree = tree_from(root, lambda node: [(b.other(node), b) for b in network.at(node)])
        for b in network.branches:
            p, q = b.nodes
            out, back = way_to(p, tree), way_to(q, tree)
            if out is None or back is None or any(x is b for _, x in (*out[-1:], *back[-1:])):
                continue
            if {*(node for node, _ in out[1:]), p} & {*(node for node, _ in back[1:]), q} - {root}:
                continue
            loop: Loop = [(x, 1 if x.nodes[0] == node else -1) for node, x in out]
            loop.append((b, 1))
            loop += [(x, -1 if x.nodes[0] == node else 1) for node, x in reversed(back)]
            found.append(loop)
    return found


def _signs(b: Branch, loops: list[Loop]) -> list[tuple[int, int]]:
    return [(k, way) for k, loop in enumerate(loops) for other, way in loop if other is b]


def _shared(network: Network, loops: list[Loop], names: list[str]) -> dict[str, str]:
    """Every branch's current, of those of its meshes."""
    found = {}
    for b in network.branches:
        text = ""
        for k, sign in sorted(_signs(b, loops), key=lambda each: -each[1]):
            if not text:
                text = names[k] if sign > 0 else f"-{names[k]}"
            else:
                text += f" {'+' if sign > 0 else '-'} {names[k]}"
        found[b.name] = text or "0 A"
    return found


def _mesh_currents(network: Network, loops: list[Loop]) -> list[complex]:
    branches = list(network.branches)
    matrix = np.zeros((len(branches), len(loops)))
    for k, loop in enumerate(loops):
        for b, way in loop:
            matrix[branches.index(b), k] = way
    currents = np.array([network.solved.currents[b.name] for b in branches])
    return list(np.linalg.lstsq(matrix.astype(complex), currents, rcond=None)[0])


def _number(value: complex) -> complex | float:
    return value if abs(value.imag) > 1e-15 * abs(value) else value.real


def _negative(text: str) -> str:
    if " " not in text:
        return text[1:] if text.startswith("-") else f"-{text}"
    turned = text.replace(" + ", " # ").replace(" - ", " + ").replace(" # ", " - ")
    first, rest = turned.split(" ", 1)
    head = first[1:] if first.startswith("-") else f"-{first}"
    if head.startswith("-") and rest.startswith("+ "):  # the positive one first
        positive, _, tail = rest[2:].partition(" ")
        return f"{positive} - {head[1:]}{' ' + tail if tail else ''}"
    return f"{head} {rest}"


def _product(name: str, expression: str) -> str:
    if " " in expression:
        return f"{name}*({expression})"
    return f"-{name}*{expression[1:]}" if expression.startswith("-") else f"{name}*{expression}"
