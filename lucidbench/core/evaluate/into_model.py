"""What puts a cause into the model: changes to the document, as one edit, or as a case of its own."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from lucidbench.core.devices import DEVICES
from lucidbench.core.diagnosis.causes import Cause, Edit
from lucidbench.core.document.exercise import CaseChange, Exercise, Record
from lucidbench.core.document.patch import Change
from lucidbench.core.schematic import Part, read_drawing
from lucidbench.core.schematic.geometry import pin_points
from lucidbench.core.schematic.values import values_in_form
from lucidbench.core.units.engineering import typed

_ASIDE = 6  # grid units between what is drawn and what is added to it
_DIGITS = 4


def into_model(
    exercise: Exercise, cause: Cause, value: float | None, runs: list[str], records: list[str]
) -> list[Change]:
    """The changes that put a cause of this `value` into the circuit as drawn; none where it is no matter of
    the model, or what it is of stands within a block. `runs` and `records` are those explained from."""
    return list(_changes(exercise, cause, value, runs, records))


def as_case(exercise: Exercise, cause: Cause, value: float | None) -> list[CaseChange]:
    """The same as what a case of its own changes; none where no case can say it."""
    edit = cause.put_in
    part = next((p for p in exercise.schematic.parts if p.name == edit.part), None)
    if part is None:
        return []
    if edit.does == "open":
        return [CaseChange(part=part.id, does="open")]
    if edit.does == "short":
        return [CaseChange(part=part.id, does="short")]
    if edit.does == "set" and value is not None:
        usual = values_in_form(part, edit.form) if edit.form else {}
        lacking = {key: text for key, text in usual.items() if key not in part.values}
        told = {**lacking, edit.key: _text(part, edit.key, value)}
        return [CaseChange(part=part.id, values=told, form=edit.form)]
    if edit.does == "exchange":
        other = next((p for p in exercise.schematic.parts if p.name == edit.other), None)
        if other is not None:
            return [
                CaseChange(part=one.id, values=dict(of.values))
                for one, of in ((part, other), (other, part))
            ]
    return []


def _changes(
    exercise: Exercise, cause: Cause, value: float | None, runs: list[str], records: list[str]
) -> Iterator[Change]:
    edit, parts = cause.put_in, exercise.schematic.parts
    match edit.does:
        case "settle":
            for k, run in enumerate(exercise.runs):
                if run.id in runs:
                    settings = {**run.settings, "begin": "settled"}
                    yield Change(op="replace", path=f"/runs/{k}/settings", value=settings)
        case "scale" | "shift":
            for k, record in enumerate(exercise.records):
                if record.id in records and value is not None:
                    yield from _of_record(record, edit.does, value, f"/records/{k}")
        case "load" | "stray":
            if value is not None:
                yield from _drawn(exercise, edit.does, edit.nodes, value)
        case _:
            at = {part.name: k for k, part in enumerate(parts)}
            if edit.part in at:
                number = 0.0 if value is None and cause.key == "missing" else value
                yield from _of_part(parts, at, edit, number)


def _of_record(record: Record, does: str, value: float, path: str) -> Iterator[Change]:
    if does == "shift":
        yield Change(op="replace", path=f"{path}/shift", value=record.shift + value)
    elif value > 0:
        yield Change(op="replace", path=f"{path}/scale", value=record.scale / value)


def _of_part(
    parts: Sequence[Part], at: Mapping[str, int], edit: Edit, value: float | None
) -> Iterator[Change]:
    k = at[edit.part]
    part, path = parts[k], f"/schematic/parts/{k}"
    match edit.does:
        case "set" if value is not None:
            own = values_in_form(part, edit.form) if edit.form else part.values
            values = {**own, edit.key: _text(part, edit.key, value)}
            yield Change(op="replace", path=f"{path}/values", value=values)
            if edit.form:
                yield Change(op="replace", path=f"{path}/form", value=edit.form)
            if part.textbook:
                yield Change(op="replace", path=f"{path}/textbook", value=False)
        case "open" | "short":
            yield Change(op="replace", path=f"{path}/state", value=edit.does)
        case "exchange" if edit.other in at:
            m = at[edit.other]
            for one, of in ((k, parts[m]), (m, part)):
                values = dict(of.values)
                yield Change(op="replace", path=f"/schematic/parts/{one}/values", value=values)
        case "turn":
            turned = part.model_copy(update={"rotation": (part.rotation + 180) % 360})
            before, after = pin_points(part), pin_points(turned)
            if len(before) == 2 and after:
                place = [a + b - c for a, b, c in zip(part.at, before[1], after[0], strict=True)]
                yield Change(op="replace", path=f"{path}/rotation", value=turned.rotation)
                yield Change(op="replace", path=f"{path}/at", value=place)


def _text(part: Part, key: str, value: float) -> str:
    device = DEVICES.get(part.kind)
    unit = device.description.parameter(key).unit if device else ""
    return typed(value, unit, _DIGITS)


def _drawn(exercise: Exercise, does: str, nodes: tuple[str, ...], value: float) -> Iterator[Change]:
    """A part drawn beside all others, joined to a node by its name and to ground."""
    sheet = exercise.schematic
    drawing = read_drawing(sheet, exercise.title, exercise.parameters, exercise.blocks)
    named = {label.name for label in sheet.labels}
    wanted = [node for node in nodes if node != "0"]
    if not wanted or any(node not in named for node in wanted):
        return
    points = [point for net in drawing.wiring.nets for point in net.points] or [(0, 0)]
    right, top = max(x for x, _ in points) + _ASIDE, min(y for _, y in points)
    kind, letter, key, unit = ("resistor", "R", "resistance", "Ω")
    if does == "stray":
        kind, letter, key, unit = ("capacitor", "C", "capacitance", "F")
    numbers = [int(m[1]) for p in sheet.parts if (m := re.fullmatch(rf"{letter}(\d+)", p.name))]
    name = f"{letter}{max(numbers, default=0) + 1}"
    part = Part(id=_fresh("p", sheet.parts), kind=kind, name=name, at=(right, top), rotation=90,
                values={key: typed(value, unit, _DIGITS)})  # fmt: skip
    first, second = sorted(pin_points(part), key=lambda point: point[1])
    yield Change(op="add", path="/schematic/parts/-", value=part.model_dump())
    label = {"id": _fresh("l", sheet.labels), "name": wanted[0], "at": list(first)}
    yield Change(op="add", path="/schematic/labels/-", value=label)
    if len(wanted) > 1:
        other = {"id": _fresh("m", sheet.labels), "name": wanted[1], "at": list(second)}
        yield Change(op="add", path="/schematic/labels/-", value=other)
        return
    ground = Part(id=_fresh("g", sheet.parts), kind="ground", name="GND", at=second)
    yield Change(op="add", path="/schematic/parts/-", value=ground.model_dump())


def _fresh(letter: str, things: object) -> str:
    taken = {each.id for each in things}  # type: ignore[attr-defined]
    return next(f"{letter}{k}" for k in range(1, 10_000) if f"{letter}{k}" not in taken)
