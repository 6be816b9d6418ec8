"""Hand lines: their language, whether they say the same, what they are beside the circuit, and what they ask
for.

SymPy is the independent judge of whether two formulas are one.
"""

from __future__ import annotations

import argparse
import json
import re
from itertools import product
from pathlib import Path

import numpy as np
import pytest
import sympy

from lucidbench.cli import judge
from lucidbench.core.analyses import operating_point
from lucidbench.core.document.drawn import drawing_of
from lucidbench.core.document.exercise import Exercise, HandLine, read_exercise
from lucidbench.core.document.patch import patched
from lucidbench.core.errors import FormulaError
from lucidbench.core.evaluate.designed import DesignLook, designed
from lucidbench.core.evaluate.evaluation import evaluation_of
from lucidbench.core.evaluate.exact_shapes import Exactness
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.seek import Free, Target, sought
from lucidbench.core.evaluate.worked_out import working_of, your_turn
from lucidbench.core.formula import Known, evaluate, latex, parse
from lucidbench.core.formula.parser import LONGEST_FORMULA
from lucidbench.core.formula.sympy_bridge import symbolic
from lucidbench.core.runs import present, solve
from lucidbench.core.tolerance import intervals_of
from lucidbench.core.units.dimensions import RESISTANCE
from lucidbench.core.units.preferred import SERIES, neighbours, pairs
from lucidbench.core.working.design import design
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.same import same
from tests.depth import many

EXAMPLES = Path(__file__).parents[2] / "examples"
NAMES = {f"R{k}": Known(float(10**k * (k + 1)), RESISTANCE) for k in range(1, 6)}


def with_lines(name: str, *lines: str) -> Exercise:
    exercise = read_exercise((EXAMPLES / f"{name}.json").read_bytes())
    hand = [HandLine(id=f"h{k}", text=text) for k, text in enumerate(lines)]
    return exercise.model_copy(update={"hand": hand})


def of(found: list[Exactness], figure: str) -> Exactness:
    return next(each for each in found if each.figure == figure)


# The language.


def test_parallel_and_roots_are_written_as_on_paper() -> None:
    value = evaluate(parse("R1 + R2 || R3*2"), NAMES)  # closer than a product
    a, b, c = (NAMES[n].value for n in ("R1", "R2", "R3"))
    assert value.value == pytest.approx(a + 2 * b * c / (b + c))
    assert latex(parse("(R1 + R2) || R3").body) == (
        r"\left(R_{\mathrm{1}} + R_{\mathrm{2}}\right) \parallel R_{\mathrm{3}}"
    )
    assert evaluate(parse("√(R1*R1)"), NAMES).value == pytest.approx(a)
    with pytest.raises(
        FormulaError, match="a resistance cannot be in parallel with a plain number"
    ):
        evaluate(parse("R1 || 3"), NAMES)


def test_lines_are_equations_curves_and_questions() -> None:
    lines = evaluation_of(with_lines(
        "battery-sense", "V1/R1 - V1/R1*R2/(R1+R2) = V_out/R2", "V_x = V1*exp(-t/(1 s))", "V_y = q + 1 V",
        "V_out = 2 V", "V_out = V1*R2/(R1+R2)", "R2 = ?",
    )).lines  # fmt: skip
    assert [line.role for line in lines] == [
        "equation", "curve", "formula", "formula", "condition", "sought"
    ]  # fmt: skip
    assert lines[0].holds is True
    assert lines[2].problem is not None
    assert "q" in lines[2].problem
    assert lines[4].holds is False  # as drawn it is 2.68 V


