"""The values written at a part, read: as understood, or what is wrong with them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from lucidbench.core.devices import CATALOGUE, DEVICES, Parameter
from lucidbench.core.errors import Offer, ValueTextError
from lucidbench.core.netlist import value_fault
from lucidbench.core.schematic.document import Part
from lucidbench.core.units import Value, nearest_preferred, parse_value
from lucidbench.core.units.engineering import NO_BREAK_SPACE
from lucidbench.core.units.values import likely_offer


@dataclass(frozen=True)
class ReadValue:
    """One parameter of one part. `number` is None where `problem` says why."""

    parameter: Parameter
    text: str
    number: float | None = None
    echo: str | None = None
    problem: str | None = None
    question: str | None = None
    offers: tuple[Offer, ...] = ()
    preferred: Offer | None = None


def read_values(part: Part) -> list[ReadValue]:
    """Every parameter of `part` in the order of its description; none for an unknown kind."""
    description = CATALOGUE.get(part.kind)
    if description is None:
        return []
    return [_read(part.kind, p, part.values.get(p.key, "")) for p in description.parameters]


@lru_cache(maxsize=4096)  # most texts are those of the look before
def _read(kind: str, parameter: Parameter, text: str) -> ReadValue:
    default = Offer(f"Use {parameter.default}", parameter.default)
    if not text.strip():
        if parameter.optional:
            return ReadValue(parameter, text)
        return ReadValue(parameter, text, problem="a value is missing", offers=(default,))
    try:
        value = parse_value(text, parameter.unit)
    except ValueTextError as error:
        return ReadValue(parameter, text, problem=str(error), offers=error.offers)
    fault = value_fault(kind, parameter.key, value.number) if kind in DEVICES else None
    if fault:
        return ReadValue(parameter, text, echo=value.echo, problem=fault, offers=(default,))
    question, offers = _question(parameter, value)
    return ReadValue(
        parameter,
        text,
        number=value.number,
        echo=value.echo,
        question=question,
        offers=offers,
        preferred=_preferred(parameter, value),
    )


def _question(parameter: Parameter, value: Value) -> tuple[str | None, tuple[Offer, ...]]:
    if value.number == 0:
        return (f"at zero {parameter.zero_means}" if parameter.zero_means else None), ()
    if parameter.likely is None or parameter.likely[0] <= abs(value.number) <= parameter.likely[1]:
        return None, ()
    size = "small" if abs(value.number) < parameter.likely[0] else "large"
    offer = likely_offer(value, parameter.likely)
    return f"{value.echo} is unusually {size}", (offer,) if offer else ()


def _preferred(parameter: Parameter, value: Value) -> Offer | None:
    """The nearest number of the series it is sold in; None where it is one already."""
    if parameter.preferred is None or value.number <= 0:
        return None
    nearest = Value(nearest_preferred(value.number, parameter.preferred), value.unit)
    if nearest.echo == value.echo:
        return None
    return Offer(
        f"{nearest.echo} ({parameter.preferred})", nearest.echo.replace(NO_BREAK_SPACE, " ")
    )
