"""The network that a working speaks of: impedances and sources between nodes, few enough to write down.

A branch's current counts from its first node through it to its second; a voltage source's first node is its
plus, and a current source carries its current from its first node to its second.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import GROUND_NODE

MOST_BRANCHES = 40
TYING = ("voltage", "opamp", "dependent", "transformer")  # hold one node's voltage by others'
SENSING = ("opamp", "controlled", "dependent", "transformer")
Kind = Literal["impedance", "voltage", "current", "opamp", "controlled", "dependent", "transformer"]


class NoWorking(LucidError):
    """Why something cannot be worked out on paper, in a sentence."""


@dataclass(frozen=True)
class Branch:
    """`name` is how its `value` [Ω, V, A; S of a controlled one] is written in formulas, but where its `gain`
    is written otherwise; `parts` are those of the drawing it stands for. It can be drawn in the `place` of
    its first part, with `wires` for some of the others; where these are None it cannot.

    An op-amp holds the nodes it `senses` at one voltage by what it gives at its first; a controlled one
    carries its value times the voltage between them, and a dependent one has that between its ends. So has a
    transformer, which passes its value times its current on to what it senses."""

    name: str
    kind: Kind
    nodes: tuple[str, str]
    value: complex
    parts: tuple[str, ...]
    senses: tuple[str, str] = (GROUND_NODE, GROUND_NODE)
    wires: tuple[str, ...] | None = ()
    gain: str = ""
    turned: bool = False  # whether its current counts against that of its part

    @property
    def place(self) -> str:
        """The part on the drawing in whose place it can be drawn."""
        return self.parts[0] if self.parts else ""

    @property
    def is_source(self) -> bool:
        return self.kind in ("voltage", "current")

    @property
    def sensed(self) -> tuple[str, ...]:
        """The nodes whose voltage it goes by without being connected there."""
        return self.senses if self.kind in SENSING else ()

    @property
    def admittances(self) -> tuple[tuple[str, complex], ...]:
        """(node, share of its voltage in the current [S]) of what carries a current by voltages."""
        if self.kind == "impedance":
            return (self.nodes[0], 1 / self.value), (self.nodes[1], -1 / self.value)
        if self.kind == "controlled":
            return (self.senses[0], self.value), (self.senses[1], -self.value)
        return ()

    @property
    def ties(self) -> tuple[tuple[str, complex], ...]:
        """(node, factor) of what holds voltages: the sum is what an independent source gives, else zero."""
        a, b = self.senses if self.kind == "opamp" else self.nodes
        if self.kind not in ("dependent", "transformer"):
            return (a, 1), (b, -1)
        plus, minus = self.senses
        return (a, 1), (b, -1), (plus, -self.value), (minus, self.value)

    def other(self, node: str) -> str:
        return self.nodes[1] if self.nodes[0] == node else self.nodes[0]


@dataclass(frozen=True)
class Solved:
    """Voltages [V] of nodes above ground, and currents [A] of branches, by name."""

    voltages: Mapping[str, complex]
    currents: Mapping[str, complex]

    def between(self, a: str, b: str) -> complex:
        """Raises NoWorking where one of the two is no node of it."""
        for node in (a, b):
            if node not in self.voltages:
                raise NoWorking(f"Node {node} hangs on nothing.")
        return self.voltages[a] - self.voltages[b]


@dataclass(frozen=True)
class Network:
    """`wires` are the parts of the drawing that are plain wires by now."""

    branches: tuple[Branch, ...]
    wires: tuple[str, ...] = ()

    @property
    def nodes(self) -> list[str]:
        """Every node but ground."""
        seen = dict.fromkeys(node for b in self.branches for node in (*b.nodes, *b.sensed))
        seen.pop(GROUND_NODE, None)
        return list(seen)

    @property
    def sources(self) -> list[Branch]:
        return [branch for branch in self.branches if branch.is_source]

    @property
    def is_passive(self) -> bool:
        """Whether nothing is in it but impedances and independent sources."""
        return all(b.kind in ("impedance", "voltage", "current") for b in self.branches)

    def branch(self, name: str) -> Branch | None:
        return next((b for b in self.branches if b.name == name), None)

    def of_part(self, part: str) -> Branch | None:
        """The branch that is this part and nothing else."""
        return next((b for b in self.branches if b.parts == (part,)), None)

    def at(self, node: str) -> list[Branch]:
        return [b for b in self.branches if node in b.nodes]

    def without(self, *names: str) -> Network:
        return replace(self, branches=tuple(b for b in self.branches if b.name not in names))

    def with_branch(self, branch: Branch) -> Network:
        return replace(self, branches=(*self.branches, branch))

    def joined(self, node: str, into: str) -> Network:
        """With two nodes made one; what then has both its ends there is gone."""

        def moved(nodes: tuple[str, str]) -> tuple[str, str]:
            a, b = (into if each == node else each for each in nodes)
            return a, b

        changed = [replace(b, nodes=moved(b.nodes), senses=moved(b.senses)) for b in self.branches]
        return replace(self, branches=tuple(b for b in changed if b.nodes[0] != b.nodes[1]))

    def with_sources_only(self, names: Collection[str]) -> Network:
        """The other sources are zero: voltage sources are wires, current sources are gaps."""
        network = self
        for source in self.sources:
            here = network.branch(source.name)
            if here is None or source.name in names:
                continue
            network = network.without(source.name)
            if source.kind == "voltage":
                a, b = here.nodes
                network = network.joined(a, b) if a != GROUND_NODE else network.joined(b, a)
                network = replace(network, wires=(*network.wires, *here.parts))
        return network

    def where(self, node: str, alone: Network) -> str:
        """What a node of this network has become in one where some of its voltage sources are wires. Raises
        NoWorking."""
        reached, grown = {node}, True
        left = {GROUND_NODE, *alone.nodes}
        while not reached & left and grown:
            grown = False
            for b in self.branches:
                is_wire = b.kind == "voltage" and not alone.branch(b.name)
                if is_wire and len(set(b.nodes) & reached) == 1:
                    reached |= set(b.nodes)
                    grown = True
        if not reached & left:
            raise NoWorking(f"Node {node} hangs on nothing where the other sources are zero.")
        return next(iter(reached & left))

    @cached_property
    def solved(self) -> Solved:
        """By modified nodal analysis, in numbers. Raises NoWorking where it has no one solution."""
        nodes = self.nodes
        # Where ground is gone, as between two parts in series, the first node stands in for it.
        reference = GROUND_NODE
        if nodes and not any(GROUND_NODE in (*b.nodes, *b.sensed) for b in self.branches):
            reference = nodes.pop(0)
        imposed = [b for b in self.branches if b.kind in TYING]
        row = {node: k for k, node in enumerate(nodes)}
        size = len(nodes) + len(imposed)
        matrix, drive = np.zeros((size, size), complex), np.zeros(size, complex)

        def add(r: str | int, c: str | int, value: complex) -> None:
            at = [row.get(x, -1) if isinstance(x, str) else x for x in (r, c)]
            if min(at) >= 0:
                matrix[at[0], at[1]] += value

        for b in self.branches:
            for node, sign in zip(b.nodes, (1, -1), strict=True):
                if b.kind == "current" and node in row:
                    drive[row[node]] -= sign * b.value
                for sense, admittance in b.admittances:
                    add(node, sense, sign * admittance)
        for k, b in enumerate(imposed, start=len(nodes)):
            add(b.nodes[0], k, 1)
            add(b.nodes[1], k, -1)
            for node, share in b.ties:
                add(k, node, share)
                if b.kind == "transformer" and node in b.senses:
                    add(node, k, share)
            drive[k] = b.value if b.kind == "voltage" else 0.0
        try:
            x = np.linalg.solve(matrix, drive) if size else drive
        except np.linalg.LinAlgError as error:
            raise NoWorking("The circuit has no one solution.") from error
        voltages = {reference: 0j, **{node: x[k] for node, k in row.items()}}
        currents = {b.name: x[k] for k, b in enumerate(imposed, start=len(nodes))}
        for b in self.branches:
            if b.kind == "current":
                currents[b.name] = b.value
            elif b.admittances:
                currents[b.name] = sum(value * voltages[sense] for sense, value in b.admittances)
        return Solved(voltages, currents)


def resistance_between(network: Network, a: str, b: str) -> complex:
    """The impedance [Ω] seen between two nodes, every source at zero. Raises NoWorking."""
    dead = network.with_sources_only(())
    a, b = (network.where(node, dead) for node in (a, b))
    probe = Branch("probe", "current", (b, a), 1.0, ())
    return dead.with_branch(probe).solved.between(a, b)
