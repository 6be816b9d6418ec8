"""A transistor stage by the textbook: its bias at a constant V_BE and β, then its gain by the hybrid-π
circuit.

Sedra and Smith, Microelectronic Circuits, 5th edition, sections 5.5 (bias) and 5.7 (amplifiers), from memory.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from lucidbench.core.analyses import operating_point
from lucidbench.core.devices.temperature import thermal_voltage
from lucidbench.core.graphs import connected
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
    base = seen(stage, stage.base, pad, "B")
    b = pad.write(f"The current gain of {q}.", pad.free("beta"), f"{beta:.10g}", beta, (q,))
    v = pad.write(
        "A silicon junction that conducts.",
        pad.free("V_BE"),
        typed(junction, "V", _DIGITS),
        junction,
        (q,),
    )
    emitter = seen(stage, stage.emitter, pad, "E")
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

    side = "below" if stage.sign > 0 else "above"
    drop = f" - {told['I_B']}*{base.resistance}" if base.ohms else ""
    v_b = base.voltage
    if drop:
        words = f"The base lies {side} its open voltage by what its current drops."
        v_b = write(words, name_of(stage.base, pad, "V_B"), base.voltage + drop, volts[stage.base])
    v_e = "0 V"
    if stage.emitter != GROUND_NODE:
        v_e = write(
            "", name_of(stage.emitter, pad, "V_E"), f"{v_b} - {junction}", volts[stage.emitter]
        )
    supply = seen(stage, stage.collector, pad, "C")
    v_c = supply.voltage
    if supply.ohms:
        words = f"The collector lies {side} its supply by what its current drops."
        body = f"{v_c} - {told['I_C']}*{supply.resistance}"
        v_c = write(words, name_of(stage.collector, pad, "V_C"), body, volts[stage.collector])
    across = volts[stage.collector] - volts[stage.emitter]
    if stage.sign * across < _SATURATED:
        raise NoWorking(f"{q} is saturated; the rules of the active region do not hold.")
    words = "Across collector and emitter; well beyond 0.2 V, so it is not saturated."
    v_ce = write(words, pad.free("V_CE"), v_c if v_e == "0 V" else f"{v_c} - {v_e}", across)
    return {"V_B": v_b, "V_E": v_e, "V_C": v_c, "V_CE": v_ce}


def name_of(node: str, pad: Derivation, instead: str) -> str:
    """What the voltage of a node is called."""
    name = f"V_{node}"
    return name if name not in pad.names else pad.free(instead)


def seen(stage: Stage, node: str, pad: Derivation, pin: str, draws: bool = True) -> Seen:
    """What a pin sees, written in short; one that `draws` no current, an open voltage. Raises NoWorking."""
    if node == GROUND_NODE:
        return Seen("0 V", 0.0)
    rest = trimmed_to(stage.rest, node)
    volts = rest.solved.between(node, GROUND_NODE).real
    if any(b.kind == "voltage" and node in b.nodes for b in rest.branches):
        return Seen(_held_at(rest, node), volts)
    others = {stage.base, stage.emitter, stage.collector} - {node} - held_nodes(rest)
    if others & set(rest.nodes):
        raise NoWorking(
            "The pins of the transistor are joined by more than itself; node equations are needed."
        )
    ohms = resistance_between(rest, node, GROUND_NODE).real
    at = rest.at(node)
    if len(at) == 1 and at[0].kind == "impedance":
        far = at[0].other(node)
        if far == GROUND_NODE:
            return Seen("0 V", 0.0, at[0].name, ohms)
        if any(set(b.nodes) == {far, GROUND_NODE} for b in rest.branches if b.kind == "voltage"):
            return Seen(_held_at(rest, far), volts, at[0].name, ohms)
    if not draws:
        return Seen(voltage(rest, node, GROUND_NODE, pad, "_oc") if rest.sources else "0 V", volts)
    resistance, _ = one_impedance(rest, node, GROUND_NODE, pad, f"R_{pin}T")
    if not rest.sources:
        return Seen("0 V", 0.0, resistance, ohms)
    return Seen(voltage(rest, node, GROUND_NODE, pad, "_oc"), volts, resistance, ohms)


def held_nodes(network: Network) -> set[str]:
    """Ground, and the nodes that sources tie to it."""
    ties = [b.nodes for b in network.branches if b.kind == "voltage"]
    return next(group for group in connected([GROUND_NODE], ties) if GROUND_NODE in group)


def trimmed_to(network: Network, node: str) -> Network:
    """What of a network a node hangs on: nodes that sources hold, and ground, go no further."""
    held = held_nodes(network)
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
    beta_ = told["beta"]
    passive = Network(tuple(b for b in network.branches if b.kind == "impedance" and r != b.name))
    driven, ahead = _driven(passive, start, (base, emitter))
    if driven == emitter and base != GROUND_NODE:
        raise NoWorking("The base is not held for signals; node equations are needed.")
    if out not in (collector, emitter) or out == driven:
        raise NoWorking(
            f"Node {output} is neither at the collector nor at the emitter for signals."
        )
    solved = network.solved
    passive = passive.without(*(b.name for b in ahead))
    under = "" if emitter == GROUND_NODE else shunt(passive, emitter, pad, "R_E")
    load = "" if collector == GROUND_NODE else shunt(passive, collector, pad, "R_L")
    value = solved.voltages[out] / solved.voltages[driven]
    if driven == emitter:
        body = f"{g}*{load}"
        words = (
            "The base is held: g_m times the emitter's voltage flows through the collector's load."
        )
    elif out == collector:
        words = (
            "The current g_m·v_be flows through all that the collector sees, and pulls the output down "
            "where the input rises."
        )
        body = f"-{g}*{load}"
        if under:
            words = "The emitter's resistance, β + 1 times as large, lies in series with r_π."
            body = f"-{beta_}*{load}/({r} + ({beta_} + 1)*{under})"
    else:
        words = "The emitter follows the base."
        body = f"({beta_} + 1)*{under}/({r} + ({beta_} + 1)*{under})"
    answer = pad.write(words, pad.free("A_0" if ahead else "A_v"), body, value, (q,))
    around = network.without(*(b.name for b in ahead))
    seen_there = _input_resistance(around, passive, (driven, base, emitter), under, (r, beta_), pad)
    if ahead:
        if not seen_there:
            raise NoWorking(
                "What the source sees has no short form here; node equations are needed."
            )
        (own,) = ahead
        answer = pad.write(
            f"{own.name} and what lies behind it divide the source's voltage first.", pad.free("A_v"),
            f"{answer}*{seen_there}/({own.name} + {seen_there})",
            solved.voltages[out] / solved.voltages[start], own.parts,
        )  # fmt: skip
    if driven == base:
        _output_resistance(
            around, circuit, (output, element.nodes[0]), out, (r, beta_, bool(ahead)), pad
        )
    return answer


def _driven(passive: Network, start: str, pins: tuple[str, str]) -> tuple[str, tuple[Branch, ...]]:
    """The pin, base or emitter, that a source at `start` drives, and the resistance before it. Raises
    NoWorking."""
    if start in pins:
        return start, ()
    at = passive.at(start)
    if len(at) == 1 and at[0].other(start) in pins:
        return at[0].other(start), (at[0],)
    raise NoWorking(
        "Between the source and the transistor lies more than one resistance; node equations are needed."
    )


def _input_resistance(
    network: Network,
    passive: Network,
    pins: tuple[str, str, str],
    under: str,
    written: tuple[str, str],
    pad: Derivation,
) -> str:
    """Writes what the source sees, and gives its name, "" where that has no short form. `pins` are the one
    that is driven, base and emitter, `under` the emitter's resistance, "" for none, `written` r_π and β."""
    driven, base, emitter = pins
    r, beta = written
    at = [
        b
        for b in passive.at(driven)
        if driven == emitter or emitter not in b.nodes or emitter == GROUND_NODE
    ]
    if any(GROUND_NODE not in b.nodes for b in at):
        return ""
    seen_at = f"({r} + ({beta} + 1)*{under})" if under and driven == base else r
    seen_at = f"({r}/({beta} + 1))" if driven == emitter else seen_at
    alone = network.without(*(b.name for b in network.sources))
    probe = Branch("probe", "current", (GROUND_NODE, driven), 1.0, ())
    truth = alone.with_branch(probe).solved.voltages[driven]
    names = " || ".join([*(b.name for b in at), seen_at])
    return pad.write(
        "What the source sees.", pad.free("R_in"), names, truth, tuple(b.name for b in at)
    )


