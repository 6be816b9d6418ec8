"""A circuit at rest, or at one frequency, as the network of a working; textbook forms for what is not
linear."""

from __future__ import annotations

import cmath
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from lucidbench.core.analyses import operating_point
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.units.engineering import typed
from lucidbench.core.working.network import MOST_BRANCHES, Branch, Kind, Network, NoWorking
from lucidbench.core.working.step import Derivation, known

_DIGITS = 9
# What each kind of controlled source is in a network, and the unit of its gain.
CONTROLLED: dict[str, tuple[Kind, str]] = {
    "voltage_controlled_voltage": ("dependent", ""),
    "current_controlled_voltage": ("dependent", "Ω"),
    "voltage_controlled_current": ("controlled", "S"),
    "current_controlled_current": ("controlled", ""),
}
_DROP = 0.7  # [V] of a silicon junction that conducts; common practice, no published source
BREAKDOWN = (
    "breakdown"  # the form of a source that stands for a diode held at its breakdown voltage
)
_NEARLY = 0.9  # of the breakdown voltage
_THERMAL = 0.02585  # [V] at 27 °C
_USUAL = 5e-3  # [A] at which a forward voltage is told (common practice, no published source)
_LIKE_SILICON = 0.15  # [V]


@dataclass(frozen=True)
class DcNetwork:
    """The network, what was said on the way to it, and the nodes that became one with others."""

    network: Network
    same: dict[str, str]

    def node(self, name: str) -> str:
        while name in self.same:
            name = self.same[name]
        return name


def textbook_form(circuit: Circuit) -> Circuit:
    """Diodes at a constant drop, or at their breakdown voltage where they break down; transistors at a
    constant V_BE and β: what is reckoned with on paper."""
    breaking = _breaking_down(circuit)

    def plain(element: Element) -> Element:
        values = dict(element.values)
        if element.name in breaking:
            holds = {"voltage": -values["breakdown_voltage"]}
            return Element(element.name, "voltage_source", element.nodes, holds, form=BREAKDOWN)
        if element.kind == "diode" and element.form not in ("constant_drop", "ideal"):
            return replace(
                element,
                form="constant_drop",
                values={**values, "forward_voltage": _drop_of(element)},
            )
        if element.kind in ("npn", "pnp") and element.form != "fixed":
            return replace(
                element,
                form="fixed",
                values={"beta": values["beta"], "base_emitter_voltage": _DROP},
            )
        return element

    return replace(circuit, elements=tuple(plain(element) for element in circuit))


def _drop_of(diode: Element) -> float:
    """[V] that it conducts at: that of silicon, or where its saturation current says otherwise, as a
    light-emitting diode's does, what it has at some milliamperes."""
    current = diode.values.get("saturation_current", 0.0)
    if not current:
        return _DROP
    own = diode.values.get("emission", 1.0) * _THERMAL * math.log(_USUAL / current)
    return _DROP if abs(own - _DROP) <= _LIKE_SILICON else round(own, 1)


def _breaking_down(circuit: Circuit) -> frozenset[str]:
    """The diodes that break down at rest. Raises LucidError without an operating point."""
    may = [e for e in circuit if e.kind == "diode" and e.values.get("breakdown_voltage")]
    if not may:
        return frozenset()
    at = operating_point(circuit).voltages
    return frozenset(
        e.name
        for e in may
        if at[e.nodes[1]] - at[e.nodes[0]] > _NEARLY * e.values["breakdown_voltage"]
    )


