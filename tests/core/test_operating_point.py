"""The operating point against nodal equations, SymPy, and the laws every circuit obeys."""

from __future__ import annotations

import math
import re
import weakref
from dataclasses import replace

import numpy as np
import pytest
import sympy
from hypothesis import given

from lucidbench.core.analyses import (
    TransientSettings,
    dc_sweep,
    operating_point,
    phasors,
    transient,
)
from lucidbench.core.analyses.equilibria import resting_points
from lucidbench.core.analyses.unrest import unrest_of
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import (
    GROUND_NODE,
    Circuit,
    Element,
    FaultKind,
    read_netlist,
    topology_faults,
    write_netlist,
)
from lucidbench.core.tolerance import operating_point_uncertainty
from tests.core.circuits import LATCH, circuit, resistive_networks
from tests.depth import examples


def test_bridge_by_hand_written_nodal_equations() -> None:
    """The bridge of the demo, three unknown nodes, against numpy on equations written out by hand."""
    point = operating_point(
        circuit(
            "V1 a 0 10", "R1 a l 1k", "R2 a r 1.2k", "R3 l 0 1.5k", "R4 r 0 820",
            "R5 l m 470", "V2 m r 1.5", "I1 0 r 2m",
        )
    )  # fmt: skip
    # Unknowns V_l, V_r and the current i through V2 from m to r; V_m = V_r + 1.5.
    nodal = np.array(
        [
            [1 / 1000 + 1 / 1500 + 1 / 470, -1 / 470, 0.0],
            [0.0, 1 / 1200 + 1 / 820, -1.0],
            [1 / 470, -1 / 470, -1.0],
        ]
    )
    known = np.array([10 / 1000 + 1.5 / 470, 10 / 1200 + 2e-3, 1.5 / 470])
    v_l, v_r, current = np.linalg.solve(nodal, known)
    assert point.values["V_l"] == pytest.approx(v_l, rel=1e-12)
    assert point.values["V_r"] == pytest.approx(v_r, rel=1e-12)
    assert point.values["I_V2"] == pytest.approx(current, rel=1e-9)
    assert point.values["I_I1"] == 2e-3
    assert point.values["P_V1"] < 0 < point.values["P_R4"]


def test_nanovolts_beside_kilovolts() -> None:
    """A divider of 1 Ω below 7 GΩ keeps its voltage when another part of the circuit is at 141 kV."""
    point = operating_point(
        circuit("V1 a 0 7", "R1 a b 7g", "R2 b 0 1", "I1 0 c 1", "R3 c 0 141467")
    )
    assert point.values["V_b"] == pytest.approx(7 / (7e9 + 1), rel=1e-12)


def test_divider_against_sympy() -> None:
    v1, r1, r2, v = sympy.symbols("v1 r1 r2 v", positive=True)
    (exact,) = sympy.solve(sympy.Eq((v1 - v) / r1, v / r2), v)
    expected = float(exact.subs({v1: 12.6, r1: 1e6, r2: 270e3}))
    point = operating_point(circuit("V1 in 0 12.6", "R1 in out 1meg", "R2 out 0 270k"))
    assert point.values["V_out"] == pytest.approx(expected, rel=1e-13)


@examples(150)
@given(resistive_networks())
def test_kirchhoff_and_tellegen(network: Circuit) -> None:
    """Currents leaving every node sum to zero (Kirchhoff, 1845), all powers too (Tellegen, 1952)."""
    point = operating_point(network)
    largest = max(abs(i) for i in point.currents.values())
    leaving = dict.fromkeys((*network.nodes, GROUND_NODE), 0.0)
    for element in network:
        leaving[element.nodes[0]] += point.currents[element.name]
        leaving[element.nodes[1]] -= point.currents[element.name]
    assert all(abs(total) <= 1e-9 * largest for total in leaving.values())
    scale = sum(abs(p) for p in point.powers.values())
    assert abs(math.fsum(point.powers.values())) <= 1e-9 * scale


@examples(60)
@given(resistive_networks())
def test_superposition(network: Circuit) -> None:
    """Each source alone, the others at zero, adds up to all together."""

    def alone(kept: str | None) -> Circuit:
        def quiet(element: Element) -> Element:
            if element.kind == "resistor" or element.name == kept:
                return element
            return replace(element, values=dict.fromkeys(element.values, 0.0))

        return replace(network, elements=tuple(quiet(e) for e in network))

    whole = operating_point(network).voltages
    parts = [operating_point(alone(e.name)).voltages for e in network if e.kind != "resistor"]
    scale = max((abs(v) for part in (*parts, whole) for v in part.values()), default=0.0)
    for node in network.nodes:
        total = math.fsum(part[node] for part in parts)
        assert whole[node] == pytest.approx(total, abs=1e-9 * scale + 1e-300)


