"""The values written at a part, read: as understood, or what is wrong with them.

A value is a number with its unit, or an expression of circuit parameters: `1/(2*pi*f_c*C1)`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from lucidbench.core.devices import CATALOGUE, DEVICES, Description, Parameter
from lucidbench.core.devices.waves import read_points
from lucidbench.core.errors import FormulaError, Offer, ValueTextError
from lucidbench.core.formula import Known, names_in
from lucidbench.core.formula.parser import parse
from lucidbench.core.netlist import value_fault
from lucidbench.core.netlist.parameters import (
    ParameterError,
    parameter_value,
    resolve_parameters,
    value_by_parameters,
)
from lucidbench.core.schematic.complex_values import in_two
from lucidbench.core.schematic.document import Part
from lucidbench.core.schematic.kinds import BLOCK, Kinds, kind_of_part
from lucidbench.core.units import Value, engineering, nearest_preferred, parse_value
from lucidbench.core.units.engineering import NO_BREAK_SPACE
from lucidbench.core.units.values import likely_offer

_NAME = re.compile(r"[A-Za-z][A-Za-z0-9]*_[A-Za-z0-9_]+")  # as parameters are called
NO_PARAMETERS: Mapping[str, Known] = {}


@dataclass(frozen=True, eq=False)  # compared by identity: equal texts are read once
class ReadValue:
    """One parameter of one part. `number` is None where `problem` says why, or where it has none."""

    parameter: Parameter
    text: str
    number: float | None = None
    echo: str | None = None
    problem: str | None = None
    question: str | None = None
    offers: tuple[Offer, ...] = ()
    preferred: Offer | None = None
    instead: tuple[
        tuple[str, str], ...
    ] = ()  # texts by key, where it is one complex number for two


def read_values(
    part: Part, kinds: Kinds = CATALOGUE, parameters: Mapping[str, Known] = NO_PARAMETERS
) -> tuple[ReadValue, ...]:
    """The parameters of `part` that its form has, in order; none for an unknown kind.

    A textbook part has none of those that make it practical.
    """
    description = kind_of_part(part, kinds)
    if description is None:
        return ()
    if description.kind == BLOCK:
        return _read_use(description, part.values, parameters)
    plain = _read_all(description, part.form, part.textbook, tuple(part.values.items()))

    def meant(read: ReadValue) -> ReadValue:
        if not read.problem or read.parameter.reads != "quantity":
            return read
        kind = description.element
        by_parameters = _by_parameters(kind, read.parameter, read.text, parameters)
        return by_parameters or _of_no_such_name(read)

    return tuple(map(meant, plain))


def _read_use(
    description: Description, texts: Mapping[str, str], parameters: Mapping[str, Known]
) -> tuple[ReadValue, ...]:
    """The values of one use of a block: its own, and for those left empty what the block has."""
    own = {p.key: p.default for p in description.parameters}
    units = {p.key: p.unit for p in description.parameters}
    inside = {name: known for name, known in parameters.items() if name not in own}
    problems = {}
    for name in own:
        text = texts.get(name, "")
        try:
            if text.strip():
                inside[name] = parameter_value(name, text, units[name], parameters)
        except ParameterError as error:
            problems[name] = str(error).removeprefix(f"{name}: ")

    def read(parameter: Parameter) -> ReadValue:
        name, text = parameter.key, texts.get(parameter.key, "")
        if name in problems:
            return ReadValue(parameter, text, problem=problems[name])
        try:
            known = resolve_parameters(own, inside, (name,))[name]
        except ParameterError:  # told where the block itself is drawn
            return ReadValue(parameter, text)
        value = complex(known.value).real
        plain = bool(text.strip()) and not names_in(parse(text).body)
        echo = engineering(value, known.dimension.unit or parameter.unit, digits=7)
        return ReadValue(parameter, text, number=value if plain else None, echo=echo)

    return tuple(map(read, description.parameters))


@lru_cache(maxsize=4096)  # most parts are as they were in the look before
def _read_all(
    description: Description, form: str, textbook: bool, values: tuple[tuple[str, str], ...]
) -> tuple[ReadValue, ...]:
    texts = dict(values)
    split = in_two(description, texts)
    meant = {**texts, **{k: text for instead in split.values() for k, text in instead.items()}}

    def read(parameter: Parameter) -> ReadValue:
        value = _read(description.element, parameter, meant.get(parameter.key, ""))
        instead = split.get(parameter.key)
        if instead is None:
            return value
        return replace(value, text=texts[parameter.key], instead=tuple(instead.items()))

    found = [
        read(parameter)
        for parameter in description.of_form(form)
        if not (textbook and parameter.practical)
    ]
    numbers = {value.parameter.key: value.number for value in found}
    if description.imposes and numbers.get(description.pair[0]):
        # Zero at DC is what a source of a phasor alone is meant to be.
        return tuple(replace(v, question=None) if v.number == 0 else v for v in found)
    return tuple(found)


@lru_cache(maxsize=4096)
def _read(kind: str, parameter: Parameter, text: str) -> ReadValue:
    default = Offer(f"Use {parameter.default}", parameter.default)
    if not text.strip():
        if parameter.optional:
            return ReadValue(parameter, text)
        if parameter.aside and parameter.default:
            number = parse_value(parameter.default, parameter.unit).number
            return ReadValue(parameter, text, number=number)
        offers = (default,) if parameter.default else ()
        return ReadValue(parameter, text, problem=_missing(parameter), offers=offers)
    if parameter.reads == "points":
        try:
            read_points(text)
        except ValueTextError as error:
            return ReadValue(parameter, text, problem=str(error), offers=error.offers)
        return ReadValue(parameter, text)
    if parameter.reads != "quantity":
        return ReadValue(parameter, text, echo=text.strip() if parameter.reads == "part" else None)
    try:
        value = parse_value(text, parameter.unit)
    except ValueTextError as error:
        return ReadValue(parameter, text, problem=str(error), offers=error.offers)
    return _judged(kind, parameter, text, value)


def _judged(kind: str, parameter: Parameter, text: str, value: Value) -> ReadValue:
    default = Offer(f"Use {parameter.default}", parameter.default)
    known = kind in DEVICES and any(
        p.key == parameter.key for p in DEVICES[kind].description.parameters
    )
    fault = (
        value_fault(kind, parameter.key, value.number) if known else _out_of_range(parameter, value)
    )
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


def _missing(parameter: Parameter) -> str:
    if parameter.reads == "part":
        return f"“{parameter.label}” is still empty; write the name of a part there"
    return (
        "a value is missing"
        if parameter.reads == "quantity"
        else f"its {parameter.label.lower()} is missing"
    )


def _out_of_range(parameter: Parameter, value: Value) -> str | None:
    if parameter.positive and value.number <= 0:
        return f"its {parameter.label.lower()} must be above zero"
    low, high = parameter.minimum, parameter.maximum
    if (low is not None and value.number < low) or (high is not None and value.number > high):
        return f"its {parameter.label.lower()} is out of range"
    return None


def _by_parameters(
    kind: str, parameter: Parameter, text: str, parameters: Mapping[str, Known]
) -> ReadValue | None:
    """`text` as an expression of parameters; None where it uses none of them."""
    try:
        if not names_in(parse(text).body) & set(parameters):
            return None
    except FormulaError:
        return None
    try:
        number = value_by_parameters(parameter.label, text, parameter.unit, parameters)
    except ParameterError as error:
        return ReadValue(parameter, text, problem=str(error))
    read = _judged(kind, parameter, text, Value(number, parameter.unit))
    scale = 100 if parameter.unit == "%" else 1
    echo = read.echo and engineering(number * scale, parameter.unit)
    return ReadValue(parameter, text, read.number, echo, read.problem, read.question)


def _of_no_such_name(read: ReadValue) -> ReadValue:
    """What was read, or, where it is a name that no parameter has, that this is so."""
    name = read.text.strip()
    if not _NAME.fullmatch(name):
        return read
    problem = f"no parameter is called {name}; write a number, or add it to the parameters"
    return replace(read, problem=problem)


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


def values_in_form(part: Part, form: str, **told: str) -> dict[str, str]:
    """The values of a part in a form: its own, those it needs there and lacks as usual, and those `told`."""
    device = DEVICES.get(part.kind)
    wanted = device.description.of_form(form) if device else ()
    usual = {p.key: p.default for p in wanted if p.default and not p.optional}
    return {**usual, **part.values, **told}