def at_rest(
    circuit: Circuit, pad: Derivation, conducting: frozenset[str] = frozenset()
) -> DcNetwork:
    """At DC: coils are wires, capacitors gaps. `conducting` are the diodes that carry a current. Raises
    NoWorking for what has no place in a working."""
    branches: list[Branch] = []
    wires: list[tuple[str, str]] = []
    coils, gaps = [], []
    for e in circuit:
        if e.device.description.couples or e.kind in (*CONTROLLED, "transformer"):
            continue  # coils that are wires; what goes by others comes after them
        a, b = e.nodes[0], e.nodes[1] if len(e.nodes) > 1 else GROUND_NODE
        if e.kind == "capacitor":
            gaps.append(e.name)
        elif e.kind == "inductor" and not e.values.get("series_resistance"):
            coils.append(e.name)
            wires.append((a, b))
        elif e.kind == "inductor":
            coils.append(e.name)
            branches.append(
                Branch(
                    f"R_s_{e.name}", "impedance", (a, b), e.values["series_resistance"], (e.name,)
                )
            )
        elif e.form == BREAKDOWN:
            held = -float(e.values["voltage"])
            pad.say(f"{e.name} breaks down and holds its {typed(held, 'V', _DIGITS)}.", (e.name,))
            branches.append(Branch(f"V_{e.name}", "voltage", (b, a), held, (e.name,), turned=True))
        elif e.kind == "diode":
            if e.name in conducting:
                value = 0.0 if e.form == "ideal" else float(e.values.get("forward_voltage", _DROP))
                if value:
                    branches.append(Branch(f"V_{e.name}", "voltage", (a, b), value, (e.name,)))
                else:
                    wires.append((a, b))
        else:
            branches += plain_branches(e, wires, of=_dc(e))
    branches += controlled(circuit, branches, pad)
    pad.know(branches)
    if coils:
        pad.say(f"At rest {_listed(coils)} {_is(coils)} a plain wire.", tuple(coils))
    if gaps:
        pad.say(f"At rest {_listed(gaps)} {_is(gaps)} a gap.", tuple(gaps))
    return begun(branches, wires, (*coils, *_wired(circuit)))


def refuse_coupled(circuit: Circuit) -> None:
    """Raises NoWorking where the current of one coil acts on another."""
    for e in circuit:
        if e.device.description.couples:
            raise NoWorking(f"{e.name} couples two coils, which is not worked out by hand here.")


def _dc(e: Element) -> float:
    return float(e.values.get("voltage", e.values.get("current", 0.0))) if e.imposes else 0.0


def at_frequency(circuit: Circuit, frequency: float, pad: Derivation) -> DcNetwork:
    """The phasors at one frequency [Hz]: every part by its impedance. Raises NoWorking."""
    branches: list[Branch] = []
    wires: list[tuple[str, str]] = []
    f = pad.free("f")
    pad.of_peaks = True
    reactive = any(e.kind in ("capacitor", "inductor") for e in circuit)
    if reactive:
        pad.write("The frequency.", f, typed(frequency, "Hz", _DIGITS), frequency)
    w = 2j * math.pi * frequency
    refuse_coupled(circuit)
    for e in circuit:
        a, b = e.nodes[0], e.nodes[1] if len(e.nodes) > 1 else GROUND_NODE
        if e.kind in (*CONTROLLED, "transformer"):
            continue
        if e.kind in ("capacitor", "inductor"):
            branches.append(_reactance(e, (a, b), w, f, pad))
        elif e.kind == "impedance":
            branches.append(_impedance(e, (a, b), pad))
        elif e.imposes:
            value = cmath.rect(
                float(e.values.get("magnitude", 0.0)), math.radians(e.values.get("phase", 0.0))
            )
            branches += _source(e, (a, b), value, wires, pad)
        else:
            branches += plain_branches(e, wires)
    branches += controlled(circuit, branches, pad)
    pad.know(branches)
    return begun(branches, wires, _wired(circuit))


def controlled(circuit: Circuit, branches: Sequence[Branch], pad: Derivation) -> list[Branch]:
    """The controlled sources and ideal transformers beside the other branches. Raises NoWorking where a
    current that one goes by is not that of an impedance."""
    found = []
    for e in circuit:
        if e.kind == "transformer":
            ratio = float(e.values["ratio"])
            pad.names.setdefault(e.name, known(ratio, ""))
            first, second = (e.nodes[0], e.nodes[1]), (e.nodes[2], e.nodes[3])
            found.append(
                Branch(e.name, "transformer", first, ratio, (e.name,), second, None, e.name)
            )
        if e.kind not in CONTROLLED:
            continue
        kind, unit = CONTROLLED[e.kind]
        value = complex(e.values["gain"])
        pad.names.setdefault(e.name, known(value, unit))
        ends = (e.nodes[0], e.nodes[1])
        if not e.refers:
            senses, gain, parts = (e.nodes[2], e.nodes[3]), e.name, (e.name,)
        else:
            through, senses = _through(circuit, e, branches)
            gain, value, parts = f"{e.name}/{through.name}", value / through.value, (e.name,)
            where = f"the current through {e.refers[0]}" + (
                f", which is that through {through.parts[0]}"
                if through.parts[0] != e.refers[0]
                else ""
            )
            pad.say(
                f"{e.name} is controlled by {where}.",
                (e.name, e.refers[0], *through.parts),
                of=e.name,
            )
        found.append(Branch(e.name, kind, ends, value, parts, senses, wires=None, gain=gain))
    return found


