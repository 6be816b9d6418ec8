"""A stage with one field-effect transistor by the textbook: its bias by the square law, then its gain.

Sedra and Smith, Microelectronic Circuits, 5th edition, sections 4.3 and 4.6, from memory.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from lucidbench.core.analyses import operating_point
from lucidbench.core.formula import Known
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.units import engineering
from lucidbench.core.units.dimensions import SQUARE_LAW
from lucidbench.core.working.at_rest import at_rest, begun, textbook_form
from lucidbench.core.working.network import Branch, NoWorking
from lucidbench.core.working.step import Derivation, known
from lucidbench.core.working.transfer import signal_of
from lucidbench.core.working.transistor import (
    Seen,
    Stage,
    name_of,
    seen,
    seen_by_signals,
    shunt,
)
from lucidbench.core.working.writing import factor as bracketed

KINDS = ("nmos", "pmos", "njf", "pjf")
PINS = ("D", "G", "S")
_BY_RULES = 1e-3  # relative: the transistor's own textbook form leaks a little


@dataclass(frozen=True)
class SquareLaw:
    """i_D = `factor`·(v_GS - `threshold`)²: the names, and in numbers [A/V², V]. `doubled` and `fourfold` are
    how twice and four times the factor are written."""

    factor: str
    doubled: str
    fourfold: str
    a_per_v2: float
    threshold: str
    volts: float


def square_law(element: Element, pad: Derivation) -> SquareLaw:
    """Writes what the transistor's own values make of it."""
    q, values = element.name, {**element.device.defaults, **element.values}

    def of(key: str) -> float:
        return float(values[key])

    if element.kind in ("njf", "pjf"):
        sign = 1 if element.kind == "njf" else -1  # its pinch-off is written for the N channel
        b, v = of("transconductance"), sign * of("pinch_off")
        factor = pad.free("b")
        pad.names[factor] = Known(b, SQUARE_LAW)
        name = pad.free("V_P")
        pad.names[name] = known(v, "V")
        words = (
            f"{factor} = {engineering(b, 'A/V²')}, pinch-off voltage {name} = {engineering(v, 'V')}"
        )
        pad.say(f"{q} in saturation: {words}.", (q,))
        return SquareLaw(factor, f"2*{factor}", f"4*{factor}", b, name, v)
    k, v = of("transconductance") * of("width") / of("length"), of("threshold")
    factor, name = pad.free("K"), pad.free("V_t")
    pad.names[factor], pad.names[name] = Known(k, SQUARE_LAW), known(v, "V")
    words = (
        f"{factor} = K'·W/L = {engineering(k, 'A/V²')}, threshold {name} = {engineering(v, 'V')}"
    )
    pad.say(f"{q} in saturation: {words}.", (q,))
    return SquareLaw(f"{factor}/2", factor, f"2*{factor}", k / 2, name, v)


def plain_form(circuit: Circuit) -> Circuit:
    """With nothing but the square law: no channel-length modulation, no body effect."""
    left_out = ("modulation", "body_effect")

    def plain(e: Element) -> Element:
        if e.kind not in KINDS:
            return e
        return replace(e, values={k: v for k, v in e.values.items() if k not in left_out})

    found = textbook_form(circuit)
    return replace(found, elements=tuple(map(plain, found)))


def _stage(circuit: Circuit, pad: Derivation) -> tuple[Stage, Circuit]:
    """Raises NoWorking where there is not one field-effect transistor."""
    found = [e for e in circuit if e.kind in KINDS]
    if len(found) != 1:
        raise NoWorking("A bias is worked out here for one transistor.")
    plain = plain_form(circuit)
    element = next(e for e in plain if e.kind in KINDS)
    if found[0].values.get("modulation"):
        pad.say(f"The channel-length modulation of {element.name} is left out.", (element.name,))
    around = at_rest(replace(plain, elements=tuple(e for e in plain if e is not element)), pad)
    nodes = tuple(around.node(n) for n in element.nodes[:3])
    sign = 1 if element.kind in ("nmos", "njf") else -1
    return Stage(replace(element, nodes=nodes), around.network, sign), plain


