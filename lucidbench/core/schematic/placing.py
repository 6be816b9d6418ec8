"""What a typed word or value would place: `4k7` a resistor, `5V` a source, `gnd` a ground, `out` a name.

A part's own name may come before all else, as in `R7 47k`.
"""

from __future__ import annotations

import re
from typing import Literal

from pydantic import BaseModel

from lucidbench.core.devices import CATALOGUE, GROUND, Description, Parameter
from lucidbench.core.devices.base import Form
from lucidbench.core.devices.catalogue import SOURCES
from lucidbench.core.devices.waves import WAVE_FORMS
from lucidbench.core.errors import ValueTextError
from lucidbench.core.schematic.complex_values import complex_value, in_two
from lucidbench.core.units import parse_value
from lucidbench.core.units.dimensions import UNIT_SPELLINGS
from lucidbench.core.units.engineering import phasor, rectangular
from lucidbench.core.units.values import LONGEST_TEXT

_NODE_NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,30}")
_PART_NAME = re.compile(r"([A-Z]+)[0-9]\w*", re.ASCII)  # as parts are numbered by themselves
_WORD_THEN_MORE = re.compile(r"([A-Za-z][A-Za-z0-9_]*)\s+(.+)")
_SUPPLY_NAME = re.compile(r"v(cc|dd|ee|ss|bat)", re.IGNORECASE)
MOST_OFFERED = 8
_BEGINS_A_NUMBER = re.compile(r"[+\-\u2212]?\.?\d")
_APART_FROM_ITS_UNIT = re.compile(r"(?<=\d)\s+(?=[fpnu\u00b5mkMG]?(V|A|Hz|s|%|\u00b0)(\s|$))")
_REPEATED_FORMS = ("sine", "square", "triangle", "sawtooth")
_FILLERS = ("wave", "source", "generator", "voltage", "current")


class Placement(BaseModel):
    """One thing that could be placed: a part, under a `name` of its own where it was given one, or, where
    `kind` is None, a node name."""

    label: str
    detail: str
    kind: str | None = None
    name: str | None = None
    values: dict[str, str] = {}
    form: str = ""
    rotation: int = 0
    node_name: str | None = None
    style: Literal["name", "supply"] = "name"


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
    words = _WORD_THEN_MORE.fullmatch(text)
    plain = (
        _complex(text) or _waves(text) or (_value(text) if _BEGINS_A_NUMBER.match(text) else None)
    )
    if plain:
        return plain
    if words:
        found = _worded(words[1].lower(), words[2])
        return found if found.placements else _named(words[1], words[2]) or found
    return _word(text)


def _complex(text: str) -> Interpretation | None:
    """`4 - j8` is an impedance, `10 A ∠ 30°` a source's phasor; None for what is no complex number."""
    found = []
    for kind, unit in (("impedance", "Ω"), ("voltage_source", "V"), ("current_source", "A")):
        description = CATALOGUE[kind]
        value = complex_value(text, unit)
        if value is None or (unit != "Ω" and "∠" not in text):
            continue
        placement = _placement(description, "")
        placement.values |= in_two(description, {description.pair[0]: text})[description.pair[0]]
        if unit != "Ω":
            placement.values |= {
                parameter.key: f"0 {unit}" for parameter in (description.main,) if parameter
            }
        shown = phasor(value, unit) if "∠" in text else rectangular(value, unit)
        found.append(placement.model_copy(update={"detail": shown}))
    if found and _NODE_NAME.fullmatch(text):
        found += _node_names(text)
    return Interpretation(placements=found) if found else None


def _word(text: str) -> Interpretation:
    """A part by what it is called, a part's name, or a node's."""
    found = _matching(text.lower())[: MOST_OFFERED - 1]
    placements = [_placement(d, _main_default(d)) for d in found]
    numbered = _PART_NAME.fullmatch(text)
    if numbered:
        alike = [d for d in CATALOGUE.values() if d.prefix == numbered[1]]
        placements = [_called(text, _placement(d, _main_default(d))) for d in alike]
    if _NODE_NAME.fullmatch(text) and text.lower() != "gnd":
        exact = numbered or any(text.lower() in d.words for d in CATALOGUE.values())
        place = len(placements) if exact else 0
        placements[place:place] = _node_names(text)
    if placements:
        return Interpretation(placements=placements[:MOST_OFFERED])
    return Interpretation(
        problem=f"“{text}” is neither a value (4k7, 5V, 100n), nor a part, nor a node name."
    )


def _node_names(text: str) -> list[Placement]:
    name = Placement(label=text, detail="name the node here", node_name=text)
    if not _SUPPLY_NAME.fullmatch(text):
        return [name]
    supply = Placement(label=text, detail="supply here", node_name=text, style="supply")
    return [supply, name]


