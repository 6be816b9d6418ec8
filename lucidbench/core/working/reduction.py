"""Reduction: series and parallel parts made one, until one impedance stands at one source; then back again.

Every merging is a step with its network; what is wanted then follows by Ohm's law, dividers, and sums.
A triangle that nothing else resolves is made a star (Kennelly's formulas, in any circuits text).
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from lucidbench.core.graphs import connected, tree_from, way_to
from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.step import Derivation, InconsistentStep
from lucidbench.core.working.writing import bracketed, summed

Merge = Literal["series", "parallel", "star"]
_SERIES: Merge = "series"
_PARALLEL: Merge = "parallel"
_STAR: Merge = "star"
_EQUIVALENT = 1e-9  # relative: what networks before and after a step agree within


@dataclass(frozen=True)
class Merging:
    """What was made of which branches; `through` is the node that went in a series, or came with a star."""

    how: Merge
    of: tuple[Branch, ...]
    into: tuple[Branch, ...]
    through: str = ""


def merged_name(branches: Sequence[Branch], pad: Derivation, body: str) -> str:
    """R_23 of R2 and R3, the digits in order; the same name again where it has come to be the same way."""
    digits = [re.fullmatch(r"R_?(\d+)", b.name) for b in branches]
    if all(digits):
        every = "".join(m[1] for m in digits if m)
        wanted = "R_" + "".join(sorted(every))
    else:
        is_real = all(not complex(b.value).imag for b in branches)
        k = 0
        while (
            f"{'R' if is_real else 'Z'}_{'abcdefghijklmnopqrstuvwxyz'[k]}" in pad.names and k < 25
        ):
            k += 1
        wanted = f"{'R' if is_real else 'Z'}_{'abcdefghijklmnopqrstuvwxyz'[k]}"
        for name, line in pad.lines.items():
            if line == body:
                return name
    return wanted if pad.lines.get(wanted) == body else pad.free(wanted)


def series(network: Network, keep: frozenset[str], kept_nodes: frozenset[str]) -> Merging | None:
    """Two impedances in series that may be made one."""
    for node in [*network.nodes, GROUND_NODE]:  # ground is the last to go
        here = network.at(node)
        if len(here) != 2 or node in kept_nodes or any(b.name in keep for b in here):
            continue
        if any(b.kind != "impedance" for b in here) or _is_sensed(network, node):
            continue
        ends = here[0].other(node), here[1].other(node)
        if ends[0] == ends[1]:
            continue
        return Merging(_SERIES, (here[0], here[1]), (), node)
    return None


def parallel(network: Network, keep: frozenset[str]) -> Merging | None:
    seen: dict[frozenset[str], Branch] = {}
    for b in network.branches:
        if b.kind != "impedance" or b.name in keep:
            continue
        ends = frozenset(b.nodes)
        if ends in seen:
            return Merging(_PARALLEL, (seen[ends], b), ())
        seen[ends] = b
    return None


def triangle(network: Network, keep: frozenset[str]) -> Merging | None:
    impedances = [b for b in network.branches if b.kind == "impedance" and b.name not in keep]
    for i, first in enumerate(impedances):
        for second in impedances[i + 1 :]:
            shared = set(first.nodes) & set(second.nodes)
            if len(shared) != 1:
                continue
            ends = (set(first.nodes) | set(second.nodes)) - shared
            third = next((b for b in impedances if set(b.nodes) == ends), None)
            if third:
                return Merging(_STAR, (first, second, third), ())
    return None


def _is_sensed(network: Network, node: str) -> bool:
    return any(node in b.sensed for b in network.branches)


def merge(
    network: Network, merging: Merging, pad: Derivation, probe: str = ""
) -> tuple[Network, Merging]:
    """Write the step and return the network after it; the step leaves out `probe`. Raises
    InconsistentStep."""
    if merging.how == _STAR:
        return _to_star(network, merging, pad, probe)
    a, b = sorted(merging.of, key=lambda branch: _number_of(branch.name))
    if merging.how == _SERIES:
        body = f"{a.name} + {b.name}"
        value = a.value + b.value
        nodes = a.other(merging.through), b.other(merging.through)
        if nodes[0] == GROUND_NODE:
            nodes = nodes[1], nodes[0]
        words = f"{a.name} and {b.name} are in series: one current flows through both."
        wires = None if a.wires is None or b.wires is None else (*a.wires, b.place, *b.wires)
    else:
        body = f"{a.name}*{b.name}/({a.name} + {b.name})"
        value = a.value * b.value / (a.value + b.value)
        nodes = a.nodes
        words = f"{a.name} and {b.name} are in parallel: they lie between the same two nodes."
        wires = a.wires if b.wires is not None else None
    parts = tuple(dict.fromkeys((*a.parts, *b.parts)))
    name = merged_name((a, b), pad, body)
    new = Branch(name, "impedance", nodes, value, parts, wires=wires)
    after = network.without(a.name, b.name).with_branch(new)
    same_outside(network, after)
    pad.write(words, name, body, value, parts, after.without(probe))
    return after, replace(merging, into=(new,))


def _number_of(name: str) -> float:
    """That of R2, by which parts are named in order; what was merged comes last."""
    digits = re.fullmatch(r"[A-Z](\d+)", name)
    return float(digits[1]) if digits else math.inf


def _to_star(
    network: Network, merging: Merging, pad: Derivation, probe: str
) -> tuple[Network, Merging]:
    first, second, third = merging.of
    corners = sorted(set(first.nodes) | set(second.nodes) | set(third.nodes))
    centre, k = "star", 1
    while centre in network.nodes:
        k += 1
        centre = f"star{k}"
    total = f"{first.name} + {second.name} + {third.name}"
    parts = tuple(dict.fromkeys(p for b in merging.of for p in b.parts))
    pad.say(
        f"{first.name}, {second.name} and {third.name} form a triangle; a star with the same resistances "
        f"between its ends takes its place. Each of its arms is the product of the two neighbours at that "
        f"corner over the sum of all three.",
        parts,
    )
    arms = []
    sum_of = first.value + second.value + third.value
    for corner in corners:
        x, y = (b for b in merging.of if corner in b.nodes)
        value = x.value * y.value / sum_of
        where = corner if corner != GROUND_NODE else "g"
        letter = "R" if not complex(value).imag else "Z"
        name = pad.free(f"{letter}_{where}")
        pad.write(
            f"The arm at {_node(corner)}.", name, f"{x.name}*{y.name}/({total})", value, parts
        )
        arms.append(Branch(name, "impedance", (corner, centre), value, parts, wires=None))
    after = network.without(*(b.name for b in merging.of))
    for arm in arms:
        after = after.with_branch(arm)
    same_outside(network, after)
    pad.say("The circuit with the star in place of the triangle.", parts, after.without(probe))
    return after, replace(merging, into=tuple(arms), through=centre)


def _node(node: str) -> str:
    return "ground" if node == GROUND_NODE else f"node {node}"


def same_outside(before: Network, after: Network) -> None:
    """Raises InconsistentStep where the two differ at a node that is in both."""
    one, other = before.solved.voltages, after.solved.voltages
    scale = max((abs(v) for v in one.values()), default=1.0) or 1.0
    both = [n for n in one if n in other]
    moved = [(one[n] - one[both[0]]) - (other[n] - other[both[0]]) for n in both]
    if any(abs(each) > _EQUIVALENT * scale for each in moved):
        raise InconsistentStep("A step changed the circuit.")


class Reduction:
    """Of a network with one source. `suffix` is put behind voltages and currents, of one source among
    several."""

    def __init__(self, network: Network, pad: Derivation, suffix: str = "") -> None:
        if len(network.sources) != 1 or not network.is_passive:
            raise NoWorking("Reduction needs one source, and nothing beside impedances.")
        self.pad, self.suffix = pad, suffix
        self.stages = [network]
        self.mergings: list[Merging] = []
        self.source = network.sources[0]
        nothing: frozenset[str] = frozenset()
        ends = frozenset(self.source.nodes)
        while sum(b.kind == "impedance" for b in self.stages[-1].branches) > 1:
            now = self.stages[-1]
            found = parallel(now, nothing) or series(now, nothing, ends) or triangle(now, nothing)
            if found is None:
                raise NoWorking(
                    "Neither series nor parallel parts nor a triangle is left to be made one."
                )
            after, done = merge(now, found, pad)
            self.stages.append(after)
            self.mergings.append(done)
        if not any(b.kind == "impedance" for b in self.stages[-1].branches):
            raise NoWorking("The source has nothing across it.")
        if not any(set(b.nodes) == ends for b in self.stages[-1].branches if b.kind == "impedance"):
            raise NoWorking("The circuit does not come down to one impedance at the source.")
        self.total = next(b for b in self.stages[-1].branches if b.kind == "impedance")
        self.told: dict[tuple[str, str], str] = {}
        self.currents: dict[str, str] = {}

    @property
    def _end(self) -> int:
        return len(self.stages) - 1

    def _stage(self, branch: str) -> int:
        """The last stage in which a branch is."""
        return max(k for k, stage in enumerate(self.stages) if stage.branch(branch))

    def _of(self, name: str) -> Branch:
        return next(b for stage in self.stages for b in stage.branches if b.name == name)

    def voltage(self, a: str, b: str = GROUND_NODE) -> str:
        """The voltage of one node above another, as an expression that has been told. Raises NoWorking."""
        if a == b:
            return "0 V"
        if a == GROUND_NODE:
            text = self.voltage(b)
            return f"-{text}" if not text.startswith("-") else text[1:]
        if (a, b) in self.told:
            return self.told[a, b]
        if (b, a) in self.told:
            text = self.told[b, a]
            return f"-{text}" if not text.startswith("-") else text[1:]
        text = self._voltage(a, b)
        self.told[a, b] = text
        return text

    def _voltage(self, a: str, b: str) -> str:
        source = self.source
        if {a, b} == set(source.nodes):
            return self._across_source(a, b)
        for k in range(self._end, -1, -1):
            stage = self.stages[k]
            direct = next((x for x in stage.branches if set(x.nodes) == {a, b}), None)
            if direct is None:
                continue
            value = stage.solved.between(a, b)
            return self._across(direct, k, a, b, value)
        # By way of what lies between, in the earliest stage that has both nodes.
        for stage in self.stages:
            if a in stage.solved.voltages and b in stage.solved.voltages:
                path = path_between(stage, a, b)
                terms = [self.voltage(x, y) for x, y in itertools.pairwise(path)]
                body = summed(terms)
                value = stage.solved.between(a, b)
                name = self.pad.free(self._name("V", a, b))
                words = f"From {_node(a)} to {_node(b)} by way of {_node(path[1])}."
                return self.pad.write(words, name, body, value)
        raise NoWorking(f"There is no way to {_node(a)}.")

    def _name(self, letter: str, a: str, b: str) -> str:
        if b == GROUND_NODE:
            return f"{letter}_{a}{self.suffix}"
        between = f"{a}{b}" if len(a) == len(b) == 1 else f"{a}_{b}"
        return f"{letter}_{between}{self.suffix}"

    def _across_source(self, a: str, b: str) -> str:
        source = self.source
        if source.kind == "voltage":
            name = source.name
            return name if source.nodes == (a, b) else f"-{name}"
        # A current source: what leaves it at its second node comes back at its first.
        value = self.stages[0].solved.between(a, b)
        sign = "" if source.nodes == (b, a) else "-"
        name = self.pad.free(self._name("V", a, b))
        return self.pad.write(
            f"All of the source's current flows through {self.total.name} (Ohm's law).",
            name, f"{sign}{source.name}*{self.total.name}", value, self.total.parts,
        )  # fmt: skip

    def _across(self, branch: Branch, stage: int, a: str, b: str, value: complex) -> str:
        """Of a branch between the two nodes, in the last stage that has one."""
        merging = self.mergings[stage]
        name = self.pad.free(self._name("V", a, b))
        if merging.how == _SERIES:
            x, y = merging.of
            other = y if branch.name == x.name else x
            far = other.other(merging.through)
            # Counted the way a to b: the whole from the same end.
            whole = self.voltage(far, b) if a == merging.through else self.voltage(a, far)
            body = f"{bracketed(whole)}*{branch.name}/({x.name} + {y.name})"
            words = (
                f"The voltage divides between {x.name} and {y.name} as their {_what((x, y))} do."
            )
            return self.pad.write(words, name, body, value, branch.parts, self.stages[stage])
        if merging.how == _STAR:
            one, other = (arm for arm in merging.into if {a, b} & set(arm.nodes))
            path = path_between(self.stages[stage + 1], a, b)
            terms = [self.voltage(x, y) for x, y in itertools.pairwise(path)]
            words = f"From {_node(a)} to {_node(b)} across {one.name} and {other.name}."
            return self.pad.write(words, name, summed(terms), value, branch.parts)
        raise NoWorking("A voltage is not to be found so.")

    def current(self, branch: str) -> str:
        """The current of a branch, from its first node to its second, as a name that has been told."""
        if branch in self.currents:
            return self.currents[branch]
        of = self._of(branch)
        stage = self._stage(branch)
        value = self.stages[stage].solved.currents[branch]
        name = self.pad.free(f"I_{branch}{self.suffix}")
        if of.is_source:
            if of.kind == "current":
                self.currents[branch] = branch
                return branch
            told = self.pad.write(
                f"The current of {of.parts[0]}, counted from its plus through it, by Ohm's law.",
                name, f"-{of.name}/{self.total.name}", value, of.parts,
            )  # fmt: skip
        elif stage == self._end:
            across = self.voltage(*of.nodes)
            told = self.pad.write(
                "Ohm's law.", name, f"{bracketed(across)}/{of.name}", value, of.parts
            )
        else:
            told = self._current(of, stage, name, value)
        self.currents[branch] = told
        return told

    def _current(self, of: Branch, stage: int, name: str, value: complex) -> str:
        merging = self.mergings[stage]
        if merging.how == _PARALLEL and not self._is_told(*of.nodes):
            whole = merging.into[0]
            x, y = merging.of
            other = y if of.name == x.name else x
            current = self.current(whole.name)
            sign = "" if whole.nodes == of.nodes else "-"
            words = f"The current divides between {x.name} and {y.name}, to each the other's share."
            return self.pad.write(
                words, name, f"{sign}{current}*{other.name}/({x.name} + {y.name})", value, of.parts
            )
        if merging.how == _SERIES and not self._is_told(*of.nodes):
            whole = merging.into[0]
            current = self.current(whole.name)
            same_way = of.nodes[0] == whole.nodes[0] or of.nodes[1] == whole.nodes[1]
            words = f"{of.name} is in series with the rest of {whole.name}: the same current."
            return self.pad.write(
                words, name, current if same_way else f"-{current}", value, of.parts
            )
        across = self.voltage(*of.nodes)
        return self.pad.write("Ohm's law.", name, f"{bracketed(across)}/{of.name}", value, of.parts)

    def _is_told(self, a: str, b: str) -> bool:
        return (a, b) in self.told or (b, a) in self.told or {a, b} == set(self.source.nodes)


def one_impedance(
    network: Network, a: str, b: str, pad: Derivation, name: str
) -> tuple[str, complex]:
    """All that lies between two nodes made one, sources at zero; its name and value. Raises NoWorking."""
    dead = network.with_sources_only(())
    a, b = (network.where(node, dead) for node in (a, b))
    probe = Branch("probe", "current", (b, a), 1.0, ())
    now = _connected(dead.with_branch(probe), a)
    seen = f"Seen from {_node(a)} and {_node(b)}, with every source at zero"
    several = sum(x.kind == "impedance" for x in now.branches) > 1
    if several:
        parts = tuple(dict.fromkeys(p for x in now.branches for p in x.parts))
        pad.say(f"{seen}.", parts, now.without(probe.name))
    ends, nothing = frozenset((a, b)), frozenset[str]()
    while sum(x.kind == "impedance" for x in now.branches) > 1:
        found = parallel(now, nothing) or series(now, nothing, ends) or triangle(now, nothing)
        if found is None:
            raise NoWorking(
                "Neither series nor parallel parts nor a triangle is left to be made one."
            )
        now, _ = merge(now, found, pad, probe.name)
    left = next((x for x in now.branches if x.kind == "impedance"), None)
    if left is None or set(left.nodes) != {a, b}:
        raise NoWorking("Nothing lies between the two nodes.")
    words = "So:" if several else f"{seen}:"
    told = pad.write(words, pad.free(name), left.name, left.value, left.parts)
    return told, left.value


def trimmed(network: Network) -> Network:
    """Without what carries no current: branches that end nowhere, and pieces without a source that hang on
    the rest by one node."""
    while True:
        dead = _dead(network)
        if not dead:
            return network
        network = network.without(*dead)


def _dead(network: Network) -> set[str]:
    for cut in [GROUND_NODE, *network.nodes]:
        left = [b for b in network.branches if b.nodes != (cut, cut)]
        while left:
            piece, reached = [], {n for n in left[0].nodes if n != cut}
            grown = True
            while grown:
                grown = False
                for b in left:
                    own = {n for n in (*b.nodes, *b.sensed) if n != cut}
                    if b not in piece and own & reached:
                        piece.append(b)
                        reached |= own
                        grown = True
            left = [b for b in left if b not in piece]
            is_passive = all(b.kind == "impedance" for b in piece)
            sensed = any(n in reached for b in network.branches for n in b.sensed)
            if is_passive and GROUND_NODE not in reached and not sensed:
                return {b.name for b in piece}
    return set()


def _connected(network: Network, node: str) -> Network:
    """The part of it that hangs together with a node, trimmed."""
    groups = connected([node], [b.nodes for b in network.branches])
    reached = next(group for group in groups if node in group)
    return trimmed(
        replace(network, branches=tuple(b for b in network.branches if set(b.nodes) <= reached))
    )


def path_between(network: Network, a: str, b: str) -> list[str]:
    """The nodes of the shortest way between two."""
    tree = tree_from(
        a, lambda node: [(x.other(node), x) for x in network.at(node) if x.kind != "current"]
    )
    way = way_to(b, tree)
    if way is None:
        raise NoWorking(f"No way leads from {_node(a)} to {_node(b)}.")
    return [*(node for node, _ in way), b]


def _what(branches: Sequence[Branch]) -> str:
    return "resistances" if all(not complex(b.value).imag for b in branches) else "impedances"
