"""What analyses are told: proposals from the circuit's own times, and what no run could use."""

from __future__ import annotations

import math

import pytest

from lucidbench.core.document.exercise import Exercise, Run
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.netlist import Element, read_netlist
from lucidbench.core.runs import ANALYSES, RunLook, carry_out, offered
from tests.core.test_runs import exercise

FILTER = """filter
V1 in 0 SIN(0 1 1k)
R1 in out 1k
C1 out 0 1u
"""
STEP = """step
V1 in 0 5
R1 in a 2k
C1 a 0 10u
"""


def proposed(text: str, analysis: str) -> dict[str, tuple[object, str]]:
    """(number or text, what it was taken from) of each setting that is proposed."""
    circuit = read_netlist(text).circuit
    told = ANALYSES[analysis].proposals(circuit)
    return {key: (p.text or p.number, p.because) for key, p in told.items()}


def test_phasors_are_at_the_frequency_of_a_source_or_at_which_a_part_is_given() -> None:
    frequency = {"resistance": 3.0, "reactance": 4.0, "frequency": 2e3}
    load = Element("Z1", "impedance", ("out", "0"), frequency)
    at = {}
    for source in ("AC 5", "SIN(0 5 700)"):
        plain = read_netlist(f"an impedance\nV1 in 0 {source}\nR1 in out 1k\nC1 out 0 1u").circuit
        proposals = ANALYSES["phasor"].proposals(plain.with_element(load))
        at[source] = proposals["frequency"].number, proposals["frequency"].because
    assert at["AC 5"] == (2e3, "where Z1 is given")
    assert at["SIN(0 5 700)"] == (pytest.approx(700), "the frequency of V1")


def test_a_run_in_time_lasts_as_long_as_there_is_something_to_see() -> None:
    # Five periods of the source; without one, five time constants R·C = 20 ms.
    assert proposed(FILTER, "transient")["stop"] == (
        pytest.approx(5e-3), "five periods of V1, 5\u00a0ms",
    )  # fmt: skip
    stop, because = proposed(STEP, "transient")["stop"]
    assert (stop, because) == (
        pytest.approx(0.1), "five of the slowest time constant, 100\u00a0ms",
    )  # fmt: skip
    assert proposed("r\nV1 a 0 1\nR1 a 0 1\n", "transient")["stop"][0] == 10e-3


def test_a_sweep_goes_round_the_corners_of_the_circuit() -> None:
    # One corner at 1/(2π·1 kΩ·1 µF) = 159 Hz and the source at 1 kHz: decades with room on either side.
    band = proposed(FILTER, "frequency_sweep")
    assert float(str(band["from"][0])) <= 159 / 10
    assert float(str(band["to"][0])) >= 1e3 * 10
    assert proposed("r\nV1 a 0 1\nR1 a 0 1\n", "frequency_sweep")["from"] == (
        10.0, "nothing in the circuit says which band",
    )  # fmt: skip


def test_other_runs_begin_with_what_is_most_likely_meant() -> None:
    assert proposed(FILTER, "phasor")["frequency"] == (
        pytest.approx(1e3), "the frequency of V1",
    )  # fmt: skip
    assert proposed(STEP, "dc_sweep") == {
        "subject": ("V1", "the first source that gives anything at DC"),
        "from": (0.0, "from nothing to what V1 is now"),
        "to": (5.0, "from nothing to what V1 is now"),
    }
    assert proposed(FILTER, "fourier")["trace"][0] == "V_out"
    assert proposed(STEP, "equivalent")["node"][0] == "a"  # the last that was drawn
    assert proposed(FILTER, "symbolic") == {"source": ("V1", ""), "node": ("out", "")}


@pytest.mark.parametrize(
    ("analysis", "settings", "says"),
    [
        ("transient", {"stop": "0 s"}, "the run would end before it begins"),
        (
            "transient",
            {"stop": "1 ms", "start": "1 ms"},
            "must lie between zero and the end, 1\u00a0ms",
        ),
        ("transient", {"stop": "1 ms", "start": "-1 ms"}, "must lie between zero and the end"),
        ("transient", {"stop": "5 parsecs"}, "“Stop time”: "),
        ("frequency_sweep", {"from": "0 Hz"}, "A frequency is above zero"),
        ("frequency_sweep", {"from": "1 kHz", "to": "1 kHz"}, "ends where it begins"),
        ("frequency_sweep", {"from": "1 kHz", "to": "10 Hz"}, "exchange the two"),
        ("frequency_sweep", {"from": "1 uHz", "to": "1 THz"}, "more than fifteen decades"),
        ("dc_sweep", {"subject": "V1", "from": "1 V", "to": "1 V"}, "ends where it begins"),
        ("dc_sweep", {"subject": "V1", "from": "1 A"}, "“From”: "),
        ("phasor", {"frequency": "-1 kHz"}, "A frequency is above zero"),
        ("equivalent", {"node": "out", "at": "0 Hz"}, "A frequency is above zero"),
        ("largest_output", {"limit": "200 %"}, "between 0 and 100 %"),
        ("transient", {"near": "V_out"}, "V_out is not of the form V_out = 5 V"),
        ("transient", {"near": "V_nowhere = 1 V"}, "there is no node called nowhere"),
        ("transient", {"vary": "R1"}, "Write the values R1 shall take"),
        ("transient", {"vary": "R1", "over": "1k, " * 30}, "has at most 24 members"),
        ("transient", {"vary": "R1", "over": "1k, much"}, "“Values”: much cannot be read"),
        ("transient", {"vary": "tolerances", "over": "1000"}, "a whole number from 1 to 200"),
    ],
)
def test_what_no_run_could_use_is_said_at_its_field(
    analysis: str, settings: dict[str, str], says: str
) -> None:
    look = carry_out(
        exercise("anti-alias-ladder"), Run(id="r", analysis=analysis, settings=settings)
    )
    assert says in (look.problem or "")
    assert not look.curves
    assert not look.tables
    told = [setting.problem for setting in look.settings if setting.problem]
    if not settings.get("vary"):  # a family is told of as a whole
        assert told == [(look.problem or "").removesuffix(".")]


