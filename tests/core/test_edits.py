"""Changes of a circuit: a case, a fault of a build and a cause of the same meaning are the same circuit."""

from __future__ import annotations

from pathlib import Path

import pytest

from lucidbench.core.analyses import operating_point
from lucidbench.core.cases import in_case, typed_case
from lucidbench.core.devices import DEVICES
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Build, Case, Exercise, Fault, read_exercise
from lucidbench.core.edits import (
    CircuitEdit,
    Exchange,
    Insert,
    MoveLead,
    Open,
    Scale,
    SetTemperature,
    SetValues,
    Short,
    Silence,
    Turn,
    applied,
)
from lucidbench.instruments.build import physical_build
from tests.core.circuits import circuit

EXAMPLES = Path(__file__).parents[2] / "examples"


def divider() -> Exercise:
    """V1 12.6 V, R1 1 MΩ, R2 270 kΩ; no tolerances, so that a build is the drawing."""
    exercise = read_exercise((EXAMPLES / "battery-sense.json").read_text())
    for part in exercise.schematic.parts:
        part.values.pop("tolerance", None)
    return exercise


@pytest.mark.parametrize(
    ("typed", "fault", "edit", "out"),
    [
        ("without R2", {"does": "open"}, Open("R2"), 12.6),
        ("R2 short", {"does": "short"}, Short("R2"), 0.0),
        ("R2 = 540k", {"does": "factor", "factor": 2}, Scale("R2", "resistance", 2), 12.6 * 54 / 154),
        ("R2 = 540k", {"does": "factor", "factor": 2}, SetValues("R2", {"resistance": 540e3}), 4.41818),
        ("R1 = 270k, R2 = 1M", {"does": "exchange", "other": "R1"}, Exchange("R2", "R1"), 12.6 * 100 / 127),
    ],
)  # fmt: skip
def test_a_case_a_fault_and_a_cause_of_one_meaning_are_one_circuit(
    typed: str, fault: dict[str, object], edit: CircuitEdit, out: float
) -> None:
    exercise = divider()
    case = Case(id="c1", changes=typed_case(exercise, typed))
    by_case = drawing_of(in_case(exercise.model_copy(update={"cases": [case]}), "c1")).circuit
    drawn = drawing_of(exercise).circuit
    build = Build(ideal=True, faults=[Fault(part="R2", **fault)])  # type: ignore[arg-type]
    for here in (by_case, physical_build(drawn, build), applied(drawn, [edit])):
        found = operating_point(here).values["V_out"]
        assert found == pytest.approx(out, rel=1e-3, abs=1e-6), here.title  # 1 GΩ is open


CIRCUIT = ("V1 in 0 10", "R1 in out 1k", "R2 out 0 1k", "I1 0 out 1m")


@pytest.mark.parametrize(
    ("edit", "out"),
    [
        # 10 V/2 + 1 mA·500 Ω (superposition), each with its change.
        (Silence("V1"), 0.5),
        (Silence("I1"), 5.0),
        (Turn("V1"), -4.5),
        (Turn("I1"), 4.5),
        (Insert("R2", 1e3), (10 + 1) * 2 / 3),
        (MoveLead("R2", 0, "in"), 11.0),
        (SetTemperature(60.0), 5.5),
        (Open("R9"), 5.5),  # not there: nothing changes
        (Exchange("R1", "R9"), 5.5),
    ],
)
def test_what_an_edit_does(edit: CircuitEdit, out: float) -> None:
    changed = applied(circuit(*CIRCUIT), [edit])
    assert operating_point(changed).values["V_out"] == pytest.approx(out)


def test_what_is_turned_is_exchanged_in_pairs() -> None:
    """The inputs of an amplifier, collector and emitter of a transistor; one edit after the other."""
    drawn = circuit(
        "V1 p 0 1", "Y1 p n out opamp", "R1 out n 1k", "R2 n 0 1k", "Q1 p n out T", ".model T NPN"
    )
    turned = applied(drawn, [Turn("Y1"), Turn("Q1"), MoveLead("Q1", 1, "p")])
    assert turned.element("Y1").nodes == ("n", "p", "out")
    assert turned.element("Q1").nodes == ("out", "p", "p")
    assert drawn.element("Y1").nodes == ("p", "n", "out")


@pytest.mark.parametrize("kind", sorted(DEVICES))
def test_what_may_happen_to_a_part_is_of_its_own_pins_values_and_forms(kind: str) -> None:
    described = DEVICES[kind].description
    handling, pins = described.handling, range(len(described.joins or described.pins))
    turned = handling.turned or tuple(pins)
    assert [turned[turned[pin]] for pin in pins] == list(pins)  # turned twice it is as it was
    assert set(handling.inputs) <= set(pins)
    assert handling.series in {"", *(parameter.key for parameter in described.parameters)}
    assert handling.real_form in {"", *(form.key for form in described.forms)}
    assert described.main is not None or not (handling.bridge or handling.mistaken)
