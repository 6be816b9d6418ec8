"""The ways in which a figure can be worked out, one entry each: WAYS.

A way writes on the pad and gives the name of the answer. It raises NoWorking, with the reason, where it does
not lead there; what it has written is then thrown away.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass

from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.working.currents import by_voltages
from lucidbench.core.working.mesh_equations import mesh_equations, without_current_sources
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.node_equations import NodeVoltages
from lucidbench.core.working.reduction import Reduction, one_impedance, path_between, trimmed
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.transformation import Transformation
from lucidbench.core.working.voltage import leads_to, voltage
from lucidbench.core.working.wanted import TargetQuantity, branch_of, conclude
from lucidbench.core.working.writing import factor, summed


@dataclass(frozen=True)
class Way:
    """`work(network, wanted, pad)` writes it down; `longer` is how long it seems to a student, beside
    others. An equivalent `is_told_whole`: it is more than the figure that was asked for."""

    key: str
    label: str
    work: Callable[[Network, TargetQuantity, Derivation], str]
    longer: float = 1.0
    is_told_whole: bool = False


def by_reduction(network: Network, wanted: TargetQuantity, pad: Derivation) -> str:
    if len(network.sources) > 1:
        raise NoWorking("There is more than one source; each by itself is what superposition does.")
    left = trimmed(network)
    if not any(b.kind == "impedance" for b in left.branches):
        return conclude(
            wanted,
            network,
            pad,
            lambda a, b: voltage(network, a, b, pad),
            lambda b: _nothing(b, pad),
        )
    reduction = Reduction(left, pad)

    def across(a: str, b: str) -> str:
        return reduction.voltage(leads_to(network, left, a), leads_to(network, left, b))

    return conclude(wanted, network, pad, across, lambda b: _current(reduction, b, pad))


def _current(reduction: Reduction, branch: Branch, pad: Derivation) -> str:
    if reduction.stages[0].branch(branch.name) is None:
        return _nothing(branch, pad)
    return reduction.current(branch.name)


def _nothing(branch: Branch, pad: Derivation) -> str:
    words = f"{branch.parts[0]} leads nowhere, so no current flows through it."
    return pad.write(words, pad.free(f"I_{branch.parts[0]}"), "0 A", 0.0, branch.parts)


def by_superposition(network: Network, wanted: TargetQuantity, pad: Derivation) -> str:
    sources = network.sources
    if len(sources) < 2:
        raise NoWorking("There is only one source.")
    if not network.is_passive:
        raise NoWorking("Superposition is shown for impedances and independent sources alone.")
    if wanted.kind == "P":
        raise NoWorking("Powers do not add up from source to source; voltages and currents do.")
    if wanted.kind == "I" and branch_of(network, wanted.part).is_source:
        raise NoWorking("The current of a source is found by the other ways.")
    terms = []
    for source in sources:
        others = [s for s in sources if s is not source]
        alone = network.with_sources_only((source.name,))
        pad.say(f"{source.parts[0]} alone: {_zeroed(others)}.", source.parts, alone, heading=True)
        terms.append(_share(network, alone, wanted, pad, f"_{source.parts[0]}"))
    pad.say("All sources together.", heading=True)
    truth = _truth(network, wanted)
    name = pad.free(_answer_name(wanted))
    return pad.write("The shares of all sources add up.", name, summed(terms), truth)


def _share(
    whole: Network, alone: Network, wanted: TargetQuantity, pad: Derivation, suffix: str
) -> str:
    """What one source brings."""
    left = trimmed(alone)
    if wanted.kind == "V":
        a, b = (whole.where(node, alone) for node in wanted.nodes)
        a, b = (leads_to(alone, left, node) for node in (a, b))
        if a == b:
            return "0 V"
        if not any(b_.kind == "impedance" for b_ in left.branches):
            return voltage(alone, a, b, pad, suffix)
        return Reduction(left, pad, suffix).voltage(a, b)
    branch = left.branch(branch_of(whole, wanted.part).name)
    return Reduction(left, pad, suffix).current(branch.name) if branch else "0 A"


def _zeroed(others: list[Branch]) -> str:
    """What becomes of the sources that are left out."""
    words = [f"{s.parts[0]} is {'a wire' if s.kind == 'voltage' else 'a gap'}" for s in others]
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def by_nodes(network: Network, wanted: TargetQuantity, pad: Derivation) -> str:
    preferred = frozenset(n for n in wanted.nodes if n != GROUND_NODE)
    left = trimmed(network)
    texts = NodeVoltages(left, pad, preferred)

    def between(a: str, b: str) -> str:
        one, other = (texts[leads_to(network, left, node)] for node in (a, b))
        if one == other:
            return "0 V"
        if other == "0 V":
            return one
        if one == "0 V":
            return other[1:] if other.startswith("-") and " " not in other else f"-{factor(other)}"
        return f"{one} - {factor(other)}"

    def current(branch: Branch) -> str:
        return by_voltages(branch, network, pad, between)

    return conclude(wanted, network, pad, between, current)


def by_meshes(network: Network, wanted: TargetQuantity, pad: Derivation) -> str:
    whole, network = network, without_current_sources(trimmed(network), pad)
    through = mesh_equations(network, pad)
    solved = network.solved

    def along(a: str, b: str) -> str:
        terms = []
        a, b = (leads_to(whole, network, node) for node in (a, b))
        if a == b:
            return "0 V"
        path = path_between(network, a, b)
        for x, y in itertools.pairwise(path):
            branch = next(each for each in network.at(x) if each.other(x) == y)
            sign = 1 if branch.nodes[0] == x else -1
            if branch.kind == "voltage":
                terms.append(branch.name if sign > 0 else f"-{branch.name}")
            else:
                term = f"{branch.name}*{factor(through[branch.name])}"
                terms.append(term if sign > 0 else f"-{term}")
        return summed(terms)

    def current(branch: Branch) -> str:
        if network.branch(branch.name) != branch:
            raise NoWorking(
                f"{branch.parts[0]} was changed together with a source; its current is not shown."
            )
        return pad.write(
            f"The current through {branch.parts[0]}.", pad.free(f"I_{branch.parts[0]}"),
            through[branch.name], solved.currents[branch.name], branch.parts,
        )  # fmt: skip

    return conclude(wanted, whole, pad, along, current)


def by_transformation(network: Network, wanted: TargetQuantity, pad: Derivation) -> str:
    if wanted.kind == "V":
        load = next(
            (
                b
                for b in network.branches
                if b.kind == "impedance" and set(b.nodes) == set(wanted.nodes)
            ),
            None,
        )
        ends = wanted.nodes
    else:
        load = branch_of(network, wanted.part)
        if load.kind != "impedance":
            raise NoWorking(f"{wanted.part} is no impedance that a source could feed.")
        ends = load.nodes
    transformed = Transformation(network, pad, ends, load.name if load else "")
    source, inner = transformed.source()
    if not transformed.transformed:
        raise NoWorking("No source is to be transformed here.")
    truth = network.solved.between(*ends)
    total = f"({inner} + {load.name})" if load and inner else (load.name if load else "")

    def across(a: str, b: str) -> str:
        if (a, b) != ends:
            raise NoWorking("That voltage is not the one across the ends.")
        body = f"{source}*{load.name}/{total}" if load and inner else source
        words = "The source left, divided by what is behind it." if load else "The source left."
        return pad.write(words, pad.free(_answer_name(wanted) if wanted.kind == "V" else f"V_{wanted.part}"),
                         body, truth, load.parts if load else ())  # fmt: skip

    def current(branch: Branch) -> str:
        if load is None or branch.name != load.name:
            raise NoWorking("That current is not the one of the load.")
        return pad.write("Ohm's law.", pad.free(f"I_{branch.parts[0]}"), f"{source}/{total}",
                         network.solved.currents[branch.name], branch.parts)  # fmt: skip

    return conclude(wanted, network, pad, across, current)


def by_thevenin(network: Network, wanted: TargetQuantity, pad: Derivation) -> str:
    return _by_equivalent(network, wanted, pad, norton=False)


def by_norton(network: Network, wanted: TargetQuantity, pad: Derivation) -> str:
    return _by_equivalent(network, wanted, pad, norton=True)


def _by_equivalent(network: Network, wanted: TargetQuantity, pad: Derivation, norton: bool) -> str:
    """All but one impedance as a source and its inner impedance; all, where none lies between two nodes."""
    if not network.is_passive:
        raise NoWorking(
            "An equivalent source is shown for impedances and independent sources alone."
        )
    load = _load(network, wanted)
    if load is None:
        return _as_a_whole(network, wanted, pad, norton)
    a, b = load.nodes
    rest = network.without(load.name)
    pad.say(
        f"All but {load.name}, seen from its two ends, is one source with one inner "
        f"{'resistance' if _is_real(rest) else 'impedance'}. First without {load.name}:",
        load.parts, rest, heading=True,
    )  # fmt: skip
    truth = rest.solved.between(a, b)
    text = voltage(rest, a, b, pad, "_oc")
    open_voltage = pad.write(
        f"The voltage between the open ends, where {load.name} was.", pad.free("V_T"), text, truth
    )
    pad.say("Then the inner resistance, every source at zero.", heading=True)
    inner, value = one_impedance(rest, a, b, pad, "R_T" if _is_real(rest) else "Z_T")
    pad.say(f"Now {load.name} on the equivalent source.", load.parts, heading=True)
    if norton:
        short = pad.write(
            "The current that flows where the two ends are joined.",
            pad.free("I_N"), f"{open_voltage}/{inner}", truth / value,
        )  # fmt: skip
        across_body = f"{short}*{inner}*{load.name}/({inner} + {load.name})"
        current_body = f"{short}*{inner}/({inner} + {load.name})"
    else:
        across_body = f"{open_voltage}*{load.name}/({inner} + {load.name})"
        current_body = f"{open_voltage}/({inner} + {load.name})"
    told: dict[str, str] = {}

    def across(x: str, y: str) -> str:
        if "V" not in told:
            words = (
                "The load and the inner resistance divide it."
                if not norton
                else "Both in parallel."
            )
            name = pad.free(
                _answer_name(wanted) if wanted.nodes == (a, b) else f"V_{load.parts[0]}"
            )
            told["V"] = pad.write(
                words, name, across_body, network.solved.between(a, b), load.parts
            )
        if (x, y) == (a, b):
            return told["V"]
        if (x, y) == (b, a):
            return f"-{told['V']}"
        raise NoWorking("That voltage is not the one across the load.")

    def current(branch: Branch) -> str:
        if branch.name != load.name:
            raise NoWorking("That is not the current of the load.")
        if "I" not in told:
            name = pad.free(f"I_{load.parts[0]}")
            words = "Ohm's law." if not norton else "The current divides."
            told["I"] = pad.write(
                words, name, current_body, network.solved.currents[load.name], load.parts
            )
        return told["I"]

    return conclude(wanted, network, pad, across, current)


def _as_a_whole(network: Network, wanted: TargetQuantity, pad: Derivation, norton: bool) -> str:
    """The equivalent of all that is seen from two nodes, its ends left open."""
    a, b = wanted.nodes
    dead = network.with_sources_only(())
    if network.where(a, dead) == network.where(b, dead):
        raise NoWorking("Sources alone hold the voltage there; nothing lies in series with them.")
    ends = " and ".join("ground" if n == GROUND_NODE else f"node {n}" for n in (a, b))
    parts = tuple(p for x in network.branches for p in x.parts)
    inside = "resistance" if _is_real(network) else "impedance"
    pad.say(f"Seen from {ends}, all is one source with one inner {inside}. First the open voltage:",
            parts, heading=True)  # fmt: skip
    truth = network.solved.between(a, b)
    text = voltage(network, a, b, pad)
    open_voltage = pad.write(
        "Nothing flows out of the open ends.", pad.free("V_T"), text, truth, parts
    )
    pad.say("Then the inner resistance, every source at zero.", heading=True)
    inner, value = one_impedance(network, a, b, pad, "R_T" if _is_real(network) else "Z_T")
    if not norton:
        return open_voltage
    words = "The current that flows where the two ends are joined."
    short = pad.write(words, pad.free("I_N"), f"{open_voltage}/{inner}", truth / value)
    words = "With the ends open it all flows through the inner resistance."
    return pad.write(words, pad.free(_answer_name(wanted)), f"{short}*{inner}", truth)


def _load(network: Network, wanted: TargetQuantity) -> Branch | None:
    """The impedance that the equivalent source shall feed; None where there is none between two nodes."""
    if wanted.kind != "V":
        branch = branch_of(network, wanted.part)
        if branch.kind != "impedance":
            raise NoWorking(f"{wanted.part} is no impedance that a source could feed.")
        return branch
    for branch in network.branches:
        if branch.kind == "impedance" and set(branch.nodes) == set(wanted.nodes):
            return branch
    return None


def _is_real(network: Network) -> bool:
    return all(not complex(b.value).imag for b in network.branches if b.kind == "impedance")


def _truth(network: Network, wanted: TargetQuantity) -> complex:
    if wanted.kind == "V":
        return network.solved.between(*wanted.nodes)
    return network.solved.currents[branch_of(network, wanted.part).name]


def _answer_name(wanted: TargetQuantity) -> str:
    return wanted.text if " " not in wanted.text else "V_" + "_".join(wanted.nodes)


WAYS = [
    Way("reduction", "Reduction", by_reduction, 0.6),
    Way("transformation", "Source transformation", by_transformation, 1.5),
    Way("superposition", "Superposition", by_superposition),
    Way("nodes", "Node equations", by_nodes, 1.3),
    Way("meshes", "Mesh equations", by_meshes, 1.4),
    Way("thevenin", "Thévenin", by_thevenin, 1.2, True),
    Way("norton", "Norton", by_norton, 1.5, True),
]