def test_a_swept_thing_gives_its_unit_and_takes_its_proposals_along() -> None:
    def sweep(**settings: str) -> RunLook:
        return carry_out(
            exercise("level-bridge"), Run(id="r", analysis="dc_sweep", settings=settings)
        )

    first = sweep()
    by_key = {setting.key: setting for setting in first.settings}
    assert by_key["subject"].proposed == "V1"
    assert by_key["to"].proposed.endswith(" V")
    # Another subject: nothing is proposed for it, and what is typed is in its unit.
    other = sweep(subject="I1")
    assert "“From” is still empty" in (other.problem or "")
    other = sweep(subject="I1", **{"from": "0", "to": "2 mA"})
    assert (other.problem, other.axis_unit) == (None, "A")
    assert other.x[-1] == pytest.approx(2e-3)
    warm = sweep(subject="temp", **{"from": "-40", "to": "125"})
    assert (warm.problem, warm.axis_unit) == (None, "°C")


def test_a_distortion_is_typed_in_per_cent() -> None:
    look = carry_out(
        exercise("hydrophone-stage"),
        Run(id="r", analysis="largest_output", settings={"limit": "5 %"}),
    )
    assert look.tables[0].title == "At 5\u00a0% of distortion"
    assert look.tables[0].rows[2].cells[1].value == pytest.approx(5, rel=1e-2)


def test_every_analysis_says_what_it_is_for_and_how_its_settings_are_read() -> None:
    reads = {"quantity", "values", "voltages", "choice", "source", "node", "trace", "swept", "varied",
             "sum", "output", "terminals"}  # fmt: skip
    for analysis in offered():
        assert analysis.answers.endswith("?")
        assert analysis.has_curves == bool(ANALYSES[analysis.key].readings)
        keys = [setting.key for setting in analysis.settings]
        assert len(set(keys)) == len(keys)
        for setting in analysis.settings:
            assert setting.reads in reads
            assert bool(setting.choices) == (setting.reads == "choice")
            assert setting.of in ("", *keys)
        more = {reading.key for reading in analysis.readings}
        assert not more & {r.key for r in ANALYSES[analysis.key].readings if r.by_itself}


def test_a_result_keeps_to_the_circuit_it_was_solved_for() -> None:
    from lucidbench.core.runs import present, solve

    document = exercise("time-signal-filter")
    run = Run(id="r", analysis="frequency_sweep", show=["V_out/V_in"])
    result = solve(document, run)
    before = present(result)
    coil = next(part for part in document.schematic.parts if part.name == "L1")
    coil.values["inductance"] = "22 mH"
    assert present(result) == before
    assert present(result, window=(70e3, 80e3)).fingerprint == before.fingerprint
    assert solve(document, run).fingerprint != before.fingerprint
    changed = Exercise.model_validate({**document.model_dump(), "runs": [run.model_dump()]})
    assert [mark.fingerprint for mark in evaluation_of(changed).runs] == [
        solve(document, run).fingerprint
    ]


def test_a_run_of_what_tips_over_lasts_some_periods_and_one_of_a_rectifier_no_solid_bar() -> None:
    # An astable pair: T = 2·R·C·ln 2, any electronics text (less where a supply is not large beside 0.7 V).
    pair = "\n".join(
        ("a pair", "VCC vcc 0 9", "RC1 vcc c1 1k", "RC2 vcc c2 1k", "RB1 vcc b1 47k", "RB2 vcc b2 47k",
         "C1 c1 b2 10n", "C2 c2 b1 10n", "Q1 c1 b1 0 q", "Q2 c2 b2 0 q", ".model q NPN(BF=100)")
    )  # fmt: skip
    period = 2 * 47e3 * 10e-9 * math.log(2)
    assert 4 < proposed(pair, "transient")["stop"][0] / period < 8  # type: ignore[operator]
    rectifier = "\n".join(
        ("a rectifier", "V1 a 0 SIN(0 10 50)", "D1 a o d", "C1 o 0 470u", "R1 o 0 1k", ".model d D")
    )
    assert proposed(rectifier, "transient")["stop"][0] == pytest.approx(0.1)
