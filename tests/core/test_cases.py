"""Cases: what is left out, shorted or replaced, against closed forms of the circuit that is left."""

from __future__ import annotations

import json
import math
from pathlib import Path

import numpy as np
import pytest

from lucidbench.__main__ import main as lucid
from lucidbench.core.analyses import operating_point
from lucidbench.core.cases import in_case, problems_of, typed_case
from lucidbench.core.document.exercise import (
    Case,
    CaseChange,
    Exercise,
    HandLine,
    LedgerRow,
    Run,
    read_exercise,
)
from lucidbench.core.document.figure import OfCurve, OfFormula
from lucidbench.core.errors import LucidError
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.evaluate.ledgers import ledgers
from lucidbench.core.evaluate.shapes import RowLook
from lucidbench.core.runs import present, solve
from lucidbench.core.schematic import read_drawing
from lucidbench.core.tolerance import builds

HOME = Path(__file__).resolve().parents[2]
EXAMPLES = HOME / "examples"
STAGE = read_exercise((EXAMPLES / "hydrophone-stage.json").read_text())
BATTERY = read_exercise((EXAMPLES / "battery-sense.json").read_text())
THERMAL = 1.380649e-23 * 300.15 / 1.602176634e-19  # [V] at 27 °C


def part_of(exercise: Exercise, name: str) -> str:
    return next(p.id for p in exercise.schematic.parts if p.name == name)


def with_case(exercise: Exercise, *changes: CaseChange, **more: object) -> Exercise:
    return exercise.model_copy(
        update={"cases": [Case(id="c", name="Other", changes=list(changes))], **more}
    )


def rows_of(exercise: Exercise, case: str) -> dict[str, RowLook]:
    [told] = ledgers(exercise, [case])
    return {row.quantity: row for row in told.rows}


def simulated(row: RowLook) -> float:
    told = row.numbers[1]
    assert told, row
    return told[0]


def test_gain_of_the_common_emitter_stage_in_four_cases_is_that_of_the_hybrid_pi_model() -> None:
    """A_v = -g_m (r_o || R_L) with the emitter bypassed; without, each of the model's node equations is
    solved as it is (Sedra and Smith, Microelectronic Circuits, the common-emitter amplifier; from memory)."""
    drawing = read_drawing(STAGE.schematic)
    point = operating_point(drawing.circuit)
    transistor = drawing.circuit.element("Q1").values
    current, across = point.values["I_Q1.C"], point.voltages["c"] - point.voltages["e"]
    r_o = (transistor["early_voltage"] + across) / current
    g_m = current / THERMAL
    r_pi = THERMAL / point.values["I_Q1.B"]
    for told, (has_load, has_capacitor) in zip(
        ledgers(STAGE, ["", "c1", "c2", "c3"]),
        ((True, True), (False, True), (True, False), (False, False)),
        strict=True,
    ):
        load = 1 / (1 / 2.2e3 + (1 / 10e3 if has_load else 0))
        emitter = 0.0 if has_capacitor else 470.0
        # Emitter e and collector c, the base at 1 V: currents into each are zero.
        conductances = np.array([
            [1 / max(emitter, 1e-9) + 1 / r_pi + g_m + 1 / r_o, -1 / r_o],
            [-g_m - 1 / r_o, 1 / load + 1 / r_o],
        ])  # fmt: skip
        _, gain = np.linalg.solve(conductances, [1 / r_pi + g_m, -g_m])
        row = next(row for row in told.rows if row.quantity == "A_v")
        assert simulated(row) == pytest.approx(abs(gain), rel=0.03), told.name
        assert told.problem is None
        assert row.numbers[0]  # by hand
        assert row.numbers[2]  # on the bench


def test_open_and_short_are_what_is_left_of_a_divider() -> None:
    """V·R2/(R1+R2): nothing flows where R1 is open; all of V is across R2 where R1 is shorted, and its
    current is still told, V/R2."""
    r1 = part_of(BATTERY, "R1")
    r2 = BATTERY.schematic.parts[[p.name for p in BATTERY.schematic.parts].index("R2")]
    opened = evaluation_of(with_case(BATTERY, CaseChange(part=r1, does="open")), case="c")
    values = {q.name: q.value for q in opened.quantities}
    assert values["V_out"] == pytest.approx(0, abs=1e-9)
    assert "I_R1" not in values
    shorted = evaluation_of(with_case(BATTERY, CaseChange(part=r1, does="short")), case="c")
    values = {q.name: q.value for q in shorted.quantities}
    supply = values["V_bat"]
    assert values["V_out"] == pytest.approx(supply)
    assert values["I_R1"] == pytest.approx(supply / 270e3)
    replaced = CaseChange(part=r2.id, values={"resistance": "540k"})
    other = evaluation_of(with_case(BATTERY, replaced), case="c")
    values = {q.name: q.value for q in other.quantities}
    assert values["V_out"] == pytest.approx(supply * 540 / 1540, rel=1e-6)
    assert (
        evaluation_of(with_case(BATTERY, replaced)).quantities == evaluation_of(BATTERY).quantities
    )