def _named(name: str, text: str) -> Interpretation | None:
    """The parts that `text` may stand for and that may have this name; None where there are none."""
    prefixes = _prefixes(name)
    within = interpret(text)
    if within.problem and prefixes and _BEGINS_A_NUMBER.match(text):
        mends = [Correction(label=c.label, text=f"{name} {c.text}") for c in within.corrections]
        return Interpretation(problem=within.problem, corrections=mends)
    found = [
        _called(name, placement)
        for prefix in prefixes
        for placement in within.placements
        if placement.kind and not placement.name and CATALOGUE[placement.kind].prefix == prefix
    ]
    return Interpretation(placements=found) if found else None


def _prefixes(name: str) -> list[str]:
    """What the names of some kinds of part begin with and this one does too, longest first."""
    known = {d.prefix for d in CATALOGUE.values() if d.prefix and d.kind != GROUND.kind}
    return sorted((p for p in known if name.upper().startswith(p)), key=len, reverse=True)


def _called(name: str, placement: Placement) -> Placement:
    return placement.model_copy(update={"name": name, "label": f"{placement.label} {name}"})


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


def _waves(text: str) -> Interpretation | None:
    """A source by its shape and values, in any order: "sine 1kHz 2V", "square 0 5V 1kHz", "5V 50Hz".

    None for what is no such thing.
    """
    tokens = _APART_FROM_ITS_UNIT.sub("", text).split()
    forms = [_form_called(token) for token in tokens]
    if not forms[0] and not _BEGINS_A_NUMBER.match(tokens[0]):
        return None
    form = next((f for f in forms if f), None)
    values = [
        token
        for token, called in zip(tokens, forms, strict=True)
        if called is None and not (form and token.lower() in _FILLERS)
    ]
    in_current = "current" in map(str.lower, tokens) or any(t.endswith("A") for t in values)
    if form:
        read = _wave(form, values, in_current)
        return Interpretation(placements=[read]) if isinstance(read, Placement) else read
    if len(values) < 2 or not any(t.endswith("Hz") for t in values):
        return None
    repeated = [f for f in WAVE_FORMS if f.key in _REPEATED_FORMS]
    every = [_wave(f, values, in_current) for f in repeated]
    placements = [read for read in every if isinstance(read, Placement)]
    return Interpretation(placements=placements) if placements else None


def _form_called(word: str) -> Form | None:
    word = "sine" if word.lower() == "ac" else word.lower()
    return next((f for f in WAVE_FORMS if len(word) > 2 and f.key.startswith(word)), None)


def _wave(form: Form, given: list[str], in_current: bool) -> Placement | Interpretation:
    """The source of this form with the values given, or why there is none."""
    description = CATALOGUE["current_source" if in_current else "voltage_source"]
    unit = "A" if in_current else "V"
    asked = [p for p in description.of_form(form.key) if form.key in p.forms]
    values = {**description.starting_values}
    levels = [p.key for p in asked if p.unit == unit]
    if any(p.key == "frequency" for p in asked):
        given = _with_hertz(given, unit)
    if form.key != "sine":  # one level alone is the higher, or the later
        bare = [t for t in given if _is_value(t, unit) and not _is_other(t)]
        levels = levels[1:2] if len(bare) < 2 else levels[:2]
    keys = []
    for token in given:
        key = _key_for(token, [p for p in asked if p.key not in keys], levels, unit)
        if key is None:
            return Interpretation(
                problem=f"“{token}” is no value of a {form.label.lower()}: "
                f"{', '.join(sorted({p.unit for p in asked if p.unit}))} are."
            )
        values[key] = token
        keys.append(key)
    written = [p for p in asked if p.key in (form.written or ()) and values[p.key]]
    more = [p for p in asked if p.key in keys and p not in written]
    shown = " ".join(_echo(values[p.key], p) for p in written)
    return Placement(
        label=f"{form.label} {'current' if in_current else 'voltage'}",
        detail=", ".join([shown, *(f"{p.label.lower()} {_echo(values[p.key], p)}" for p in more)]),
        kind=description.kind,
        values=values,
        form=form.key,
        rotation=description.rotation,
    )


def _echo(text: str, parameter: Parameter) -> str:
    return parse_value(text, parameter.unit).echo


def _with_hertz(given: list[str], unit: str) -> list[str]:
    """Of 5V 1k the second is the frequency: a bare number behind a level that has its unit."""
    *before, last = given or [""]
    is_bare = _is_value(last, "Hz") and not _is_other(last) and not _ends_in(last, unit)
    is_told = any(token.endswith("Hz") for token in given)
    if is_bare and not is_told and any(_ends_in(token, unit) for token in before):
        return [*before, f"{last}Hz"]
    return given


def _key_for(token: str, asked: list[Parameter], levels: list[str], unit: str) -> str | None:
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
    kinds = [d for d in kinds if word in d.words] or kinds
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
