"""Source transformation: a voltage source in series with an impedance is a current source with that impedance
across it, and back again, until one source feeds what is wanted (any circuits text).
"""

from __future__ import annotations

from dataclasses import dataclass

from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.reduction import merge, parallel, same_outside, series, trimmed
from lucidbench.core.working.step import Derivation

_MOST = 40  # steps


@dataclass
class Transformation:
    """Of a network, leaving the nodes in `ends` and the impedance `load` ("" for none) as they are."""

    network: Network
    pad: Derivation
    ends: tuple[str, str]
    load: str = ""
    transformed: bool = False

    def __post_init__(self) -> None:
        if not self.network.is_passive:
            raise NoWorking(
                "Sources are transformed here among impedances and independent sources alone."
            )
        self.network = trimmed(self.network)
        moves = (self._parallel, self._sources_beside, self._series, self._sources_in_row,
                 self._to_current, self._to_voltage)  # fmt: skip
        for _ in range(_MOST):
            if not any(move() for move in moves):
                return
        raise NoWorking("Transforming sources leads to no end here.")

    def source(self) -> tuple[str, str]:
        """The open voltage between the ends and the impedance behind it, as they are called; "" for none."""
        rest = [b for b in self.network.branches if b.name != self.load]
        voltages = [b for b in rest if b.kind == "voltage"]
        currents = [b for b in rest if b.kind == "current"]
        impedances = [b for b in rest if b.kind == "impedance"]
        if len(voltages) == 1 and not currents and len(impedances) <= 1:
            at = voltages[0]
            if impedances and set(impedances[0].nodes) == set(self.ends):
                return self._counted(at, at.name, *at.nodes), ""
            towards = at.nodes if not impedances else self._outer(at, impedances[0])
            return self._counted(at, at.name, *towards), impedances[0].name if impedances else ""
        if len(currents) == len(impedances) == 1 and not voltages:
            i, z = currents[0], impedances[0]
            if set(i.nodes) == set(z.nodes) == set(self.ends):
                told = self._as_voltage(i, z, i.nodes[1])
                return self._counted(told, told.name, *reversed(i.nodes)), z.name
        raise NoWorking("The circuit does not come down to one source by transforming sources.")

    def _counted(self, source: Branch, name: str, plus: str, minus: str) -> str:
        if (plus, minus) == self.ends:
            return name
        if (minus, plus) == self.ends:
            return f"-{name}"
        raise NoWorking(f"{source.name} does not come to lie between the two nodes.")

    def _outer(self, source: Branch, impedance: Branch) -> tuple[str, str]:
        """The ends of a source in row with an impedance, plus first."""
        shared = next(iter(set(source.nodes) & set(impedance.nodes)), None)
        if shared is None:
            raise NoWorking("The source and the impedance left are not in row.")
        far = impedance.other(shared)
        return (far, source.nodes[1]) if source.nodes[0] == shared else (source.nodes[0], far)

    # The moves: each true where it did something.

    def _parallel(self) -> bool:
        found = parallel(self.network, frozenset((self.load,)))
        if found:
            self.network, _ = merge(self.network, found, self.pad)
        return found is not None

    def _series(self) -> bool:
        found = series(self.network, frozenset((self.load,)), frozenset((*self.ends, GROUND_NODE)))
        if found:
            self.network, _ = merge(self.network, found, self.pad)
        return found is not None

    def _sources_beside(self) -> bool:
        """Current sources between the same nodes."""
        for k, one in enumerate(self.network.branches):
            for other in self.network.branches[k + 1 :]:
                if one.kind == other.kind == "current" and set(one.nodes) == set(other.nodes):
                    sign = 1 if one.nodes == other.nodes else -1
                    self._added(
                        one, other, sign, one.nodes, "I", "Side by side the currents add up."
                    )
                    return True
        return False

    def _sources_in_row(self) -> bool:
        """Voltage sources with nothing else at the node between."""
        for node in self.network.nodes:
            at = self.network.at(node)
            if node in self.ends or len(at) != 2 or any(b.kind != "voltage" for b in at):
                continue
            one, other = at
            if one.nodes[1] != node:
                one, other = other, one
            if one.nodes[1] != node:  # both have their plus there
                self._added(
                    one,
                    other,
                    -1,
                    (other.nodes[1], one.nodes[1]),
                    "V",
                    "In row, against each other.",
                )
                return True
            sign = 1 if other.nodes[0] == node else -1
            ends = (one.nodes[0], other.other(node))
            self._added(one, other, sign, ends, "V", "In row the voltages add up.")
            return True
        return False

    def _added(
        self, one: Branch, other: Branch, sign: int, ends: tuple[str, str], letter: str, words: str
    ) -> None:
        value = one.value + sign * other.value
        parts = (*one.parts, *other.parts)
        name = self.pad.free(f"{letter}_s")
        kind = one.kind
        after = self.network.without(one.name, other.name).with_branch(
            Branch(name, kind, ends, value, parts, wires=None)
        )
        same_outside(self.network, after)
        body = f"{one.name} {'+' if sign > 0 else '-'} {other.name}"
        self.pad.write(words, name, body, value, parts, after)
        self.network = after

    def _to_current(self) -> bool:
        """A voltage source in row with an impedance, where something lies beside both."""
        rows = self._in_row()
        for k, (source, impedance, ends) in enumerate(rows):
            beside = any(
                set(b.nodes) == ends and b.name != self.load and b.kind in ("impedance", "current")
                for b in self.network.branches
            )
            if beside or any(other == ends for j, (_, _, other) in enumerate(rows) if j != k):
                self._as_current(source, impedance)
                return True
        return False

    def _in_row(self) -> list[tuple[Branch, Branch, set[str]]]:
        """Voltage sources with an impedance and nothing else at one of their ends, and the ends of both."""
        found = []
        for source in (b for b in self.network.branches if b.kind == "voltage"):
            for node in source.nodes:
                at = self.network.at(node)
                if node in (*self.ends, GROUND_NODE) or len(at) != 2:
                    continue
                other = next(b for b in at if b is not source)
                if other.kind == "impedance" and other.name != self.load:
                    found.append((source, other, {other.other(node), source.other(node)}))
                    break
        return found

    def _to_voltage(self) -> bool:
        """A current source with an impedance across it, where one more thing goes on from one of their
        ends."""
        for source in (b for b in self.network.branches if b.kind == "current"):
            across = (
                b for b in self.network.branches if b.kind == "impedance" and b.name != self.load
            )
            impedance = next((b for b in across if set(b.nodes) == set(source.nodes)), None)
            for node in source.nodes if impedance else ():
                if node not in (*self.ends, GROUND_NODE) and len(self.network.at(node)) == 3:
                    assert impedance is not None
                    self._as_voltage(source, impedance, node)
                    return True
        return False

    def _as_current(self, source: Branch, impedance: Branch) -> Branch:
        plus, minus = self._outer(source, impedance)
        parts = (*source.parts, *impedance.parts)
        value = source.value / impedance.value
        name = self.pad.free(f"I_{source.parts[0]}_eq")
        new = Branch(name, "current", (minus, plus), value, parts, wires=None)
        across = Branch(
            impedance.name, "impedance", (plus, minus), impedance.value, parts, wires=None
        )
        words = f"{source.name} in series with {impedance.name} is a current source with that across it."
        self._exchange((source, impedance), (new, across), words, f"{source.name}/{impedance.name}")
        return new

    def _as_voltage(self, source: Branch, impedance: Branch, towards: str) -> Branch:
        """With the impedance on the side that goes on."""
        a, b = source.nodes  # what it pushes out at its second node makes that the plus
        parts = (*source.parts, *impedance.parts)
        middle, k = f"in{source.parts[0]}", 1
        while middle in self.network.nodes:
            k += 1
            middle = f"in{k}{source.parts[0]}"
        name = self.pad.free(f"V_{source.parts[0]}_eq")
        ends = (middle, a) if towards == b else (b, middle)
        new = Branch(name, "voltage", ends, source.value * impedance.value, parts, wires=None)
        row = Branch(
            impedance.name, "impedance", (towards, middle), impedance.value, parts, wires=None
        )
        words = f"{source.name} with {impedance.name} across it is a voltage source in series with that."
        self._exchange((source, impedance), (new, row), words, f"{source.name}*{impedance.name}")
        return new

    def _exchange(
        self, old: tuple[Branch, Branch], new: tuple[Branch, Branch], words: str, body: str
    ) -> None:
        after = self.network.without(*(b.name for b in old))
        for branch in new:
            after = after.with_branch(branch)
        same_outside(self.network, after)
        self.pad.write(words, new[0].name, body, new[0].value, new[0].parts, after)
        self.network = after
        self.transformed = True
