"""What comes from elsewhere: an exercise document, kept as far as it can be read, or netlist text.

A netlist has no drawing. Its elements become drawn parts, each with the nodes of its pins; where they
stand is for whoever lays them out.
"""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, ValidationError

from lucidbench.core.devices import CATALOGUE, Description
from lucidbench.core.devices.waveforms import Exponential, Pieces, Sine, Waveform
from lucidbench.core.document.exercise import LARGEST_DOCUMENT, Exercise, read_exercise
from lucidbench.core.document.migrations import migrated
from lucidbench.core.errors import DocumentError, LucidError
from lucidbench.core.netlist import GROUND_NODE, Circuit, Element, read_netlist
from lucidbench.core.netlist.expressions import write_program
from lucidbench.core.schematic.document import Part
from lucidbench.core.units import engineering
from lucidbench.core.units.dimensions import UNIT_SPELLINGS
from lucidbench.core.units.engineering import NO_BREAK_SPACE

MOST_LEFT_OUT = 200
MOST_LAID_OUT = 400  # parts; a larger netlist is for `solve`, not for a sheet


class PlacedOn(BaseModel):
    """A part without a place yet, and the node at each of its pins; "0" is ground."""

    part: Part
    nodes: list[str]


class Imported(BaseModel):
    """A document, or the parts of a netlist to be laid out; `notes` say what was left out or taken."""

    document: Exercise
    network: list[PlacedOn] | None = None
    notes: list[str] = []


def read_any(text: str, name: str = "") -> Imported:
    """Read a document or a netlist. Raises LucidError with a sentence where it is neither."""
    if len(text) > LARGEST_DOCUMENT:
        raise DocumentError(f"The file is larger than {LARGEST_DOCUMENT // 1_000_000} MB.")
    if not text.strip():
        raise DocumentError("The file is empty.")
    if "\0" in text:
        raise DocumentError("The file is no text: neither a Lucid Bench exercise nor a netlist.")
    if text.lstrip("\ufeff \t\r\n").startswith("{"):
        document, notes = _kept(text)
        return Imported(document=document, notes=notes)
    try:
        netlist = read_netlist(text)
    except LucidError as error:
        raise DocumentError(f"The file was read as a netlist, and {error}.") from error
    return from_circuit(netlist.circuit, list(netlist.notes), name)


def _kept(text: str) -> tuple[Exercise, list[str]]:
    """The document without what in it cannot be read, and what that was."""
    try:
        return read_exercise(text), []
    except DocumentError:
        pass
    try:
        raw = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise DocumentError(f"The text is no JSON document: {error}.") from error
    if isinstance(raw, dict):
        raw = migrated({"version": 1, **raw})
    notes: list[str] = []
    for _ in range(MOST_LEFT_OUT):
        try:
            return Exercise.model_validate(raw), notes
        except ValidationError as error:
            path = error.errors()[0]["loc"]
            if path[:1] in (("format",), ("version",)) or not _take_out(raw, path, notes):
                read_exercise(text)  # says what is wrong in its own words
                raise DocumentError("The document cannot be read.") from error
    raise DocumentError(f"More than {MOST_LEFT_OUT} things in the document cannot be read.")


def _take_out(raw: Any, path: tuple[int | str, ...], notes: list[str]) -> bool:
    """Remove the innermost list member, or else the field, that `path` leads into."""
    trail: list[tuple[Any, int | str]] = []
    here = raw
    for step in path:
        try:
            trail.append((here, step))
            here = here[step]
        except (KeyError, IndexError, TypeError):
            break
    members = [
        (k, c, s) for k, (c, s) in enumerate(trail) if isinstance(c, list) and isinstance(s, int)
    ]
    identified = [m for m in members if isinstance(m[1][m[2]], dict)]
    for k, container, step in (identified or members)[-1:]:
        label = str(path[k - 1]).rstrip("s") if k else "item"
        thing = container[step]
        called = thing.get("name") or thing.get("id") if isinstance(thing, dict) else None
        notes.append(
            f"{label.capitalize()} {called or int(step) + 1} cannot be read and was left out."
        )
        del container[step]
        return True
    for container, key in reversed(trail):
        if isinstance(container, dict) and key in container:
            del container[key]
            notes.append(f"“{key}” cannot be read and was left out.")
            return True
    return False