@pytest.mark.parametrize("sign", ["", "-"])
def test_a_source_is_counted_as_its_arrow_points_or_into_its_first_pin(sign: str) -> None:
    """Books do either, so neither is a wrong sign; one against the arrow of a resistor's current is."""
    exercise = with_lines(
        "battery-sense", f"I_V1 = {sign}V1/(R1+R2)", "P_V1 = V1*I_V1", "I_R1 = -V1/(R1+R2)"
    )
    rows = {row.quantity: row for row in evaluation_of(exercise).ledger}
    current = float(f"{sign}1") * 12.6 / 1.27e6
    for name, value in (("I_V1", current), ("P_V1", 12.6 * current)):
        assert rows[name].verdict == "agree"
        told = rows[name].numbers[1]
        assert told is not None
        assert told[0] == pytest.approx(value)
    assert rows["I_V1"].meaning.endswith(
        "from ground to bat" if sign == "" else "from bat to ground"
    )
    states = {each.figure: each.state for each in exactness(exercise)}
    assert states == {"I_V1": "equal", "P_V1": "equal", "I_R1": "wrong"}
    assert "from bat to out" in of(exactness(exercise), "I_R1").sentence


def with_part(exercise: Exercise, which: str, **change: object) -> Exercise:
    """The exercise with something else about one part."""
    parts = [
        part.model_copy(update=change) if part.name == which else part
        for part in exercise.schematic.parts
    ]
    drawn = exercise.schematic.model_copy(update={"parts": parts})
    return exercise.model_copy(update={"schematic": drawn})


@pytest.mark.parametrize("rotation", [90, 270])
def test_a_current_by_its_arrow_is_right_whichever_end_is_the_first(rotation: int) -> None:
    """The arrow on the drawing points as the current flows, and both ends of a resistor look alike."""
    exercise = with_lines("battery-sense", "I_R1 = V1/(R1+R2)", "I_R2 = -V1/(R1+R2)")
    exercise = with_part(exercise, "R1", rotation=rotation)
    rows = {row.quantity: row for row in evaluation_of(exercise).ledger}
    assert [rows[name].verdict for name in ("I_R1", "I_R2")] == ["agree", "gap"]
    assert rows["I_R1"].meaning == "current through R1, from bat to out"
    told = exactness(exercise)
    assert {each.figure: each.state for each in told} == {"I_R1": "equal", "I_R2": "wrong"}
    assert "by algebra" in of(told, "I_R1").sentence


def test_a_current_that_turns_with_the_values_counts_one_way() -> None:
    """Between two sources that are nearly alike; at other values the other one is the larger."""
    exercise = with_lines("battery-sense", "I_R1 = (V2 - V1)/R1", "I_V1 = (V2 - V1)/R1")
    source = {"kind": "voltage_source", "name": "V2", "values": {"voltage": "12.601 V"}}
    told = exactness(with_part(exercise, "R2", **source))
    assert {each.figure: each.state for each in told} == {"I_R1": "equal", "I_V1": "equal"}


