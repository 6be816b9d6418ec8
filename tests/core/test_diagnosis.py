"""Causes of a gap: the fit against certified values, the evidence against grids, gaps of known causes."""

import json
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest

from lucidbench.__main__ import main as lucid
from lucidbench.core import Circuit, read_netlist
from lucidbench.core.diagnosis import (
    KINDS,
    AtRest,
    Explanation,
    Observed,
    OverFrequency,
    causes_of,
    column_of,
    explained,
)
from lucidbench.core.diagnosis.fitting import fitted
from lucidbench.core.diagnosis.model import Model
from lucidbench.core.diagnosis.screening import Screen
from lucidbench.core.diagnosis.slips import slips_of
from lucidbench.core.document.exercise import Exercise, HandLine, Measurement, read_exercise
from lucidbench.core.document.patch import patched
from lucidbench.core.evaluate.exact_shapes import Exactness
from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.explained import Question, explanation
from lucidbench.core.evaluate.hand_gaps import explained_by_hand
from lucidbench.core.formula import Known, parse
from lucidbench.core.units.dimensions import UNITS
from tests.core.strd import DATASETS, Dataset
from tests.depth import many
from tests.study.circuits import subjects
from tests.study.planting import applicable, trial

EXAMPLES = Path(__file__).parents[2] / "examples"
DIVIDER = "divider\nV1 in 0 10\nR1 in out 10k tol=5%\nR2 out 0 10k tol=5%\n.end"


# --- the fit --------------------------------------------------------------------------------------


@pytest.mark.parametrize("data", DATASETS, ids=lambda data: data.name)
def test_certified_values_are_reached(data: Dataset) -> None:
    """NIST Statistical Reference Datasets: parameters to 6 digits, standard deviations to 4."""
    found = fitted(
        lambda b: data.y - data.model(b, data.x), data.start, 1e-6 * np.abs(data.start), won=1e-14,
        enough=0.0, is_central=True, steps=400,
    )  # fmt: skip
    free = len(data.x) - len(data.start)
    deviations = np.sqrt(np.diag(found.covariance) * found.sum_of_squares / free)
    for value, deviation, (certified, spread) in zip(
        found.theta, deviations, data.certified, strict=True
    ):
        assert value == pytest.approx(certified, rel=1e-6)
        assert deviation == pytest.approx(spread, rel=1e-4)


def test_resistance_and_reactance_with_their_correlation() -> None:
    """JCGM 100:2008, annex H.2, approach 2: R = 127.732 Ω, u 0.071; X = 219.847 Ω, u 0.295; r = -0.588
    (from memory)."""
    volts = np.array([5.007, 4.994, 5.005, 4.990, 4.999])
    amperes = 1e-3 * np.array([19.663, 19.639, 19.640, 19.685, 19.678])
    angles = np.array([1.0456, 1.0438, 1.0468, 1.0428, 1.0433])
    observed = volts / amperes * np.array([np.cos(angles), np.sin(angles)])
    whitened = np.linalg.inv(np.linalg.cholesky(np.cov(observed)))

    def residual(b: np.ndarray) -> np.ndarray:
        return (whitened @ (observed - b[:, None])).ravel()

    found = fitted(residual, np.array([100.0, 200.0]), 0.1, is_central=True)
    deviations = np.sqrt(np.diag(found.covariance))
    assert found.theta == pytest.approx([127.732, 219.847], abs=5e-4)
    assert deviations == pytest.approx([0.071, 0.295], abs=5e-4)
    assert found.covariance[0, 1] / np.prod(deviations) == pytest.approx(-0.588, abs=1e-3)