def test_what_a_case_speaks_of_may_be_gone() -> None:
    """A part that was deleted since changes nothing; what cannot be shorted says so in that case alone."""
    gone = with_case(
        BATTERY, CaseChange(part="gone", does="open"), CaseChange(parameter="gone", text="5")
    )
    assert in_case(gone, "c").schematic == gone.schematic
    assert len(list(problems_of(gone, gone.cases[0]))) == 2
    with pytest.raises(LucidError, match="no case nowhere"):
        in_case(gone, "nowhere")
    stage = with_case(STAGE, CaseChange(part=part_of(STAGE, "Q1"), does="short"))
    base, case = ledgers(stage, ["", "c"])
    assert base.problem is None
    assert case.problem is not None
    assert "only what has two pins can be shorted" in case.problem
    [unknown] = ledgers(stage, ["nowhere"])
    assert "no case nowhere" in (unknown.problem or "")


def test_a_part_inside_a_block_is_varied_in_every_use_of_it() -> None:
    """Three sections of the attenuator chain, one resistor of the section's drawing left out."""
    chain = read_exercise((EXAMPLES / "attenuator-chain.json").read_text())
    block = chain.blocks[0]
    shunt = next(p for p in block.schematic.parts if p.kind == "resistor" and p.rotation % 180)
    case = with_case(chain, CaseChange(part=f"{block.id}/{shunt.id}", does="open"))
    circuit = read_drawing(
        in_case(case, "c").schematic, "", chain.parameters, in_case(case, "c").blocks
    ).circuit
    assert not [e.name for e in circuit if e.name.endswith(f".{shunt.name}")]
    assert len(
        read_drawing(chain.schematic, "", chain.parameters, chain.blocks).circuit.elements
    ) == (len(circuit.elements) + sum(p.block == block.id for p in chain.schematic.parts))


def test_cases_are_a_family_of_a_run() -> None:
    """Their curves in one plot, by their names; a case that cannot be solved is said and leaves the rest."""
    short = CaseChange(part=part_of(STAGE, "Q1"), does="short")
    cases = [*STAGE.cases, Case(id="c9", name="Broken", changes=[short])]
    run = Run(id="r", analysis="frequency_sweep", settings={"vary": "cases"}, show=["V_out/V_in"])
    look = present(solve(STAGE.model_copy(update={"cases": cases}), run))
    assert look.problem is None
    names = [curve.member.label for curve in look.curves if curve.member]
    assert names[:2] == ["As drawn", "Without load"]
    tops = {c.member.label: max(y or 0 for y in c.y) for c in look.curves if c.member}
    assert tops["Without load"] > tops["As drawn"] > tops["Without emitter capacitor"]


def with_rows(exercise: Exercise, **formulas: str) -> Exercise:
    rows = [
        LedgerRow(id=name, name=name, figure=OfFormula(formula=text))
        for name, text in formulas.items()
    ]
    return exercise.model_copy(update={"ledger": rows})


def test_formulas_of_figures_know_what_their_figures_share() -> None:
    """V_out/V_bat is R2/(R1+R2): its uncertainty by draws of whole circuits, JCGM 101; two figures of the
    same parts may cancel."""
    exercise = with_rows(
        BATTERY, ratio="V_out/V_bat", none="V_out - V_out", both="ratio*V_bat - V_out"
    )
    rows = rows_of(exercise, "")
    circuit = read_drawing(exercise.schematic).circuit
    drawn = [
        point.voltages["out"] / point.voltages["bat"]
        for point in map(operating_point, builds(circuit, 2000))
    ]
    ratio = rows["ratio"].numbers[1]
    assert ratio
    assert ratio[0] == pytest.approx(270 / 1270, rel=1e-6)
    assert ratio[1] == pytest.approx(2 * float(np.std(drawn)), rel=0.06)
    for name in ("none", "both"):
        told = rows[name].numbers[1]
        assert told
        assert told == pytest.approx((0, 0), abs=1e-9)


