"""The first-order uncertainty against many draws of the parts."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from lucidbench.core.analyses import frequency_sweep, operating_point
from lucidbench.core.document.exercise import Build
from lucidbench.core.netlist import Circuit
from lucidbench.core.tolerance import (
    expanded,
    expanded_of_draws,
    monte_carlo,
    operating_point_uncertainty,
    spreads_of,
    worst_case,
    worst_case_of,
)
from lucidbench.instruments.build import physical_build
from tests.core.circuits import circuit

DRAWS = 1500


def toleranced(network: Circuit, half_width: float) -> Circuit:
    elements = tuple(
        replace(e, spreads={"resistance": half_width}) if e.kind == "resistor" else e
        for e in network
    )
    return replace(network, elements=elements)


def test_uncertainty_is_twice_the_spread_of_many_builds() -> None:
    """A Monte Carlo after JCGM 101:2008: each part drawn evenly within 2 %, standard deviation taken.

    1,500 draws know a standard deviation to about 2 %; 8 % of slack is four times that.
    """
    bridge = toleranced(
        circuit(
            "V1 a 0 10", "R1 a l 1k", "R2 a r 1.2k", "R3 l 0 1.5k", "R4 r 0 820",
            "R5 l r 470", "I1 0 r 2m",
        ),
        0.02,
    )  # fmt: skip
    stated = operating_point_uncertainty(bridge)
    drawn = [
        operating_point(physical_build(bridge, Build(seed=k, ideal=True))).values
        for k in range(DRAWS)
    ]
    for name in ("V_l", "V_r", "I_R5", "I_R1", "I_V1", "P_R4", "P_I1"):
        spread = float(np.std([values[name] for values in drawn]))
        assert stated[name] == pytest.approx(2 * spread, rel=0.08), name


def test_what_no_part_can_move_is_certain() -> None:
    divider = toleranced(circuit("V1 in 0 5", "R1 in out 1k", "R2 out 0 1k"), 0.05)
    stated = operating_point_uncertainty(divider)
    assert stated["V_in"] == 0.0
    assert stated["V_out"] > 0
    assert operating_point_uncertainty(circuit("V1 in 0 5", "R1 in 0 1k")) == {}


@pytest.mark.parametrize("last", ["K1 L1 L2 0.5", "R2 c 0 20"])
def test_a_part_without_pins_takes_no_power(last: str) -> None:
    """A coupling of coils has none; V²/R lies within 5 % for all builds, as R does."""
    lines = ["V1 a 0 1", "R1 a b 10", "L1 b 0 1m", "L2 c 0 1m", "R2 c 0 20", "K1 L1 L2 0.5"]
    ordered = [line for line in lines if line != last] + [last]
    stated = operating_point_uncertainty(toleranced(circuit(*ordered), 0.05))
    assert stated["P_R1"] == pytest.approx(0.05 * 1**2 / 10, rel=1e-6)
    assert stated["P_V1"] == pytest.approx(stated["P_R1"])
    assert stated["P_K1"] == stated["P_L2"] == 0.0


PARTS = (("V1 in 0 10", "R1 in out 1k", "R2 out 0 470", "R3 out 0 2.2k"), "V_out")


@pytest.mark.parametrize("toleranced_parts", [("R1",), ("R2",), ("R1", "R2", "R3")])
def test_slopes_corners_and_draws_agree_where_they_must(toleranced_parts: tuple[str, ...]) -> None:
    """Of one part all three give the interval of all builds; of three, slopes and draws give twice the
    standard deviation (JCGM 100:2008, 4.3.7, and JCGM 101:2008), which corners contain."""
    lines, name = PARTS
    elements = tuple(
        replace(e, spreads={"resistance": 0.02}) if e.name in toleranced_parts else e
        for e in circuit(*lines)
    )
    network = replace(circuit(*lines), elements=elements)
    nominal = operating_point(network).values[name]
    by_slopes = operating_point_uncertainty(network)[name]
    worst = worst_case(network, name)
    by_corners = (worst.highest - worst.lowest) / 2
    by_draws = expanded_of_draws(monte_carlo(network, 20_000, seed=3).traces[name], nominal)
    moved = spreads_of(
        network, {name: nominal}, lambda c: operating_point(c).values, np.inf, is_thorough=True
    )
    assert moved
    assert by_draws == pytest.approx(by_slopes, rel=0.02)
    assert float(expanded([*moved.limits[name].values()])) == pytest.approx(by_slopes, rel=1e-3)
    if len(toleranced_parts) == 1:
        assert by_corners == pytest.approx(by_slopes, rel=1e-3)
    else:
        assert by_corners > 1.2 * by_slopes


def test_what_is_stated_is_never_more_than_all_builds_come_to() -> None:
    """Of equal limits a: one states a; two 2√2·a/√3, less than 2a; many the normal distribution's."""
    assert expanded([3.0]) == 3.0
    assert expanded([1.0, 1.0]) == pytest.approx(2 * 2**0.5 / 3**0.5)
    assert expanded([1.0, 1e-3]) == pytest.approx(1.001)
    assert expanded(np.ones((100, 2))) == pytest.approx(20 / 3**0.5)
    assert expanded([]) == 0.0


def test_a_worst_case_is_found_where_a_figure_has_its_crest() -> None:
    """Power is largest into a matched load, a series circuit's current at resonance: any circuits text."""
    matched = circuit("V1 a 0 10", "RS a b 100 tol=10%", "RL b 0 100 tol=10%")
    found = worst_case_of(matched, lambda c: operating_point(c).values["P_RL"])
    # Over the square: P = 100·RL/(RS + RL)², largest at both 90 Ω, least at 110 Ω and 90 Ω.
    assert (found.lowest, found.highest) == pytest.approx((100 * 90 / 200**2, 100 / (4 * 90)))
    f0 = 1 / (2 * math.pi * math.sqrt(1e-9))
    ring = circuit("V1 a 0 AC 1", "L1 a b 10m tol=10%", "C1 b c 100n tol=5%", "R1 c 0 50")
    found = worst_case_of(ring, lambda c: abs(frequency_sweep(c, [f0]).voltage("c")[0]))
    reactance = math.sqrt(10e-3 / 100e-9) * (0.9 - 1 / 0.95)
    assert found.highest == pytest.approx(1.0)
    assert found.lowest == pytest.approx(50 / math.hypot(50, reactance))
