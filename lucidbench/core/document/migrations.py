"""Older forms of the document, brought to the present one step by step, on plain JSON.

A step knows the two forms it leads between and nothing later. Frozen samples of every older version are
in tests/core/documents.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from hashlib import blake2b
from typing import Any

from pydantic import ValidationError

from lucidbench.core.netlist import Circuit
from lucidbench.core.schematic.document import Block, NamedValue, Schematic
from lucidbench.core.schematic.reading import read_drawing

Raw = dict[str, Any]

# What version 1 called a reading in words, and the key it has.
_KEYS_OF_1 = {
    "constant at": "constant", "maximum": "maximum", "minimum": "minimum", "mean": "mean",
    "peak to peak": "peak_to_peak", "RMS": "rms", "period": "period", "frequency": "frequency",
    "maximum at": "maximum_at", "lower cutoff": "lower_cutoff", "upper cutoff": "upper_cutoff",
    "bandwidth": "bandwidth", "Q": "quality", "unity gain at": "unity_gain",
    "at the start": "start", "at the end": "end", "mean slope": "mean_slope",
    "midpoint": "midpoint", "rise time": "rise_time", "fall time": "fall_time",
    "overshoot": "overshoot", "settling time": "settling_time", "duty cycle": "duty",
    "integral": "integral", "slope at the low end": "slope_low",
    "slope at the high end": "slope_high", "phase at the lower cutoff": "phase_lower",
    "phase at the upper cutoff": "phase_upper", "phase margin": "phase_margin",
    "gain margin": "gain_margin", "steepest slope": "steepest",
}  # fmt: skip


def migrated(raw: Any) -> Any:
    """The same document in the present form; what tells no older version is left as it is."""
    while isinstance(raw, dict) and isinstance(version := raw.get("version"), int):
        step = MIGRATIONS.get(version)
        if step is None:
            break
        raw = step(raw)
    return raw


def to_2(old: Raw) -> Raw:
    """Runs are referred to by id; a figure is told in parts instead of words; readings and taken figures
    are of figures. `bench` becomes `measurements`, `taken` the `ledger`."""
    new = {key: value for key, value in old.items() if key not in ("bench", "taken")}
    new["version"] = 2
    ids = {str(run.get("name", "")): run.get("id", "") for run in reversed(_dicts(old.get("runs")))}
    new["runs"] = _each(old.get("runs", []), _run_to_2)
    new["ledger"] = _each(old.get("taken", []), lambda taken: _row_to_2(taken, ids))
    rows = _dicts(new["ledger"])
    if rows:
        _renew_fingerprints(old, rows)
    named = {str(row.get("name")): row["figure"] for row in rows}
    new["measurements"] = _each(
        old.get("bench", []),
        lambda note: {
            **{key: value for key, value in note.items() if key != "quantity"},
            "figure": named.get(str(note.get("quantity")))
            or {"quantity": note.get("quantity", "")},
        },
    )
    return new


def _dicts(held: Any) -> list[Raw]:
    return [each for each in held if isinstance(each, dict)] if isinstance(held, list) else []


def _each(held: Any, step: Callable[[Raw], Raw]) -> Any:
    """What is none of what should be there stays, to be told of when the whole is read."""
    if not isinstance(held, list):
        return held
    return [step(each) if isinstance(each, dict) else each for each in held]


def _run_to_2(run: Raw) -> Raw:
    if not run.get("notes"):
        return run

    def note_to_2(note: Raw) -> Raw:
        curve, member = _curve_of_1(str(note.get("curve", "")))
        return {**note, "curve": curve, "member": member}

    return {**run, "notes": _each(run["notes"], note_to_2)}


def _curve_of_1(name: str) -> tuple[str, str]:
    """(formula, value in a family) of "V_out, R1 = 1 kΩ"; no formula has a comma."""
    curve, _, member = name.partition(", ")
    return curve, member.partition(" = ")[2] or member


def _row_to_2(taken: Raw, ids: Mapping[str, str]) -> Raw:
    kept = ("value", "unit", "conditions")
    label = str(taken.get("label", ""))
    words, _, of = label.partition(" of ")
    key = _KEYS_OF_1.get(words)
    curve, member = _curve_of_1(of)
    figure: Raw = {"quantity": label, "reading": "cell"}
    if key and curve:
        figure = {"quantity": curve, "reading": key, "member": member}
    figure["run"] = ids.get(str(taken.get("run", "")), "")
    pinned = {key: taken[key] for key in kept if key in taken}
    pinned["fingerprint"] = taken.get("circuit", "")
    others = {key: value for key, value in taken.items() if key not in (*kept, "run", "circuit")}
    return {**others, "figure": figure, "pinned": pinned}


def _renew_fingerprints(old: Raw, rows: list[Raw]) -> None:
    """A figure that held for the circuit as it is holds still; version 1 left some fields out."""
    try:
        circuit = read_drawing(
            Schematic.model_validate(old.get("schematic", {})),
            str(old.get("title", "")),
            [NamedValue.model_validate(each) for each in _dicts(old.get("parameters"))],
            [Block.model_validate(each) for each in _dicts(old.get("blocks"))],
        ).circuit
    except ValidationError:  # told when the whole is read
        return
    known = _marks_of_1(circuit)
    for row in rows:
        if str(row["pinned"]["fingerprint"]) in known:
            row["pinned"]["fingerprint"] = circuit.fingerprint


def _marks_of_1(circuit: Circuit) -> set[str]:
    told = [
        (e.name, e.kind, e.nodes, sorted(e.values.items()), e.form, e.waveform, e.program)
        for e in circuit
    ]
    texts = (repr((circuit.temperature, told)), repr((circuit.temperature, told, [])))
    return {blake2b(text.encode(), digest_size=8).hexdigest() for text in texts}


# What version 2 called the tables of a run, their columns, and the letter before the name of a row.
_TABLES_OF_2 = {
    "Voltages": ("voltages", "V_"), "Currents and powers": ("currents", ""),
    "Currents": ("currents", ""), "Complex powers": ("powers", ""), "Harmonics": ("harmonics", None),
}  # fmt: skip
_COLUMNS_OF_2 = {
    "peak": "size", "RMS": "size", "S": "size", "angle": "angle", "real": "real",
    "imaginary": "imaginary", "V": "V", "I": "I", "P": "P", "Q": "imaginary",
    "frequency": "frequency", "of the first": "share", "phase": "phase",
}  # fmt: skip
_FIELDS_OF_2 = ("quantity", "run", "record", "reading", "member")


def to_3(old: Raw) -> Raw:
    """A figure says what it is `of`, and a cell of a table is told by keys instead of words."""

    def with_figure(thing: Raw) -> Raw:
        figure = thing.get("figure")
        return {**thing, "figure": _figure_to_3(figure)} if isinstance(figure, dict) else thing

    new = {**old, "version": 3}
    for key in ("ledger", "measurements"):
        if key in old:
            new[key] = _each(old[key], with_figure)
    return new


def _figure_to_3(old: Raw) -> Raw:
    others = {key: value for key, value in old.items() if key not in _FIELDS_OF_2}
    quantity, run, record, reading, member = (str(old.get(key, "")) for key in _FIELDS_OF_2)
    if reading == "formula":
        return {"of": "formula", "formula": quantity, **others}
    if reading == "part":
        return {"of": "part", "part": quantity, **others}
    if reading.startswith("between "):
        return {"of": "between", "run": run, "reading": reading[8:], **others}
    if reading in ("at A", "at B"):
        marked = {"run": run, "curve": quantity, "member": member, "marker": reading[3:]}
        return {"of": "marker", **marked, **others}
    if reading == "cell":
        cell = _cell_to_3(quantity)
        if cell and run:
            return {"of": "cell", "run": run, **cell, **others}
        return {"of": "taken", "words": quantity, **others}
    if reading:
        read = {"curve": quantity, "reading": reading, "run": run, "record": record}
        return {"of": "curve", **read, "member": member, **others}
    return {"of": "rest", "quantity": quantity, **others}


def _cell_to_3(words: str) -> Raw | None:
    """The place of "peak, feed, Voltages"; None of a table that is told otherwise today."""
    column, _, rest = words.partition(", ")
    row, _, title = rest.partition(", ")
    table, letter = _TABLES_OF_2.get(title, ("", ""))
    if not table or column not in _COLUMNS_OF_2:
        return None
    place: Raw = {"table": table, "column": _COLUMNS_OF_2[column]}
    if title == "Complex powers" and column == "P":
        place["column"] = "real"
    if letter is None:
        return {**place, "row": "0" if row == "mean" else row}
    return {**place, "subject": f"{letter}{row}"}


MIGRATIONS: dict[int, Callable[[Raw], Raw]] = {1: to_2, 2: to_3}