def _through(
    circuit: Circuit, e: Element, branches: Sequence[Branch]
) -> tuple[Branch, tuple[str, str]]:
    """The impedance whose current a source goes by, and its ends in the order in which that is counted."""
    part = circuit.element(e.refers[0])
    assert part is not None
    own = next((b for b in branches if b.parts == (part.name,) and b.kind == "impedance"), None)
    if own:
        return own, own.nodes
    for node, enters in ((part.nodes[0], False), (part.nodes[1], True)):
        beside = [x for x in circuit if node in x.nodes[:2] and x.name != part.name]
        if node == GROUND_NODE or len(beside) != 1:
            continue
        of = next(
            (b for b in branches if b.parts == (beside[0].name,) and b.kind == "impedance"), None
        )
        if of:
            forward = (of.nodes[0] == node) == enters
            return of, of.nodes if forward else (of.nodes[1], of.nodes[0])
    raise NoWorking(
        f"{e.name} is controlled by the current through {part.name}, and no one resistance lies in series "
        f"with that: it is an unknown of its own, which is not worked out by hand here."
    )


def _wired(circuit: Circuit) -> tuple[str, ...]:
    """What is drawn as a wire because it is nothing else."""
    ammeters = (e.name for e in circuit if e.kind == "ammeter" and not e.values.get("burden"))
    shorts = (e.name for e in circuit if e.kind == "resistor" and not e.values["resistance"])
    return (*ammeters, *shorts)


def _source(
    e: Element,
    nodes: tuple[str, str],
    value: complex,
    wires: list[tuple[str, str]],
    pad: Derivation,
) -> Iterator[Branch]:
    unit = e.imposes
    if value == 0:
        if unit == "V":
            wires.append(nodes)
        return
    inner = e.values.get("internal_resistance")
    at_ground = nodes[1] == GROUND_NODE and not inner and unit == "V"
    name = f"V_{nodes[0]}" if at_ground else f"{'V' if unit == 'V' else 'I'}_{e.name}"
    size, turn = abs(value), math.degrees(cmath.phase(value))
    angle = f"-{-turn:.9g}" if turn < 0 else f"{turn:.9g}"
    text = typed(size, unit, _DIGITS) + (f" ∠ {angle}°" if turn else "")
    pad.write(f"{e.name} as a phasor, by its peak value.", name, text, value, (e.name,))
    kind = "voltage" if unit == "V" else "current"
    yield from _with_inner(e, Branch(name, kind, nodes, value, (e.name,)), inner)  # type: ignore[arg-type]


def _with_inner(e: Element, source: Branch, inner: float | None) -> Iterator[Branch]:
    """A source and the resistance within it."""
    if not inner:
        yield source
        return
    name = f"R_i_{e.name}"
    a, b = source.nodes
    if source.kind == "voltage":
        between = f"in{e.name}"
        yield replace(source, nodes=(between, b))
        yield Branch(name, "impedance", (a, between), inner, (e.name,))
    else:
        yield source
        yield Branch(name, "impedance", (a, b), inner, (e.name,))