def test_lines_are_judged_for_scripts(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Each with its verdict, a reason by its code, and the whole line as it would be right."""
    lines = {
        "V_out = V1*R2/(R1+R2)": ("equal", "by_algebra", "rest", None),
        "V_bat = 12.6 V": ("equal_at_these_values", "numbers", "rest", None),
        "I_R1 = V1/(R1-R2)": ("wrong", "slip", "rest", "I_R1 = V1/(R1+R2)"),
        "r_both = R1*R2/(R1+R2)": ("not_judged", "own_name", None, None),
        "V_nought = 3 V": ("not_judged", "no_such_figure", None, None),
        "P_R1 = q*2": ("not_judged", "not_worked_out", None, None),
    }
    good = tmp_path / "good.json"
    good.write_text(with_lines("battery-sense", *lines).model_dump_json())
    bad = tmp_path / "bad.json"
    bad.write_text("{")
    assert judge.run(argparse.Namespace(files=[bad, good])) == 1
    broken, told = map(json.loads, capsys.readouterr().out.splitlines())
    assert "problem" in broken
    assert told["file"] == str(good)
    for line, (verdict, reason, about, mend) in zip(told["lines"], lines.values(), strict=True):
        assert (line["verdict"], line["as"], line["mend"]) == (verdict, about, mend), line
        assert reason in (None, line["reason"])


# Whether two formulas are one.


def ladder(random: np.random.Generator, depth: int) -> str:
    a, b = (f"R{random.integers(1, 6)}" for _ in range(2))
    if not depth:
        return f"({a} + {b})"
    inner = ladder(random, depth - 1)
    return str(
        random.choice([f"({a} + {b} || {inner})", f"({a} || ({b} + {inner}))", f"({a} + {inner})"])
    )


def bridge(random: np.random.Generator) -> str:
    a, b, c, d = (f"R{k}" for k in random.permutation(np.arange(1, 6))[:4])
    return f"({a}/({a} + {b}) - {c}/({c} + {d}))"


def mutated(random: np.random.Generator, text: str) -> str:
    """One slip: another part, another sign, a factor, a root, something upside down."""
    names = list(re.finditer(r"R\d", text))
    at = names[random.integers(len(names))]
    kind = random.integers(4)
    if kind == 0:
        return f"{text[: at.start()]}R{random.integers(1, 6)}{text[at.end() :]}"
    if kind == 1:
        return f"{text[: at.start()]}2*{at[0]}{text[at.end() :]}"
    if kind == 2:
        signs = list(re.finditer(r" (\+|-) ", text))
        sign = signs[random.integers(len(signs))]
        return text[: sign.start()] + (" - " if "+" in sign[0] else " + ") + text[sign.end() :]
    return f"{text[: at.start()]}({at[0]}^2/R{random.integers(1, 6)}){text[at.end() :]}"


def test_of_many_mutated_formulas_none_passes_for_the_right_one() -> None:
    """Whatever passes, SymPy too must find the same; true rewritings of it all pass, by algebra."""
    random = np.random.default_rng(10)
    letters = {name: sympy.Symbol(name, positive=True) for name in NAMES}
    passed = 0
    count = many(quick=2_000, deep=10_000)
    for k in range(count):
        right = bridge(random) if k % 3 == 0 else ladder(random, int(random.integers(1, 4)))
        wrong = mutated(random, right)
        try:
            verdict = same(parse(wrong).body, parse(right).body, NAMES)
        except FormulaError:
            continue  # it adds what cannot be added, and says so
        if verdict.is_same:
            passed += 1
            one, other = (symbolic(parse(t).body, letters) for t in (wrong, right))
            assert sympy.simplify(one - other) == 0, (wrong, right)
        if k % 100 == 0:
            expression = symbolic(parse(right).body, letters)
            for form in (sympy.expand, sympy.factor, sympy.together):
                rewritten = str(form(expression)).replace("**", "^")
                if len(rewritten) > LONGEST_FORMULA:
                    continue
                found = same(parse(rewritten).body, parse(right).body, NAMES)
                assert (found.is_same, found.by_algebra) == (True, True), rewritten
    assert 0 < passed < 0.25 * count  # some slips change nothing: R2 for R2


# Beside the circuit.


def test_what_is_equal_says_whether_algebra_found_it() -> None:
    found = exactness(with_lines(
        "battery-sense", "R_s = R1 + R2", "I_R1 = V1/R_s", "P_R2 = I_R1^2*R2", "V_out = 12.6 V*R2/(R1 + R2)",
    ))  # fmt: skip
    assert (
        of(found, "I_R1").sentence
        == of(found, "P_R2").sentence
        == "Equal to the exact result, by algebra."
    )
    # A source written as a number is right only as long as nobody changes the source.
    assert of(found, "V_out").state != "equal"
    through = exactness(with_lines("battery-sense", "R_s = R1 - R2", "V_out = V1*R2/R_s"))
    assert (
        "Line 1: The sign before R2 is wrong. Right would be R_s = "
        in of(through, "V_out").sentence
    )
    rests = exactness(with_lines("battery-sense", "I_R1 = V1/(2*R2)", "V_out = V1 - I_R1*R1^2/R2"))
    assert of(rests, "V_out").sentence.startswith("It uses I_R1, and line 1 is already wrong.")
    by_reading = exactness(read_exercise((EXAMPLES / "time-signal-filter.json").read_bytes()))
    assert {each.state for each in by_reading} == {"equal"}
    assert all("by numbers" in each.sentence for each in by_reading)
    # Where a sweep has no such reading at other values, what was kept of it does not stand in for it.
    bridge = exactness(read_exercise((EXAMPLES / "level-bridge.json").read_bytes()))
    assert of(bridge, "i_0").state == "equal"


def worst_at_all_corners() -> float:
    """Of V_left = V1·R3/(R1 + R3) in the level bridge, each value at either end of its interval."""
    network = drawing_of(with_lines("level-bridge")).circuit
    intervals = intervals_of(network)
    worst = 0.0
    for corner in product((-1, 1), repeat=len(intervals)):
        here = network
        for each, end in zip(intervals, corner, strict=True):
            here = each.put(here, end)
        v1, r1, r3 = (here.element(n).values[here.element(n).main_key] for n in ("V1", "R1", "R3"))
        exact = operating_point(here).values["V_left"]
        worst = max(worst, abs(v1 * r3 / (r1 + r3) / exact - 1))
    return worst


def test_an_approximation_is_priced_here_over_tolerances_and_over_values() -> None:
    told = of(exactness(with_lines("level-bridge", "V_left = V1*R3/(R1 + R3)")), "V_left")
    assert (told.state, told.sentence[:16]) == ("approximate", "R5 is left out, ")
    assert told.box == pytest.approx(worst_at_all_corners(), rel=0.1)
    assert told.band is not None
    assert told.band.of == "R5"
    assert told.band.errors[0] > told.band.errors[-1]  # the larger it is, the less it matters
    exercise = with_lines("level-bridge", "V_left = V1*R3/(R1 + R3)")
    row = next(r for r in evaluation_of(exercise).ledger if r.quantity == "V_left")
    hand, exact = (numbers[0] for numbers in row.numbers[:2] if numbers)
    assert told.relative_error == pytest.approx(abs(hand - exact) / exact)


BIAS = (
    "beta = 180", "R_BB = R1 || R2", "V_BB = V2*R2/(R1 + R2)", "I_B = (V_BB - 0.7 V)/(R_BB + (beta + 1)*R4)",
    "V_e = (beta + 1)*I_B*R4", "V_b = V_e + 0.7 V", "V_c = V2 - beta*I_B*R3",
)  # fmt: skip


def test_a_transistor_is_held_against_the_textbook_in_letters() -> None:
    """Sedra and Smith, Microelectronic Circuits, 5th edition, equation 5.72 of the base current and section
    5.7.2 of the gain, from memory."""
    whole = exactness(with_lines("hydrophone-stage", *BIAS))
    for figure in ("V_b", "V_e", "V_c"):
        told = of(whole, figure)
        assert (told.state, told.reference) == ("equal", "simulation")
        assert told.sentence.startswith(
            "Equal to the textbook form (0.7\u00a0V at a junction, β fixed), by algebra."
        )
        assert 0 < told.relative_error < 0.05
        assert told.band is not None
    rough = exactness(with_lines(
        "hydrophone-stage", "V_b = V2*R2/(R1 + R2)", "V_e = V_b - 0.7 V", "g_m = V_e/R4/25 mV",
        "A_v = g_m*(R3 || R5)",
    ))  # fmt: skip
    base = of(rough, "V_b")
    assert base.state == "approximate"
    assert base.sentence.startswith("The base current of Q1 is neglected; else the textbook")
    assert base.band is not None
    assert base.band.of == "β of Q1"
    assert base.band.errors[0] > 10 * base.band.errors[-1]  # the larger β, the less it matters
    gain = of(rough, "A_v").sentence
    assert "bias at 0.7\u00a0V and fixed β, then hybrid-π" in gain
    assert "rounded constants make 3.5\u00a0%" in gain  # 25 mV for 25.86 mV
    unloaded = exactness(with_lines("hydrophone-stage", *BIAS, "A_v = beta*I_B/25.86 mV*R3"))
    assert of(unloaded, "A_v").sentence.startswith("R5 is left out")
    wrong = exactness(with_lines("hydrophone-stage", *BIAS[:-1], "V_c = V2 - beta*I_B*(R3 + R4)"))
    assert "by algebra" not in of(wrong, "V_c").sentence
    swapped = of(exactness(with_lines(
        "hydrophone-stage", *(line.replace("V2*R2/", "V2*R1/") for line in BIAS)
    )), "V_c")  # fmt: skip
    assert (swapped.state, swapped.sentence) == (
        "wrong", "Line 3: R1 stands where R2 belongs. Right would be V_BB = V2*R2/(R1 + R2).",
    )  # fmt: skip


def test_a_wrong_line_without_a_known_slip_is_named_with_what_it_rests_on() -> None:
    told = of(
        exactness(with_lines("battery-sense", "a = R1*R1 + 2*R2*R2", "V_out = V1*R1*R2/a")), "V_out"
    )
    assert told.state == "wrong"
    assert told.sentence.startswith("Line 2 cannot be right, or one it rests on (a):")


def test_loaded_and_unloaded_responses_are_told_apart() -> None:
    """Two RC sections: each by itself, the first order of both, and the loaded one (any circuits text)."""
    s = "(j*2*pi*f)"
    loaded = f"1/(1 + {s}*(R1*C1 + R1*C2 + R2*C2) + {s}^2*R1*C1*R2*C2)"
    unloaded = f"1/((1 + {s}*R1*C1)*(1 + {s}*R2*C2))"
    first = f"1/(1 + {s}*(R1*C1 + R1*C2 + R2*C2))"

    def told(formula: str) -> Exactness:
        return of(
            exactness(with_lines("anti-alias-ladder", f"V_out/V_in = {formula}")), "V_out/V_in"
        )

    assert told(loaded).state == "equal"
    assert told(first).sentence.startswith("First order: drops the term of (jω)².")
    assert told(f"1/(1 + {s}*R1*C1)").sentence.startswith("C2 is left out")
    magnitude = "abs(V_out/V_in) = 1/sqrt(1 + (2*pi*f*R1*C1)^2)"
    only = of(exactness(with_lines("anti-alias-ladder", magnitude)), "abs(V_out/V_in)")
    assert only.sentence.startswith("C2 is left out")
    own = exactness(with_lines("anti-alias-ladder", f"H = {loaded}", "dB(H) = 20*lg(abs(H))"))
    assert [(each.state, each.sentence) for each in own] == [
        ("equal", "H is taken as V_out/V_in. Equal to the exact response, at any values.")
    ] * 2
    lone = f"dB(H) = 20*lg(abs(1/(1 + {s}*R1*C1)))"
    assert "C2 is left out" in exactness(with_lines("anti-alias-ladder", lone))[0].sentence
    assert exactness(with_lines("anti-alias-ladder", "X_C = 1/(2*pi*f*C1)")) == []  # no response
    plain = told(unloaded)
    assert plain.state in ("approximate", "wrong")
    assert plain.band is not None
    assert plain.band.of == "f"
    missing = told(loaded.replace(s, "(j*f)", 1))
    assert missing.state == "wrong"
    assert "Right would be" in missing.sentence


def test_curves_by_hand_are_drawn_over_what_they_are_of() -> None:
    exercise = with_lines(
        "anti-alias-ladder", "tau_1 = R1*C1", "V_out = 3.3 V*(1 - exp(-(t - 0.1 ms)/tau_1))",
        "V_out/V_in = 1/(1 + j*2*pi*f*tau_1)",
    )  # fmt: skip
    runs = {run.id: run for run in exercise.runs}
    over_time = next(c for c in present(solve(exercise, runs["r1"])).curves if c.by_hand)
    look = present(solve(exercise, runs["r1"]))
    k = int(np.argmin(np.abs(np.array(look.x) - 0.4e-3)))
    expected = 3.3 * (1 - np.exp(-(look.x[k] - 0.1e-3) / (10e3 * 10e-9)))
    assert over_time.y[k] == pytest.approx(expected)
    assert [c.text[:10] for c in present(solve(exercise, runs["r2"])).curves if c.by_hand] == [
        "V_out/V_in"
    ]


# What is sought.


def solutions(*lines: str) -> list[dict[str, float]]:
    names = NAMES | {
        "C1": Known(100e-9, parse_dimension("1 F")),
        "V1": Known(9.0, parse_dimension("1 V")),
    }
    found = design(lines, names, frozenset(names) - {"V1"})
    return [dict(each.values) for each in found.solutions if not each.refused]


def parse_dimension(text: str):  # type: ignore[no-untyped-def]
    return evaluate(parse(text), {}).dimension


def test_what_is_sought_meets_every_line() -> None:
    # Closed forms in any circuits text.
    curve = "V_out/V_in = 1/(1 + j*2*pi*f*R2*C1)"  # no condition
    (only,) = solutions("f_c = 1 kHz", "f_c = 1/(2*pi*R2*C1)", curve, "R2 = ?")
    assert only["R2"] == pytest.approx(1 / (2 * np.pi * 1e3 * 100e-9))
    both = solutions(
        "R_p = R1*R2/(R1+R2)", "R_p = 2 kΩ", "R_s = R1+R2", "R_s = 9 kΩ", "R1 = ?", "R2 = ?"
    )
    assert sorted((round(each["R1"]), round(each["R2"])) for each in both) == [
        (3000, 6000),
        (6000, 3000),
    ]
    (logarithm,) = solutions("x_1 + ln(x_1) = 3", "x_1 = ?")
    assert logarithm["x_1"] + np.log(logarithm["x_1"]) == pytest.approx(3)
    assert solutions("V_o = 12 V", "V_o = V1*R2/(R1+R2)", "R2 = ?") == []  # below zero only
    with pytest.raises(NoWorking, match="write another line that must hold"):
        solutions("R_s = R1 + R2", "R_s = 9 kΩ", "R1 = ?", "R2 = ?")


def test_what_is_sought_touches_only_once_or_is_left_free() -> None:
    # Power is at its largest where the load matches: one solution, not two nor none.
    power = "P = V1^2*R2/(R1 + R2)^2"
    largest = f"P = {81 / (4 * NAMES['R1'].value.real):.17g} W"
    for more in ("", " + 0 W*sin(R2/(1 Ω))"):  # in letters, in numbers
        (match,) = solutions(largest, power + more, "R2 = ?")
        assert match["R2"] == pytest.approx(NAMES["R1"].value.real, rel=1e-3)
    for lines, says in (
        (
            ("a = 0.5", "a = R2/(R1 + R2)", "b = 1", "b = R2/R1", "R1 = ?", "R2 = ?"),
            "leave them free",
        ),
        (("a = 0.5", "a = R2/(R1 + R2)", "a = 0.6", "R2 = ?"), "0.5 and also 0.6"),
        (("V_o = 5 A", "V_o = V1*R2/(R1 + R2)", "R2 = ?"), "a current by one line and a voltage"),
        ((largest, power, "b = 1", "b = R2/R1*2", "R2 = ?", "C1 = ?"), "names C1"),
        (("P = 1 kW", power, "R2 = ?"), "No value of R2"),
    ):
        with pytest.raises(NoWorking, match=says):
            solutions(*lines)


@pytest.mark.parametrize("series", SERIES)
def test_pairs_of_preferred_values_are_the_nearest_there_are(series: str) -> None:
    """Against all pairs, tried one by one. Series of IEC 60063."""
    every = np.array([float(f"{n * 10.0**d:.3g}") for d in range(1, 6) for n in SERIES[series]])
    for value in (1234.0, 5051.0, 9876.0):
        for adds in (True, False):
            a, b = np.meshgrid(every, every)
            totals = a + b if adds else a * b / (a + b)
            best = np.abs(np.log(totals / value)).min()
            one, other = pairs(value, series, adds)
            total = one + other if adds else one * other / (one + other)
            assert abs(np.log(total / value)) <= best + 1e-9
        near, second = neighbours(value, series)
        assert (near - value) * (second - value) < 0


def specified() -> Exercise:
    return with_lines(
        "flow-integrator", "f_low = 15 Hz ± 10 %", "f_one = 160 Hz", "C1 = 100 nF",
        "f_low = 1/(2*pi*R2*C1)", "f_one = 1/(2*pi*R1*C1)", "R1 = ?", "R2 = ?",
    )  # fmt: skip


def test_preferred_values_are_judged_over_the_tolerances_and_put_in() -> None:
    exercise = specified()
    found: DesignLook = designed(exercise, series="E12")
    second = found.sought[1]
    assert (second.name, second.solutions[0].text) == ("R2", "106.1\u00a0kΩ")
    assert [c.label for c in second.candidates] == ["100\u00a0kΩ", "120\u00a0kΩ"]
    given = next(g for g in second.candidates[0].gives if g.name == "f_low")
    # Two uniform tolerances, 1 % and 5 %: the share that is below 16.5 Hz, counted on a fine grid.
    r, c = np.meshgrid(np.linspace(-0.01, 0.01, 801), np.linspace(-0.05, 0.05, 801))
    f = 1 / (2 * np.pi * 100e3 * (1 + r) * 100e-9 * (1 + c))
    assert given.share == pytest.approx(np.mean(np.abs(f - 15) <= 1.5), abs=0.02)
    put_in = patched(exercise, second.candidates[0].changes)
    assert (
        next(p for p in put_in.schematic.parts if p.name == "R2").values["resistance"] == "100 kΩ"
    )


def test_seeking_meets_readings_or_says_how_near_it_comes() -> None:
    exercise = read_exercise((EXAMPLES / "battery-sense.json").read_bytes())
    found = sought(exercise, [Free("R2")], [Target("V_out", "1.5 V")])
    assert found.is_met  # a divider: R2 = R1*1.5/(12.6 - 1.5)
    assert float(found.changes[0].value.split()[0]) == pytest.approx(1e3 * 1.5 / 11.1, rel=1e-4)
    limited = sought(exercise, [Free("R2", "10k", "200k")], [Target("V_out", "9 V")])
    assert not limited.is_met
    assert "at a limit" in limited.sentence
    assert "200" in limited.values[0]
    stage = read_exercise((EXAMPLES / "hydrophone-stage.json").read_bytes())
    two = sought(stage, [Free("R1"), Free("R3")], [Target("V_c", "7 V"), Target("V_e", "1 V")])
    assert two.is_met
    quantities = {q.name: q.value for q in evaluation_of(patched(stage, two.changes)).quantities}
    assert (quantities["V_c"], quantities["V_e"]) == pytest.approx((7.0, 1.0), rel=1e-3)


# The student's own step.


def test_a_hidden_step_is_found_in_other_words_but_not_by_luck() -> None:
    exercise = read_exercise((EXAMPLES / "battery-sense.json").read_bytes())
    steps = working_of(exercise, "V_out", "rest").ways[0].steps

    def tried(text: str):  # type: ignore[no-untyped-def]
        return your_turn(exercise, "V_out", "rest", "", "reduction", len(steps) - 1, text)

    assert tried("V1/(1 + R1/R2)").sentence == "Right: the same by algebra."
    current = working_of(exercise, "I_R2", "rest").ways[0].steps
    at = next(k for k, step in enumerate(current) if "V1/R_12" in step.line)
    other = your_turn(exercise, "I_R2", "rest", "", "reduction", at, "V1/(R1 + R2)")
    assert other.is_right  # by way of the step before
    lucky = tried("2.678740157 V")
    assert not lucky.is_right
    assert "at other values" in lucky.sentence
    assert "13 V" in tried("V1").sentence or "12.6" in tried("V1").sentence


def test_a_hidden_equation_is_found_in_any_order_and_form() -> None:
    """The node equation at the left of a bridge: currents that leave add up to nothing."""
    exercise = with_lines("level-bridge")

    def tried(text: str):  # type: ignore[no-untyped-def]
        return your_turn(exercise, "V_left", "rest", "", "nodes", 1, text)

    right = "(V_left - V1)/R1 + V_left/R3 = (V_right + V2 - V_left)/R5"
    assert tried(right).is_right
    assert tried(right.replace("V1", "V_a")).is_right  # a source holds node a
    assert tried("V_left*(1/R1 + 1/R3 + 1/R5) - V_right/R5 = V1/R1 + V2/R5").is_right
    assert not tried(right.replace("+ V2", "- V2")).is_right
    other = tried("(V_right - V1)/R2 + V_right/R4 + (V_right + V2 - V_left)/R5 = I1")
    assert (other.is_right, other.sentence[:16]) == (False, "That holds too, ")
    assert not tried("V_left = 6.206 V").is_right
    with pytest.raises(FormulaError, match="a voltage cannot be added to a resistance"):
        tried("V_left + R1 = 0")
