"""One look at an exercise: what the page is told, in the words and figures it shows."""

from __future__ import annotations

import json
import math
from dataclasses import fields
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from lucidbench.core.devices import CATALOGUE
from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.errors import DocumentError
from lucidbench.core.evaluate import (
    Evaluation,
    EvaluationDelta,
    QuantityLook,
    RowLook,
    delta,
    evaluation_of,
)

EXAMPLES = Path(__file__).parents[2] / "examples"


def example(name: str, **changes: object) -> Exercise:
    raw = json.loads((EXAMPLES / f"{name}.json").read_text())
    return Exercise.model_validate({**raw, **changes})


def quantity(seen: Evaluation, name: str) -> QuantityLook:
    return next(q for q in seen.quantities if q.name == name)


def row(seen: Evaluation, name: str) -> RowLook:
    return next(r for r in seen.ledger if r.quantity == name)


def plain(text: str | None) -> str | None:
    return text.replace("\u00a0", " ") if text else text


def test_a_figure_carries_its_text_direction_and_meaning() -> None:
    seen = evaluation_of(example("level-bridge"))
    through_v2 = quantity(seen, "I_V2")
    assert (plain(through_v2.text), plain(through_v2.magnitude), through_v2.flow) == (
        "−342.7 µA",
        "342.7 µA",
        -1,
    )
    assert through_v2.meaning == "current through V2, from n1 to right"
    assert plain(quantity(seen, "P_V1").text) == "−80.72 mW"
    assert quantity(seen, "P_V1").meaning == "power taken by V1; below zero it gives"
    assert plain(quantity(seen, "V_left").uncertainty) == "± 29 mV"
    assert quantity(seen, "V_left").latex == r"V_{\mathrm{left}}"
    powers = [q.value for q in seen.quantities if q.kind == "power"]
    assert math.fsum(powers) == pytest.approx(0, abs=1e-15)


def test_the_ledger_holds_the_three_voices() -> None:
    seen = evaluation_of(example("battery-sense"))
    out = row(seen, "V_out")
    assert [plain(t) for t in (out.hand, out.simulated, out.bench)] == [
        "2.679 V",
        "2.679 V",
        "2.594 V",
    ]
    assert plain(out.bench_uncertainty) == "± 17 mV"
    assert out.bench_less_simulated
    assert plain(out.bench_less_simulated.absolute) == "−84.7 mV"
    assert plain(out.bench_less_simulated.relative) == "−3.2 %"
    assert out.simulated_less_hand
    assert plain(out.simulated_less_hand.absolute) == "0 V"
    assert out.verdict == "agree"
    assert plain(out.sentence) == (
        "Bench lies 84.7 mV (3.2 %) below simulated, within the ±170 mV of tolerances and reading."
    )


def test_the_last_reading_of_a_quantity_counts_and_names_itself() -> None:
    raw = json.loads((EXAMPLES / "battery-sense.json").read_text())
    first = raw["measurements"][0]
    later = [*raw["measurements"], {**first, "id": "b9", "text": "2.9 V ± 0.01 V"}]
    told = row(evaluation_of(example("battery-sense", measurements=later)), "V_out")
    assert (told.measurement, plain(told.bench), told.verdict) == ("b9", "2.9 V", "gap")
    told = row(evaluation_of(example("battery-sense")), "V_out")
    assert (told.measurement, told.verdict) == (first["id"], "agree")


def test_tolerances_and_ledger_are_left_out_where_nothing_is_compared() -> None:
    exercise = example("battery-sense")
    whole, drawn = evaluation_of(exercise), evaluation_of(exercise, compared=False)
    assert (whole.compared, drawn.compared, drawn.ledger) == (True, False, [])
    assert quantity(whole, "V_out").uncertainty
    assert not quantity(drawn, "V_out").uncertainty
    assert [q.exact for q in drawn.quantities] == [q.exact for q in whole.quantities]
    assert drawn.lines == whole.lines


def test_a_meter_loading_a_divider_of_exact_parts_is_a_gap() -> None:
    """Without tolerances nothing covers what a 10 MΩ meter takes away."""
    raw = json.loads((EXAMPLES / "battery-sense.json").read_text())
    for part in raw["schematic"]["parts"]:
        part["values"].pop("tolerance", None)
    loaded = 12.6 / (1 + 1e6 / (1 / (1 / 270e3 + 1 / 10e6)))
    figure = {"of": "rest", "quantity": "V_out"}
    raw["measurements"] = [{"id": "b", "figure": figure, "text": f"{loaded:.3f} V ± 5 mV"}]
    assert row(evaluation_of(Exercise.model_validate(raw)), "V_out").verdict == "gap"


@pytest.mark.parametrize(
    ("hand", "result", "problem"),
    [
        ("V_out = V1*R2/(R1+R2)", "2.679 V", None),
        ("G = 1/R1", "1 µS", None),
        ("x = R2/R1", "0.27", None),
        ("V_out = 3", None, "V_out should be a voltage, and this comes to a plain number"),
        ("V_out = V1*", None, "something is missing at the end"),
        ("", None, None),
    ],
)
def test_lines_are_worked_out(hand: str, result: str | None, problem: str | None) -> None:
    (line,) = evaluation_of(example("battery-sense", hand=[{"id": "h", "text": hand}])).lines
    assert (plain(line.result), line.problem) == (result, problem)