@pytest.mark.parametrize(
    ("formulas", "told"),
    [
        ({"a": "b + 1", "b": "2*a"}, "the formulas go in a circle, a → b → a"),
        ({"a": "V_out + I_R1"}, "cannot be added to"),
        ({"a": "V_nowhere/V_out"}, "no figure is called V_nowhere here"),
        ({"a": "V_out/"}, ""),
        ({"a": "V_out.pp"}, "no figure is called V_out.pp here"),
    ],
)
def test_a_formula_that_comes_to_nothing_says_why(formulas: dict[str, str], told: str) -> None:
    row = rows_of(with_rows(BATTERY, **formulas), "")["a"]
    assert row.simulated is None
    assert told in (row.simulated_problem or "")
    assert row.simulated_problem


def test_a_hand_line_of_a_case_goes_before_one_of_all_and_carries_its_own_uncertainty() -> None:
    """±0.1 V; ±2 %; and of a figure that was written down, half of its last digit, evenly: 2·0.005/√3."""
    hand = [
        HandLine(id="h1", text="V_out = 2.6 V ± 0.1 V"),
        HandLine(id="h2", text="V_out = 5.00 V", case="c"),
        HandLine(id="h3", text="V_bat = 12 V ± 2 %", case=""),
        HandLine(id="h4", text="V_bat = 12 V ± 1 A", case="c"),
    ]
    exercise = with_case(BATTERY, hand=hand)
    base, case = rows_of(exercise, ""), rows_of(exercise, "c")
    assert base["V_out"].numbers[0] == (pytest.approx(2.6), pytest.approx(0.1))
    assert base["V_bat"].numbers[0] == (pytest.approx(12), pytest.approx(0.24))
    assert case["V_out"].numbers[0] == (
        pytest.approx(5), pytest.approx(2 * 0.005 / math.sqrt(3)),
    )  # fmt: skip
    assert case["V_bat"].hand is None
    assert "a current" in (case["V_bat"].hand_problem or "")
    lines = {line.id: line.problem for line in evaluation_of(exercise, case="c").lines}
    assert "behind the ± stands a current" in (lines["h4"] or "")
    assert lines["h1"] is None


def test_a_verdict_turns_with_what_is_allowed_and_as_a_tolerance_is_tightened() -> None:
    """Bench less simulated beside both uncertainties, and what the exercise lets pass."""
    row = rows_of(BATTERY, "")["V_out"]
    assert row.verdict == "agree"
    assert row.budget
    assert sum(each.share for each in row.budget.contributions) == pytest.approx(1)
    assert {each.source for each in row.budget.contributions} == {"R1", "R2", "reading of V_out"}
    tight = BATTERY.model_copy(deep=True)
    for part in tight.schematic.parts:
        if part.kind == "resistor":
            part.values["tolerance"] = "0.1 %"
    assert rows_of(tight, "")["V_out"].verdict == "gap"
    let = tight.model_copy(update={"allowed": 0.05})
    assert rows_of(let, "")["V_out"].verdict == "agree"
    assert "that count as agreement" in (rows_of(let, "")["V_out"].sentence or "")


def test_a_kept_value_stays_while_the_circuit_changes() -> None:
    stage = STAGE.model_copy(deep=True)
    row = LedgerRow.model_validate({
        "id": "k", "name": "f_low",
        "figure": {"of": "curve", "curve": "V_out", "run": "r3", "reading": "lower_cutoff"},
        "pinned": {"value": 123.0, "unit": "Hz"},
    })  # fmt: skip
    follows = stage.model_copy(update={"ledger": [row]})
    keeps = stage.model_copy(update={"ledger": [row.model_copy(update={"is_kept": True})]})
    assert simulated(rows_of(follows, "")["f_low"]) != 123
    assert simulated(rows_of(keeps, "")["f_low"]) == 123