@pytest.mark.parametrize(
    ("key", "volts"), [("internal_resistance", (9.8, 4.9)), ("loading", (10.0, 4.7))]
)
def test_the_evidence_is_what_a_grid_gives(key: str, volts: tuple[float, float]) -> None:
    """Laplace's approximation beside a sum over all parameters, of a divider that is loaded."""
    circuit = read_netlist(DIVIDER).circuit
    columns = (_figure("V_in", volts[0], 0.02), _figure("V_out", volts[1], 0.02))
    observed = Observed({"": circuit}, (AtRest(columns),))
    cause = next(c for c in causes_of(observed) if c.key == key)
    alone = Model(observed)
    model = alone.with_cause(cause)
    found = fitted(model.residual, Screen(alone, np.zeros(alone.size)).of(cause).theta)
    assert model.size == 3
    total = 0.0
    spread = np.sqrt(np.diag(found.covariance))
    grids = [
        at + 6 * own * np.linspace(-1, 1, 17) for at, own in zip(found.theta, spread, strict=True)
    ]
    for a in grids[0]:
        for b in grids[1]:
            for c in grids[2]:
                residual = model.residual(np.array([a, b, c]))
                total += np.exp(-(residual @ residual - found.sum_of_squares) / 2)
    volume = np.prod([grid[1] - grid[0] for grid in grids]) / (2 * np.pi) ** 1.5
    by_grid = np.log(total * volume) - found.sum_of_squares / 2
    assert found.log_evidence == pytest.approx(by_grid, abs=0.3)


def _figure(text: str, value: float, sigma: float):  # type: ignore[no-untyped-def]
    return column_of(text, np.array([value]), np.array([sigma]))


# --- gaps with known causes ----------------------------------------------------------------------


def _response(drawn: Circuit, real: Circuit, low: float, high: float, seed: int = 1) -> Explanation:
    """The explanation of 50 points of V_out/V_in, good to 1 % and 0.5°."""
    f = np.geomspace(low, high, 50)
    texts = ("abs(V_out/V_in)", "arg(V_out/V_in)")
    empty = tuple(column_of(text, f, np.ones(50)) for text in texts)
    size, angle = np.split(OverFrequency(empty, frequencies=f).predicted(real), 2)
    random = np.random.default_rng(seed)
    sigma = 0.01 * size
    columns = (
        column_of(texts[0], size + sigma * random.normal(size=50), sigma),
        column_of(texts[1], angle + 0.5 * random.normal(size=50), np.full(50, 0.5)),
    )
    return explained(Observed({"": drawn}, (OverFrequency(columns, frequencies=f),)))


def _first(found: Explanation) -> tuple[str, str]:
    return found.causes[0].causes[0].part, found.causes[0].causes[0].key


RESONATOR = "r\nV1 in 0 AC 1\nR1 in out 10k tol=5%\nL1 out 0 1m tol=5%\nC1 out 0 10n tol=5%\n.end"
SERIES = (
    "s\nV1 in 0 AC 1\nR2 in a 10 tol=5%\nL1 a b 10m tol=5%\nC1 b out 10n tol=5%\n"
    "R1 out 0 100 tol=5%\n.end"
)
LADDER = (
    "l\nV1 in 0 AC 1\nR1 in a 1k tol=5%\nC1 a 0 100n tol=10%\nR2 a out 10k tol=5%\n"
    "C2 out 0 10n tol=10%\n.end"
)


def test_a_coil_s_loss_in_a_parallel_resonator_is_told_alone() -> None:
    drawn = read_netlist(RESONATOR).circuit
    real = drawn.with_value("L1", "series_resistance", 12.5).with_value("R1", "resistance", 10.2e3)
    found = _response(drawn, real, 2e4, 1.2e5)
    assert not found.agrees
    assert _first(found) == ("L1", "winding_resistance")
    assert found.groups[0] == (0,)
    value, uncertainty = found.causes[0].values[0], found.causes[0].uncertainties[0]
    assert value is not None
    assert uncertainty is not None
    assert abs(value - 12.5) < uncertainty < 1.0


