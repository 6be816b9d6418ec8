"""What a circuit's wiring alone makes unsolvable, found before any equation is written.

Each check is a plain graph question: is there a ground; does every node reach it; do fixed voltages
close a loop among themselves; is a part of the circuit tied on by current sources or capacitors only.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import Enum
from typing import cast

from lucidbench.core.devices import Tie
from lucidbench.core.devices.base import GROUND_NODE, GROUND_ROW
from lucidbench.core.graphs import Groups, connected, tree_from, way_to
from lucidbench.core.netlist.circuit import Circuit, Element


class FaultKind(Enum):
    """Of the two kinds of floating, the first has no way to ground at all, the other none for DC."""

    NO_GROUND = "no_ground"
    FLOATING = "floating"
    UNHELD = "unheld"
    VOLTAGE_LOOP = "voltage_loop"
    CURRENT_CUT = "current_cut"


@dataclass(frozen=True)
class Fault:
    kind: FaultKind
    sentence: str
    elements: tuple[str, ...] = ()
    nodes: tuple[str, ...] = ()


_HOLDING = (Tie.BY_CONDUCTANCE, Tie.BY_VOLTAGE)
_COILS = ("flux", "either")


@dataclass(frozen=True)
class _Tied:
    """Two nodes an element holds together at DC, and how."""

    element: str
    a: str
    b: str
    how: Tie


def topology_faults(circuit: Circuit, moving: bool = False) -> list[Fault]:
    """All faults of the wiring that stand in the way of a DC solution, gravest first.

    An empty circuit has none. With `moving`, those that stand in the way when nothing is at rest:
    capacitors carry currents then, and inductors hold voltages.
    """
    key = f"topology faults, moving {moving}"
    if key not in circuit.derived:
        circuit.derived[key] = _all_faults(circuit, moving)
    return cast(list[Fault], circuit.derived[key])


def _all_faults(circuit: Circuit, moving: bool) -> list[Fault]:
    if not circuit.elements or _is_sound(circuit, moving):
        return []
    tied = [tie for element in circuit for tie in _ties(element)]
    if moving:
        storing = {e.name for e in circuit if e.device.description.stores}
        tied = [replace(t, how=Tie.BY_CONDUCTANCE) if t.element in storing else t for t in tied]
    faults = list(_unreached(circuit, tied))
    if any(fault.kind is FaultKind.NO_GROUND for fault in faults):
        return faults + list(_voltage_loops(circuit, tied))
    floating = {
        node for fault in faults for node in fault.nodes if fault.kind is FaultKind.FLOATING
    }
    return (
        faults
        + list(_voltage_loops(circuit, tied))
        + _held_by_nothing(circuit, tied, floating, moving)
    )


def unheld(circuit: Circuit) -> tuple[tuple[str, ...], ...]:
    """The groups of nodes whose DC voltages are undetermined and matter to nothing else.

    Capacitors alone join them to the rest, and no direct current flows through these, whatever the
    voltages are. All else can be worked out with any voltage there.
    """
    if "unheld" not in circuit.derived:
        circuit.derived["unheld"] = _unheld(circuit)
    return cast(tuple[tuple[str, ...], ...], circuit.derived["unheld"])


def _unheld(circuit: Circuit) -> tuple[tuple[str, ...], ...]:
    if not circuit.elements or _is_sound(circuit, False):
        return ()
    tied = [tie for element in circuit for tie in _ties(element)]
    joined = _joined(circuit, tied)
    reached = next((island for island in joined if GROUND_NODE in island), set())
    return tuple(
        tuple(n for n in circuit.nodes if n in island)
        for island in _apart_at_rest(circuit, tied)
        if island <= reached and _matters_to_none(circuit, tied, island)
    )


def _apart_at_rest(circuit: Circuit, tied: list[_Tied]) -> list[set[str]]:
    """Groups of nodes that no direct current can leave, and that no fixed voltage ties to the rest."""
    holding = [(t.a, t.b) for t in tied if t.how in _HOLDING]
    return [i for i in connected(circuit.nodes, holding) if GROUND_NODE not in i]


def _matters_to_none(circuit: Circuit, tied: list[_Tied], island: set[str]) -> bool:
    """Whether nothing but capacitors has one pin in the group and one outside."""
    crossing = {t.element for t in tied if (t.a in island) != (t.b in island)}
    for element in circuit:
        pins = set(element.nodes)
        if not pins & island or (pins <= island and element.name not in crossing):
            continue
        stores = element.device.description.stores in ("charge", "either")
        if not stores or len(element.nodes) > 2:
            return False
    return True


def _is_sound(circuit: Circuit, moving: bool) -> bool:
    """Whether there is nothing to find: fixed voltages close no loop, and conductances and fixed
    voltages hold every node to ground. One pass, for the sake of the many circuits without a fault.
    """
    fixed, held = Groups[str](), Groups[str]()
    apart = len(circuit.nodes)
    for element in circuit:
        nodes = element.nodes
        storing = moving and bool(element.device.description.stores)
        for a, b, how in element.device.ties(element):
            first = GROUND_NODE if a == GROUND_ROW else nodes[a]
            second = GROUND_NODE if b == GROUND_ROW else nodes[b]
            if how is Tie.BY_VOLTAGE and not storing and not fixed.join(first, second):
                return False
            if how in _HOLDING or storing:
                apart -= held.join(first, second)
    return apart == 0 and GROUND_NODE in held


def _joined(circuit: Circuit, tied: list[_Tied]) -> list[set[str]]:
    """Nodes that anything at all joins."""
    return connected((), [*filter(None, (e.nodes for e in circuit)), *((t.a, t.b) for t in tied)])


def _ties(element: Element) -> Iterable[_Tied]:
    at = {**dict(enumerate(element.nodes)), GROUND_ROW: GROUND_NODE}
    for a, b, how in element.device.ties(element):
        yield _Tied(element.name, at[a], at[b], how)


def _unreached(circuit: Circuit, tied: list[_Tied]) -> Iterable[Fault]:
    """Parts of the circuit that nothing at all joins to ground."""
    islands = _joined(circuit, tied)
    if not any(GROUND_NODE in island for island in islands):
        yield Fault(
            FaultKind.NO_GROUND,
            "There is no ground, the reference for all voltages; connect one node to ground (0).",
        )
        return
    for island in islands:
        if GROUND_NODE in island:
            continue
        members = tuple(e.name for e in circuit if e.nodes and e.nodes[0] in island)
        nodes = tuple(n for n in circuit.nodes if n in island)
        yield Fault(
            FaultKind.FLOATING,
            f"{listed(members)} {have(members)} no path to ground, so the "
            f"{voltages(nodes)} there {'has' if len(nodes) == 1 else 'have'} no reference.",
            members,
            nodes,
        )


def _voltage_loops(circuit: Circuit, tied: list[_Tied]) -> Iterable[Fault]:
    """A fixed voltage whose two nodes are already tied by others closes a loop."""
    graph: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for tie in tied:
        if tie.how is not Tie.BY_VOLTAGE:
            continue
        way = way_to(tie.b, tree_from(tie.a, lambda node: graph.get(node, ())))
        if way is None:
            graph[tie.a].append((tie.b, tie.element))
            graph[tie.b].append((tie.a, tie.element))
            continue
        loop = {*(element for _, element in way), tie.element}
        members = tuple(e.name for e in circuit if e.name in loop)
        coils = tuple(
            name for name in members if circuit.by_name[name].device.description.stores in _COILS
        )
        if len(members) == 1:
            sentence = f"{tie.element} is shorted: both its ends are on the same node."
        elif len(coils) == len(members):
            sentence = (
                f"{listed(members)} form a loop of inductors, in which any direct current could "
                f"run; give one of them a resistance."
            )
        elif coils:
            sentence = (
                f"{listed(members)} form a loop: at DC {listed(coils)} "
                f"{'is a plain wire' if len(coils) == 1 else 'are plain wires'} across the voltage "
                f"source, so the current would grow without end; give {coils[0]} its resistance."
            )
        else:
            sentence = (
                f"{listed(members)} form a loop of voltage sources, which fixes the same voltage "
                f"twice; remove one or add a resistor in series."
            )
        yield Fault(FaultKind.VOLTAGE_LOOP, sentence, members, (tie.a, tie.b))


def _held_by_sensing(circuit: Circuit, islands: list[set[str]]) -> set[int]:
    """Which of the islands have their voltages fixed by what controlled sources that feed them sense: as many
    equations of currents as voltages that stand in them, each its own (a matching)."""
    of = {node: k for k, island in enumerate(islands) for node in island}
    elsewhere = {node for node in circuit.nodes if node not in of}
    senses: dict[str, set[int]] = {}
    through: set[str] = set()  # what senses nodes that are held
    felt: set[int] = set()  # the islands whose voltages such nodes follow
    feeds: dict[int, set[str]] = defaultdict(set)
    for element in circuit:
        ties = element.device.ties(element)
        leads = {pin for a, b, how in ties if how is not Tie.NOT_AT_ALL for pin in (a, b)}
        sensed = {node for pin, node in enumerate(element.nodes) if pin not in leads}
        senses[element.name] = {of[node] for node in sensed if node in of}
        if sensed & elsewhere:
            through.add(element.name)
        if {element.nodes[pin] for pin in leads if pin != GROUND_ROW} & elsewhere:
            felt |= senses[element.name]
        for pin in {pin for a, b, how in ties if how is Tie.BY_CURRENT for pin in (a, b)}:
            if pin != GROUND_ROW and element.nodes[pin] in of:
                feeds[of[element.nodes[pin]]].add(element.name)
    owner: dict[int, int] = {}  # of each voltage the island whose currents fix it

    def fixes(island: int, tried: set[int]) -> bool:
        direct = {v for element in feeds[island] for v in senses[element]}
        for voltage in (direct | (felt if feeds[island] & through else set())) - tried:
            tried.add(voltage)
            if voltage not in owner or fixes(owner[voltage], tried):
                owner[voltage] = island
                return True
        return False

    return {k for k in range(len(islands)) if fixes(k, set())}


def _held_by_nothing(
    circuit: Circuit, tied: list[_Tied], floating: set[str], moving: bool
) -> list[Fault]:
    """Parts of the circuit whose voltage nothing fixes at DC: only capacitors or current sources
    join them to the rest."""
    faults = []
    islands = _apart_at_rest(circuit, tied)
    sensed = _held_by_sensing(circuit, islands)
    for number, island in enumerate(islands):
        if number in sensed:
            continue
        if island & floating or (not moving and _matters_to_none(circuit, tied, island)):
            continue
        across = [t for t in tied if (t.a in island) != (t.b in island)]
        feeding = {t.element for t in across if t.how is Tie.BY_CURRENT}
        cut = tuple(e.name for e in circuit if e.name in feeding)
        nodes = tuple(n for n in circuit.nodes if n in island)
        where = f"node {nodes[0]}" if len(nodes) == 1 else f"nodes {listed(nodes)}"
        if cut:
            faults.append(
                Fault(
                    FaultKind.CURRENT_CUT,
                    f"Nothing but the current {'source' if len(cut) == 1 else 'sources'} {listed(cut)} "
                    f"joins {where} to the rest, so the current has no way back and the voltage there "
                    f"is not fixed. Connect e.g. 1 MΩ to ground.",
                    cut,
                    nodes,
                )
            )
            continue
        touching = tuple(e.name for e in circuit if island & set(e.nodes))
        blocking = tuple(e.name for e in circuit if any(t.element == e.name for t in across))
        reason = (
            f"{listed(blocking)} {'lets' if len(blocking) == 1 else 'let'} no direct current through"
            if blocking
            else f"{listed(touching)} {'carries' if len(touching) == 1 else 'carry'} none to ground"
        )
        others = _dependent(circuit, island)
        needs = (
            f" {listed(others)} {'needs' if len(others) == 1 else 'need'} to know the voltage there."
            if others
            else ""
        )
        faults.append(
            Fault(
                FaultKind.UNHELD,
                f"{where[0].upper()}{where[1:]} {'has' if len(nodes) == 1 else 'have'} no path to "
                f"ground for direct current: {reason}.{needs} Connect e.g. 1 MΩ to ground.",
                blocking or touching,
                nodes,
            )
        )
    return faults


def _dependent(circuit: Circuit, island: set[str]) -> tuple[str, ...]:
    """The parts beside capacitors with a pin in the group and one outside."""
    return tuple(
        e.name
        for e in circuit
        if set(e.nodes) & island
        and not set(e.nodes) <= island
        and e.device.description.stores not in ("charge", "either")
    )


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