def _output_resistance(
    network: Network,
    circuit: Circuit,
    drawn: tuple[str, str],
    out: str,
    written: tuple[str, str, bool],
    pad: Derivation,
) -> None:
    """What a load would see: `drawn` are the output and the collector on the drawing, `out` the output for
    signals, `written` r_π, β, and whether the source has a resistance."""
    output, collector = drawn
    r, beta, has_ahead = written
    loads = {
        e.name
        for e in circuit
        if e.kind == "resistor" and output in e.nodes and output != collector
    }
    alone = network.without(*loads)
    at = [
        b for b in alone.at(out) if b.kind == "impedance" and b.name != r and GROUND_NODE in b.nodes
    ]
    follows = any(b.kind == "controlled" and b.nodes[1] == out for b in alone.branches)
    if not at or (follows and has_ahead):
        return
    own = " || ".join(b.name for b in at)
    if follows:
        own += f" || ({r}/({beta} + 1))"
    truth = resistance_between(alone, out, GROUND_NODE)
    pad.write("What a load sees.", pad.free("R_out"), own, truth, tuple(b.name for b in at))


def shunt(passive: Network, node: str, pad: Derivation, name: str) -> str:
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


def seen_by_signals(
    circuit: Circuit, source: Element, transistor: Element
) -> tuple[list[Branch], list[tuple[str, str]]]:
    """(branches, wires) of all but the transistor for signals; the source gives 1 V."""
    branches: list[Branch] = []
    wires: list[tuple[str, str]] = []
    for e in circuit:
        if e.name == transistor.name:
            continue
        if e.kind == "capacitor" or (e.imposes == "V" and e.name != source.name):
            wires.append((e.nodes[0], e.nodes[1]))
        elif e.kind == "inductor" or e.imposes == "A":
            continue
        elif e.name == source.name:
            branches.append(Branch(e.name, "voltage", (e.nodes[0], e.nodes[1]), 1.0, (e.name,)))
        else:
            branches += plain_branches(e, wires)
    return branches, wires


def _small(
    circuit: Circuit, source: Element, q: Element, g_m: float, r_pi: float, g: str, r: str
) -> DcNetwork:
    """The circuit for signals: `g` and `r` are what transconductance and r_π are called."""
    branches, wires = seen_by_signals(circuit, source, q)
    collector, base, emitter = q.nodes[:3]
    branches.append(Branch(r, "impedance", (base, emitter), r_pi, (q.name,), wires=None))
    branches.append(
        Branch(g, "controlled", (collector, emitter), g_m, (q.name,), (base, emitter), wires=None)
    )
    return begun(branches, wires)