def test_losses_in_series_are_told_together_and_in_the_order_of_habit() -> None:
    drawn = read_netlist(SERIES).circuit
    found = _response(drawn, drawn.with_value("L1", "series_resistance", 30.0), 5e3, 5e4)
    first = {found.causes[k].causes[0].key for k in found.groups[0]}
    assert {"winding_resistance", "series_resistance"} <= first
    assert _first(found) == ("L1", "winding_resistance")
    assert "cannot tell apart" in found.answer


@pytest.mark.parametrize(("part", "key"), [("R1", "resistance"), ("C2", "capacitance")])
def test_a_value_ten_times_too_large_is_found(part: str, key: str) -> None:
    drawn = read_netlist(LADDER).circuit
    real = drawn.with_value(part, key, 10.3 * float(drawn.element(part).values[key]))
    found = _response(drawn, real, 10, 1e5)
    # R1·C1 = R2·C2, so that R1 and C2 have the same response: none may be chosen.
    first = {
        c.causes[0].part: c for c in found.causes if c.group == 0 and c.causes[0].key == "value"
    }
    assert {"R1", "C2"} <= set(first)
    assert "cannot tell apart" in found.answer
    value, uncertainty = first[part].values[0], first[part].uncertainties[0]
    assert value == pytest.approx(float(real.element(part).values[key]), abs=uncertainty)


@pytest.mark.parametrize("seed", range(6))
def test_nothing_is_claimed_where_tolerances_suffice(seed: int) -> None:
    drawn = read_netlist(LADDER).circuit
    real = drawn.with_value("R1", "resistance", 1.04e3).with_value("C2", "capacitance", 9.3e-9)
    found = _response(drawn, real, 10, 1e5, seed)
    assert found.agrees
    assert "no gap" in found.answer
    assert max(value.fixed for value in found.likely) > 0.3


def test_two_causes_are_found_where_no_single_one_will_do() -> None:
    drawn = read_netlist(RESONATOR).circuit
    real = drawn.with_value("L1", "series_resistance", 12.5).with_value("C1", "capacitance", 22e-9)
    found = _response(drawn, real, 1e4, 1.2e5)
    assert {cause.key for cause in found.causes[0].causes} == {"winding_resistance", "value"}


def test_what_nothing_explains_is_not_explained() -> None:
    """Half of the points a third too large, at random."""
    drawn = read_netlist(LADDER).circuit
    f = np.geomspace(10, 1e5, 40)
    empty = (column_of("abs(V_out/V_in)", f, f),)
    size = OverFrequency(empty, frequencies=f).predicted(drawn)
    wrong = size * np.where(np.random.default_rng(2).uniform(size=40) < 0.5, 1.35, 1.0)
    columns = (column_of("abs(V_out/V_in)", wrong, 0.005 * size),)
    found = explained(Observed({"": drawn}, (OverFrequency(columns, frequencies=f),)))
    assert found.roughness > 5 or not found.is_known


def test_the_next_measurement_tells_a_loaded_divider_from_a_wrong_resistor() -> None:
    circuit = read_netlist(DIVIDER).circuit
    observed = Observed({"": circuit}, (AtRest((_figure("V_out", 4.2, 0.01),)),))
    found = explained(observed)
    assert not found.agrees
    assert len(found.groups[0]) > 2
    assert found.next is not None
    assert (found.next.way, found.next.where) in {
        ("component", "R1"),
        ("component", "R2"),
        ("meter", "in"),
    }
    assert len(set(found.next.expected)) > 1


def test_causes_are_restricted_and_ruled_out() -> None:
    circuit = read_netlist(DIVIDER).circuit
    observed = Observed({"": circuit}, (AtRest((_figure("V_out", 4.2, 0.01),)),))
    only = explained(observed, only=["loading"])
    assert {c.causes[0].key for c in only.causes} == {"loading"}
    rest = explained(observed, without={("loading", "meter")})
    assert all(c.causes[0].key != "loading" for c in rest.causes)


