"""The document: older versions, names that change, and what is written about its form."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel

from lucidbench.core.document import exercise as models
from lucidbench.core.document import figure
from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.document.figure import (
    AsTaken,
    AtMarker,
    BetweenMarkers,
    Cell,
    OfCurve,
    OfFormula,
    OfPart,
)
from lucidbench.core.document.importing import read_any
from lucidbench.core.document.patch import patched
from lucidbench.core.document.rename import Renaming, rename
from lucidbench.core.errors import DocumentError
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs import SETTING_READS, carry_out
from lucidbench.core.schematic import document as drawn
from lucidbench.core.schematic import read_drawing
from tests.depth import examples

HOME = Path(__file__).parents[2]
OLD = Path(__file__).parent / "documents" / "version-1"
DEMO = sorted(path.stem for path in (HOME / "examples").glob("*.json"))


def everything() -> Exercise:
    """A document of version 1 with every field that one could have."""
    return read_exercise((OLD / "everything.json").read_text())


@pytest.mark.parametrize("name", DEMO)
def test_a_demo_document_of_version_1_opens_as_the_one_of_today(name: str) -> None:
    """But for what has been worked out, simulated and measured in it since."""
    today = read_exercise((HOME / "examples" / f"{name}.json").read_text())
    fields = ("cases", "hand", "runs", "ledger", "records", "measurements", "build")
    since = {field: getattr(today, field) for field in fields}
    old = read_exercise((OLD / f"{name}.json").read_text())
    if name == "anti-alias-ladder":  # whose pulse repeats since
        old.schematic.parts[0].values["period"] = "1.5 ms"
    if (
        name == "time-signal-filter"
    ):  # whose parts are known closer since, so that a lossy coil shows
        for part, share in zip(old.schematic.parts[1:4], ("2 %", "1 %", "1 %"), strict=True):
            part.values["tolerance"] = share
    assert old.model_copy(update=since) == today


def test_everything_a_document_of_version_1_says_it_says_still() -> None:
    document = everything()
    assert document.version == 3
    # As version 1 told them: hand, simulated, bench, whether the circuit was changed since, verdict.
    rows = {
        r.quantity: (r.hand, r.simulated, r.bench, r.stale, r.verdict)
        for r in evaluation_of(document).ledger
    }
    plain = {key: tuple(str(v).replace("\u00a0", " ") for v in told) for key, told in rows.items()}
    assert plain == {
        "V_a": ("3 V", "300 mV", "None", "True", "gap"),
        "V_out": ("333.3 mV", "266.3 mV", "37 mV", "False", "gap"),
        "f_2": ("500 Hz", "1 kHz", "990 Hz", "False", "gap"),
        "V_max": ("None", "74.07 mV", "None", "False", "open"),
    }
    figures = {row.name: row.figure for row in document.ledger}
    assert figures["V_max"] == OfCurve(curve="V_out", run="r1", reading="maximum", member="2 V")
    assert figures["f_2"] == OfCurve(curve="V_out/V_in", run="", reading="upper_cutoff")
    assert figures["V_a"] == AsTaken(words="V_a, Voltages")
    assert document.measurements[1].figure == figures["f_2"]
    note = document.runs[0].notes[0]
    assert (note.curve, note.member, note.at, note.text) == ("V_out", "2 V", 1e3, "here")
    # What no version knows is kept, and it comes back from its own file as it was.
    assert document.model_extra == {"course": {"kept": "as it is"}}
    assert document.hand[0].model_extra == {"mark": "unknown too"}
    assert read_exercise(document.model_dump_json()) == document


def test_what_version_2_said_of_figures_in_words_is_told_by_keys() -> None:
    document = read_exercise((OLD.parent / "version-2" / "figures.json").read_text())
    (first, *others) = document.ledger
    assert first.figure.model_extra == {"kept": "as it is"}
    assert {row.name: row.figure for row in others} == {
        "f_c": OfCurve(curve="V_out/V_in", reading="upper_cutoff", run="r1"),
        "A_v": OfFormula(formula="f_c/2"),
        "phi": BetweenMarkers(run="r1", reading="phi"),
        "v_B": AtMarker(run="r1", curve="V_out", marker="B"),
        "V_size": Cell(run="r2", table="voltages", subject="V_out", column="size"),
        "P_R": Cell(run="r2", table="powers", subject="R1", column="real"),
        "f_1": Cell(run="r3", table="harmonics", row="1", column="frequency"),
        "x_old": AsTaken(words="value, largest output, V_out, peak, At 1 % of distortion"),
    }
    # What they come to is what the figures of today come to, and nothing is lost on the way.
    rows = {row.quantity: row for row in evaluation_of(document).ledger}
    assert [name for name, row in rows.items() if row.simulated_problem] == []
    assert rows["V_size"].numbers[1] == pytest.approx((1 / 2**0.5, 0), rel=1e-6)
    assert (rows["x_old"].simulated, rows["x_old"].stale) == ("2\u00a0V", True)
    assert document.measurements[0].figure == OfPart(part="C1")
    assert document.measurements[1].figure == OfCurve(curve="V_out", reading="ac_rms", case="k1")
    assert read_exercise(document.model_dump_json()) == document


@given(st.data())
@examples(60)
def test_a_damaged_document_of_version_1_is_kept_as_far_as_it_can_be_read(data: Any) -> None:
    raw = json.loads((OLD / "everything.json").read_text())
    spoilt = st.sampled_from([None, 7, "x", [], {}, [3], {"a": []}, True])
    key = data.draw(st.sampled_from(sorted(set(raw) - {"format", "version", "schematic"})))
    held = raw[key]
    if isinstance(held, list) and held and isinstance(held[0], dict) and data.draw(st.booleans()):
        at = data.draw(st.integers(0, len(held) - 1))
        field = data.draw(st.sampled_from([None, *held[at]]))
        if field is None:
            held[at] = data.draw(spoilt)
        else:
            held[at][field] = data.draw(spoilt)
    else:
        raw[key] = data.draw(spoilt)
    kept = read_any(json.dumps(raw)).document  # and never an error that is no sentence
    assert kept.schematic.parts == everything().schematic.parts


def test_a_document_of_a_later_version_is_refused_with_its_number() -> None:
    with pytest.raises(DocumentError, match="of version 4; up to version 3"):
        read_exercise('{"format": "lucid-bench-exercise", "version": 4}')


def beside(raw: dict[str, Any], name: str, kind: str, node: str, row: int, **values: str) -> None:
    """Draw a part from a named node to ground, where nothing else is."""
    at = [200, 4 * row]
    raw["schematic"]["parts"] += [
        {"id": f"x{row}", "kind": kind, "name": name, "at": at, "values": values},
        {"id": f"g{row}", "kind": "ground", "name": "GND", "at": [203, at[1]]},
    ]
    raw["schematic"]["labels"].append({"id": f"l{row}", "name": node, "at": [197, at[1]]})


def speaking() -> Exercise:
    """A document that speaks of everything by name wherever that can be done."""
    raw = everything().model_dump(mode="json")
    first = raw["schematic"]["labels"][0]["name"]
    source = next(p["name"] for p in raw["schematic"]["parts"] if p["kind"] == "voltage_source")
    use = next(p for p in raw["schematic"]["parts"] if p["kind"] == "block")
    own = raw["blocks"][0]["schematic"]["parts"][0]["name"]
    beside(raw, "B1", "formula_voltage", "bx", 1, formula=f"2*V_{first} + I_{source}*f_c")
    beside(raw, "RB", "resistor", "bx", 2, resistance="f_c*1 V*1 s/(1 A)")
    beside(raw, "F1", "current_controlled_current", "fx", 3, gain="2", senses=source)
    beside(raw, "RF", "resistor", "fx", 4, resistance="1k")
    raw["hand"] += [
        {"id": "s1", "text": f"x = {source}*f_c/(1 Hz) + V_{first} + RB*I_RF"},
        {"id": "s2", "text": f"y = I_{use['name']}.{own}"},
    ]
    raw["runs"] += [
        {"id": "s3", "analysis": "transient", "settings": {"near": "V_fx = 0 V"},
         "show": [f"V_{first}*2", "P_RF", f"I_{use['name']}.{own}"]},
        {"id": "s4", "analysis": "dc_sweep", "settings": {"subject": source}, "show": ["V_bx"]},
        {"id": "s5", "analysis": "equivalent", "settings": {"node": first}},
        {"id": "s6", "analysis": "phasor", "settings": {"sum": "at bx"}},
    ]  # fmt: skip
    for held in raw["ledger"][:2]:  # the third was kept with another circuit
        held["pinned"]["fingerprint"] = read(raw).fingerprint
    return Exercise.model_validate(raw)


def told(document: Exercise) -> list[object]:
    """Every figure of a document, without the names it goes by."""
    seen = evaluation_of(document)
    figures: list[object] = [(line.result, line.problem is None) for line in seen.lines]
    figures += [(r.hand, r.simulated, r.bench, r.verdict, r.stale) for r in seen.ledger]
    figures += sorted(q.value for q in seen.quantities)
    for run in document.runs:
        answer = carry_out(document, run)
        figures.append(answer.problem is None)
        figures += [(c.y, [f.value for f in c.readings]) for c in answer.curves]
        figures += [[cell.value for cell in row.cells] for t in answer.tables for row in t.rows]
    return figures


@given(st.data())
@examples(6)
def test_after_any_renaming_every_figure_is_the_same(data: Any) -> None:
    document = speaking()
    sheet = data.draw(st.sampled_from(["", document.blocks[0].id]))
    schematic = document.blocks[0].schematic if sheet else document.schematic
    parameters = document.blocks[0].parameters if sheet else document.parameters
    things = [("part", p.id) for p in schematic.parts if p.kind != "ground"]
    things += [("node", label.name) for label in schematic.labels]
    things += [("parameter", named.id) for named in parameters]
    things += [] if sheet else [("row", row.id) for row in document.ledger]
    chosen = data.draw(st.lists(st.sampled_from(things), min_size=1, max_size=4, unique=True))
    renamings = [
        Renaming(what=what, which=which, name=f"Z{k}q", sheet=sheet)  # type: ignore[arg-type]
        for k, (what, which) in enumerate(chosen)
    ]
    after = patched(document, rename(document, renamings, SETTING_READS))
    assert after != document
    assert told(after) == told(document)


def test_names_may_change_places_and_none_is_given_twice() -> None:
    document = everything()
    parts = [p for p in document.schematic.parts if p.kind != "ground"][:2]
    swapped = [
        Renaming(what="part", which=parts[0].id, name=parts[1].name),
        Renaming(what="part", which=parts[1].id, name=parts[0].name),
    ]
    after = patched(document, rename(document, swapped, SETTING_READS))
    names = {part.id: part.name for part in after.schematic.parts}
    assert [names[part.id] for part in parts] == [parts[1].name, parts[0].name]
    with pytest.raises(DocumentError, match="is the name of another part already"):
        rename(document, swapped[:1], SETTING_READS)


@pytest.mark.parametrize(
    ("sum_told", "after"),
    [("at fx", "at tap"), ("round F1, RF", "round F1, Rx"), ("", "")],
)
def test_a_kirchhoff_sum_is_told_in_the_new_names(sum_told: str, after: str) -> None:
    document = speaking()
    part = next(p for p in document.schematic.parts if p.name == "RF")
    run = document.runs[0].model_copy(
        update={"analysis": "phasor", "settings": {"sum": sum_told}, "show": [], "notes": []}
    )
    renamings = [
        Renaming(what="part", which=part.id, name="Rx"),
        Renaming(what="node", which="fx", name="tap"),
    ]
    asking = document.model_copy(update={"runs": [run]})
    renamed = patched(asking, rename(asking, renamings, SETTING_READS))
    assert renamed.runs[0].settings == {"sum": after}


def test_a_row_of_the_ledger_bears_a_name_that_a_formula_can_call() -> None:
    row = everything().ledger[0]
    with pytest.raises(DocumentError, match="begins with a letter"):
        rename(everything(), [Renaming(what="row", which=row.id, name="2nd corner")], SETTING_READS)


def test_numbers_that_are_spoken_of_are_told_whether_the_node_is_there_or_not() -> None:
    raw = json.loads((HOME / "examples" / "attenuator-chain.json").read_text())
    raw["schematic"]["labels"] = []
    raw["hand"] = [{"id": "h", "text": "V_n2 = V_n99 + V_n2x"}]
    raw["runs"][0]["show"] = ["V_n3"]
    raw["blocks"][0]["schematic"]["notes"] = [{"id": "t", "text": "$V_n4$", "at": [0, 0]}]
    document = Exercise.model_validate(raw)
    assert sorted(evaluation_of(document).spoken) == ["n2", "n3", "n99"]
    assert evaluation_of(document, raw["blocks"][0]["id"]).spoken == ["n4"]


def test_a_pinned_figure_is_of_another_circuit_once_a_source_senses_another() -> None:
    def is_stale() -> bool:
        rows = evaluation_of(Exercise.model_validate(raw)).ledger
        return next(row.stale for row in rows if row.quantity == "V_max")

    raw = speaking().model_dump(mode="json")
    source = next(p for p in raw["schematic"]["parts"] if p["name"] == "F1")
    beside(raw, "V9", "voltage_source", "vx", 5, voltage="1 V")
    raw["ledger"][0]["pinned"]["fingerprint"] = read(raw).fingerprint
    assert not is_stale()
    source["values"]["senses"] = "V9"
    assert is_stale()


def read(raw: dict[str, Any]) -> Circuit:
    document = Exercise.model_validate(raw)
    return read_drawing(
        document.schematic, document.title, document.parameters, document.blocks
    ).circuit


def test_the_mark_of_a_run_changes_with_what_it_depends_on_and_nothing_else() -> None:
    def marks(**changes: Any) -> dict[str, str]:
        seen = evaluation_of(Exercise.model_validate({**raw, **changes}))
        return {run.id: run.fingerprint for run in seen.runs}

    raw = json.loads((HOME / "examples" / "level-bridge.json").read_text())
    runs = [{"id": "a", "analysis": "transient"}, {"id": "b", "analysis": "natural", "name": "one"}]
    raw["runs"] = runs
    before = marks()
    drawing = raw["schematic"]
    first, second = drawing["labels"][:2]
    joined = {**drawing, "labels": [first, {**second, "name": first["name"]}]}
    assert not set(before.values()) & set(
        marks(schematic=joined).values()
    )  # nodes joined by a name
    aside = {**drawing, "notes": [{"id": "n", "at": [0, 50], "text": "beside it"}]}
    assert marks(schematic=aside) == before
    assert marks(runs=[runs[0], {**runs[1], "name": "another"}]) == before
    other = marks(runs=[{**runs[0], "settings": {"stop": "1 ms"}}, runs[1]])
    assert (other["a"] == before["a"], other["b"] == before["b"]) == (False, True)


def test_the_form_is_documented_field_by_field() -> None:
    text = (HOME / "docs" / "document-format.md").read_text()
    sections = dict(re.findall(r"^### (\w+)\n(.*?)(?=^### |\Z)", text, re.M | re.S))
    sections.pop("Figures")  # what is said of all of them
    described = {
        name: set(re.findall(r"^\| `(\w+)`", section, re.M)) for name, section in sections.items()
    }
    found = {
        model.__name__: set(model.model_fields)
        for room in (models, figure, drawn)
        for model in vars(room).values()
        if isinstance(model, type)
        and issubclass(model, BaseModel)
        and model not in (BaseModel, drawn.OpenModel)
    }
    assert described == found
