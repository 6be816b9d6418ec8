"""A part of every kind taken through every room: each answers, or refuses with a sentence."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from lucidbench.core.analyses import Watch
from lucidbench.core.cases import typed_case
from lucidbench.core.devices import CATALOGUE
from lucidbench.core.document.exercise import (
    Build,
    Case,
    Exercise,
    Fault,
    HandLine,
    Measurement,
    Run,
)
from lucidbench.core.document.figure import QuantityAtRest
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.evaluate.designed import designed
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.explained import Question, explanation
from lucidbench.core.evaluate.run_figures import Limits
from lucidbench.core.evaluate.seek import Free, Target, sought
from lucidbench.core.evaluate.worked_out import working_of
from lucidbench.core.runs import ANALYSES, present, solve
from lucidbench.instruments.build import built
from tests.core.test_drawn_parts import part, sheet

QUICK = Limits(0.5, 0.1)
DOES = ("factor", "exchange", "open", "short", "turn", "wire")


def exercise_with(kind: str) -> Exercise:
    """The part between a source with its resistor and another resistor, and what people do with such a
    circuit: a line of working, and a reading that differs from it."""
    description = CATALOGUE[kind]
    given = {p.key: "V9" for p in description.parameters if p.reads == "part"}
    given |= {p.key: "2*V_n0" for p in description.parameters if p.reads == "formula"}
    given |= {
        key: name for key, name in (("first_coil", "L9"), ("second_coil", "L8")) if key in given
    }
    nodes = " ".join(f"n{k}" for k in range(len(description.symbol.pins)))
    parts = [
        part("voltage_source", "V9", "in 0"), part("resistor", "R9", "in n0"),
        part(kind, "X1", nodes, **given), part("inductor", "L9", "p 0"), part("inductor", "L8", "p 0"),
        part("resistor", "R8", "in p"),
        *(part("resistor", f"R{k}", f"n{k} 0") for k in range(1, len(nodes.split()))),
    ]  # fmt: skip
    return Exercise(
        schematic=sheet(*parts),
        hand=[HandLine(id="h", text="V_n0 = 1 V"), HandLine(id="i", text="R9 = ?")],
        measurements=[
            Measurement(id="m", figure=QuantityAtRest(quantity="V_n0"), text="1.23 V ± 0.01 V")
        ],
    )


def rooms(exercise: Exercise) -> dict[str, Callable[[], Any]]:
    watch = Watch(2.0)
    without = exercise.model_copy(
        update={"cases": [Case(id="c", changes=typed_case(exercise, "without X1"))]}
    )
    asked: dict[str, Callable[[], Any]] = {
        "look": lambda: evaluation_of(exercise, limits=QUICK),
        "left out": lambda: evaluation_of(without, limits=QUICK, case="c"),
        "held against the exact": lambda: exactness(exercise),
        "worked out": lambda: working_of(exercise, "V_n0", "rest", watch=watch),
        "worked out in phasors": lambda: working_of(exercise, "V_n0", "phasor", watch=watch),
        "its response": lambda: working_of(exercise, "V_n0", "gain", watch=watch),
        "after a step": lambda: working_of(exercise, "V_n0", "step", watch=watch),
        "its current worked out": lambda: working_of(exercise, "I_X1", "rest", watch=watch),
        "designed": lambda: designed(exercise),
        "sought": lambda: sought(exercise, [Free("X1")], [Target("V_n0", "1 V")], watch=Watch(2.0)),
        "explained": lambda: explanation(exercise, Question(), Watch(3.0)),
    }
    for analysis in ANALYSES:
        run = Run(id="r", analysis=analysis)
        asked[analysis] = lambda run=run: present(solve(exercise, run, Watch(1.0)))
    for does in DOES:
        build = Build(faults=[Fault(part="X1", does=does, other="R9", node="n0")])
        broken = exercise.model_copy(update={"build": build})
        asked[f"built, {does}"] = lambda broken=broken: built(broken)
    return asked


@pytest.mark.parametrize("kind", [d.kind for d in CATALOGUE.values() if d.element])
def test_a_part_of_every_kind_goes_through_every_room(kind: str) -> None:
    exercise = exercise_with(kind)
    answered, refused = set(), dict[str, str]()
    for room, ask in rooms(exercise).items():
        try:
            ask()
            answered.add(room)
        except LucidError as refusal:
            refused[room] = str(refusal)
    assert {"look", "left out"} <= answered
    assert [room for room, sentence in refused.items() if len(sentence.split()) < 4] == []
