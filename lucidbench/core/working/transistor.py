"""A transistor stage by the textbook: its bias at a constant V_BE and β, then its gain by the hybrid-π
circuit.

Sedra and Smith, Microelectronic Circuits, 5th edition, sections 5.5 (bias) and 5.7 (amplifiers), from memory.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from lucidbench.core.analyses import operating_point
from lucidbench.core.devices.temperature import thermal_voltage
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.units.engineering import typed
from lucidbench.core.working.at_rest import DcNetwork, at_rest, begun, plain_branches, textbook_form
from lucidbench.core.working.network import Branch, Network, NoWorking, resistance_between
from lucidbench.core.working.reduction import one_impedance
from lucidbench.core.working.step import Derivation
from lucidbench.core.working.voltage import voltage

_DIGITS = 6
_SATURATED = 0.2  # [V]; common practice, no published source
_BY_RULES = (
    1e-3  # relative: the transistor's own textbook form has a resistance of 1 mΩ where it conducts
)


@dataclass(frozen=True)
class Stage:
    """One transistor and the network around it; `sign` is -1 for a PNP."""

    element: Element
    rest: Network
    sign: int

    @property
    def collector(self) -> str:
        return self.element.nodes[0]

    @property
    def base(self) -> str:
        return self.element.nodes[1]

    @property
    def emitter(self) -> str:
        return self.element.nodes[2]


def stage_of(circuit: Circuit, pad: Derivation) -> tuple[Stage, Circuit]:
    """The stage, and the circuit in its textbook form. Raises NoWorking where there is not one transistor."""
    transistors = [e for e in circuit if e.kind in ("npn", "pnp")]
    if len(transistors) != 1:
        raise NoWorking("A bias is worked out here for one transistor.")
    plain = textbook_form(circuit)
    element = next(e for e in plain if e.kind in ("npn", "pnp"))
    around = at_rest(replace(plain, elements=tuple(e for e in plain if e is not element)), pad)
    nodes = tuple(around.node(n) for n in element.nodes)
    return Stage(
        replace(element, nodes=nodes), around.network, 1 if element.kind == "npn" else -1
    ), plain


@dataclass(frozen=True)
class Seen:
    """What a pin sees with the transistor taken out: an open voltage [V] behind a resistance [Ω], as they are
    written and in numbers. A resistance of zero is written ""."""

    voltage: str
    volts: float
    resistance: str = ""
    ohms: float = 0.0


def bias(circuit: Circuit, pad: Derivation) -> dict[str, str]:
    """Writes the bias; names by what they are: V_B, V_E, V_C, V_CE, I_B, I_C, I_E, beta. Raises NoWorking."""
    stage, plain = stage_of(circuit, pad)
    q, values = stage.element.name, stage.element.values
    beta, junction = float(values["beta"]), stage.sign * float(values["base_emitter_voltage"])
    base = _seen(stage, stage.base, pad, "B")
    b = pad.write(f"The current gain of {q}.", pad.free("beta"), f"{beta:.10g}", beta, (q,))
    v = pad.write(
        "A silicon junction that conducts.",
        pad.free("V_BE"),
        typed(junction, "V", _DIGITS),
        junction,
        (q,),
    )
    emitter = _seen(stage, stage.emitter, pad, "E")
    ohms = base.ohms + (beta + 1) * emitter.ohms
    i_b = (base.volts - emitter.volts - junction) / ohms if ohms else math.inf
    if not math.isfinite(i_b) or stage.sign * i_b <= 0:
        raise NoWorking(f"{q} does not conduct by these rules.")
    above = [base.voltage, *([emitter.voltage] if emitter.volts else []), v]
    below = [base.resistance] if base.ohms else []
    below += [f"({b} + 1)*{emitter.resistance}"] if emitter.ohms else []
    told = {"beta": b}
    told["I_B"] = pad.write(
        "Around base and emitter: the base current flows through the base's resistance, and β + 1 times as "
        "much through the emitter's.",
        pad.free("I_B"), f"({' - '.join(above)})/({' + '.join(below)})", i_b, (q,),
    )  # fmt: skip
    told["I_C"] = pad.write("", pad.free("I_C"), f"{b}*{told['I_B']}", beta * i_b, (q,))
    told["I_E"] = pad.write("", pad.free("I_E"), f"({b} + 1)*{told['I_B']}", (beta + 1) * i_b, (q,))
    return told | _voltages(stage, plain, told, base, v, pad)


def _voltages(
    stage: Stage, plain: Circuit, told: dict[str, str], base: Seen, junction: str, pad: Derivation
) -> dict[str, str]:
    """Writes the voltages at the pins."""
    q = stage.element.name
    at_rest_ = operating_point(plain).voltages
    volts = {node: at_rest_.get(node, 0.0) for node in (stage.base, stage.emitter, stage.collector)}

    def write(sentence: str, name: str, body: str, value: float) -> str:
        return pad.write(sentence, name, body, value, (q,), within=_BY_RULES)

    drop = f" - {told['I_B']}*{base.resistance}" if base.ohms else ""
    v_b = base.voltage
    if drop:
        words = "The base lies below its open voltage by what its current drops."
        v_b = write(words, _name_of(stage.base, pad, "V_B"), base.voltage + drop, volts[stage.base])
    v_e = "0 V"
    if stage.emitter != GROUND_NODE:
        v_e = write(
            "", _name_of(stage.emitter, pad, "V_E"), f"{v_b} - {junction}", volts[stage.emitter]
        )
    supply = _seen(stage, stage.collector, pad, "C")
    v_c = supply.voltage
    if supply.ohms:
        words = "The collector lies below its supply by what its current drops."
        body = f"{v_c} - {told['I_C']}*{supply.resistance}"
        v_c = write(words, _name_of(stage.collector, pad, "V_C"), body, volts[stage.collector])
    across = volts[stage.collector] - volts[stage.emitter]
    if stage.sign * across < _SATURATED:
        raise NoWorking(f"{q} is saturated; the rules of the active region do not hold.")
    words = "Across collector and emitter; well above 0.2 V, so it is not saturated."
    v_ce = write(words, pad.free("V_CE"), v_c if v_e == "0 V" else f"{v_c} - {v_e}", across)
    return {"V_B": v_b, "V_E": v_e, "V_C": v_c, "V_CE": v_ce}


def _name_of(node: str, pad: Derivation, instead: str) -> str:
    name = f"V_{node}"
    return name if name not in pad.names else pad.free(instead)


def _seen(stage: Stage, node: str, pad: Derivation, pin: str) -> Seen:
    """What a pin sees, written in short. Raises NoWorking."""
    if node == GROUND_NODE:
        return Seen("0 V", 0.0)
    rest = trimmed_to(stage.rest, node)
    others = {stage.base, stage.emitter, stage.collector} - {node, GROUND_NODE}
    if others & set(rest.nodes):
        raise NoWorking(
            "The pins of the transistor are joined by more than itself; node equations are needed."
        )
    volts = rest.solved.between(node, GROUND_NODE).real
    ohms = resistance_between(rest, node, GROUND_NODE).real
    if any(b.kind == "voltage" and node in b.nodes for b in rest.branches):
        return Seen(_held_at(rest, node), volts)
    at = rest.at(node)
    if len(at) == 1 and at[0].kind == "impedance":
        far = at[0].other(node)
        if far == GROUND_NODE:
            return Seen("0 V", 0.0, at[0].name, ohms)
        if any(set(b.nodes) == {far, GROUND_NODE} for b in rest.branches if b.kind == "voltage"):
            return Seen(_held_at(rest, far), volts, at[0].name, ohms)
    resistance, _ = one_impedance(rest, node, GROUND_NODE, pad, f"R_{pin}T")
    if not rest.sources:
        return Seen("0 V", 0.0, resistance, ohms)
    return Seen(voltage(rest, node, GROUND_NODE, pad, "_oc"), volts, resistance, ohms)


def trimmed_to(network: Network, node: str) -> Network:
    """What of a network a node hangs on: nodes that sources hold, and ground, go no further."""
    held = {GROUND_NODE}
    grown = True
    while grown:
        grown = False
        for b in network.branches:
            if b.kind == "voltage" and len(set(b.nodes) & held) == 1:
                held |= set(b.nodes)
                grown = True
    reached, kept = {node}, set[str]()
    grown = True
    while grown:
        grown = False
        for b in network.branches:
            if b.name not in kept and set(b.nodes) & (reached - (held - {node})):
                kept.add(b.name)
                reached |= set(b.nodes)
                grown = True
    wanted = reached & held
    ties = {
        b.name
        for b in network.branches
        if b.kind == "voltage" and set(b.nodes) <= held and set(b.nodes) & wanted
    }
    return Network(tuple(b for b in network.branches if b.name in kept | ties))


def _held_at(network: Network, node: str) -> str:
    for b in network.branches:
        if b.kind == "voltage" and set(b.nodes) == {node, GROUND_NODE}:
            return b.name if b.nodes[0] == node else f"-{b.name}"
    raise NoWorking(f"Node {node} is held by more than one source.")


def gain(circuit: Circuit, output: str, pad: Derivation) -> str:
    """Writes bias, hybrid-π circuit and gain from the one source of a signal to a node; gives its name."""
    signals = [
        e for e in circuit if e.imposes and (e.values.get("magnitude") or (e.waveform is not None))
    ]
    if len(signals) != 1 or signals[0].imposes != "V":
        raise NoWorking("A gain is worked out here from one voltage source with a signal.")
    source = signals[0]
    pad.say("The bias first.", heading=True)
    told = bias(circuit, pad)
    element = next(e for e in circuit if e.kind in ("npn", "pnp"))
    q, beta = element.name, float(element.values["beta"])
    pad.say(
        "Then small signals: capacitors and supplies are wires, the transistor is r_π with g_m beside it.",
        heading=True,
    )
    v_t = thermal_voltage(circuit.temperature)
    vt = pad.write("The thermal voltage.", pad.free("V_th"), typed(v_t, "V", 9), v_t)
    i_c = abs(complex(pad.names[told["I_C"]].value).real)
    sign = "" if element.kind == "npn" else "-"
    g = pad.write(
        "Transconductance.", pad.free("g_m"), f"{sign}{told['I_C']}/{vt}", i_c / v_t, (q,)
    )
    r = pad.write("", pad.free("r_pi"), f"{told['beta']}/{g}", beta * v_t / i_c, (q,))
    small = _small(circuit, source, element, i_c / v_t, beta * v_t / i_c, g, r)
    network, where = small.network, small.node
    pad.say(
        "The circuit for signals.", tuple(p for b in network.branches for p in b.parts), network
    )
    collector, base, emitter = (where(node) for node in element.nodes[:3])
    out, start = where(output), where(source.nodes[0])
    if base != start:
        raise NoWorking(
            "Between the source and the base lies more than a capacitor; node equations are needed."
        )
    if out != collector and out != emitter:
        raise NoWorking(
            f"Node {output} is neither at the collector nor at the emitter for signals."
        )
    solved = network.solved
    unit = solved.voltages[start]
    passive = Network(tuple(b for b in network.branches if b.kind == "impedance" and r != b.name))
    under = "" if emitter == GROUND_NODE else _shunt(passive, emitter, pad, "R_E")
    load = "" if collector == GROUND_NODE else _shunt(passive, collector, pad, "R_L")
    value = solved.voltages[out] / unit
    if out == collector:
        body = (
            f"-{g}*{load}"
            if not under
            else f"-{told['beta']}*{load}/({r} + ({told['beta']} + 1)*{under})"
        )
        words = (
            "The current g_m·v_be flows through all that the collector sees, and pulls the output down "
            "where the input rises."
        )
        if under:
            words = "The emitter's resistance, β + 1 times as large, lies in series with r_π."
    else:
        body = f"({told['beta']} + 1)*{under}/({r} + ({told['beta']} + 1)*{under})"
        words = "The emitter follows the base."
    answer = pad.write(words, pad.free("A_v"), body, value, (q,))
    _input_resistance(network, passive, (base, emitter), under, (r, told["beta"]), pad)
    _output_resistance(circuit, network, (output, element.nodes[0]), out, (r, told["beta"]), pad)
    return answer


def _input_resistance(
    network: Network,
    passive: Network,
    ends: tuple[str, str],
    under: str,
    written: tuple[str, str],
    pad: Derivation,
) -> None:
    """What the source sees: `ends` are base and emitter for signals, `under` the emitter's resistance, "" for
    none, `written` r_π and β."""
    base, emitter = ends
    r, beta = written
    at_base = [b for b in passive.at(base) if emitter not in b.nodes or emitter == GROUND_NODE]
    if any(GROUND_NODE not in b.nodes for b in at_base):
        return
    seen = f"({r} + ({beta} + 1)*{under})" if under else r
    alone = network.without(*(b.name for b in network.sources))
    probe = Branch("probe", "current", (GROUND_NODE, base), 1.0, ())
    truth = alone.with_branch(probe).solved.voltages[base]
    names = " || ".join([*(b.name for b in at_base), seen])
    pad.write(
        "What the source sees.", pad.free("R_in"), names, truth, tuple(b.name for b in at_base)
    )


def _output_resistance(
    circuit: Circuit,
    network: Network,
    drawn: tuple[str, str],
    out: str,
    written: tuple[str, str],
    pad: Derivation,
) -> None:
    """What a load would see: `drawn` are the output and the collector on the drawing, `out` the output for
    signals, `written` r_π and β."""
    output, collector = drawn
    r, beta = written
    loads = {
        e.name
        for e in circuit
        if e.kind == "resistor" and output in e.nodes and output != collector
    }
    alone = network.without(*loads)
    at = [
        b for b in alone.at(out) if b.kind == "impedance" and b.name != r and GROUND_NODE in b.nodes
    ]
    if not at:
        return
    own = " || ".join(b.name for b in at)
    if any(b.kind == "controlled" and b.nodes[1] == out for b in alone.branches):  # the emitter's
        own += f" || ({r}/({beta} + 1))"
    truth = resistance_between(alone, out, GROUND_NODE)
    pad.write("What a load sees.", pad.free("R_out"), own, truth, tuple(b.name for b in at))


def _shunt(passive: Network, node: str, pad: Derivation, name: str) -> str:
    """All that lies between a node and ground for signals."""
    at = [b for b in passive.at(node) if GROUND_NODE in b.nodes]
    if len(at) != len(passive.at(node)) or not at:
        return one_impedance(passive, node, GROUND_NODE, pad, name)[0]
    if len(at) == 1:
        return at[0].name
    value = 1 / sum(1 / b.value for b in at)
    parts = tuple(p for b in at for p in b.parts)
    return pad.write(f"Side by side for signals: {', '.join(parts)}.", pad.free(name),
                     " || ".join(b.name for b in at), value, parts)  # fmt: skip


def _small(
    circuit: Circuit, source: Element, q: Element, g_m: float, r_pi: float, g: str, r: str
) -> DcNetwork:
    """The circuit for signals: `g` and `r` are what transconductance and r_π are called."""
    branches: list[Branch] = []
    wires: list[tuple[str, str]] = []
    for e in circuit:
        if e.name == q.name:
            continue
        if e.kind == "capacitor" or (e.imposes == "V" and e.name != source.name):
            wires.append((e.nodes[0], e.nodes[1]))
        elif e.kind == "inductor" or e.imposes == "A":
            continue
        elif e.name == source.name:
            branches.append(Branch(e.name, "voltage", (e.nodes[0], e.nodes[1]), 1.0, (e.name,)))
        else:
            branches += plain_branches(e, wires)
    collector, base, emitter = q.nodes[:3]
    branches.append(Branch(r, "impedance", (base, emitter), r_pi, (q.name,), wires=None))
    branches.append(
        Branch(g, "controlled", (collector, emitter), g_m, (q.name,), (base, emitter), wires=None)
    )
    return begun(branches, wires)