def test_hand_and_bench_are_compared_though_nothing_can_be_simulated() -> None:
    raw = json.loads((EXAMPLES / "battery-sense.json").read_text())
    raw["schematic"]["parts"][1]["values"]["resistance"] = "none"
    seen = evaluation_of(Exercise.model_validate(raw))
    assert seen.quantities == []
    assert seen.unsolved
    assert "R1 (“none”)" in seen.unsolved
    bat = row(seen, "V_bat")
    assert (bat.simulated, bat.verdict) == (None, "agree")
    assert "nothing is called “R1” here" in (seen.lines[0].problem or "")


def test_what_is_named_but_not_drawn_is_said() -> None:
    read = [{"id": "b", "figure": {"of": "rest", "quantity": "V_gone"}, "text": "1 V"}]
    gone = row(evaluation_of(example("battery-sense", measurements=read)), "V_gone")
    assert gone.meaning == "nothing on the drawing is called gone"
    assert gone.verdict == "open"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (
            {"schematic": {"parts": [{"id": "a", "kind": "r", "name": "R", "at": [0, 10_001]}]}},
            "at → 1",
        ),
        (
            {"schematic": {"parts": [{"id": "a", "kind": "r", "name": "R", "at": [0.5, 0]}]}},
            "at → 0",
        ),
        ({"schematic": {"wires": [{"id": "w", "points": [[0, 0]] * 201}]}}, "points"),
        ({"schematic": {"parts": "many"}}, "schematic → parts"),
        ({"hand": [{"id": "h", "text": "1+" * 300}]}, "hand → 0 → text"),
        ({"hand": [{"id": str(i), "text": ""} for i in range(201)]}, "hand"),
        ({"title": "x" * 121}, "title"),
        (
            {"measurements": [{"id": "b", "figure": {"of": "rest", "quantity": "V_a"}}]},
            "measurements → 0 → text",
        ),
        (
            {
                "records": [
                    {
                        "id": "r",
                        "columns": [
                            {"quantity": "t", "values": [1]},
                            {"quantity": "V_a", "values": []},
                        ],
                    }
                ]
            },
            "records → 0",
        ),
    ],
)
def test_documents_are_bounded_and_the_place_is_named(change: object, says: str) -> None:
    assert isinstance(change, dict)
    text = json.dumps({"format": "lucid-bench-exercise", "version": 2, **change})
    with pytest.raises(DocumentError, match="cannot be read at") as refusal:
        read_exercise(text)
    assert says in str(refusal.value)


NONSENSE = ("", "0", "-1", "1e300", "1e-300", "abc", "1/0", "V1", "\u221e", "0 0, 1m")
EDITS = st.sampled_from(
    [
        "value",
        "value",
        "value",
        "nonsense",
        "kind",
        "name",
        "away",
        "moved",
        "title",
        "other exercise",
    ]
)


def edited(raw: dict[str, Any], edit: str, which: int) -> dict[str, Any]:
    """`raw` after one edit of the part `which`."""
    changed: dict[str, Any] = json.loads(json.dumps(raw))
    parts = changed["schematic"]["parts"]
    if edit == "title":
        return {**changed, "title": "Another"}
    if edit == "other exercise" or not parts:
        names = ("level-bridge", "attenuator-chain", "hydrophone-stage")
        other: dict[str, Any] = json.loads((EXAMPLES / f"{names[which % 3]}.json").read_text())
        return other
    part = parts[which % len(parts)]
    if edit == "value":
        part["values"] = dict.fromkeys(part["values"], f"{which + 1}k")
    elif edit == "nonsense":
        description = CATALOGUE.get(part["kind"])
        keys = [p.key for p in description.parameters] if description else []
        keys = keys or ["value"]
        part["values"] = {
            **part["values"],
            keys[which % len(keys)]: NONSENSE[which % len(NONSENSE)],
        }
    elif edit == "kind":
        part["kind"] = sorted(CATALOGUE)[which % len(CATALOGUE)]
        part["form"] = ("", "sine", "square", "exponential")[which % 4]
    elif edit == "name":
        part["name"] = f"X{which}"
    elif edit == "moved":
        part["at"] = [part["at"][0] + 1, part["at"][1]]
    else:
        parts.remove(part)
    return changed


@given(
    st.sampled_from(["battery-sense", "hydrophone-stage", "attenuator-chain"]),
    st.lists(st.tuples(EDITS, st.integers(0, 60), st.booleans()), max_size=6),
    st.booleans(),
    st.booleans(),
)
def test_a_look_told_since_another_is_the_whole_look(
    name: str, steps: list[tuple[str, int, bool]], compared: bool, within: bool
) -> None:
    """Put together entry by entry, whatever was edited or written, whichever look it is told since, and
    inside a block too."""
    whole = TypeAdapter(Evaluation)
    raw = json.loads((EXAMPLES / f"{name}.json").read_text())
    before = first = evaluation_of(Exercise.model_validate(raw))
    for edit, which, since_first in steps:
        raw = edited(raw, edit, which)
        since = first if since_first else before
        exercise = Exercise.model_validate(raw)
        block = exercise.blocks[0].id if within and exercise.blocks else None
        now = evaluation_of(exercise, block, compared)
        told = TypeAdapter(EvaluationDelta).dump_python(
            delta(now, "now", since, "before"), mode="json"
        )
        assert (told.pop("mark"), told.pop("since")) == ("now", "before")
        earlier = whole.dump_python(since, mode="json")
        for name in (field.name for field in fields(Evaluation)):
            if isinstance(told[name], list):
                spans = [
                    earlier[name][entry["first"] : entry["end"]] if "end" in entry else [entry]
                    for entry in told[name]
                ]
                told[name] = [entry for span in spans for entry in span]
        assert told == whole.dump_python(now, mode="json")
        before = now
