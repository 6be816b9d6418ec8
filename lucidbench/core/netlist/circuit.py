"""The flat circuit every analysis takes: elements with names, nodes and values in SI units."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from hashlib import blake2b

from lucidbench.core.devices import DEVICES, Device
from lucidbench.core.devices.base import GROUND_NODE, ROOM_TEMPERATURE, Handling, Number
from lucidbench.core.devices.waveforms import Waveform
from lucidbench.core.errors import CircuitError
from lucidbench.core.pickling import PickledByFields
from lucidbench.core.units import engineering

MOST_ELEMENTS = 50_000


@dataclass(frozen=True)
class Element(PickledByFields):
    """One device in the circuit, between its nodes, in the order of its pins.

    `values` holds its parameters in SI units by key; a parameter left out has its default. `spreads`
    holds, for the parameters known only within a tolerance, the relative half-width of that
    tolerance. `refers` names the elements whose currents it depends on. A source given by a formula
    has it as a `program` (netlist/programs.py); the nodes it senses follow its own two.
    """

    name: str
    kind: str
    nodes: tuple[str, ...]
    values: Mapping[str, Number]
    spreads: Mapping[str, float] = field(default_factory=dict)
    form: str = ""
    waveform: Waveform | None = None
    refers: tuple[str, ...] = ()
    program: tuple[float, ...] = ()

    @property
    def device(self) -> Device:
        return DEVICES[self.kind]

    @property
    def imposes(self) -> str:
        """ "V" of a voltage source, "A" of a current source, "" of what is no independent source."""
        return self.device.description.imposes

    @property
    def handling(self) -> Handling:
        """What it is like in the hand."""
        return self.device.description.handling

    @property
    def main_key(self) -> str:
        """The parameter that a bare value sets, of parts that have one."""
        main = self.device.description.main
        return main.key if main else ""

    @cached_property
    def derived(self) -> dict[object, object]:
        """What has been worked out of it before, by whom it concerns; a changed copy begins empty."""
        return {}

    def with_value(self, key: str, number: Number) -> Element:
        values = {**self.values, key: number}
        # Built outright: `dataclasses.replace` takes three times as long, and studies do this most.
        return Element(
            self.name,
            self.kind,
            self.nodes,
            values,
            self.spreads,
            self.form,
            self.waveform,
            self.refers,
            self.program,
        )


@dataclass(frozen=True)
class Circuit(PickledByFields):
    """Elements in the order they were drawn or written.

    `temperature` is in kelvin. `parameters` are the circuit's named values; `rebuild` gives the same
    circuit with some of them changed, where it was read from something that has any. `near` are
    voltages [V] of nodes: where it can rest in several states, rest is sought from there.
    """

    title: str
    elements: tuple[Element, ...]
    temperature: float = ROOM_TEMPERATURE
    parameters: Mapping[str, float] = field(default_factory=dict)
    rebuild: Callable[[Mapping[str, float]], Circuit] | None = field(
        default=None, compare=False, repr=False
    )
    near: Mapping[str, float] = field(default_factory=dict)
    # What has been worked out of it before, by whom it concerns; a changed copy begins empty.
    derived: dict[str, object] = field(default_factory=dict, init=False, compare=False, repr=False)

    @cached_property
    def nodes(self) -> tuple[str, ...]:
        """Every node but ground, in order of first mention."""
        seen = dict.fromkeys(node for element in self.elements for node in element.nodes)
        seen.pop(GROUND_NODE, None)
        return tuple(seen)

    @cached_property
    def fingerprint(self) -> str:
        """A short text that changes with anything a result depends on."""

        def told(value: object) -> object:
            return sorted(value.items()) if isinstance(value, Mapping) else value

        every = [[told(getattr(e, field.name)) for field in fields(e)] for e in self.elements]
        own = [self.temperature, told(self.parameters), told(self.near)]
        return blake2b(repr((own, every)).encode(), digest_size=8).hexdigest()

    @cached_property
    def by_name(self) -> Mapping[str, Element]:
        return {element.name: element for element in self.elements}

    def element(self, name: str) -> Element:
        """The element called `name`, however it is capitalised. Raises CircuitError."""
        exact = self.by_name.get(name)
        if exact is not None:
            return exact
        for element in self.elements:
            if element.name.lower() == name.lower():
                return element
        raise CircuitError(f"There is no element called {name} in the circuit.", (name,))

    def without(self, names: set[str]) -> Circuit:
        if not names:
            return self
        return replace(self, elements=tuple(e for e in self.elements if e.name not in names))

    def with_element(self, new: Element) -> Circuit:
        """The circuit with the element of the same name exchanged, or with one more."""
        if new.name not in self.by_name:
            return replace(self, elements=(*self.elements, new))
        changed = tuple(new if e.name == new.name else e for e in self.elements)
        return replace(self, elements=changed)

    def with_value(self, name: str, key: str, number: Number) -> Circuit:
        return self.with_element(self.element(name).with_value(key, number))

    def parameter(self, name: str) -> str | None:
        """The named value called so, as it is spelt; one spelt just so comes first."""
        if name in self.parameters:
            return name
        return next((p for p in self.parameters if p.lower() == name.lower()), None)

    def with_parameter(self, name: str, number: float) -> Circuit:
        """The circuit with one of its named values changed. Raises CircuitError where it has none."""
        known = self.parameter(name)
        if known is None or self.rebuild is None:
            raise CircuitError(f"The circuit has no parameter called {name}.")
        changed = self.rebuild({known: number})
        return replace(changed, temperature=self.temperature, near=self.near)

    def __iter__(self) -> Iterator[Element]:
        return iter(self.elements)


def value_fault(kind: str, key: str, number: float) -> str | None:
    """Why `number` cannot be this parameter of this kind of device; None where it can."""
    parameter = DEVICES[kind].description.parameter(key)
    if parameter.positive and number <= 0:
        amount = "zero" if number == 0 else "negative"
        return (
            f"its {parameter.label.lower()} is {amount}; it must be above 0\u00a0{parameter.unit}"
        ).rstrip("\u00a0")
    low, high = parameter.minimum, parameter.maximum
    if (low is not None and number < low) or (high is not None and number > high):
        scale = 100 if parameter.unit == "%" else 1
        bounds = [engineering(b * scale, parameter.unit) for b in (low, high) if b is not None]
        if high is None:
            return f"its {parameter.label.lower()} must not be below {bounds[0]}"
        return f"its {parameter.label.lower()} must lie between {' and '.join(bounds)}"
    return None
