"""Currents of branches by the voltages of nodes: Ohm's law, and for sources Kirchhoff's current law."""

from __future__ import annotations

from collections.abc import Callable

from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.writing import factor, summed


def by_voltages(
    branch: Branch,
    network: Network,
    pad: Derivation,
    voltage: Callable[[str, str], str],
    suffix: str = "",
) -> str:
    """What flows through a branch, by what lies between two nodes; `suffix` is put behind the names of
    currents. Raises NoWorking."""
    solved = network.solved
    if branch.kind == "current":
        return branch.name
    if branch.kind == "impedance":
        told = f"I_{branch.parts[0]}{suffix}"
        if told in pad.names:
            return told
        across = voltage(*branch.nodes)
        return pad.write(
            "Ohm's law.", told, f"{factor(across)}/{branch.name}",
            solved.currents[branch.name], branch.parts,
        )  # fmt: skip
    return _of_source(branch, network, pad, voltage, frozenset((branch.name,)), suffix)


def _of_source(
    branch: Branch,
    network: Network,
    pad: Derivation,
    voltage: Callable[[str, str], str],
    seen: frozenset[str],
    suffix: str,
) -> str:
    """What flows through a source is what all else brings to one of its ends; other sources there, that have
    not been `seen` on the way, are found likewise."""
    told = f"I_{'Z_' if branch.turned else ''}{branch.parts[0]}{suffix}"
    if told in pad.names:
        return told
    sides = sorted(
        zip(branch.nodes, (1, -1), strict=True),
        key=lambda side: (_sources_at(network, side[0]), side[0] == GROUND_NODE),
    )
    for node, sign in sides:
        others = [b for b in network.at(node) if b.name != branch.name]
        if any(b.kind == "opamp" or b.name in seen for b in others):
            continue
        if any(b.kind == "transformer" and node in b.senses for b in network.branches):
            continue  # what its second winding carries is not known there
        terms = []
        for b in others:
            if b.kind not in ("impedance", "current"):
                away = _of_source(b, network, pad, voltage, seen | {b.name}, suffix)
            else:
                away = by_voltages(b, network, pad, voltage, suffix)
            out = (b.nodes[0] == node) == (sign > 0)
            terms.append(f"-{away}" if out else away)
        terms.sort(key=lambda term: term.startswith("-"))
        where = "ground" if node == GROUND_NODE else f"node {node}"
        return pad.write(
            f"What flows through {branch.parts[0]} is what flows to {where}.",
            told, summed(terms) if terms else "0 A",
            network.solved.currents[branch.name], branch.parts,
        )  # fmt: skip
    raise NoWorking(f"The current of {branch.parts[0]} is not to be found from one node.")


def _sources_at(network: Network, node: str) -> int:
    return sum(b.kind in ("voltage", "opamp", "dependent") for b in network.at(node))
