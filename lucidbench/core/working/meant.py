"""What a name in a working means: a figure of the circuit, however it is written.

`U_R2`, `Vout`, `V_a_c`, `V_CE` and `I_C` are what many books write for voltages across parts, between nodes
and at a transistor. Each is told as a formula of figures that the simulation has: V_b - V_c, I_Q1.C. The
currents of a transistor count as they flow in its active region, the emitter's of an npn out of it.
"""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Iterator, Mapping

from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

_LETTERS = {"V": "V", "U": "V", "I": "I", "P": "P"}
_NAME = re.compile(r"(?P<letter>[VUIP])(?P<bar>_?)(?P<subject>\w+(?:\.\w+)*)")
_PINS = {
    "npn": ("C", "B", "E"), "pnp": ("C", "B", "E"), "nmos": ("D", "G", "S"), "pmos": ("D", "G", "S"),
    "njf": ("D", "G", "S"), "pjf": ("D", "G", "S"),
}  # fmt: skip
_OUT_OF = {"npn": "E", "pnp": "CB", "nmos": "S", "pmos": "D", "njf": "S", "pjf": "D"}


def meant_by(name: str, circuit: Circuit) -> str | None:
    """The figure as a formula of those that are simulated, V_out or I_R1 or V_a - V_b; None where the name
    is of nothing in the circuit."""
    match = _NAME.fullmatch(name)
    if match is None or name in circuit.by_name:
        return None
    letter, subject = _LETTERS[match["letter"]], match["subject"]
    if letter == "V":
        return _voltage(subject, circuit, bool(match["bar"]))
    if subject in circuit.by_name:
        return f"{letter}_{subject}"
    return _current_of_pin(subject, circuit) if letter == "I" and match["bar"] else None


def nearest(name: str, circuit: Circuit, figures: Iterable[str]) -> str:
    """The figure that is called most like it; "" where none is."""
    own = name if "_" in name else f"{name[:1]}_{name[1:]}"
    own = own.replace("U_", "V_", 1)
    near = difflib.get_close_matches(own, list(figures), n=1, cutoff=0.6)
    return near[0] if near else ""


def held_nodes(circuit: Circuit) -> Mapping[str, str]:
    """Node voltages that an ideal source fixes, each as a formula: V_in is V1."""
    found: dict[str, str] = {}
    for e in circuit:
        if e.imposes != "V" or e.values.get("internal_resistance") or len(e.nodes) != 2:
            continue
        above, below = e.nodes
        if below == GROUND_NODE and above != GROUND_NODE:
            found.setdefault(f"V_{above}", e.name)
        elif above == GROUND_NODE and below != GROUND_NODE:
            found.setdefault(f"V_{below}", f"-{e.name}")
    return {name: text for name, text in found.items() if re.fullmatch(r"\w+", name)}


def _voltage(subject: str, circuit: Circuit, is_marked: bool) -> str | None:
    if subject in circuit.nodes:
        return f"V_{subject}"
    pair = _between(subject, circuit) if is_marked else None
    if pair is None and subject in circuit.by_name:
        nodes = circuit.by_name[subject].nodes
        pair = (nodes[0], nodes[1]) if len(nodes) == 2 else None
    pair = pair or (_at_transistor(subject, circuit) if is_marked else None)
    return difference(*pair) if pair else None


def difference(above: str, below: str) -> str | None:
    """Of two nodes' voltages; None where both are ground."""
    if below == GROUND_NODE:
        return None if above == GROUND_NODE else f"V_{above}"
    return f"-V_{below}" if above == GROUND_NODE else f"V_{above} - V_{below}"


def _between(subject: str, circuit: Circuit) -> tuple[str, str] | None:
    """Two nodes, written one behind the other."""
    nodes = {GROUND_NODE, *circuit.nodes}
    splits = [(subject[:k], subject[k:].removeprefix("_")) for k in range(1, len(subject))]
    found = {
        (a.removesuffix("_"), b) for a, b in splits if a.removesuffix("_") in nodes and b in nodes
    }
    return found.pop() if len(found) == 1 else None


def _transistors(mark: str, circuit: Circuit) -> Iterator[Element]:
    """Those that a mark behind the letters of pins means: by name or number, or the only one."""
    every = [e for e in circuit if e.kind in _PINS]
    mark = mark.removeprefix("_")
    for e in every:
        if mark in (e.name, e.name.lstrip("QMJT")) or (not mark and len(every) == 1):
            yield e


def _at_transistor(subject: str, circuit: Circuit) -> tuple[str, str] | None:
    match = re.fullmatch(r"([A-Z])([A-Z])(_?\w*)", subject)
    if match is None:
        return None
    for e in _transistors(match[3], circuit):
        pins = dict(zip(_PINS[e.kind], e.nodes, strict=False))
        if match[1] in pins and match[2] in pins:
            return pins[match[1]], pins[match[2]]
    return None


def _current_of_pin(subject: str, circuit: Circuit) -> str | None:
    match = re.fullmatch(r"([A-Z])(_?\w*)", subject)
    if match is None:
        return None
    for e in _transistors(match[2], circuit):
        if match[1] in _PINS[e.kind]:
            sign = "-" if match[1] in _OUT_OF[e.kind] else ""
            return f"{sign}I_{e.name}.{match[1]}"
    return None
