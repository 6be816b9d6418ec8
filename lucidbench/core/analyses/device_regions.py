"""What each semiconductor is doing at the operating point, and the small-signal values that follow.

The hybrid-pi circuit of a bipolar transistor, g_m and r_ds of a field-effect one, r_d of a junction:
as in any text on electronic circuits; the values are slopes of the same equations that were solved.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from lucidbench.core.analyses.operating_point import OperatingPoint, operating_point
from lucidbench.core.analyses.small_signal import Slopes, law_slopes_at
from lucidbench.core.devices.base import Law
from lucidbench.core.devices.resistor import Impedance
from lucidbench.core.equations.system import ElementStamp, System, assemble
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element

# A junction counts as forward where its voltage is above this many n·V_T, about 0.4 V in silicon:
# common practice, no published source.
_FORWARD = 15.0
_NEGLIGIBLE = 1e-14  # [S]: a conductance left out of the small-signal circuit


@dataclass(frozen=True)
class Part:
    """One piece of a small-signal circuit: "g_m", "r_pi", "C_pi"; `control` for a controlled source."""

    symbol: str
    value: float  # [S] for g_…, [Ω] for r_…, [F] for C_…
    branch: tuple[int, int]
    control: tuple[int, int] | None = None


@dataclass(frozen=True)
class DeviceState:
    """The region a part works in, its small-signal values by symbol, and the voltages between its pins
    that a textbook speaks of [V], by symbol: V_BE, V_DS, V_D."""

    region: str
    values: dict[str, float]
    voltages: dict[str, float]


def device_states(point: OperatingPoint) -> dict[str, DeviceState]:
    """Of every semiconductor, switch and limiter in the circuit, by element."""
    found: dict[str, DeviceState] = {}
    for slopes in law_slopes_at(point):
        name = slopes.share.element.name
        region = _region(slopes)
        values = {part.symbol: part.value for part in parts(slopes)}
        earlier = found.get(name)
        if earlier is not None:  # a part may use several laws; the first says its region
            values = {**values, **earlier.values}
            region = earlier.region or region
        if region or values:
            found[name] = DeviceState(region, values, _voltages(point, slopes.share.element))
    return found


# Between which pins the voltages of a part are told, by the names of these.
_TOLD = (("B", "E"), ("C", "E"), ("G", "S"), ("D", "S"), ("E", "B1"), ("B2", "B1"))


def _voltages(point: OperatingPoint, element: Element) -> dict[str, float]:
    pins = element.device.description.pins
    at = dict(zip(pins, (point.voltages[node] for node in element.nodes), strict=False))
    if len(element.nodes) == 2:
        return {"V_D": at[pins[0]] - at[pins[1]]}
    return {f"V_{a}{b}": at[a] - at[b] for a, b in _TOLD if a in at and b in at}


def _region(slopes: Slopes) -> str:
    u, p = slopes.controls, slopes.use.parameters
    match slopes.use.law:
        case Law.JUNCTION:
            if u[0] <= -0.98 * p[2]:
                return "breakdown"
            return "conducting" if u[0] > _FORWARD * p[1] else "blocking"
        case Law.KNEE:
            return "conducting" if u[0] > p[0] else "blocking"
        case Law.BIPOLAR:
            emitter, collector = u[0] > _FORWARD * p[1], u[1] > _FORWARD * p[2]
            return {
                (True, False): "forward active",
                (True, True): "saturated",
                (False, True): "reverse active",
                (False, False): "cut off",
            }[bool(emitter), bool(collector)]
        case Law.CHANNEL:
            if _drive(slopes) <= 0:
                return "cut off"
            return "linear" if abs(u[1]) < _drive(slopes) else "saturated"
        case Law.UNIJUNCTION:
            return "fired" if u[0] > _FORWARD * p[1] else "waiting"
        case Law.SWITCH:
            return "closed" if p[4] > 0.5 else "open"
    return ""


def _drive(slopes: Slopes) -> float:
    """v_GS - V_t of a channel, seen from the end that acts as its source [V]."""
    u, p = slopes.controls, slopes.use.parameters
    v_gs, v_bs = (u[0], u[2]) if u[1] >= 0 else (u[0] - u[1], u[2] - u[1])
    threshold = p[1]
    if p[3]:
        threshold += p[3] * (max(p[4] - v_bs, 0.0) ** 0.5 - p[4] ** 0.5)
    return float(v_gs - threshold)


def parts(slopes: Slopes) -> Iterator[Part]:
    """The small-signal circuit of one use of a law."""
    g, c = slopes.by_current, slopes.by_charge
    branches, controls = slopes.use.branches, slopes.use.controls
    match slopes.use.law:
        case Law.BIPOLAR:
            yield from _resistance("r_pi", float(g[0, 0]), branches[0])
            yield from _resistance("r_mu", float(g[1, 1]), branches[1])
            # v_bc = v_be - v_ce turns the two slopes of the transport current into g_m and r_o.
            yield Part("g_m", float(g[2, 0] + g[2, 1]), branches[2], controls[0])
            yield from _resistance("r_o", float(-g[2, 1]), branches[2])
            yield from _capacitance("C_pi", float(c[0, 0]), branches[0])
            yield from _capacitance("C_mu", float(c[1, 1]), branches[1])
        case Law.CHANNEL:
            yield Part("g_m", float(g[0, 0]), branches[0], controls[0])
            yield from _resistance("r_ds", float(g[0, 1]), branches[0])
            if g[0, 2]:
                yield Part("g_mb", float(g[0, 2]), branches[0], controls[2])
        case Law.JUNCTION | Law.KNEE if len(branches) == 1 and branches == controls:
            yield from _resistance("r_d", float(g[0, 0]), branches[0])
            yield from _capacitance("C_d", float(c[0, 0]), branches[0])
        case _:
            for k, branch in enumerate(branches):
                for m, control in enumerate(controls):
                    if branch == control:
                        yield from _resistance(f"r_{k + 1}", float(g[k, m]), branch)
                        yield from _capacitance(f"C_{k + 1}", float(c[k, m]), branch)
                    elif abs(g[k, m]) > _NEGLIGIBLE:
                        yield Part(f"g_{k + 1}{m + 1}", float(g[k, m]), branch, control)


def _resistance(symbol: str, conductance: float, branch: tuple[int, int]) -> Iterator[Part]:
    if abs(conductance) > _NEGLIGIBLE:
        yield Part(symbol, 1 / conductance, branch)


def _capacitance(symbol: str, farads: float, branch: tuple[int, int]) -> Iterator[Part]:
    if farads:
        yield Part(symbol, farads, branch)


def linear_equivalent(circuit: Circuit) -> Circuit:
    """The circuit with every nonlinear part exchanged for its small-signal circuit, each piece named
    after it: "g_m_Q1"; and every impedance that is given at a frequency for its "R_Z1" and "L_Z1". A
    circuit without such is returned as it is. Raises CircuitError.
    """
    if any(e.kind == "impedance" for e in circuit):
        circuit = replace(circuit, elements=tuple(p for e in circuit for p in _impedance_parts(e)))
    if assemble(circuit).is_linear:
        return circuit
    point = operating_point(circuit)
    by_name: dict[str, list[Slopes]] = {}
    for slopes in law_slopes_at(point):
        by_name.setdefault(slopes.share.element.name, []).append(slopes)
    elements: list[Element] = []
    for share in point.system.shares:
        name = share.element.name
        if name not in by_name:
            elements.append(share.element)
            continue
        elements += _terminals(point.system, share)
        for slopes in by_name[name]:
            for part in parts(slopes):
                elements.append(_element(point.system, share, part, f"{part.symbol}_{name}"))
    return replace(circuit, elements=tuple(elements))


def _impedance_parts(element: Element) -> Iterator[Element]:
    """The coil or capacitor, and the resistance, that an impedance given at a frequency stands for."""
    storage = Impedance.storage(element) if element.kind == "impedance" else 0.0
    if not storage:
        yield element
        return
    name, (first, second) = element.name, element.nodes
    ohms = element.values["resistance"]
    between = f"{name}.inner" if ohms else first
    if ohms:
        yield Element(f"R_{name}", "resistor", (first, between), {"resistance": ohms})
    letter, kind, key = (
        ("L", "inductor", "inductance") if storage > 0 else ("C", "capacitor", "capacitance")
    )
    yield Element(f"{letter}_{name}", kind, (between, second), {key: abs(storage)})


def _element(system: System, share: ElementStamp, part: Part, name: str) -> Element:
    ends = tuple(_node(system, share, k) for k in part.branch)
    if part.control is not None:
        sensed = tuple(_node(system, share, k) for k in part.control)
        return Element(name, "voltage_controlled_current", ends + sensed, {"gain": part.value})
    if part.symbol.startswith("C"):
        return Element(name, "capacitor", ends, {"capacitance": part.value})
    return Element(name, "resistor", ends, {"resistance": part.value})


def _node(system: System, share: ElementStamp, own: int) -> str:
    """The node an element's own number stands for; its inner ones are named after it."""
    row = share.row(own)
    return GROUND_NODE if row < 0 else system.unknowns[row].name[2:]


