"""What a typed word or value would place: `4k7` a resistor, `5V` a source, `gnd` a ground, `out` a name."""

from __future__ import annotations

import re

from pydantic import BaseModel

from lucidbench.core.devices import CATALOGUE, Description
from lucidbench.core.errors import ValueTextError
from lucidbench.core.units import parse_value
from lucidbench.core.units.dimensions import UNIT_SPELLINGS
from lucidbench.core.units.values import LONGEST_TEXT

_NODE_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,30}")
_WORD_THEN_VALUE = re.compile(r"([A-Za-z]+)\s+(.+)")
_BEGINS_A_NUMBER = re.compile(r"[+\-\u2212]?\.?\d")


class Placement(BaseModel):
    """One thing that could be placed; `kind` is None for a node name."""

    label: str
    detail: str
    kind: str | None = None
    values: dict[str, str] = {}
    rotation: int = 0
    node_name: str | None = None


class Correction(BaseModel):
    label: str
    text: str


class Interpretation(BaseModel):
    """What was understood, likeliest first, or why nothing was."""

    placements: list[Placement] = []
    problem: str | None = None
    corrections: list[Correction] = []


def interpret(text: str) -> Interpretation:
    """Read what was typed on the sheet."""
    text = text.strip()
    if not text:
        return Interpretation()
    if len(text) > LONGEST_TEXT:
        return Interpretation(problem=f"At most {LONGEST_TEXT} characters are read here.")
    if _BEGINS_A_NUMBER.match(text):
        return _value(text)
    worded = _WORD_THEN_VALUE.fullmatch(text)
    if worded:
        return _worded(worded[1].lower(), worded[2])
    placements = [
        _placement(d, _main_default(d))
        for d in sorted(_matching(text.lower()), key=lambda d: text.lower() not in d.words)
    ]
    if _NODE_NAME.fullmatch(text) and text.lower() != "gnd":
        naming = Placement(label=text, detail="name the node here", node_name=text)
        exact = any(text.lower() in d.words for d in CATALOGUE.values())
        placements.insert(len(placements) if exact else 0, naming)
    if placements:
        return Interpretation(placements=placements)
    return Interpretation(
        problem=f"“{text}” is neither a value (4k7, 5V, 2mA), nor a part, nor a node name."
    )


def _matching(word: str) -> list[Description]:
    return [
        d
        for d in CATALOGUE.values()
        if any(w.startswith(word) for w in d.words) or d.label.lower().startswith(word)
    ]


def _worded(word: str, value: str) -> Interpretation:
    kinds = [d for d in _matching(word) if d.main]
    if not kinds:
        return Interpretation(problem=f"“{word}” is no part known here.")
    return _readings(kinds, value)


def _value(text: str) -> Interpretation:
    return _readings([d for d in CATALOGUE.values() if d.main], text)


def _readings(kinds: list[Description], text: str) -> Interpretation:
    """Each kind of part that `text` can be the value of, likely sizes first."""
    read: list[tuple[bool, Placement]] = []
    refusals: list[ValueTextError] = []
    for description in kinds:
        parameter = description.main
        assert parameter is not None
        try:
            value = parse_value(text, parameter.unit)
        except ValueTextError as error:
            refusals.append(error)
            continue
        likely = parameter.likely
        unlikely = likely is not None and not likely[0] <= abs(value.number) <= likely[1]
        unlikely = unlikely or (parameter.positive and value.number <= 0)
        read.append((unlikely, _placement(description, text)))
    if read:
        return Interpretation(placements=[p for _, p in sorted(read, key=lambda item: item[0])])
    # The refusal that knows a correction, or the one that read furthest, says most.
    refusal = max(refusals, key=lambda r: (bool(r.offers), r.at))
    if not refusal.offers and any(text.endswith(unit) for unit in UNIT_SPELLINGS):
        return Interpretation(problem=f"No part here has a value such as “{text}”.")
    return Interpretation(
        problem=f"“{text}”: {refusal}.",
        corrections=[Correction(label=o.label, text=o.text) for o in refusal.offers],
    )


def _main_default(description: Description) -> str:
    return description.main.default if description.main else ""


def _placement(description: Description, text: str) -> Placement:
    values = description.starting_values
    detail = ""
    if description.main:
        values[description.main.key] = text
        detail = parse_value(text, description.main.unit).echo
    return Placement(
        label=description.label,
        detail=detail,
        kind=description.kind,
        values=values,
        rotation=description.rotation,
    )
