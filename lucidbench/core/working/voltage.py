"""A voltage of a network on the way to something else, by the shortest way that leads there."""

from __future__ import annotations

from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.working.network import Network, NoWorking
from lucidbench.core.working.node_equations import NodeVoltages
from lucidbench.core.working.reduction import Reduction, trimmed
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.writing import factor


def voltage(network: Network, a: str, b: str, pad: Derivation, suffix: str = "") -> str:
    """Of one node above another, as an expression of names that were told; "0 V" where there is none.
    `suffix` is put behind the names of voltages on the way. Raises NoWorking."""
    left = trimmed(network)
    a, b = (leads_to(network, left, node) for node in (a, b))
    if a == b or not any(source.value for source in left.sources):
        return "0 V"
    impedances = any(x.kind == "impedance" for x in left.branches)
    if len(left.sources) == 1 and left.is_passive and impedances:
        return Reduction(left, pad, suffix).voltage(a, b)
    texts = NodeVoltages(left, pad, frozenset((a, b)), suffix)
    if b == GROUND_NODE:
        return texts[a]
    minus = factor(texts[b])
    return f"{texts[a]} - {minus}" if texts[a] != "0 V" else f"-{minus}"


def leads_to(network: Network, left: Network, node: str) -> str:
    """Of a node that hangs on parts without a current, that to which these lead."""
    seen = {node}
    while node != GROUND_NODE and node not in left.nodes:
        ways = [
            x.other(node)
            for x in network.at(node)
            if x.kind == "impedance" and x.other(node) not in seen
        ]
        if not ways:
            raise NoWorking(f"Node {node} hangs on nothing.")
        node = ways[0]
        seen.add(node)
    return node
