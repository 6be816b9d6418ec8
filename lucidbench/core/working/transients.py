"""After a step: initial value, final value, time constant or ω₀ and ζ, and the formula that follows.

With a capacitor's voltage and a coil's current for its state, a circuit is dx/dt = A·x + u; what is written
in letters is held against the matrix exponential of that (any text on linear systems).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from scipy.linalg import expm

from lucidbench.core.analyses.symbolic import transfer
from lucidbench.core.devices.waveforms import Shape
from lucidbench.core.errors import LucidError
from lucidbench.core.formula.sympy_bridge import formula_text
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.core.units.engineering import typed
from lucidbench.core.working.at_rest import DcNetwork, begun, plain_branches, refuse_coupled
from lucidbench.core.working.currents import by_voltages
from lucidbench.core.working.network import Branch, NoWorking
from lucidbench.core.working.reduction import one_impedance, trimmed
from lucidbench.core.working.step import Derivation, known
from lucidbench.core.working.transfer import ideal_amplifiers
from lucidbench.core.working.voltage import voltage
from lucidbench.core.working.wanted import TargetQuantity, branch_of
from lucidbench.core.working.writing import factor

_DIGITS = 9
_IMPERFECT = ("leakage_resistance", "parallel_capacitance", "series_resistance")
_NOTHING = 1e-12
_LONG = 1e6  # [s]
_CRITICAL = 1e-8  # of a damping ratio: beside one
_WIRE = "0 V"  # what a wire is called as a source


def after_a_step(circuit: Circuit, wanted: TargetQuantity, pad: Derivation) -> str:
    """Writes the answer as a function of t, and what it comes to at one time. Raises NoWorking."""
    stores = [e for e in circuit if e.kind in ("capacitor", "inductor")]
    if wanted.kind == "P":
        raise NoWorking(
            "A power over time is not worked out here; its voltage and its current are."
        )
    if not 1 <= len(stores) <= 2:
        raise NoWorking(
            f"{len(stores)} parts store energy; by hand one or two are worked out."
            if stores else "There is nothing that stores energy."
        )  # fmt: skip
    for e in stores:
        if any(e.values.get(key) for key in _IMPERFECT):
            raise NoWorking(f"{e.name} is drawn with imperfections; make it textbook.")
    step = Transition(ideal_amplifiers(circuit, pad), stores, pad)
    begin, end, own = _begin_and_end(step, wanted, pad)
    if len(stores) == 1:
        return _first_order(step, wanted, begin, end, own, pad)
    return _second_order(step, wanted, begin, end, own, pad)


@dataclass(frozen=True)
class _Level:
    """What a source gives before the step and after it; `name` is how the latter is written."""

    name: str
    before: float
    after: float


@dataclass(frozen=True)
class _Switched:
    """Whether a switch is closed before and after the step, when that is [s], and for how long it then rests
    [s]."""

    before: bool
    after: bool
    at: float = 0.0
    rests: float = math.inf


class Transition:
    """The circuit before and after the step, and its state as numbers."""

    def __init__(self, circuit: Circuit, stores: list[Element], pad: Derivation) -> None:
        refuse_coupled(circuit)
        self.circuit, self.stores = circuit, stores
        self.switches = {e.name: _switched(e) for e in circuit if e.kind == "timed_switch"}
        self.levels: dict[str, _Level] = {}
        self.begins, self.rests = (
            0.0,
            math.inf,
        )  # [s]: when the step is, and how long nothing follows it
        for e in circuit:
            if not e.imposes:
                continue
            before, after, begins, rests = _levels(e)
            if before != after:
                self.begins, self.rests = begins, min(self.rests, rests)
            name = e.name
            if before != after:
                at_ground = e.imposes == "V" and e.nodes[1] == GROUND_NODE
                name = (
                    f"V_{e.nodes[0]}"
                    if at_ground
                    else f"{'V' if e.imposes == 'V' else 'I'}_{e.name}"
                )
                told = typed(before, e.imposes, _DIGITS)
                pad.write(
                    f"{e.name} steps from {told} to",
                    name,
                    typed(after, e.imposes, _DIGITS),
                    after,
                    (e.name,),
                )
            self.levels[e.name] = _Level(name, before, after)
        for name, switch in self.switches.items():
            if switch.before != switch.after:
                self.begins, self.rests = switch.at, min(self.rests, switch.rests)
                does, until, then = (
                    ("closes", "gap", "wire") if switch.after else ("opens", "wire", "gap")
                )
                pad.say(f"{name} {does}: it is a {until} before, and then a {then}.", (name,))
        for e in stores:
            unit = "F" if e.kind == "capacitor" else "H"
            pad.names.setdefault(e.name, known(float(e.values[e.main_key]), unit))
        size = len(stores)
        zero = np.zeros(size)
        self.drive = self.slope(zero)
        self.matrix = np.array([self.slope(unit) - self.drive for unit in np.eye(size)]).T
        if abs(np.linalg.det(self.matrix)) < _NOTHING * np.abs(self.matrix).max(initial=0) ** size:
            raise NoWorking("It never settles: nothing lets the stored energy come to rest.")
        changes: list[_Level | _Switched] = [*self.levels.values(), *self.switches.values()]
        self.steps = any(each.before != each.after for each in changes)
        self.state = self._resting() if self.steps else self._given()
        self.final = np.linalg.solve(self.matrix, -self.drive)

    def _given(self) -> np.ndarray:
        """The starting values of what stores."""
        keys = ("initial_voltage", "initial_current")
        return np.array(
            [float(next((e.values[k] for k in keys if k in e.values), 0.0)) for e in self.stores]
        )

    def _resting(self) -> np.ndarray:
        """The state before the step. Raises NoWorking where nothing holds it."""
        start = self._given()
        try:
            drive = self.slope(np.zeros(len(start)), late=False)
            columns = [self.slope(unit, late=False) - drive for unit in np.eye(len(start))]
        except NoWorking:
            if not self.switches:
                raise
            return start  # a coil that an open switch leaves without a way
        matrix = np.array(columns).T
        if abs(np.linalg.det(matrix)) < _NOTHING * np.abs(matrix).max(initial=0) ** len(start):
            raise NoWorking(
                "Before the switch is worked, nothing says what is stored; that is not worked out here."
            )
        return np.linalg.solve(matrix, -drive)

    def held(
        self,
        state: np.ndarray,
        names: Mapping[str, str] | None = None,
        late: bool = True,
        asked: str = "",
    ) -> DcNetwork:
        """With every capacitor a voltage source, and every coil a current source, of its state; the part
        whose current is `asked` for stays one where it is a wire."""
        branches: list[Branch] = []
        wires: list[tuple[str, str]] = []
        at = dict(zip((e.name for e in self.stores), state, strict=True))
        for e in self.circuit:
            nodes = (e.nodes[0], e.nodes[1] if len(e.nodes) > 1 else GROUND_NODE)
            if e.name in at:
                name = (names or {}).get(e.name, f"state {e.name}")
                if names and e.kind == "capacitor" and at[e.name] == 0:
                    if e.name == asked:
                        branches.append(Branch(_WIRE, "voltage", nodes, 0.0, (e.name,)))
                    else:
                        wires.append(nodes)
                elif not names or at[e.name]:
                    kind = "voltage" if e.kind == "capacitor" else "current"
                    branches.append(Branch(name, kind, nodes, at[e.name], (e.name,)))  # type: ignore[arg-type]
            else:
                branches += self._others(e, wires, late)
        empty = [e.name for e in self.stores if names and e.kind == "capacitor" and not at[e.name]]
        return begun(branches, wires, tuple(empty))

    def settled(self, asked: str = "") -> DcNetwork:
        """Long after the step: capacitors are gaps, coils are wires; see `held`."""
        branches: list[Branch] = []
        wires: list[tuple[str, str]] = []
        for e in self.circuit:
            if e.name == asked and e.kind == "inductor":
                nodes = (e.nodes[0], e.nodes[1])
                branches.append(Branch(_WIRE, "voltage", nodes, 0.0, (e.name,)))
            elif e.kind == "inductor":
                wires.append((e.nodes[0], e.nodes[1]))
            elif e.kind != "capacitor":
                branches += self._others(e, wires, late=True)
        return begun(branches, wires, tuple(e.name for e in self.stores if e.kind == "inductor"))

    def _others(self, e: Element, wires: list[tuple[str, str]], late: bool) -> list[Branch]:
        if switch := self.switches.get(e.name):
            if switch.after if late else switch.before:
                wires.append((e.nodes[0], e.nodes[1]))
            return []
        level = self.levels.get(e.name)
        found = list(
            plain_branches(e, wires, of=(level.after if late else level.before) if level else 0.0)
        )
        return [
            Branch(level.name, b.kind, b.nodes, b.value, b.parts) if level and b.is_source else b
            for b in found
        ]

    @property
    def afterwards(self) -> Circuit:
        """The circuit with its switches as they are after the step, closed ones as sources of nothing."""
        left = [e for e in self.circuit if e.name not in self.switches]
        for e in self.circuit:
            if e.name in self.switches and self.switches[e.name].after:
                left.append(Element(e.name, "voltage_source", e.nodes[:2], {"voltage": 0.0}))
        return replace(self.circuit, elements=tuple(left))

    def slope(self, state: np.ndarray, late: bool = True) -> np.ndarray:
        """dx/dt at a state [V/s, A/s]."""
        here = self.held(state, late=late)
        solved, found = here.network.solved, []
        for e in self.stores:
            main = float(e.values[e.main_key])
            if e.kind == "capacitor":
                current = solved.currents.get(f"state {e.name}")
                if current is None:
                    raise NoWorking(
                        f"{e.name} is bridged by a wire, so nothing is to be said of it."
                    )
                found.append(current.real / main)
            else:
                a, b = (here.node(n) for n in e.nodes[:2])
                found.append(solved.between(a, b).real / main)
        return np.array(found)

    def output(self, wanted: TargetQuantity, state: np.ndarray) -> float:
        here = self.held(state)
        if wanted.kind == "V":
            a, b = (here.node(n) for n in wanted.nodes)
            return here.network.solved.between(a, b).real
        branch = branch_of(here.network, wanted.part)
        return here.network.solved.currents[branch.name].real

    def at(self, wanted: TargetQuantity, t: float) -> float:
        """What is wanted, `t` [s] after the step."""
        return self.output(wanted, expm(self.matrix * t) @ (self.state - self.final) + self.final)

    def rate(self, wanted: TargetQuantity) -> float:
        """Its slope just after the step."""
        ahead = self.output(wanted, self.state + self.slope(self.state))
        return ahead - self.output(wanted, self.state)


def _switched(e: Element) -> _Switched:
    """A switch about the first time at which it is worked."""
    closes, opens = e.values.get("closes_at"), e.values.get("opens_at")
    events = sorted(
        (float(t), closed) for t, closed in ((closes, True), (opens, False)) if t is not None
    )
    starts = closes is None or (opens is not None and opens < closes)
    if not events:
        return _Switched(starts, starts)
    (at, after), *later = events
    return _Switched(starts, after, at, later[0][0] - at if later else math.inf)


def _levels(e: Element) -> tuple[float, float, float, float]:
    """What a source gives before its first step and after it [V, A], when that is [s], and for how long it
    then rests [s]. Raises NoWorking."""
    dc = float(e.values.get("voltage", e.values.get("current", 0.0)))
    if e.waveform is None:
        return dc, dc, 0.0, math.inf
    wave = e.waveform
    if wave.row()[0] != Shape.PIECES:
        raise NoWorking(f"{e.name} is no step: its waveform never rests.")
    span = wave.period or _LONG
    corners = [0.0, *(float(t) for t in wave.breakpoints(0.0, span * 1.01))]

    def value(t: float) -> float:
        return float(np.asarray(wave.value(np.array([t])))[0])

    before = value(-_NOTHING)
    steps = [(t, value(t)) for t in corners if value(t) != before]
    if not steps:
        return before, before, 0.0, math.inf
    begins, after = steps[0]
    ends = next((t for t in corners if t > begins and value(t) != after), math.inf)
    return before, after, begins, ends - begins


def _begin_and_end(
    step: Transition, wanted: TargetQuantity, pad: Derivation
) -> tuple[str, str, str]:
    """Writes what is wanted just after the step and long after it; (the names of both, its own)."""
    before = "Until the step all is at rest." if step.steps else "It begins from rest."
    names = {}
    for e, value in zip(step.stores, step.state, strict=True):
        letter, unit, what = (
            ("V", "V", "voltage") if e.kind == "capacitor" else ("I", "A", "current")
        )
        held = 0.0 if abs(value) < 1e-12 else float(value)
        names[e.name] = pad.write(
            f"{before} The {what} of {e.name} cannot jump, so it begins with",
            pad.free(f"{letter}_{e.name}0"), typed(held, unit, _DIGITS), held, (e.name,),
        )  # fmt: skip
    state = np.where(np.abs(step.state) < 1e-12, 0.0, step.state)
    own = wanted.text if " " not in wanted.text else "V_" + "_".join(wanted.nodes)
    store = next(
        (
            e
            for e in step.stores
            if e.kind == "capacitor" and wanted.kind == "V" and e.nodes[:2] == wanted.nodes
        ),
        None,
    )
    stores = " and ".join(e.name for e in step.stores)
    first = step.held(state, names, asked=wanted.part)
    pad.know(first.network.branches)
    if store:
        text = names[store.name]
    else:
        words = (
            "is a source of what it holds" if len(names) == 1 else "are sources of what they hold"
        )
        pad.say(f"Just after the step {stores} {words}.", tuple(names), first.network)
        text = _text(first, wanted, pad, "_0")
    begin = pad.write("So it begins at", pad.free(f"{own}_begin"), text, step.output(wanted, state))
    last = step.settled(wanted.part)
    pad.know(last.network.branches)
    words = " and ".join(
        f"{e.name} is a {'gap' if e.kind == 'capacitor' else 'wire'}" for e in step.stores
    )
    pad.say(f"Long after the step {words}.", tuple(names), last.network)
    text = _text(last, wanted, pad, "_inf")
    end = pad.write("So it ends at", pad.free(f"{own}_end"), text, step.output(wanted, step.final))
    return begin, end, own


def _text(here: DcNetwork, wanted: TargetQuantity, pad: Derivation, suffix: str) -> str:
    """What is wanted of a network at rest, worked out in short. Raises NoWorking."""
    network = here.network
    if wanted.kind == "V":
        a, b = (here.node(n) for n in wanted.nodes)
        return voltage(network, a, b, pad, suffix)
    branch = next((x for x in network.branches if wanted.part in x.parts), None)
    if branch is None or trimmed(network).branch(branch.name) is None:
        return "0 A"
    if branch.kind == "impedance":
        return f"{factor(voltage(network, *branch.nodes, pad, suffix))}/{branch.name}"

    def between(a: str, b: str) -> str:
        return voltage(network, a, b, pad, suffix)

    return by_voltages(branch, network, pad, between, suffix)


def _first_order(
    step: Transition, wanted: TargetQuantity, begin: str, end: str, own: str, pad: Derivation
) -> str:
    store = step.stores[0]
    tau = -1 / step.matrix[0, 0]
    if tau <= 0:
        raise NoWorking("It does not settle, it runs away.")
    network = step.settled().network
    if network.is_passive:
        seen = _seen_from(step, store, pad)
        body = f"{seen}*{store.name}" if store.kind == "capacitor" else f"{store.name}/{seen}"
    else:
        body = formula_text(_denominator(step, pad)[1])
    constant = pad.write("The time constant.", pad.free("tau"), body, tau, (store.name,))
    t = pad.write("Looked at one time constant after the step:", pad.free("t"), constant, tau)
    return pad.write(
        "From its beginning to its end it goes with one exponential.", pad.free(own),
        f"{end} + ({begin} - {end})*exp(-{t}/{constant})", step.at(wanted, tau),
    )  # fmt: skip


def _seen_from(step: Transition, store: Element, pad: Derivation) -> str:
    """The resistance that a store sees, every source at zero."""
    branches: list[Branch] = []
    wires: list[tuple[str, str]] = []
    for e in step.circuit:
        if e is not store:
            branches += step._others(e, wires, late=True)
    here = begun(branches, wires)
    a, b = (here.node(n) for n in store.nodes[:2])
    pad.say(f"Seen from {store.name}, with every source at zero:", (store.name,))
    return one_impedance(here.network, a, b, pad, "R_T")[0]


def _denominator(step: Transition, pad: Derivation) -> list:  # type: ignore[type-arg]
    """The characteristic polynomial in letters, its constant term made one. Raises NoWorking."""
    import sympy

    circuit = step.afterwards
    source = next((e for e in circuit if e.imposes), None)
    node = next((n for e in step.stores for n in e.nodes if n != GROUND_NODE), None)
    if source is None or node is None:
        raise NoWorking("Without a source there is no characteristic equation here.")
    for output in circuit.nodes:
        try:
            exact = transfer(circuit, source.name, output)
        except LucidError as error:
            raise NoWorking(str(error)) from error
        coefficients = list(reversed(sympy.Poly(exact.denominator, exact.s).all_coeffs()))
        if len(coefficients) == len(step.stores) + 1 and coefficients[0] != 0:
            for symbol, number in exact.values.items():
                if str(symbol) not in pad.names:
                    raise NoWorking(f"{symbol} = {number:g} has no unit here.")
            return [sympy.factor_terms(sympy.cancel(c / coefficients[0])) for c in coefficients]
    raise NoWorking("The characteristic equation is not found in letters.")


def _second_order(
    step: Transition, wanted: TargetQuantity, begin: str, end: str, own: str, pad: Derivation
) -> str:
    _, first, second = _denominator(step, pad)
    determinant, trace = float(np.linalg.det(step.matrix)), float(np.trace(step.matrix))
    b_1, b_2 = -trace / determinant, 1 / determinant
    stores = tuple(e.name for e in step.stores)
    pad.say(
        "Node equations with s for d/dt have a solution without a source where 1 + b_1·s + b_2·s² is zero:",
        stores,
    )
    one = pad.write("", pad.free("b_1"), formula_text(first), b_1, stores)
    two = pad.write("", pad.free("b_2"), formula_text(second), b_2, stores)
    w = pad.write(
        "The undamped angular frequency.", pad.free("w_0"), f"1/sqrt({two})", math.sqrt(1 / b_2)
    )
    damping = b_1 / (2 * math.sqrt(b_2))
    z = pad.write("The damping ratio.", pad.free("zeta"), f"{one}*{w}/2", damping)
    rate = step.rate(wanted)
    unit = "V" if wanted.kind == "V" else "A"
    slope = pad.write(
        "Just after the step it moves with a slope of", pad.free(f"{own}_slope"),
        f"{typed(rate if abs(rate) > 1e-9 else 0.0, unit, _DIGITS)}/(1 s)", rate if abs(rate) > 1e-9 else 0.0,
    )  # fmt: skip
    w_0 = math.sqrt(1 / b_2)
    if damping <= 0:
        raise NoWorking("It does not settle.")
    start, finish = step.output(wanted, step.state), step.output(wanted, step.final)
    if abs(damping - 1) < _CRITICAL:
        pad.say("It is one: damped just critically, with one time constant, and t beside it.")
        before_t = pad.write(
            "Before t stands", pad.free("A_t"), f"{slope} + {w}*({begin} - {end})",
            rate + w_0 * (start - finish),
        )  # fmt: skip
        t = pad.write(
            "Looked at twice the time constant after the step:", pad.free("t"), f"2/{w}", 2 / w_0
        )
        body = f"{end} + ({begin} - {end} + {before_t}*{t})*exp(-{w}*{t})"
        return pad.write("So over time:", pad.free(own), body, step.at(wanted, 2 / w_0))
    if damping < 1:
        damped = w_0 * math.sqrt(1 - damping**2)
        w_d = pad.write(
            "Less than one, so it swings, with", pad.free("w_d"), f"{w}*sqrt(1 - {z}^2)", damped
        )
        a, truth_a = f"({begin} - {end})", start - finish
        cosine = pad.write("Before the cosine stands", pad.free("A_c"), a, truth_a)
        sine = pad.write(
            "and before the sine", pad.free("A_s"), f"({slope} + {z}*{w}*{cosine})/{w_d}",
            (rate + damping * w_0 * truth_a) / damped,
        )  # fmt: skip
        at = math.pi / damped
        t = pad.write("Looked at half a swing after the step:", pad.free("t"), f"pi/{w_d}", at)
        body = f"{end} + exp(-{z}*{w}*{t})*({cosine}*cos({w_d}*{t}) + {sine}*sin({w_d}*{t}))"
        return pad.write("So over time:", pad.free(own), body, step.at(wanted, at))
    root = math.sqrt(damping**2 - 1)
    slow, fast = (w_0 * (damping + way * root) for way in (-1, 1))
    one_ = pad.write("More than one, so there are two time constants:", pad.free("tau_1"),
                     f"1/({w}*({z} - sqrt({z}^2 - 1)))", 1 / slow)  # fmt: skip
    two_ = pad.write("", pad.free("tau_2"), f"1/({w}*({z} + sqrt({z}^2 - 1)))", 1 / fast)
    gap = start - finish
    share = (rate + gap * fast) / (fast - slow)
    long_ = pad.write("Of the longer one's exponential there is", pad.free("A_1"),
                      f"({slope} + ({begin} - {end})/{two_})/(1/{two_} - 1/{one_})", share)  # fmt: skip
    short = pad.write(
        "and of the shorter one's", pad.free("A_2"), f"{begin} - {end} - {long_}", gap - share
    )
    at = 1 / slow
    t = pad.write("Looked at the longer time constant after the step:", pad.free("t"), one_, at)
    body = f"{end} + {long_}*exp(-{t}/{one_}) + {short}*exp(-{t}/{two_})"
    return pad.write("So over time:", pad.free(own), body, step.at(wanted, at))