def _terminals(system: System, share: ElementStamp) -> list[Element]:
    """What is linear in a nonlinear part: its terminal resistances and fixed capacitances."""
    linear = share.stamps.conductances
    own = {a: -value for a, b, value in linear if a == b and _is_current(share, a)}
    # A resistance by its current: its row tells the two ends, with 1 and -1.
    series = [
        (*sorted(end for a, end, _ in linear if a == current and end != current), ohms)
        for current, ohms in own.items()
    ]
    plain = [
        (a, b, -1 / value)
        for a, b, value in linear
        if a < b and value and not (_is_current(share, a) or _is_current(share, b))
    ]
    stored = [(a, b, -value) for a, b, value in share.stamps.charges if a < b and value]
    found = []
    for pairs, letter, kind, key in (
        (series + plain, "R", "resistor", "resistance"),
        (stored, "C", "capacitor", "capacitance"),
    ):
        for a, b, size in pairs:
            ends = (_node(system, share, a), _node(system, share, b))
            name = f"{_terminal(share, letter, a, b)}_{share.element.name}"
            found.append(Element(name, kind, ends, {key: size}))
    return found


def _is_current(share: ElementStamp, own: int) -> bool:
    """Whether an element's own number stands for a current."""
    pins = len(share.element.nodes)
    return own >= pins and share.element.device.own(share.element)[own - pins][1] == "A"


def _terminal(share: ElementStamp, letter: str, row: int, column: int) -> str:
    """What lies between two of an element's nodes: "R_B" between its pin B and what is within."""
    pins = share.element.device.description.pins
    if row < len(pins) <= column:
        return f"{letter}_{pins[row]}" if len(pins[row]) == 1 else f"{letter}_s"
    return f"{letter}{row + 1}{column + 1}"