def _reactance(e: Element, nodes: tuple[str, str], w: complex, f: str, pad: Derivation) -> Branch:
    main = float(e.values[e.main_key])
    pad.names.setdefault(e.name, known(main, "F" if e.kind == "capacitor" else "H"))
    if e.values.get("leakage_resistance") or e.values.get("parallel_capacitance"):
        raise NoWorking(
            f"{e.name} is drawn with more imperfections than are worked out by hand; make it textbook."
        )
    inner = float(e.values.get("series_resistance", 0.0))
    plus, extra = "", inner
    if inner:
        name = f"R_s_{e.name}"
        pad.names.setdefault(name, known(inner, "Ω"))
        plus = f"{name} + "
    if e.kind == "capacitor":
        value, body = 1 / (w * main) + extra, f"{plus}1/(j*2*pi*{f}*{e.name})"
        words = f"The impedance of {e.name}."
    else:
        value, body = w * main + extra, f"{plus}j*2*pi*{f}*{e.name}"
        words = f"The impedance of {e.name}{', with its winding' if inner else ''}."
    name = pad.write(words, pad.free(f"Z_{e.name}"), body, value, (e.name,))
    return Branch(name, "impedance", nodes, value, (e.name,))


def _impedance(e: Element, nodes: tuple[str, str], pad: Derivation) -> Branch:
    r, x = float(e.values["resistance"]), float(e.values["reactance"])
    if not r and not x:
        raise NoWorking(f"{e.name} has no impedance at all; draw a wire in its place.")
    name = pad.free(f"Z_{e.name.removeprefix('Z')}")
    imaginary = f"j{typed(abs(x), 'Ω', _DIGITS)}" if x else ""
    body = typed(r, "Ω", _DIGITS) if r or not x else ""
    body += (
        (" - " if body else "-") + imaginary if x < 0 else (" + " if body and x else "") + imaginary
    )
    pad.write(f"{e.name}, as drawn.", name, body, complex(r, x), (e.name,))
    return Branch(name, "impedance", nodes, complex(r, x), (e.name,))


def plain_branches(e: Element, wires: list[tuple[str, str]], of: float = 0.0) -> Iterator[Branch]:
    """What is the same at rest and at a frequency. Raises NoWorking."""
    a, b = e.nodes[0], e.nodes[1] if len(e.nodes) > 1 else GROUND_NODE
    if e.imposes:
        kind = "voltage" if e.imposes == "V" else "current"
        if of:
            source = Branch(e.name, kind, (a, b), of, (e.name,))  # type: ignore[arg-type]
            yield from _with_inner(e, source, e.values.get("internal_resistance"))
        elif kind == "voltage":
            wires.append((a, b))
    elif e.kind == "resistor":
        if e.values["resistance"]:
            yield Branch(e.name, "impedance", (a, b), float(e.values["resistance"]), (e.name,))
        else:
            wires.append((a, b))
    elif e.kind == "impedance" and not e.values.get("reactance"):
        yield Branch(e.name, "impedance", (a, b), float(e.values["resistance"]), (e.name,))
    elif e.kind == "voltmeter":
        if "input_resistance" in e.values:
            yield Branch(
                f"R_{e.name}", "impedance", (a, b), float(e.values["input_resistance"]), (e.name,)
            )
    elif e.kind == "ammeter":
        burden = float(e.values.get("burden", 0.0))
        if burden:
            yield Branch(f"R_{e.name}", "impedance", (a, b), burden, (e.name,))
        else:
            wires.append((a, b))
    elif e.kind in ("opamp", "powered_opamp"):
        plus, minus, out = e.nodes[:3]
        yield Branch(e.name, "opamp", (out, GROUND_NODE), 0.0, (e.name,), (plus, minus))
    else:
        label = e.device.description.label.lower()
        raise NoWorking(f"{e.name}, a {label}, is not worked out by hand here.")


def begun(
    branches: list[Branch], wires: list[tuple[str, str]], parts: tuple[str, ...] = ()
) -> DcNetwork:
    """The network of branches, nodes joined by `wires`, which are drawn in the place of `parts`."""
    if len(branches) > MOST_BRANCHES:
        raise NoWorking(
            f"The circuit has {len(branches)} branches, too many to work out by hand; "
            f"{MOST_BRANCHES} are the most."
        )
    network, same = Network(tuple(branches), parts), dict[str, str]()
    for a, b in wires:
        for x, y in same.items():
            a, b = (y if each == x else each for each in (a, b))
        if a == b:
            continue
        node, into = (b, a) if a == GROUND_NODE else (a, b)
        same = {x: into if y == node else y for x, y in same.items()} | {node: into}
        network = network.joined(node, into)
    return DcNetwork(network, same)


def _listed(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def _is(names: list[str]) -> str:
    return "is" if len(names) == 1 else "are each"
