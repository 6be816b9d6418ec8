"""Blocks made of parts of drawings, and what comes from files, against the circuits they came from."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core.analyses import operating_point, phasors
from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.document.importing import read_any
from lucidbench.core.errors import DocumentError
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.netlist import Circuit, write_netlist
from lucidbench.core.schematic import Label, read_drawing
from lucidbench.core.schematic.blocks import NewBlock, make_block
from lucidbench.core.schematic.geometry import pin_points
from lucidbench.core.schematic.kinds import kinds_with
from lucidbench.core.schematic.values import read_values
from tests.core.circuits import drawn_from
from tests.depth import examples

EXAMPLES = Path(__file__).parents[2] / "examples"
SOLVED = ["level-bridge", "lamp-curve", "hydrophone-stage", "beacon-flasher", "flow-integrator"]


def example(name: str) -> Exercise:
    return read_exercise((EXAMPLES / f"{name}.json").read_text())


def circuit_of(exercise: Exercise) -> Circuit:
    reading = read_drawing(exercise.schematic, exercise.title, exercise.parameters, exercise.blocks)
    assert not [f for f in reading.findings if f.severity == "fault"]
    return reading.circuit


def joined_again(exercise: Exercise, made: NewBlock) -> Exercise:
    """The sheet after a block was made, its wires joined by names instead of being laid."""
    blocks = [*exercise.blocks, made.block]
    instance = next(p for p in made.schematic.parts if p.id == made.part)
    pins = pin_points(instance, kinds_with(blocks))
    labels = list(made.schematic.labels)
    for k, join in enumerate(made.rejoin):
        labels += [
            Label(id=f"join{k}a", name=f"port{join.pin}", at=join.start),
            Label(id=f"join{k}b", name=f"port{join.pin}", at=pins[join.pin]),
        ]
    sheet = made.schematic.model_copy(update={"labels": labels})
    return exercise.model_copy(update={"schematic": sheet, "blocks": blocks})


@examples(60)
@given(st.sampled_from(SOLVED), st.data())
def test_making_a_block_changes_no_voltage(name: str, data: st.DataObject) -> None:
    """Any parts of any demo circuit, taken into a block: every node that keeps its name keeps its voltage."""
    exercise = example(name)
    ids = [part.id for part in exercise.schematic.parts if part.kind != "ground"]
    chosen = data.draw(st.sets(st.sampled_from(ids), min_size=1, max_size=len(ids) - 1))
    named = {label.name for label in exercise.schematic.labels}
    before = operating_point(circuit_of(exercise)).voltages
    made = make_block(exercise.schematic, chosen, "B", "b9", kinds_with(exercise.blocks))
    after = evaluation_of(joined_again(exercise, made))
    assert after.unsolved is None
    found = {q.subject: q.value for q in after.quantities if q.kind == "voltage"}
    for node in named & set(found):
        assert found[node] == pytest.approx(before[node], rel=1e-9, abs=1e-9)
    inside = evaluation_of(joined_again(exercise, made), inside="b9")
    assert len(inside.parts) == len(made.block.schematic.parts)
    assert not [f for f in inside.findings if f.severity == "fault"]


def test_a_block_needs_parts_and_keeps_its_ports_apart() -> None:
    exercise = example("anti-alias-ladder")
    kinds = kinds_with([])
    with pytest.raises(DocumentError, match="Choose the parts"):
        make_block(exercise.schematic, {"w1"}, "B", "b1", kinds)
    section = {p.id for p in exercise.schematic.parts if p.name in ("R2", "C2")}
    made = make_block(exercise.schematic, section, "Section", "b1", kinds)
    assert {port.name: port.at[0] < 0 for port in made.block.ports} == {"mid": True, "out": False}
    assert [p.kind for p in made.block.schematic.parts].count("ground") == 1
    assert made.loose  # the wire that led to the capacitor's ground


def test_a_use_of_a_block_tells_its_own_values_and_those_it_has_from_the_block() -> None:
    kinds = kinds_with(example("attenuator-chain").blocks)
    use = next(p for p in example("attenuator-chain").schematic.parts if p.name == "X1")

    def told(text: str) -> list[tuple[str | None, str | None]]:
        values = read_values(use.model_copy(update={"values": {"R_s": text}}), kinds)
        return [(v.echo and v.echo.replace("\u00a0", " "), v.problem) for v in values]

    assert told("") == [("1 kΩ", None), ("500 Ω", None)]  # R_p is R_s/2
    assert told("4k") == [("4 kΩ", None), ("2 kΩ", None)]
    (_, problem), (echo, _) = told("4q")
    assert problem
    assert echo == "500 Ω"


@pytest.mark.parametrize("name", [p.stem for p in sorted(EXAMPLES.glob("*.json"))])
def test_an_exercise_survives_netlist_text(name: str) -> None:
    """Drawing to netlist to drawing: the same circuit, at DC where it has such a point, else as phasors."""
    before = circuit_of(example(name))
    after = circuit_of(drawn_from(read_any(write_netlist(before))))
    if name == "feed-line":  # at DC there is nothing in it
        first, second = (phasors(c, 50.0).voltages for c in (before, after))
    else:
        first, second = (operating_point(c).voltages for c in (before, after))
    for node, value in first.items():
        assert second[node.replace(".", "_")] == pytest.approx(value, rel=1e-5, abs=1e-7)


@pytest.mark.parametrize(
    ("written", "levels"),
    [("PULSE(1 5 2m)", ("1 V", "5 V", "2 ms")), ("PWL(0 1 2m 1 2m -4)", ("1 V", "-4 V", "2 ms"))],
)
def test_one_jump_becomes_a_step_and_is_written_as_one(
    written: str, levels: tuple[str, str, str]
) -> None:
    exercise = drawn_from(read_any(f"a step\nV1 a 0 {written}\nR1 a 0 1k\n.end\n"))
    part = next(part for part in exercise.schematic.parts if part.name == "V1")
    assert part.form == "step"
    assert tuple(part.values[key] for key in ("from_level", "to_level", "step_at")) == levels
    again = drawn_from(read_any(write_netlist(circuit_of(exercise))))
    assert next(part for part in again.schematic.parts if part.name == "V1").values == part.values


def test_what_can_be_kept_of_a_broken_document_is_kept() -> None:
    raw = json.loads((EXAMPLES / "hydrophone-stage.json").read_text())
    parts = len(raw["schematic"]["parts"])
    raw["schematic"]["parts"][2]["rotation"] = 45
    raw["schematic"]["wires"][0]["points"] = [[0, 0], ["a", 2]]
    raw["schematic"]["labels"].append("nonsense")
    raw["hand"][0]["text"] = 7
    kept = read_any(json.dumps(raw))
    assert len(kept.document.schematic.parts) == parts - 1
    assert len(kept.document.hand) == len(raw["hand"]) - 1
    assert any("Part R1 cannot be read" in note for note in kept.notes)
    assert len(kept.notes) == 4


@examples(150)
@given(st.one_of(st.text(), st.binary().map(lambda raw: raw.decode("latin-1")),
                 st.text().map(lambda t: '{"format": "lucid-bench-exercise", ' + t)))  # fmt: skip
def test_junk_gives_a_sentence_and_nothing_else(text: str) -> None:
    with contextlib.suppress(DocumentError):
        read_any(text)