def bias(circuit: Circuit, pad: Derivation) -> dict[str, str]:
    """Writes the bias; names by what they are: V_D, V_G, V_S, V_DS, I_D, V_ov. Raises NoWorking."""
    stage, plain = _stage(circuit, pad)
    q = stage.element.name
    gate, source = (
        seen(stage, stage.base, pad, "G", draws=False),
        seen(stage, stage.emitter, pad, "S"),
    )
    law = square_law(stage.element, pad)
    over = stage.sign * (gate.volts - source.volts - law.volts)
    if over <= 0:
        raise NoWorking(f"{q} does not conduct: V_GS is not beyond {law.threshold}.")
    at = operating_point(plain).voltages
    told = {"V_ov": _overdrive(stage, gate, source, law, over, pad)}
    u = float(pad.names[told["V_ov"]].value.real)
    i_d = stage.sign * law.a_per_v2 * u**2
    minus, words = "", "The square law."
    if stage.sign < 0:
        minus, words = "-", "The square law. Counted into the drain, it is below zero."
    body = f"{minus}{law.factor}*{told['V_ov']}^2"
    told["I_D"] = pad.write(words, pad.free("I_D"), body, i_d, (q,), within=_BY_RULES)

    def volts(node: str, pin: str, from_: Seen) -> str:
        if node == GROUND_NODE:
            return "0 V"
        if not from_.ohms:
            return from_.voltage
        drop = f"{told['I_D']}*{from_.resistance}"
        body = f"{from_.voltage} {'+' if pin == 'S' else '-'} {drop}"
        body = body.removeprefix("0 V + ").replace("0 V - ", "-")
        return pad.write(
            f"At the {'source' if pin == 'S' else 'drain'}:", name_of(node, pad, f"V_{pin}"), body,
            at[node], (q,), within=_BY_RULES,
        )  # fmt: skip

    told["V_G"] = gate.voltage
    told["V_S"] = volts(stage.emitter, "S", source)
    told["V_D"] = volts(stage.collector, "D", seen(stage, stage.collector, pad, "D"))
    across = at.get(stage.collector, 0.0) - at.get(stage.emitter, 0.0)
    if stage.sign * across < u:
        raise NoWorking(f"{q} is not saturated; the square law does not hold as it stands.")
    body = told["V_D"] if told["V_S"] == "0 V" else f"{told['V_D']} - {told['V_S']}"
    words = f"From drain to source; more than {told['V_ov']} in size, so it is saturated."
    told["V_DS"] = pad.write(words, pad.free("V_DS"), body, across, (q,), within=_BY_RULES)
    return told


def _overdrive(
    stage: Stage, gate: Seen, source: Seen, law: SquareLaw, over: float, pad: Derivation
) -> str:
    """Writes how far V_GS is beyond the threshold, counted so that it is above zero; gives its name."""
    q, ahead = stage.element.name, (gate.voltage, source.voltage)
    plus, minus = ahead if stage.sign > 0 else ahead[::-1]
    terms = plus if plus != "0 V" else ""
    terms += f" - {minus}" if minus != "0 V" else ""
    terms += f" {'-' if stage.sign > 0 else '+'} {law.threshold}"
    terms = terms.strip().removeprefix("+ ")
    terms = f"-{terms[2:]}" if terms.startswith("- ") else terms
    name = pad.free("V_ov")
    words = "No current flows into the gate, so nothing loads its voltage."
    if not source.ohms:
        return pad.write(words, name, terms, over, (q,))
    r = source.resistance
    u = (-1 + math.sqrt(1 + 4 * law.a_per_v2 * source.ohms * over)) / (
        2 * law.a_per_v2 * source.ohms
    )
    pad.say(words, (q,))
    pad.equation(
        f"V_GS exceeds {law.threshold} by {name}; the drain current drops the rest across {r}.",
        f"{name} + {law.factor}*{r}*{name}^2", terms, {name: known(u, "V")}, (q,),
    )  # fmt: skip
    return pad.write(
        "Of the two roots the one above zero.", name,
        f"(sqrt(1 + {law.fourfold}*{r}*{bracketed(terms)}) - 1)/({law.doubled}*{r})", u, (q,),
    )  # fmt: skip


def gain(circuit: Circuit, output: str, pad: Derivation) -> str:
    """Writes bias, small-signal circuit and gain from the one source of a signal to a node; gives its name.
    Raises NoWorking."""
    source = signal_of(circuit)
    if source.imposes != "V":
        raise NoWorking("A gain is worked out here from a voltage source.")
    pad.say("The bias first.", heading=True)
    told = bias(circuit, pad)
    q = next(e for e in circuit if e.kind in KINDS)
    pad.say(
        "Then small signals: capacitors and supplies are wires, the transistor is a source g_m·v_gs.",
        heading=True,
    )
    i_d, u = (complex(pad.names[told[key]].value).real for key in ("I_D", "V_ov"))
    g_m = 2 * abs(i_d) / u
    minus = "-" if i_d < 0 else ""
    g = pad.write(
        "Transconductance.",
        pad.free("g_m"),
        f"{minus}2*{told['I_D']}/{told['V_ov']}",
        g_m,
        (q.name,),
    )
    branches, wires = seen_by_signals(circuit, source, q)
    drain, gate, foot = q.nodes[:3]
    branches.append(
        Branch(g, "controlled", (drain, foot), g_m, (q.name,), (gate, foot), wires=None)
    )
    small = begun(branches, wires)
    network, where = small.network, small.node
    pad.say(
        "The circuit for signals.", tuple(p for b in network.branches for p in b.parts), network
    )
    drain, gate, foot, out, start = map(where, (drain, gate, foot, output, source.nodes[0]))
    if gate != start:
        raise NoWorking(
            "Between the source and the gate lies more than a capacitor; node equations are needed."
        )
    if out not in (drain, foot):
        raise NoWorking(f"Node {output} is neither at the drain nor at the source for signals.")
    solved = network.solved
    passive = replace(network, branches=tuple(b for b in network.branches if b.kind == "impedance"))
    under = "" if foot == GROUND_NODE else shunt(passive, foot, pad, "R_S")
    below = f"(1 + {g}*{under})" if under else ""
    if out == drain:
        load = shunt(passive, drain, pad, "R_L")
        body = f"-{g}*{load}" + (f"/{below}" if below else "")
        words = "The current g_m·v_gs flows through all that the drain sees, and turns the sign."
    else:
        body, words = f"{g}*{under}/{below}", "The source follows the gate."
    value = solved.voltages[out] / solved.voltages[start]
    return pad.write(words, pad.free("A_v"), body, value, (q.name,))