def from_circuit(circuit: Circuit, notes: list[str], name: str = "") -> Imported:
    """The drawn parts that a circuit's elements are. Raises LucidError where there are too many."""
    if len(circuit.elements) > MOST_LAID_OUT:
        raise DocumentError(
            f"The netlist has {len(circuit.elements):,} elements; up to {MOST_LAID_OUT} are laid out."
        )
    names = {element.name: _part_name(element.name) for element in circuit}
    network = []
    for k, element in enumerate(circuit):
        description = next((d for d in CATALOGUE.values() if d.element == element.kind), None)
        if description is None:
            notes.append(f"{element.name} has no symbol and was left out.")
            continue
        network.append(_drawn(f"p{k + 1}", element, description, names, notes))
    title = circuit.title.strip()[:120] or name[:120] or "Imported circuit"
    return Imported(document=Exercise(title=title), network=network, notes=notes)


def _part_name(name: str) -> str:
    return name.replace(".", "_")[:64]


def _node_name(name: str) -> str:
    return name if name == GROUND_NODE else name.replace(".", "_")[:64]


def _drawn(
    identity: str,
    element: Element,
    description: Description,
    names: Mapping[str, str],
    notes: list[str],
) -> PlacedOn:
    form, shape = _shape(element.waveform) if element.waveform else ("", {})
    used = [p.key for p in description.of_form(form)]
    values = {key: text for key, text in description.starting_values.items() if key in used}
    for parameter in element.device.description.parameters:
        if parameter.key in values and parameter.key not in element.values:
            values[parameter.key] = "" if parameter.optional else parameter.default
    units = {p.key: p.unit for p in description.parameters}
    for key, number in {**element.values, **shape}.items():
        if isinstance(number, str):
            values[key] = number
        elif key in units and key in used and (number or not description.parameter(key).aside):
            values[key] = _text(number, units[key])
    wanted = [p.key for p in description.parameters if p.reads == "part"]
    values |= dict(zip(wanted, (names[other] for other in element.refers), strict=False))
    if element.program:
        sensed = [f"V_{_node_name(node)}" for node in element.nodes[2:]]
        sensed += [f"I_{names[other]}" for other in element.refers]
        formula = write_program(element.program, sensed)
        values["formula"] = formula.replace("log10(", "lg(").replace("time", "t")
    pins = len(description.symbol.pins)
    nodes = [_node_name(node) for node in element.nodes[:pins]]
    if description.joins and element.nodes[3] != element.nodes[2]:
        notes.append(f"{element.name} is drawn with its bulk at its source.")
    part = Part(
        id=identity,
        kind=description.kind,
        name=names[element.name],
        values=values,
        form=form or (element.form if element.form in {f.key for f in description.forms} else ""),
        at=(0, 0),
        rotation=0,
    )
    return PlacedOn(part=part, nodes=nodes)


def _shape(waveform: Waveform) -> tuple[str, dict[str, Any]]:
    """The form of a drawn source, and its values, that do what `waveform` does."""
    if isinstance(waveform, Sine):
        return "sine", {
            "offset": waveform.offset,
            "amplitude": waveform.amplitude,
            "frequency": waveform.frequency,
            "delay": waveform.delay,
            "damping": waveform.damping,
            "start_phase": math.degrees(waveform.phase),
        }
    if isinstance(waveform, Exponential):
        return "exponential", {
            "low": waveform.first,
            "high": waveform.second,
            "delay": waveform.rise_delay,
            "rise_constant": waveform.rise_constant,
            "fall_delay": waveform.fall_delay,
            "fall_constant": waveform.fall_constant,
        }
    assert isinstance(waveform, Pieces)
    times, levels = waveform.times, waveform.values
    if len(times) in (4, 5) and levels[0] == levels[3] and levels[1] == levels[2]:
        return "pulse", {
            "low": levels[0],
            "high": levels[1],
            "delay": waveform.delay,
            "rise": times[1],
            "width": times[2] - times[1],
            "fall": times[3] - times[2],
            **({"period": waveform.repeats} if waveform.repeats else {}),
        }
    is_step = len({*levels[:-1]}) == 1 and levels[-1] != levels[0] and times[-2] == times[-1]
    if is_step and not waveform.repeats:
        at = times[-1] + waveform.delay
        return "step", {"from_level": levels[0], "to_level": levels[-1], "step_at": at}
    points = ", ".join(
        f"{t + waveform.delay:.9g} {v:.9g}" for t, v in zip(times, levels, strict=True)
    )
    return "piecewise", {"points": points}


def _text(number: float, unit: str) -> str:
    if unit and unit != "%" and unit not in UNIT_SPELLINGS:
        return f"{number:.9g}"
    scaled = engineering(number * 100 if unit == "%" else number, unit, digits=7)
    text = scaled.replace(NO_BREAK_SPACE, " ").replace("\u2212", "-")
    return text if "·" not in text else f"{number:.9g}"
