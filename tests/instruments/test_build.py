"""A build: real parts within their tolerances, with what real parts have beside, and planted faults."""

from __future__ import annotations

import json
from pathlib import Path
from statistics import mean, pstdev

import pytest

from lucidbench.core.analyses import operating_point
from lucidbench.core.cases import in_case
from lucidbench.core.document.exercise import Build, Fault, FixedValue, read_exercise
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit
from lucidbench.instruments.build import built, physical_build
from tests.core.circuits import circuit
from tests.instruments.retake import retaken

EXAMPLES = Path(__file__).parents[2] / "examples"
MEASURED = [p.stem for p in sorted(EXAMPLES.glob("*.json")) if '"recipe"' in p.read_text()]


def divider() -> Circuit:
    plain = circuit("V1 a 0 9", "R1 a m 1k", "R2 m 0 2k")
    parts = [
        e
        if e.kind != "resistor"
        else type(e)(e.name, e.kind, e.nodes, e.values, {"resistance": 0.05})
        for e in plain
    ]
    return Circuit("", tuple(parts))


@pytest.mark.parametrize(
    ("distribution", "deviation"), [("uniform", 0.05 / 3**0.5), ("normal", 0.05 / 3)]
)
def test_values_are_drawn_within_tolerance_and_spread_as_said(
    distribution: str, deviation: float
) -> None:
    """An even interval of half-width a has the deviation a/√3 (JCGM 100:2008, 4.3.7)."""
    shares = []
    for seed in range(400):
        build = Build.model_validate({"seed": seed, "distribution": distribution, "ideal": True})
        for real in physical_build(divider(), build):
            if real.kind == "resistor":
                nominal = {"R1": 1000.0, "R2": 2000.0}[real.name]
                shares.append(real.values["resistance"] / nominal - 1)
    assert max(map(abs, shares)) <= 0.05
    assert mean(shares) == pytest.approx(0.0, abs=0.004)
    assert pstdev(shares) == pytest.approx(deviation, rel=0.1)


def test_the_same_seed_picks_the_same_parts_whatever_stands_beside_them() -> None:
    build = Build(seed=3)
    alone = physical_build(divider(), build)
    assert physical_build(divider(), build) == alone
    more = circuit("V1 a 0 9", "R1 a m 1k", "R2 m 0 2k", "C1 m 0 1u")
    assert physical_build(more, build).element("C1").values["series_resistance"] > 0.5
    assert physical_build(divider(), Build(seed=4)) != alone


def test_a_fault_is_what_it_says() -> None:
    """By the divider's rule, from the values as drawn."""

    def volts(**fault: object) -> float:
        told = Fault.model_validate({"part": "R2", **fault})
        return operating_point(
            physical_build(divider_exact(), Build(ideal=True, faults=[told]))
        ).voltages["m"]

    assert volts(does="factor", factor=10) == pytest.approx(9 * 20 / 21)
    assert volts(does="exchange", other="R1") == pytest.approx(3.0)
    assert volts(does="open") == pytest.approx(9.0, rel=1e-4)
    assert volts(does="short") == pytest.approx(0.0, abs=1e-3)
    assert volts(part="V1", does="turn") == pytest.approx(-6.0)
    assert volts(does="wire", pin=0, node="a") == pytest.approx(9.0)


def divider_exact() -> Circuit:
    return circuit("V1 a 0 9", "R1 a m 1k", "R2 m 0 2k")


def test_what_cannot_be_built_says_so() -> None:
    with pytest.raises(CircuitError, match="not drawn any more"):
        physical_build(divider_exact(), Build(faults=[Fault(part="gone", does="open")]))
    for text, told in (("much", "cannot be read"), ("-5", "must not be below 0")):
        fixed = FixedValue(part="C1", key="series_resistance", text=text)
        with pytest.raises(CircuitError, match=told):
            physical_build(circuit("V1 a 0 9", "C1 a 0 1u"), Build(fixed=[fixed]))
    with pytest.raises(CircuitError, match="no parts of one kind"):
        physical_build(
            divider_exact(), Build(faults=[Fault(part="R1", does="exchange", other="V1")])
        )


@pytest.mark.parametrize("name", MEASURED)
def test_what_the_demo_measured_is_measured_again(name: str) -> None:
    """Each on a bench that was just switched on, over sockets: to the digits the document keeps."""
    exercise = read_exercise((EXAMPLES / f"{name}.json").read_text())
    for measurement in exercise.measurements:
        assert measurement.recipe
        (taken,) = retaken(in_case(exercise, measurement.figure.case), measurement.recipe)
        shown = float(measurement.text.split()[0])
        scale = taken.columns[0].values[0] / shown
        assert any(scale == pytest.approx(prefix, rel=2e-3) for prefix in (1.0, 1e-3, 1e-6))
    for record in exercise.records:
        assert record.recipe
        points = retaken(in_case(exercise, record.case), record.recipe)
        for k, column in enumerate(record.columns):
            again = [value for point in points for value in point.columns[k].values]
            assert again == pytest.approx(list(column.values), rel=1e-6, abs=1e-12)


def test_the_coil_of_the_time_signal_filter_is_the_missing_piece() -> None:
    """Its Q falls as 220 Ω over what is in series: the winding's resistance is fixed by the author."""
    exercise = read_exercise((EXAMPLES / "time-signal-filter.json").read_text())
    coil = built(exercise).element("L1")
    fixed = json.loads((EXAMPLES / "time-signal-filter.json").read_text())["build"]["fixed"]
    assert fixed[0]["text"] == "33 Ω"
    assert coil.values["series_resistance"] == 33.0
