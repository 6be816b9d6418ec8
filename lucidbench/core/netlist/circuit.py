"""The flat circuit every analysis takes: elements with names, nodes and values in SI units."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from lucidbench.core.devices import DEVICES, Device
from lucidbench.core.units import engineering

GROUND_NODE = "0"
MOST_ELEMENTS = 20_000


@dataclass(frozen=True)
class Element:
    """One device in the circuit, between its nodes, pin 1 first.

    `values` holds its parameters in SI units by key. `spreads` holds, for the parameters known only
    within a tolerance, the relative half-width of that tolerance.
    """

    name: str
    kind: str
    nodes: tuple[str, ...]
    values: dict[str, float]
    spreads: dict[str, float] = field(default_factory=dict)

    @property
    def device(self) -> Device:
        return DEVICES[self.kind]


@dataclass(frozen=True)
class Circuit:
    """Elements in the order they were drawn or written."""

    title: str
    elements: tuple[Element, ...]

    @property
    def nodes(self) -> tuple[str, ...]:
        """Every node but ground, in order of first mention."""
        seen = dict.fromkeys(node for element in self.elements for node in element.nodes)
        seen.pop(GROUND_NODE, None)
        return tuple(seen)

    def without(self, names: set[str]) -> Circuit:
        return replace(self, elements=tuple(e for e in self.elements if e.name not in names))

    def __iter__(self) -> Iterator[Element]:
        return iter(self.elements)


def value_fault(kind: str, key: str, number: float) -> str | None:
    """Why `number` cannot be this parameter of this kind of device; None where it can."""
    parameter = DEVICES[kind].description.parameter(key)
    if parameter.positive and number <= 0:
        amount = "zero" if number == 0 else "negative"
        return (
            f"its {parameter.label.lower()} is {amount}; it must be above 0\u00a0{parameter.unit}"
        )
    low, high = parameter.minimum, parameter.maximum
    if (low is not None and number < low) or (high is not None and number > high):
        scale = 100 if parameter.unit == "%" else 1
        bounds = [engineering(b * scale, parameter.unit) for b in (low, high) if b is not None]
        return f"its {parameter.label.lower()} must lie between {' and '.join(bounds)}"
    return None