def test_balanced_bridge_shows_exact_zero() -> None:
    """No rounding dust: a balanced bridge carries nothing in its middle."""
    point = operating_point(
        circuit("V1 a 0 7", "R1 a l 1k", "R2 a r 2.2k", "R3 l 0 3.3k", "R4 r 0 7.26k", "R5 l r 47")
    )
    assert point.values["I_R5"] == 0.0


def test_large_ladder_stays_sparse_and_exact() -> None:
    """A uniform line of 3,000 equal resistors divides its voltage evenly."""
    n = 3000
    lines = [f"R{k} {k} {k + 1} 10" for k in range(1, n)]
    point = operating_point(circuit("V1 1 0 30", *lines, f"R{n} {n} 0 10"))
    assert point.values["V_1501"] == pytest.approx(15.0, rel=1e-9)


def test_uncertainty_of_divider_by_the_gum() -> None:
    """JCGM 100:2008, 5.1.2 and 4.3.7, worked by hand for a divider of two parts of 5 %."""
    parts = Circuit(
        "divider",
        (
            Element("V1", "voltage_source", ("in", "0"), {"voltage": 10.0}),
            Element("R1", "resistor", ("in", "out"), {"resistance": 3e3}, {"resistance": 0.05}),
            Element("R2", "resistor", ("out", "0"), {"resistance": 1e3}, {"resistance": 0.05}),
        ),
    )
    uncertainty = operating_point_uncertainty(parts)
    sensitivity = 10 * 3e3 * 1e3 / 4e3**2  # |dV/d ln R|, the same for both
    assert uncertainty["V_out"] == pytest.approx(
        2 * math.sqrt(2) * sensitivity * 0.05 / math.sqrt(3), rel=1e-6
    )
    assert uncertainty["V_in"] == 0.0
    # The current depends on its own resistor directly too: I = V/(R1 + R2).
    step = 10 / 4e3**2 * 0.05 / math.sqrt(3)
    expected = 2 * math.hypot(step * 3e3, step * 1e3)
    assert uncertainty["I_R1"] == pytest.approx(expected, rel=1e-6)


@pytest.mark.parametrize(
    ("lines", "named"),
    [
        (["V1 a b 1", "R1 a b 1k"], "ground"),
        (["V1 a 0 1", "R1 b c 1k"], "R1"),
        (["V1 a 0 1", "V2 a 0 2", "R1 a 0 1k"], "V1 and V2"),
        (["V1 a 0 1", "V2 a b 1", "V3 b 0 1", "R1 b 0 1"], "V1, V2 and V3"),
        (["R1 a 0 1k", "I1 a b 1m"], "I1"),
        (["R1 a 0 1k", "I1 a b 1m", "I2 b 0 1m"], "I1 and I2"),
        (["R1 a 0 1k", "V1 a a 1"], "V1"),
    ],
)
def test_unsolvable_wiring_is_named(lines: list[str], named: str) -> None:
    with pytest.raises(CircuitError, match=named):
        operating_point(circuit(*lines))


def test_a_circuit_is_assembled_once_while_a_result_is_kept_and_let_go_with_it() -> None:
    # Large circuits must not pile up: nothing is left of one when its last result is dropped.
    plain = circuit("V1 a 0 1", "R1 a b 1k", "R2 b 0 1k")
    point = operating_point(plain)
    assert operating_point(plain).system is point.system
    kept = weakref.ref(point.system)
    del point
    assert kept() is None
    assert operating_point(plain).voltages["b"] == pytest.approx(0.5)


def test_wiring_is_judged_alike_in_one_pass_and_in_full() -> None:
    # A ring of voltage sources, an island, a node behind a capacitor, no ground: none is overlooked.
    sound = ("V1 a 0 1", "R1 a b 1k", "L1 b c 1m", "R2 c 0 1k")
    assert topology_faults(circuit(*sound)) == []
    for more in (
        ("V2 b a 1", "V3 b 0 2"),
        ("R3 x y 1",),
        ("C1 c d 1u", "R3 d e 1k", "E1 f 0 e 0 2", "R4 f 0 1"),
        ("V2 a a 1",),
    ):
        assert topology_faults(circuit(*sound, *more)), more
    assert topology_faults(circuit("V1 a b 1", "R1 a b 1"))[0].kind is FaultKind.NO_GROUND
    blocked = circuit("V1 a 0 1", "C1 a b 1u", "R1 b c 1k", "E1 d 0 c 0 2", "R2 d 0 1")
    assert topology_faults(blocked)[0].kind is FaultKind.UNHELD
    assert not topology_faults(blocked, moving=True)  # a capacitor carries current then


