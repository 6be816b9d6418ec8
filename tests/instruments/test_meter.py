"""The stand-in meter: it loads what it reads, and the demo's readings are its own."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from lucidbench.instruments.meter import Voltmeter

from lucidbench.core.document.exercise import read_exercise
from lucidbench.core.netlist import Circuit
from lucidbench.core.schematic import read_drawing
from lucidbench.instruments.build import physical_build
from tests.core.circuits import circuit

EXAMPLES = Path(__file__).parents[2] / "examples"
# The builds the demo's readings were taken on.
BUILDS = {"battery-sense": 4, "level-bridge": 7}


def drawn(name: str) -> Circuit:
    exercise = read_exercise((EXAMPLES / f"{name}.json").read_text())
    return read_drawing(exercise.schematic).circuit


def test_a_meter_loads_a_large_divider() -> None:
    """Two equal resistors of the meter's own 10 MΩ: a third of the supply is shown, not half."""
    large = circuit("V1 a 0 6", "R1 a m 10meg", "R2 m 0 10meg")
    assert Voltmeter().read(large, "m").startswith("2.000 V")
    assert Voltmeter(input_resistance=1e15).read(large, "m").startswith("3.000 V")


def test_a_build_stays_within_tolerance_and_is_repeatable() -> None:
    nominal = drawn("level-bridge")
    for seed in range(30):
        for element, real in zip(nominal, physical_build(nominal, seed), strict=True):
            for key, half_width in element.spreads.items():
                assert real.values[key] == pytest.approx(element.values[key], rel=half_width)
                assert real.values[key] != element.values[key]
    assert physical_build(nominal, 3) == physical_build(nominal, 3)


@pytest.mark.parametrize("name", BUILDS)
def test_the_demo_readings_are_what_the_meter_shows(name: str) -> None:
    document = json.loads((EXAMPLES / f"{name}.json").read_text())
    build = physical_build(drawn(name), BUILDS[name])
    for note in document["measurements"]:
        node = note["figure"]["quantity"].removeprefix("V_")
        assert note["text"] == Voltmeter().read(build, node)
