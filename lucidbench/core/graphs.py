"""Graphs of nodes and what joins them: groups, and shortest ways."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Hashable, Iterable, Mapping
from typing import Generic, TypeVar

Node = TypeVar("Node", bound=Hashable)
Edge = TypeVar("Edge")


class Groups(Generic[Node]):
    """Nodes joined into groups: union-find with path halving (Tarjan and van Leeuwen, 1984)."""

    def __init__(self) -> None:
        self._above: dict[Node, Node] = {}

    def __contains__(self, node: Node) -> bool:
        return node in self._above

    def head(self, node: Node) -> Node:
        """The same for all nodes of a group."""
        above = self._above
        higher = above.setdefault(node, node)
        while higher != node:
            above[node] = above[higher]
            node, higher = above[node], above[above[node]]
        return node

    def join(self, a: Node, b: Node) -> bool:
        """Put both into one group. False where they were in one already."""
        a, b = self.head(a), self.head(b)
        self._above[a] = b
        return a != b


def connected(nodes: Iterable[Node], joined: Iterable[Iterable[Node]]) -> list[set[Node]]:
    """The groups that `nodes` and all that is joined make, in the order of first mention. Each of `joined`
    is as many nodes as hang together."""
    groups = Groups[Node]()
    mentioned: dict[Node, None] = dict.fromkeys(nodes)
    for together in joined:
        first, *others = together
        mentioned |= dict.fromkeys((first, *others))
        for other in others:
            groups.join(first, other)
    found: dict[Node, set[Node]] = {}
    for node in mentioned:
        found.setdefault(groups.head(node), set()).add(node)
    return list(found.values())


def tree_from(
    root: Node, neighbours: Callable[[Node], Iterable[tuple[Node, Edge]]]
) -> dict[Node, tuple[Node, Edge] | None]:
    """A tree of shortest ways from `root`: for each node that can be reached the one before it, and the edge
    between; None for the root. In the order of reach, breadth first."""
    came: dict[Node, tuple[Node, Edge] | None] = {root: None}
    waiting = deque([root])
    while waiting:
        here = waiting.popleft()
        for there, edge in neighbours(here):
            if there not in came:
                came[there] = (here, edge)
                waiting.append(there)
    return came


def way_to(
    goal: Node, tree: Mapping[Node, tuple[Node, Edge] | None]
) -> list[tuple[Node, Edge]] | None:
    """From the root to `goal`, every node left behind with the edge that leads on; None where there is no
    way."""
    if goal not in tree:
        return None
    steps: list[tuple[Node, Edge]] = []
    step = tree[goal]
    while step is not None:
        steps.append(step)
        step = tree[step[0]]
    return steps[::-1]
