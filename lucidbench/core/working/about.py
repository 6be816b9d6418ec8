"""What a line of a working is about: the circuit at rest, its phasors, or a curve over frequency or time.

It follows from what the line contains (t, f, ω, j, an angle), from the lines that it rests on, from an
established name (H, Z_in), and else from the circuit: one that is driven by sines of one frequency alone is
worked out in phasors.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import FormulaError, LucidError
from lucidbench.core.formula import Formula, Known, names_in, parse
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.tree import Call, Negation, Node, Number, Operation
from lucidbench.core.formula.worksheet import ANGULAR, PLUS_MINUS, given_by
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.units.dimensions import UNITS
from lucidbench.core.working.meant import held_nodes

About = Literal["rest", "phasor", "frequency", "time"]
_RATIO = re.compile(r"[HA](_\w+)?|Z_(in|i|e)")
_PRECEDENCE: tuple[About, ...] = ("time", "frequency", "phasor")


def abouts_of(
    texts: Sequence[str],
    chosen: Sequence[About | None],
    given: Collection[str],
    usual: About,
    rows: Collection[str] = (),
) -> list[About]:
    """Of each line, in their order; `given` are names of parts and parameters, `chosen` is what somebody said
    a line is about, and `usual` what it is about where nothing says so. What is a figure of its own, of the
    names in `rows`, is called so for no other reason."""
    own = {given_by(text) for text in texts} | set(given)
    of_names: dict[str, About | None] = {}
    found: list[About] = []
    for text, told in zip(texts, chosen, strict=True):
        target = given_by(text)
        about = told or _from_contents(text, own, of_names)
        if target:
            of_names.setdefault(target, about)
        if about is None and is_response(target) and target not in rows:
            about = "phasor" if own & {"f", *ANGULAR} else "frequency"
        found.append(about or usual)
    return found


def _from_contents(
    text: str, own: Collection[str], of_names: Mapping[str, About | None]
) -> About | None:
    """None where nothing in it says so."""
    bodies = _bodies(text)
    used = set().union(*(names_in(each.body) for each in bodies)) if bodies else set()
    rests_on = {of_names[name] for name in used if name in of_names}
    free = used - set(own)
    if "t" in free:
        return "time"
    if free & {"f", *ANGULAR}:
        return "frequency"
    for each in _PRECEDENCE:
        if each in rests_on:
            return each
    turns = any(_turns(each.body) for each in bodies) or ("j" in used and "j" not in own)
    is_at_frequency = bool(used & {"f", *ANGULAR})
    return "phasor" if turns or is_at_frequency else None


def is_response(name: str) -> bool:
    """Whether it is established for what a circuit does over frequency."""
    return bool(_RATIO.fullmatch(name))


def _bodies(text: str) -> list[Formula]:
    said = text.partition(PLUS_MINUS)[0]
    try:
        return [parse(said)]
    except FormulaError:
        try:
            return list(sides_of(said))
        except FormulaError:
            return []


def _turns(node: Node) -> bool:
    match node:
        case Number():
            return isinstance(node.value, complex)
        case Negation():
            return _turns(node.operand)
        case Call():
            return any(map(_turns, node.arguments))
        case Operation():
            return node.operator == "∠" or _turns(node.left) or _turns(node.right)
    return False


def driven_at(circuit: Circuit) -> float | None:
    """The frequency [Hz] of the sines that alone drive a linear circuit; None where anything else does."""
    found: set[float] = set()
    for source in circuit:
        if not source.imposes:
            continue
        wave = source.waveform
        if wave is None and not source.values.get(source.main_key, 0.0):
            continue
        if not isinstance(wave, Sine) or wave.offset or wave.damping or wave.delay:
            return None
        found.add(wave.frequency)
    if len(found) != 1:
        return None
    try:
        return found.pop() if assemble(circuit).is_linear else None
    except LucidError:
        return None


def frequency_of(circuit: Circuit) -> float:
    """[Hz] at which phasors are worked out: that of a drawn reactance or a sine, else one kilohertz."""
    for e in circuit:
        told = (
            e.values.get("frequency")
            if e.kind == "impedance"
            else getattr(e.waveform, "frequency", None)
        )
        if told:
            return float(told)
    return 1e3


@dataclass(frozen=True)
class At:
    """Where a line is: `x` is the frequency [Hz] of phasors, or the time [s]."""

    about: About
    x: float = 0.0


def sources_at(circuit: Circuit, at: At) -> dict[str, Known]:
    """What the name of each independent source stands for, and the voltages that sources give by
    themselves: the value at DC, the phasor, or the value at that time."""
    found = {e.name: _source(e, at) for e in circuit if e.imposes and "." not in e.name}
    for name, text in held_nodes(circuit).items():
        own = found.get(text.lstrip("-"))
        if own:
            found[name] = Known(-own.value if text.startswith("-") else own.value, own.dimension)
    return found


def _source(e: Element, at: At) -> Known:
    dimension = UNITS[e.imposes]
    match at.about:
        case "phasor" | "frequency":
            size, turn = e.values.get("magnitude", 0.0), np.radians(e.values.get("phase", 0.0))
            value = complex(size * np.exp(1j * turn)) if turn else float(size)
            return Known(value, dimension)
        case "time" if e.waveform is not None:
            return Known(float(e.waveform.value(np.array([at.x]))[0]), dimension)
    return Known(float(e.values.get(e.main_key, 0.0)), dimension)
