"""What a circuit's wiring alone makes unsolvable, found before any equation is written.

Each check is a plain graph question: is there a ground; does every node reach it; do voltage
sources close a loop among themselves; is a part of the circuit tied on by current sources only.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Iterable
from dataclasses import dataclass
from enum import Enum

from lucidbench.core.devices import Joins
from lucidbench.core.netlist.circuit import GROUND_NODE, Circuit, Element


class FaultKind(Enum):
    NO_GROUND = "no_ground"
    FLOATING = "floating"
    VOLTAGE_LOOP = "voltage_loop"
    CURRENT_CUT = "current_cut"


@dataclass(frozen=True)
class Fault:
    kind: FaultKind
    sentence: str
    elements: tuple[str, ...] = ()
    nodes: tuple[str, ...] = ()


def topology_faults(circuit: Circuit) -> list[Fault]:
    """All faults of the wiring, gravest first. An empty circuit has none."""
    if not circuit.elements:
        return []
    faults = list(_unreached(circuit))
    faults += _voltage_loops(circuit)
    floating = {
        node for fault in faults for node in fault.nodes if fault.kind is FaultKind.FLOATING
    }
    if not any(fault.kind is FaultKind.NO_GROUND for fault in faults):
        faults += _current_cuts(circuit, floating)
    return faults


def _unreached(circuit: Circuit) -> Iterable[Fault]:
    islands = _islands(circuit.elements)
    if not any(GROUND_NODE in island for island in islands):
        yield Fault(
            FaultKind.NO_GROUND,
            "There is no ground, so no voltage has anything to be counted from; "
            "mark one node as ground (0).",
        )
        return
    for island in islands:
        if GROUND_NODE in island:
            continue
        members = tuple(e.name for e in circuit if e.nodes[0] in island)
        nodes = tuple(n for n in circuit.nodes if n in island)
        yield Fault(
            FaultKind.FLOATING,
            f"{listed(members)} {have(members)} no path to ground, so the "
            f"{voltages(nodes)} there cannot be told.",
            members,
            nodes,
        )


def _voltage_loops(circuit: Circuit) -> Iterable[Fault]:
    """A voltage source whose two nodes are already tied by others closes a loop."""
    tied: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for element in circuit:
        if element.device.joins is not Joins.BY_VOLTAGE:
            continue
        a, b = element.nodes
        path = _path(tied, a, b)
        if path is None:
            tied[a].append((b, element.name))
            tied[b].append((a, element.name))
            continue
        loop = {*path, element.name}
        members = tuple(e.name for e in circuit if e.name in loop)
        if len(members) == 1:
            sentence = f"{element.name} is shorted: both its ends are on the same node."
        else:
            sentence = (
                f"{listed(members)} form a loop of voltage sources, which fixes the same voltage "
                f"twice; take one out or put a resistance in series."
            )
        yield Fault(FaultKind.VOLTAGE_LOOP, sentence, members, (a, b))


def _current_cuts(circuit: Circuit, floating: set[str]) -> Iterable[Fault]:
    """A part joined to the rest by current sources only: its voltage is not fixed by anything."""
    conducting = [e for e in circuit if e.device.joins is not Joins.BY_CURRENT]
    islands = _islands(conducting)
    covered = set().union(*islands) if islands else set()
    islands += [{n} for n in circuit.nodes if n not in covered]
    for island in islands:
        if GROUND_NODE in island or island & floating:
            continue
        cut = tuple(
            e.name
            for e in circuit
            if e.device.joins is Joins.BY_CURRENT
            and (e.nodes[0] in island) != (e.nodes[1] in island)
        )
        nodes = tuple(n for n in circuit.nodes if n in island)
        where = f"node {nodes[0]}" if len(nodes) == 1 else f"nodes {listed(nodes)}"
        yield Fault(
            FaultKind.CURRENT_CUT,
            f"Nothing but the current {'source' if len(cut) == 1 else 'sources'} {listed(cut)} joins "
            f"{where} to the rest, so the current has no way back and the voltage there is not "
            f"fixed; give it a resistance to ground.",
            cut,
            nodes,
        )


def _islands(elements: Iterable[Element]) -> list[set[str]]:
    """Sets of nodes tied together by `elements`, in order of first mention."""
    neighbours: dict[str, set[str]] = defaultdict(set)
    for element in elements:
        for node in element.nodes:
            neighbours[node].update(element.nodes)
    islands: list[set[str]] = []
    seen: set[str] = set()
    for start in neighbours:
        if start in seen:
            continue
        island, frontier = {start}, [start]
        while frontier:
            for node in neighbours[frontier.pop()] - island:
                island.add(node)
                frontier.append(node)
        seen |= island
        islands.append(island)
    return islands


def _path(graph: dict[str, list[tuple[str, str]]], start: str, goal: str) -> tuple[str, ...] | None:
    """Names of the edges on the shortest way from `start` to `goal`; None where there is none."""
    came: dict[str, tuple[str, str] | None] = {start: None}
    queue = deque([start])
    while queue and goal not in came:
        here = queue.popleft()
        for there, name in graph.get(here, ()):
            if there not in came:
                came[there] = (here, name)
                queue.append(there)
    if goal not in came:
        return None
    names: list[str] = []
    step = came[goal]
    while step is not None:
        names.append(step[1])
        step = came[step[0]]
    return tuple(reversed(names))


def listed(names: Iterable[str]) -> str:
    """ "R1", "R1 and R2", "R1, R2 and R3"; long lists are cut."""
    items = list(names)
    if len(items) > 6:
        items = [*items[:5], f"{len(items) - 5} more"]
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}"


def have(names: tuple[str, ...]) -> str:
    return "has" if len(names) == 1 else "have"


def voltages(nodes: tuple[str, ...]) -> str:
    return "voltage" if len(nodes) == 1 else "voltages"
