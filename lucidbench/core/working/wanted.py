"""What a working is of: the voltage of a node, or of one above another, a part's current, or its power."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

from lucidbench.core.netlist import GROUND_NODE
from lucidbench.core.working.network import Branch, Network, NoWorking
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.writing import factor

_DIFFERENCE = re.compile(r"V_(\w+)\s*-\s*V_(\w+)")


@dataclass(frozen=True)
class TargetQuantity:
    """`nodes` of a voltage, or `part` of a current or power."""

    text: str
    kind: str  # V, I, P
    nodes: tuple[str, str] = (GROUND_NODE, GROUND_NODE)
    part: str = ""


def wanted_of(text: str) -> TargetQuantity:
    """Raises NoWorking for what is no voltage, current or power."""
    difference = _DIFFERENCE.fullmatch(text.strip())
    if difference:
        return TargetQuantity(text, "V", (difference[1], difference[2]))
    letter, _, subject = text.strip().partition("_")
    if letter == "V" and subject:
        return TargetQuantity(text, "V", (subject, GROUND_NODE))
    if letter in ("I", "P") and subject:
        return TargetQuantity(text, letter, part=subject)
    raise NoWorking(
        f"{text} is no voltage, current or power; such as V_out, I_R1, P_R1 can be worked out."
    )


def branch_of(network: Network, part: str) -> Branch:
    """The branch that is a part. Raises NoWorking."""
    branch = network.of_part(part) or next((b for b in network.branches if part in b.parts), None)
    if branch is None:
        raise NoWorking(f"{part} is a gap or a wire here; nothing of it is left to be worked out.")
    return branch


def conclude(
    wanted: TargetQuantity,
    network: Network,
    pad: Derivation,
    voltage: Callable[[str, str], str],
    current: Callable[[Branch], str],
) -> str:
    """Writes the last lines; gives the name that is the answer. Raises NoWorking."""
    solved = network.solved
    if wanted.kind == "V":
        a, b = wanted.nodes
        if a not in solved.voltages or b not in solved.voltages:
            missing = a if a not in solved.voltages else b
            raise NoWorking(f"There is no node {missing} in this circuit.")
        text = voltage(a, b)
        return _as(wanted, text, solved.between(a, b), pad)
    branch = branch_of(network, wanted.part)
    i = current(branch)
    if wanted.kind == "I" and branch.turned:
        words = f"{wanted.text} counts as the arrow of {wanted.part} points, the other way round."
        through = -solved.currents[branch.name]
        return pad.write(words, pad.free(wanted.text), f"-{i}", through, branch.parts)
    if wanted.kind == "I":
        return _as(wanted, i, solved.currents[branch.name], pad)
    if pad.of_peaks:
        return _complex_power(wanted, branch, network, pad, i, lambda: voltage(*branch.nodes))
    across = voltage(*branch.nodes)
    power = solved.between(*branch.nodes) * solved.currents[branch.name]
    name = pad.free(wanted.text)
    return pad.write(
        "Power is voltage times current, both counted the same way.",
        name, f"{factor(across)}*{factor(i)}", power, branch.parts,
    )  # fmt: skip


def _complex_power(
    wanted: TargetQuantity,
    branch: Branch,
    network: Network,
    pad: Derivation,
    current: str,
    voltage: Callable[[], str],
) -> str:
    """Writes it by the phasor of the current, and gives its name: active power and j times the reactive."""
    v, i = network.solved.between(*branch.nodes), network.solved.currents[branch.name]
    truth = complex(v) * complex(i).conjugate() / 2
    name = pad.free(wanted.text)
    if branch.kind == "impedance":
        return pad.write(
            "Complex power: half the impedance times the square of the current's peak. Its real part is the "
            "active power, its imaginary part the reactive.",
            name, f"{branch.name}*abs({current})^2/2", truth, branch.parts,
        )  # fmt: skip
    across = voltage()
    return pad.write(
        "Complex power: half the product of the peaks, turned by the angle from current to voltage. Its real "
        "part is the active power, its imaginary part the reactive.",
        name, f"abs({across})*abs({current})*exp(j*(arg({across}) - arg({current})))/2", truth,
        branch.parts,
    )  # fmt: skip


def _as(wanted: TargetQuantity, text: str, value: complex, pad: Derivation) -> str:
    """The expression under the name that was asked for."""
    if text == wanted.text and text in pad.names:
        return text
    if text in pad.lines and pad.free(wanted.text) != wanted.text:
        return text
    name = wanted.text if re.fullmatch(r"\w+", wanted.text) else "V_" + "_".join(wanted.nodes)
    if name in pad.names:
        return name
    return pad.write("So:", name, text, value)