def test_planted_causes_are_found_in_a_small_study() -> None:
    """Of `./lucid study`, three circuits; its bars are 95 % in the first group and 5 % of false claims."""
    names = ("RC low-pass", "emitter follower", "flow integrator")
    trials = []
    for subject in (s for s in subjects() if s.name in names):
        for k, planted in enumerate(
            [*applicable(subject)[:: many(quick=6, deep=2)], None, None, None]
        ):
            one = trial(subject, planted, np.random.default_rng([7, k]))
            trials += [one] if one else []
    planted = [t for t in trials if t.planted and t.is_claimed]
    assert len(planted) > many(quick=12, deep=35)
    assert sum(t.place == 0 for t in planted) >= 0.9 * len(planted)
    assert sum(t.is_claimed for t in trials if t.planted is None) <= 1


# --- by hand --------------------------------------------------------------------------------------

_NAMES = {
    "L1": Known(10e-3, UNITS["H"]), "C1": Known(100e-9, UNITS["F"]), "R1": Known(1e3, UNITS["Ω"]),
    "R2": Known(2e3, UNITS["Ω"]),
}  # fmt: skip


@pytest.mark.parametrize(
    ("wrong", "right", "key"),
    [
        ("f = 1/sqrt(L1*C1)", "f = 1/(2*pi*sqrt(L1*C1))", "two_pi"),
        ("R = R1 + R2", "R = R1*R2/(R1+R2)", "parallel"),
        ("R = R1*R2/(R1+R2)", "R = R1+R2", "series"),
        ("k = R2/(R1-R2)", "k = R2/(R1+R2)", "sign"),
        ("k = R1/(R1+R2)", "k = R2/(R1+R2)", "other_part"),
        ("t = R1*100 pF", "t = R1*100 nF", "prefix"),
        ("k = R1/R2", "k = R2/R1", "upside_down"),
    ],
)
def test_a_slip_is_found_on_the_formula_s_own_tree(wrong: str, right: str, key: str) -> None:
    from lucidbench.core.formula import evaluate

    wanted = complex(evaluate(parse(right), _NAMES).value).real
    found = {
        slip.key
        for slip in slips_of(parse(wrong), _NAMES)
        if complex(evaluate(parse(slip.text), _NAMES).value).real == pytest.approx(wanted)
    }
    assert key in found


def _exercise(name: str, hand: Sequence[str] = ()) -> Exercise:
    exercise = read_exercise((EXAMPLES / f"{name}.json").read_text())
    if not hand:
        return exercise
    lines = [HandLine(id=f"x{k}", text=text) for k, text in enumerate(hand)]
    return exercise.model_copy(update={"hand": lines})


def test_a_missing_two_pi_is_told_and_mended() -> None:
    exercise = _exercise("time-signal-filter", ["f_r = 1/sqrt(L1*C1)"])
    found = explanation(exercise, Question("hand-simulated", "f_r"))
    assert "2π" in found.answer
    mended = patched(exercise, found.causes[0].changes)
    assert explained_by_hand(mended, "f_r").agrees


def test_rules_of_thumb_are_told_for_what_they_leave_out() -> None:
    found = explained_by_hand(_exercise("hydrophone-stage"), "V_e")
    assert found.causes[0].key == "rules_of_thumb"
    assert found.causes[0].part == "Q1"


def _exact(name: str, hand: Sequence[str]) -> dict[str, Exactness]:
    return {each.figure: each for each in exactness(_exercise(name, hand))}


def test_what_is_equal_by_algebra_is_told_from_what_is_so_by_luck() -> None:
    """Level bridge: node equations of its own; and a current that is right at the drawn values alone."""
    found = _exact(
        "battery-sense",
        ["V_out = V1*R2/(R1+R2)", "I_R1 = 9.92125984252 µA", "P_R1 = (V1/(R1+R2))^2*R1"],
    )
    assert found["V_out"].state == "equal"
    assert found["P_R1"].state == "equal"
    assert found["I_R1"].state != "equal"
    assert found["I_R1"].worst > 1e-3