def test_compare_prints_the_ledger_of_every_case(capsys: pytest.CaptureFixture[str]) -> None:
    command = ["compare", str(EXAMPLES / "hydrophone-stage.json")]
    assert lucid([*command, "--case", "all"]) == 0
    rows = json.loads(capsys.readouterr().out)["rows"]
    gains = {row["case"]: row for row in rows if row["figure"] == "A_v"}
    assert list(gains) == ["As drawn", "Without load", "Without emitter capacitor", "Without both"]
    assert all(
        gains[c][voice]["value"] > 1 for c in gains for voice in ("hand", "simulated", "bench")
    )
    last = gains["Without both"]
    less = last["bench"]["value"] - last["simulated"]["value"]
    assert last["difference"]["bench_less_simulated"] == pytest.approx(less)
    assert lucid([*command, "--case", "Without load", "--csv"]) == 0
    assert capsys.readouterr().out.startswith("figure,case,unit,hand,hand ±")
    assert lucid([*command, "--case", "No such"]) == 2
    assert "there is no case called No such; there are As drawn" in capsys.readouterr().err


def test_a_case_can_be_typed() -> None:
    told = typed_case(STAGE, "without R5, C3 shorted, R3 = 1.1k, V1 off")
    names = {part.id: part.name for part in STAGE.schematic.parts}
    assert [(names[c.part], c.does, c.values) for c in told] == [
        ("R5", "open", {}), ("C3", "short", {}), ("R3", "replace", {"resistance": "1.1k"}),
        ("V1", "short", {}),
    ]  # fmt: skip
    assert typed_case(STAGE, "Winter") == typed_case(STAGE, "without load") == []


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("without R77", "there is no part called R77"),
        ("R3 = oops", "oops"),
        ("R3 off", "R3 is no source"),
        ("without R5, and so on", "“and so on” says nothing of a part"),
        ("GND = 5", "GND has no value of its own"),
    ],
)
def test_a_typed_case_that_cannot_be_is_said(text: str, told: str) -> None:
    with pytest.raises(LucidError, match=told):
        typed_case(STAGE, text)


def test_a_chain_of_attenuators_loads_itself() -> None:
    """R_s in series and R_p across: the first section alone, R_p/(R_s+R_p); behind it the others, each
    stage's load in parallel with its R_p (any network theory text)."""
    chain = read_exercise((EXAMPLES / "attenuator-chain.json").read_text())
    loaded = 9.0
    across = 1 / (1 / 500 + 1 / (1e3 + 1 / (1 / 500 + 1 / 15e3)))
    loaded *= across / (1e3 + across)
    case = with_case(chain, CaseChange(part=part_of(chain, "X2"), does="open"))
    for name, volts in (("", loaded), ("c", 3.0)):
        values = {q.name: q.value for q in evaluation_of(case, case=name).quantities}
        assert values["V_a"] == pytest.approx(volts), name


def test_a_curve_by_hand_is_judged_beside_the_simulated_and_the_measured() -> None:
    """The series circuit's own transfer function (any circuits text) is the simulated one; without its
    capacitor it is not; the bench lies off both by its coil's loss near resonance, and by no more than the
    simulation does."""
    exact = "V_out/V_in = R1/(R1 + j*2*pi*f*L1 + 1/(j*2*pi*f*C1))"
    wrong = "V_out/V_in = R1/(R1 + j*2*pi*f*L1)"
    filtered = read_exercise((EXAMPLES / "time-signal-filter.json").read_text())
    told: dict[str, dict[tuple[str, str], tuple[str, int]]] = {}
    for text in (exact, wrong):
        run = filtered.runs[0].model_copy(update={"show": ["V_out/V_in", text]})
        [ledger] = ledgers(filtered.model_copy(update={"runs": [run]}), [""])
        told[text] = {(c.voices, c.part): (c.verdict, c.inside) for c in ledger.curves}
    assert told[exact]["simulated − hand", "magnitude"][0] == "agree"
    assert told[exact]["simulated − hand", "phase"][0] == "agree"
    assert told[wrong]["simulated − hand", "magnitude"][0] == "gap"
    for part in ("magnitude", "phase"):
        by_hand, simulated = (told[exact][v, part] for v in ("bench − hand", "bench − simulated"))
        assert by_hand[0] == simulated[0]
        assert by_hand[1] == pytest.approx(simulated[1], abs=2)
        assert told[wrong]["bench − hand", part][0] == "gap"


def test_rows_of_one_name_and_of_what_was_thrown_away_say_so() -> None:
    rows = [
        LedgerRow(id=f"k{k}", name=name, figure=OfCurve(curve="V_out", run=run, reading="maximum"))
        for k, (name, run) in enumerate((("a", "gone"), ("b", "r3"), ("b", "r3")))
    ]
    told = rows_of(STAGE.model_copy(update={"ledger": rows}), "")
    assert told["a"].simulated_problem == "its run is not there any more"
    assert told["b"].simulated_problem == "two rows bear this name; give one of them another"
