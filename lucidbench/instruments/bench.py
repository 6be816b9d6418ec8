"""The bench: a build on the table, and what is clipped to it. Instruments read it through here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from threading import RLock

import numpy as np

from lucidbench.core.analyses import Watch
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element
from lucidbench.instruments.steady import Steady, from_switch_on, steady

GROUND_NAMES = ("gnd", "ground", GROUND_NODE)
SECONDS = 20.0  # that one reading may take the engine
Attach = Callable[[Circuit], Circuit]


class Bench:
    """A build, and by instrument what it adds to the circuit while it is connected.

    `seed` decides how much each instrument is off, and its noise. One at a time may use it: `lock`.
    """

    def __init__(self, circuit: Circuit, seed: int = 1) -> None:
        self.seed = seed
        self.lock = RLock()
        self._attached: dict[str, Attach] = {}
        self._circuit = circuit

    @property
    def circuit(self) -> Circuit:
        """The build alone."""
        return self._circuit

    def load(self, circuit: Circuit) -> None:
        """Another build on the table; what was connected stays so."""
        with self.lock:
            self._circuit = circuit

    def attach(self, instrument: str, how: Attach | None) -> None:
        """Connect an instrument in place of how it was; None takes it off."""
        with self.lock:
            self._attached.pop(instrument, None)
            if how is not None:
                self._attached[instrument] = how

    @property
    def loaded(self) -> Circuit:
        """The build with all that is connected. Raises CircuitError where that is nowhere."""
        circuit = self._circuit
        for how in self._attached.values():
            circuit = how(circuit)
        return circuit

    def steady(self, span: float = 1.0) -> Steady:
        """What it does long after switch-on; `span` [s] is how much of it is wanted."""
        return steady(self.loaded, span, Watch(SECONDS))

    def from_switch_on(self, span: float) -> Steady:
        return from_switch_on(self.loaded, span, Watch(SECONDS))

    def noise(self, instrument: str, draw: int) -> np.random.Generator:
        """The chance of an instrument's reading number `draw`; 0 is its own error, which stays."""
        told = np.frombuffer(instrument.encode(), np.uint8)
        return np.random.default_rng([self.seed, draw, *told])


def node_of(circuit: Circuit, name: str) -> str:
    """A node as the circuit calls it. Raises CircuitError, naming those there are."""
    if name.lower() in GROUND_NAMES:
        return GROUND_NODE
    if name in circuit.nodes:
        return name
    found = [node for node in circuit.nodes if node.lower() == name.lower()]
    if found:
        return found[0]
    raise CircuitError(
        f"There is no node called {name} on the bench; there are {', '.join(circuit.nodes)}."
    )


def between(name: str, plus: str, minus: str, ohms: float, farads: float = 0.0) -> Attach:
    """An input resistance, and a capacitance, across two nodes."""

    def attach(circuit: Circuit) -> Circuit:
        pins = (node_of(circuit, plus), node_of(circuit, minus))
        added = [Element(f"{name} input", "resistor", pins, {"resistance": ohms})]
        if farads:
            added.append(Element(f"{name} cable", "capacitor", pins, {"capacitance": farads}))
        return replace(circuit, elements=(*circuit.elements, *added))

    return attach


def in_series(name: str, part: str, pin: int, ohms: float) -> Attach:
    """A resistance where a pin of a part was: its current, `I_<name>`, flows into the part there."""

    def attach(circuit: Circuit) -> Circuit:
        element = circuit.element(part)
        if pin >= len(element.nodes):
            raise CircuitError(f"{element.name} has {len(element.nodes)} pins.", (element.name,))
        inner = f"{name} {element.name}"
        nodes = [*element.nodes[:pin], inner, *element.nodes[pin + 1 :]]
        meter = Element(name, "resistor", (element.nodes[pin], inner), {"resistance": ohms})
        changed = circuit.with_element(replace(element, nodes=tuple(nodes)))
        return replace(changed, elements=(*changed.elements, meter))

    return attach