def test_a_node_behind_a_capacitor_is_solved_but_for_its_own_voltage() -> None:
    """No direct current flows through a capacitor: the rest is as it is without what hangs behind it, and
    a signal passes whole (any circuits textbook: with no load there is no drop across the coupling)."""
    stage = ("VCC p 0 12", "R1 p b 56k", "R2 b 0 12k", "RC p c 2.2k", "RE e 0 560", "Q1 c b e q",
             ".model q NPN(BF=180 IS=1e-14)", "C1 in b 10u", "V1 in 0 SIN(0 5m 1k) AC 5m")  # fmt: skip
    alone = circuit(*stage)
    for hanging, apart in (
        (("C2 c out 1u",), {"out"}),
        (("C2 c x 1u", "V2 x y 3", "R9 x y 1k"), {"x", "y"}),
    ):
        loaded = circuit(*stage, *hanging)
        point = operating_point(loaded)
        rest = {k: v for k, v in point.values.items() if k[2:] not in ("C2", "V2", "R9")}
        assert rest == operating_point(alone).values
        assert point.values["I_C2"] == 0.0
        assert not apart & set(point.node_voltages)
        far = min(apart)
        at = {name: abs(v) for name, v in phasors(loaded, 1e3).voltages.items()}
        assert at[far] == pytest.approx(at["c"], rel=1e-12)
        run = transient(loaded, TransientSettings(stop=2e-3))
        behind, before = (run.trace(f"V_{node}") for node in (far, "c"))
        assert behind - behind[0] == pytest.approx(before - before[0], abs=1e-9)
    assert point.values["P_R9"] == pytest.approx(3**2 / 1000)  # within the group all is determined
    resistor = replace(loaded.element("R2"), spreads={"resistance": 0.05})
    spread = operating_point_uncertainty(loaded.with_element(resistor))
    same = operating_point_uncertainty(alone.with_element(resistor))
    assert spread["V_c"] == pytest.approx(same["V_c"], rel=1e-9)
    swept = dc_sweep(loaded, "VCC", np.array([6.0, 12.0])).traces
    assert swept["V_c"][1] == pytest.approx(point.values["V_c"])
    sensed = circuit(
        "V1 a 0 10", "R1 a d 1k", "C1 a g 1u", "M1 d g 0 0 m", ".model m NMOS(VTO=1 KP=1m)"
    )
    with pytest.raises(
        CircuitError, match=r"M1 needs to know the voltage there\. Connect e\.g\. 1 MΩ"
    ):
        operating_point(sensed)


def test_a_latch_is_told_to_balance_and_rests_where_it_is_sent() -> None:
    point = operating_point(circuit(*LATCH))
    assert point.voltages["c1"] == pytest.approx(point.voltages["c2"])
    rests = resting_points(point)
    assert sorted(round(other.voltages["c1"] / 9) for other in rests) == [0, 1]
    for low, high in (("c1", "c2"), ("c2", "c1")):
        latch = circuit(*LATCH, f".nodeset V({low})=0")
        sent = operating_point(read_netlist(write_netlist(latch)).circuit)
        assert sent.voltages[low] < 0.3 < 6 < sent.voltages[high]
        assert not resting_points(sent)
    # What rests is not told to balance, however much it amplifies.
    assert not resting_points(operating_point(circuit("V1 a 0 1", "R1 a b 1k", "D1 b 0 d",
                                                      ".model d D(IS=1e-14)")))  # fmt: skip


@pytest.mark.parametrize(
    ("lines", "says"),
    [
        (("V1 a 0 1", "R1 a 0 1k TC=-0.02", ".temp 100"), "temperature drift of R1"),
        (("V1 a 0 1", "R1 a c 1", "E1 c 0 c 0 1"), "Check E1"),
        (("V1 a 0 1", "R1 a b 1", "D1 b 0 d", ".model d D", ".nodeset V(a)=2"), "V1 already fixes"),
    ],
)
def test_what_cannot_be_names_the_part(lines: tuple[str, ...], says: str) -> None:
    with pytest.raises(CircuitError, match=says):
        operating_point(circuit(*lines))