@pytest.mark.parametrize(
    ("line", "figure"),
    [
        ("V_out = V1*R1/(R1+R2)", "V_out"),
        ("V_out = V1*R2/(R1-R2)", "V_out"),
        ("I_R1 = V1*(R1+R2)/(R1*R2)", "I_R1"),
        ("P_R1 = (V1/(R1+R2))^2*R2", "P_R1"),
        ("V_out = -V1*R2/(R1+R2)", "V_out"),
    ],
)
def test_no_slip_passes_as_equal_and_each_is_mended(line: str, figure: str) -> None:
    found = _exact("battery-sense", [line])[figure]
    assert found.state == "wrong"
    assert "Right would be" in found.sentence


def test_what_an_approximation_leaves_out_is_named_and_priced() -> None:
    """Level bridge without its middle, and a stage by rules of thumb."""
    bridge = _exact("level-bridge", ["V_left = V1*R3/(R1+R3)"])
    assert bridge["V_left"].state == "approximate"
    assert "R5 is left out" in bridge["V_left"].sentence or bridge["V_left"].relative_error < 0.1
    stage = {each.figure: each for each in exactness(_exercise("hydrophone-stage"))}
    assert stage["V_b"].state == "approximate"
    assert "base current" in stage["V_b"].sentence
    assert stage["V_b"].reference == "simulation"


# --- of exercises ---------------------------------------------------------------------------------


def test_a_lossy_coil_is_found_put_into_the_model_and_the_gap_closes() -> None:
    exercise = _exercise("time-signal-filter")
    found = explanation(exercise, Question())
    first = found.causes[0]
    assert (first.key, first.part) == ("winding_resistance", "L1")
    assert first.explains > 0.95
    closed = patched(exercise, first.changes)
    coil = next(part for part in closed.schematic.parts if part.name == "L1")
    assert coil.values["series_resistance"].startswith("33")
    assert explanation(closed, Question()).agrees


def test_a_record_that_began_settled_is_told_from_one_at_switch_on() -> None:
    exercise = _exercise("anti-alias-ladder")
    runs = [run.model_copy(update={"without": []}) for run in exercise.runs]
    found = explanation(exercise.model_copy(update={"runs": runs}), Question(run="r1"))
    assert found.causes[0].key == "settled"
    changed = patched(exercise, found.causes[0].changes)
    assert changed.runs[0].settings["begin"] == "settled"


def test_a_low_gain_shows_in_the_bias() -> None:
    """Read off a build whose transistor has a third of the drawn gain, in numbers of our own engine."""
    from lucidbench.core import operating_point
    from lucidbench.core.schematic import read_drawing

    exercise = _exercise("hydrophone-stage")
    drawing = read_drawing(exercise.schematic, "", exercise.parameters, exercise.blocks)
    tight = [
        part.model_copy(update={"values": {**part.values, "tolerance": "1 %"}})
        if part.kind == "resistor" else part
        for part in exercise.schematic.parts
    ]  # fmt: skip
    at = operating_point(drawing.circuit.with_value("Q1", "beta", 60.0)).values
    notes = [
        exercise.measurements[0].model_copy(
            update={"id": name, "text": f"{at[name]:.4f} V ± 0.005 V",
                    "figure": exercise.measurements[0].figure.model_copy(update={"quantity": name})}
        )
        for name in ("V_b", "V_e", "V_c")
    ]  # fmt: skip
    schematic = exercise.schematic.model_copy(update={"parts": tight})
    low = exercise.model_copy(update={"schematic": schematic, "measurements": notes})
    found = explanation(low, Question())
    assert (found.causes[0].key, found.causes[0].part) == ("beta", "Q1")
    assert "β" in found.answer


