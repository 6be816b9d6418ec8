"""Finding the operating point where it is hard: every way there, and the names when there is none."""

from __future__ import annotations

import pytest

from lucidbench.core.analyses import operating_point
from lucidbench.core.analyses.operating_point import _Search
from lucidbench.core.equations.compiled import compile_system
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit
from tests.core.circuits import circuit

MODELS = (
    ".model n NPN(BF=200 IS=1e-15 VAF=100)",
    ".model p PNP(BF=100 IS=1e-15 VAF=50)",
    ".model d D(IS=1e-14)",
)


def amplifier() -> Circuit:
    """A small operational amplifier of seven transistors, closed to a follower."""
    return circuit(
        "VCC c 0 15", "VEE e 0 -15", "V1 i 0 1", "Q1 a o t p", "Q2 b i t p", "R1 c t 100k", "Q3 a a e n",
        "Q4 b a e n", "Q5 x b e n", "R5 c x 10k", "Q6 c x o n", "Q7 e x o p", "RL o 0 2k", *MODELS,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("way", "of_the_way"),  # straight on is sure only from nearby
    [("straight", 0.9), ("fading_conductance", 0), ("rising_sources", 0), ("pseudo_transient", 0)],
)
def test_every_way_leads_to_the_same_point(way: str, of_the_way: float) -> None:
    prepared = compile_system(assemble(amplifier()))
    search = _Search(prepared, prepared.tables.constant, None, 0.0)
    x = operating_point(amplifier()).x
    found = getattr(search, way)(of_the_way * x)
    assert found is not None
    assert found == pytest.approx(x, rel=1e-5, abs=1e-8)


def test_long_chains_and_steep_exponentials_settle() -> None:
    chain = circuit(
        "V1 n0 0 80", *(f"D{k} n{k} n{k + 1} d" for k in range(100)), "R1 n100 0 1k", *MODELS
    )
    point = operating_point(chain)
    drops = [point.voltages[f"n{k}"] - point.voltages[f"n{k + 1}"] for k in range(100)]
    assert max(drops) == pytest.approx(min(drops), rel=1e-9)  # the same current through each
    assert sum(drops) + point.currents["R1"] * 1e3 == pytest.approx(80)
    brutal = operating_point(
        circuit("V1 a 0 1000", "R1 a b 1m", "D1 b 0 d", ".model d D(IS=1e-14 RS=1)")
    )
    assert brutal.voltages["b"] == pytest.approx(1000, rel=2e-3)
    reverse = operating_point(circuit("V1 a 0 -1000", "D1 a b d", "D2 b c d", "R1 c 0 1k", *MODELS))
    assert -1000 < reverse.voltages["b"] < 0


def test_a_latch_has_a_point_and_a_hint_chooses_the_side() -> None:
    latch = circuit(
        "VCC c 0 5",
        "R1 c a 1k",
        "R2 c b 1k",
        "R3 a x 10k",
        "R4 b y 10k",
        "Q1 b x 0 n",
        "Q2 a y 0 n",
        *MODELS,
    )
    middle = operating_point(latch)
    assert middle.voltages["a"] == pytest.approx(middle.voltages["b"], rel=1e-6)
    for side, other in (("a", "b"), ("b", "a")):
        near = middle.x.copy()
        rows = middle.system.rows
        near[rows[side]], near[rows[other]] = 4.5, 0.05
        near[rows["x" if side == "a" else "y"]], near[rows["y" if side == "a" else "x"]] = 0.7, 0.05
        told = operating_point(latch, near=near).voltages
        assert told[side] > 3
        assert told[other] < 0.3


def test_nodes_can_be_held_meanwhile() -> None:
    held = operating_point(circuit("V1 a 0 10", "R1 a b 1k", "R2 b 0 1k"), hold={"b": 2.0})
    assert held.voltages["b"] == 2.0
    assert held.currents["R1"] == pytest.approx(8e-3)
    with pytest.raises(CircuitError, match="no node called q"):
        operating_point(circuit("V1 a 0 10", "R1 a 0 1k"), hold={"q": 2.0})


def test_what_has_no_point_names_nodes_and_parts() -> None:
    with pytest.raises(CircuitError) as refusal:
        operating_point(circuit("I1 0 a 1", "B1 a 0 I={exp(-V(a)^2)*0.5}"))
    assert "B1" in str(refusal.value) or "a" in refusal.value.nodes


def test_switches_settle_or_are_said_not_to() -> None:
    # A relay that breaks its own supply has no state at rest.
    buzzer = circuit(
        "V1 a 0 10", "R1 a b 1k", "S1 b 0 b 0 s", "RL b 0 1k", ".model s SW(VT=2 RON=1)"
    )
    with pytest.raises(CircuitError, match="No operating point was found"):
        operating_point(buzzer)
    latched = circuit(
        "V1 a 0 10", "R1 a b 1k", "S1 b 0 c 0 s", "V2 c 0 5", ".model s SW(VT=2 RON=1)"
    )
    assert operating_point(latched).voltages["b"] == pytest.approx(10 / 1001, rel=1e-3)


@pytest.mark.parametrize(
    ("lines", "says"),
    [
        (("K1 L1 L2 0.9", "K2 L2 L3 0.9", "K3 L1 L3 -0.9"), "ask for more coupling"),
        (("K1 L1 L2 0.9", "K2 L2 L1 0.5"), "are coupled twice"),
        (("K1 L1 L1 0.9",), "couples L1 with itself"),
        (("K1 L1 R1 0.9",), "couples inductors, and R1 is a resistor"),
    ],
)
def test_impossible_coupling(lines: tuple[str, ...], says: str) -> None:
    coils = ("V1 a 0 1", "R1 a b 1", "L1 b 0 1m", "L2 c 0 1m", "R2 c 0 1", "L3 d 0 1m", "R3 d 0 1")
    with pytest.raises(CircuitError, match=says):
        operating_point(circuit(*coils, *lines))
