"""The same circuit with other values of its parts: what holds there too holds not by luck."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from itertools import combinations

import numpy as np

from lucidbench.core.devices import DEVICES
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.errors import ValueTextError
from lucidbench.core.schematic import Part
from lucidbench.core.tolerance import Interval
from lucidbench.core.units import parse_value
from lucidbench.core.units.engineering import typed

_PLACES = 3  # sets of other values
_OVER = 9  # values of one part
_SPREAD = 0.25  # of the logarithm of each value
_DIGITS = 9
_MOST_PAIRED = 12
_TOLERANCE = "tolerance"


def at_other_values(exercise: Exercise, only: Collection[str] | None = None) -> Iterator[Exercise]:
    """The same circuit with other values of its parts and parameters, or of some `only`; β of a transistor
    stays, as a line may have it as a number."""
    random = np.random.default_rng(1)
    for _ in range(_PLACES):
        parts = [
            part
            if _is_semiconductor(part) or (only is not None and part.name not in only)
            else _moved(part, float(np.exp(_SPREAD * random.normal())))
            for part in exercise.schematic.parts
        ]
        parameters = [
            named.model_copy(
                update={"text": f"({named.text})*{np.exp(_SPREAD * random.normal()):.9g}"}
            )
            for named in exercise.parameters
        ]
        yield _with_parts(exercise, parts).model_copy(update={"parameters": parameters})


def _is_semiconductor(part: Part) -> bool:
    return part.kind in DEVICES and DEVICES[part.kind].description.purpose == "Semiconductors"


def _with_parts(exercise: Exercise, parts: list[Part]) -> Exercise:
    schematic = exercise.schematic.model_copy(update={"parts": parts})
    return exercise.model_copy(update={"schematic": schematic})


def _moved(part: Part, factor: float) -> Part:
    """Its main value taken some times; where that is no plain number, by parameters it moves anyway."""
    device = DEVICES.get(part.kind)
    main = device.description.main if device else None
    if main is None or main.key not in part.values:
        return part
    try:
        number = parse_value(part.values[main.key], main.unit).number * factor
    except ValueTextError:
        return part
    values = {**part.values, main.key: typed(number, main.unit, _DIGITS)}
    return part.model_copy(update={"values": values})


def at_each_end(exercise: Exercise, intervals: Iterable[Interval]) -> Iterator[Exercise]:
    """The same circuit with one toleranced part after the other at the upper end of its interval."""
    widths = {each.source: each.half_width for each in intervals}
    for k, part in enumerate(exercise.schematic.parts):
        if part.name in widths:
            yield _with_one(exercise, k, 1 + widths[part.name])


def without_tolerances(exercise: Exercise) -> Exercise:
    """What is asked is what it comes to, not within what."""
    parts = [
        part.model_copy(
            update={"values": {k: v for k, v in part.values.items() if k != _TOLERANCE}}
        )
        for part in exercise.schematic.parts
    ]
    return _with_parts(exercise, parts)


def over_values(
    exercise: Exercise, name: str, widest: float
) -> Iterator[tuple[float, str, Exercise]]:
    """(value [SI], its unit, the exercise with it) of the main value of a part, from it over `widest` to it
    times `widest`."""
    found = _main_value(exercise, name)
    if found:
        k, now, unit = found
        for factor in np.geomspace(1 / widest, widest, _OVER):
            yield now * float(factor), unit, _with_one(exercise, k, float(factor))


def with_each_doubled(exercise: Exercise) -> Iterator[tuple[str, Exercise]]:
    """(a part, the exercise with twice its main value), for each that has one."""
    for part in exercise.schematic.parts:
        found = _main_value(exercise, part.name)
        if found:
            yield part.name, _with_one(exercise, found[0], 2.0)


def with_pairs_doubled(
    exercise: Exercise, names: Sequence[str]
) -> Iterator[tuple[tuple[str, str], Exercise]]:
    """(two parts, the exercise with twice the main value of both), for those of `names` with equal ones."""
    found = {name: _main_value(exercise, name) for name in names[:_MOST_PAIRED]}
    for one, other in combinations(found, 2):
        a, b = found[one], found[other]
        if a and b and a[1:] == b[1:]:
            yield (one, other), _with_one(_with_one(exercise, a[0], 2.0), b[0], 2.0)


def called(exercise: Exercise, name: str) -> str:
    """What the main value of a part is called: R5, β of Q1."""
    kinds = [part.kind for part in exercise.schematic.parts if part.name == name]
    main = DEVICES[kinds[0]].description.main if kinds and kinds[0] in DEVICES else None
    return f"{main.symbol} of {name}" if main and main.symbol else name


def _main_value(exercise: Exercise, name: str) -> tuple[int, float, str] | None:
    """(place of a part in the list, its main value [SI], the unit)."""
    for k, part in enumerate(exercise.schematic.parts):
        if part.name != name or part.kind not in DEVICES:
            continue
        main = DEVICES[part.kind].description.main
        try:
            now = parse_value(part.values.get(main.key, ""), main.unit).number if main else 0.0
        except ValueTextError:
            return None
        return (k, now, main.unit) if main and now else None
    return None


def _with_one(exercise: Exercise, k: int, factor: float) -> Exercise:
    parts = list(exercise.schematic.parts)
    parts[k] = _moved(parts[k], factor)
    return _with_parts(exercise, parts)
