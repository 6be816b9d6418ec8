"""What a typed word or value would place: `4k7` a resistor, `5V` a source, `gnd` a ground, `out` a name."""

from __future__ import annotations

import re

from pydantic import BaseModel

from lucidbench.core.devices import CATALOGUE, Description, Parameter
from lucidbench.core.devices.catalogue import SOURCES
from lucidbench.core.devices.waves import WAVE_FORMS
from lucidbench.core.errors import ValueTextError
from lucidbench.core.units import parse_value
from lucidbench.core.units.dimensions import UNIT_SPELLINGS
from lucidbench.core.units.values import LONGEST_TEXT

_NODE_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,30}")
_WORD_THEN_VALUE = re.compile(r"([A-Za-z]+)\s+(.+)")
MOST_OFFERED = 8
_BEGINS_A_NUMBER = re.compile(r"[+\-\u2212]?\.?\d")


class Placement(BaseModel):
    """One thing that could be placed; `kind` is None for a node name."""

    label: str
    detail: str
    kind: str | None = None
    values: dict[str, str] = {}
    form: str = ""
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
    waved = _wave(text)
    if waved:
        return waved
    worded = _WORD_THEN_VALUE.fullmatch(text)
    if worded:
        return _worded(worded[1].lower(), worded[2])
    found = _matching(text.lower())[: MOST_OFFERED - 1]
    placements = [_placement(d, _main_default(d)) for d in found]
    if _NODE_NAME.fullmatch(text) and text.lower() != "gnd":
        naming = Placement(label=text, detail="name the node here", node_name=text)
        exact = any(text.lower() in d.words for d in CATALOGUE.values())
        placements.insert(len(placements) if exact else 0, naming)
    if placements:
        return Interpretation(placements=placements)
    return Interpretation(
        problem=f"“{text}” is neither a value (4k7, 5V, 100n), nor a part, nor a node name."
    )


def _matching(word: str) -> list[Description]:
    """The parts a word may stand for, those it names outright first."""
    found = [
        d
        for d in CATALOGUE.values()
        if any(w.startswith(word) for w in d.words)
        or (len(word) > 2 and any(w.startswith(word) for w in _label_words(d)))
    ]

    def rank(d: Description) -> tuple[bool, bool]:
        return word not in d.words, not any(w.startswith(word) for w in d.words)

    return sorted(found, key=rank)


def _label_words(description: Description) -> list[str]:
    return re.split(r"[\s,-]+", f"{description.label} {description.purpose}".lower())


def _wave(text: str) -> Interpretation | None:
    """A source by its shape: "sine 1kHz 2V", "square 0 5V 1kHz", "pulse 5V 2ms"; None for others."""
    word, *rest = text.split()
    form = next((f for f in WAVE_FORMS if len(word) > 2 and f.key.startswith(word.lower())), None)
    if form is None:
        return None
    in_current = any(_ends_in(token, "A") for token in rest)
    description = CATALOGUE["current_source" if in_current else "voltage_source"]
    unit = "A" if in_current else "V"
    asked = [p for p in description.of_form(form.key) if form.key in p.forms]
    values = {**description.starting_values}
    levels = [p.key for p in asked if p.unit == unit]
    if form.key == "pulse" or "high" in levels:
        bare = [t for t in rest if _is_value(t, unit) and not _is_other(t)]
        levels = ["high"] if len(bare) < 2 else ["low", "high"]
    for token in rest:
        key = _key_for(token, asked, levels, values, unit)
        if key is None:
            return Interpretation(
                problem=f"“{token}” is no value of a {form.label.lower()}: "
                f"{', '.join(sorted({p.unit for p in asked if p.unit}))} are."
            )
        values[key] = token
    shown = " ".join(
        parse_value(values[p.key], p.unit).echo
        for p in asked
        if p.key in (form.written or ()) and values[p.key]
    )
    return Interpretation(
        placements=[
            Placement(
                label=f"{form.label} {'current' if in_current else 'voltage'}",
                detail=shown,
                kind=description.kind,
                values=values,
                form=form.key,
                rotation=description.rotation,
            )
        ]
    )


def _key_for(
    token: str, asked: list[Parameter], levels: list[str], values: dict[str, str], unit: str
) -> str | None:
    for parameter in asked:
        if parameter.unit in (unit, "") or not _ends_in(token, parameter.unit):
            continue
        if _is_value(token, parameter.unit):
            return parameter.key
    if levels and _is_value(token, unit):
        return levels.pop(0)
    return None


def _ends_in(token: str, unit: str) -> bool:
    return token.endswith(unit)


def _is_other(token: str) -> bool:
    return any(_ends_in(token, unit) for unit in ("Hz", "s", "%", "°"))


def _is_value(token: str, unit: str) -> bool:
    try:
        parse_value(token, unit)
    except ValueTextError:
        return False
    return True


def _worded(word: str, value: str) -> Interpretation:
    kinds = [d for d in _matching(word) if d.main and d.main.reads == "quantity"]
    if not kinds:
        return Interpretation(problem=f"“{word}” is no part known here.")
    return _readings(kinds, value)


def _value(text: str) -> Interpretation:
    return _readings(
        sorted((d for d in CATALOGUE.values() if d.by_value), key=lambda d: d.purpose == SOURCES),
        text,
    )


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
    main = description.main
    return main.default if main and main.reads == "quantity" else ""


def _placement(description: Description, text: str) -> Placement:
    values = description.starting_values
    detail = ""
    main = description.main
    if main and text:
        values[main.key] = text
        echo = parse_value(text, main.unit).echo
        if main.key in description.written_in("") or text != main.default:
            detail = f"{main.symbol} {echo}".strip()
    return Placement(
        label=description.label,
        detail=detail,
        kind=description.kind,
        values=values,
        rotation=description.rotation,
    )