def test_a_part_measured_by_itself_decides() -> None:
    exercise = _exercise("time-signal-filter")
    coil = Measurement.model_validate(
        {"id": "z", "figure": {"of": "part", "part": "C1"}, "text": "1.92 nF ± 0.01 nF",
         "note": "with 0.2 Ω ± 0.5 Ω in series, at 1 kHz"}
    )  # fmt: skip
    before = explanation(exercise, Question())
    after = explanation(exercise.model_copy(update={"measurements": [coil]}), Question())
    rank = {c.key: c.probability for c in after.causes}
    assert any(c.key == "series_resistance" for c in before.causes)
    assert rank.get("series_resistance", 0.0) < 1e-4
    assert after.causes[0].key == "winding_resistance"


# --- the command ----------------------------------------------------------------------------------


def _told(tmp_path: Path, capsys: pytest.CaptureFixture[str], netlist: str, table: str) -> dict:
    (tmp_path / "c.cir").write_text(netlist)
    (tmp_path / "t.csv").write_text(table)
    assert lucid(["explain", str(tmp_path / "c.cir"), "--bench", str(tmp_path / "t.csv")]) == 0
    told: dict = json.loads(capsys.readouterr().out)
    return told


def test_the_command_tells_a_meter_s_loading(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """10 MΩ between 1 MΩ and 1 MΩ: V/2 · 10/(10 + 0.5), and the supply is as it is drawn."""
    netlist = DIVIDER.replace("10k tol=5%", "1meg tol=1%")
    table = "quantity,value,unit,uncertainty\nV_in,10.00,V,0.01\nV_out,4762,mV,5\n"
    told = _told(tmp_path, capsys, netlist, table)
    loading = next(c for c in told["causes"] if c["cause"] == "loading")
    assert not told["agrees"]
    assert loading["group"] == 0
    assert abs(loading["value"] - 10e6) < loading["uncertainty"]
    assert set(told) >= {
        "agrees",
        "chi_square",
        "points",
        "tolerance_alone",
        "causes",
        "groups",
        "next_measurement",
    }


@pytest.mark.parametrize(
    ("table", "sentence"),
    [
        (
            "frequency [Hz],abs(V_out/V_in)\n100,1\nabc,2\n",
            "Line 3, frequency [Hz]: “abc” is no number.",
        ),
        ("frequency [Hz],abs(V_nowhere)\n100,1\n200,1\n", "there is no node nowhere"),
        ("frequency [Hz],u(V_out)\n100,1\n200,1\n", "u(V_out) is of no column"),
        ("frequency [Hz],abs(V_out)\n100,1\n100,2\n", "two rows at the same frequency"),
        ("quantity,value,unit,uncertainty\nV_out,1,V,0\n", "must be above zero"),
        ("", "neither"),
        ("frequency [parsec],abs(V_out)\n1,1\n2,1\n", "no unit that is known"),
    ],
)
def test_a_bad_table_gets_a_sentence(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], table: str, sentence: str
) -> None:
    (tmp_path / "c.cir").write_text(LADDER)
    (tmp_path / "t.csv").write_text(table)
    assert lucid(["explain", str(tmp_path / "c.cir"), "--bench", str(tmp_path / "t.csv")]) == 2
    assert sentence in capsys.readouterr().err


def test_every_cause_is_documented() -> None:
    text = (EXAMPLES.parent / "docs" / "causes.md").read_text()
    missing = {kind.key for kind in KINDS if f"`{kind.key}`" not in text}
    assert not missing


def test_a_tolerance_is_read_and_written_in_a_netlist() -> None:
    from lucidbench.core import NetlistError, write_netlist

    circuit = read_netlist(LADDER).circuit
    assert circuit.element("C1").spreads == {"capacitance": 0.1}
    assert read_netlist(write_netlist(circuit)).circuit.fingerprint == circuit.fingerprint
    with pytest.raises(NetlistError, match="line 3: R1: a tolerance is told as tol=5%"):
        read_netlist(LADDER.replace("tol=5%", "tol=five", 1))