@pytest.mark.parametrize(
    ("volts", "formula", "says"),
    [
        (-5, "sqrt(V(a))", "sqrt) of −5"),
        (0, "ln(V(a))", "ln) of 0"),
        (-1, "log10(V(a))", "log10) of −1"),
        (0, "1/V(a)", "1 divided by 0"),
        (-4, "V(a)^0.5", "power of −4"),
    ],
)
def test_a_formula_without_a_value_is_refused(volts: float, formula: str, says: str) -> None:
    parts = circuit(f"V1 a 0 {volts}", "R1 a 0 1k", f"B1 b 0 V={{{formula}}}", "R2 b 0 1k")
    with pytest.raises(CircuitError, match=re.escape(says)) as refused:
        operating_point(parts)
    assert refused.value.elements == ("B1",)


def test_a_formula_may_leave_its_range_on_the_way_to_a_solution() -> None:
    # x + 1k·1m·sqrt(x) = 4 V, a quadratic in sqrt(x): no published source is needed.
    parts = circuit("V1 a 0 4", "R1 a b 1k", "B1 b 0 I={1m*sqrt(V(b))}")
    assert operating_point(parts).values["V_b"] == pytest.approx(((17**0.5 - 1) / 2) ** 2)
    moving = circuit("V1 a 0 SIN(0 1 1k)", "B1 b 0 V={sqrt(V(a)+0.5)}", "R1 b c 1k", "C1 c 0 1u")
    with pytest.raises(CircuitError, match=r"sqrt\) of .* at 583\.3"):
        transient(moving, TransientSettings(1e-3))
    with pytest.raises(CircuitError, match=re.escape("sqrt) of −0.5")):
        dc_sweep(
            circuit("V1 a 0 1", "B1 b 0 V={sqrt(V(a))}", "R1 b 0 1"), "V1", np.linspace(1, -1, 5)
        )


@pytest.mark.parametrize("small", [1e-12, 1e-9, 1e-6, 1e-3])
def test_currents_through_next_to_nothing_are_exact(small: float) -> None:
    # Ohm's law; the voltage across it is far below the last digit of those at its ends.
    ladder = circuit(
        "V1 a 0 1k", f"R1 a b {small!r}", "R2 b 0 1MEG", f"R3 b c {small!r}", "R4 c 0 2MEG"
    )
    values = operating_point(ladder).values
    beyond = 2e6 + small
    whole = 1e3 / (small + 1e6 * beyond / (1e6 + beyond))
    assert values["I_R1"] == pytest.approx(whole, rel=1e-11)
    assert values["I_V1"] == pytest.approx(-whole, rel=1e-11)
    assert values["I_R3"] == pytest.approx(whole * 1e6 / (1e6 + beyond), rel=1e-11)


INVERTING = ("V1 in 0 1", "R1 in m 1k", "R2 m out 10k")
WIEN = ("R1 a p 10k", "C1 out a 16n", "R2 p 0 10k", "C2 p 0 16n", "RG m 0 10k")


@pytest.mark.parametrize(
    ("lines", "says", "parts"),
    [
        ((*INVERTING, "Y1 0 m out opamp"), None, ()),
        ((*INVERTING, "Y1 m 0 out opamp"), "feedback of Y1 is positive", ("Y1",)),
        ((*INVERTING, "Y1 m 0 out opamp form=one_pole"), "feedback of Y1 is positive", ("Y1",)),
        (("V1 in 0 1", "Y1 in out out opamp"), None, ()),
        (("V1 in 0 1", "Y1 out in out opamp", "R1 out 0 1k"), "feedback of Y1 is positive", ("Y1",)),
        ((*WIEN, "RF out m 19k", "Y1 p m out opamp"), None, ()),
        ((*WIEN, "RF out m 21k", "Y1 p m out opamp"), "oscillates by itself", ()),
        # A current source (Howland) and an integrator: as much, and no, positive feedback.
        (("V1 in 0 1", "R1 in p 10k", "R2 p out 10k", "R3 m 0 10k", "R4 m out 10k", "RL p 0 1k",
          "Y1 p m out opamp"), None, ()),
        (("V1 in 0 1", "R1 in m 1k", "C1 m out 1u", "Y1 0 m out opamp"), None, ()),
        (("V1 a 0 1", "R1 a b 1k", "L1 b c 1m", "C1 c 0 1u"), None, ()),
    ],
)  # fmt: skip
def test_what_would_not_stay_at_its_operating_point_is_said(
    lines: tuple[str, ...], says: str | None, parts: tuple[str, ...]
) -> None:
    found = unrest_of(circuit(*lines))
    if says is None:
        assert found is None
    else:
        assert found is not None
        assert says in found.sentence
        assert found.parts == parts
        assert found.is_to_be_said
