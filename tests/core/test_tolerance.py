"""The first-order uncertainty against many draws of the parts."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from lucidbench.core.analyses import operating_point, operating_point_uncertainty
from lucidbench.core.document.exercise import Build
from lucidbench.core.netlist import Circuit
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
    """A coupling of coils has none; JCGM 100:2008, 4.3.7 and 6.2.1: U = 2·a/√3 for V²/R."""
    lines = ["V1 a 0 1", "R1 a b 10", "L1 b 0 1m", "L2 c 0 1m", "R2 c 0 20", "K1 L1 L2 0.5"]
    ordered = [line for line in lines if line != last] + [last]
    stated = operating_point_uncertainty(toleranced(circuit(*ordered), 0.05))
    assert stated["P_R1"] == pytest.approx(2 * 0.05 / 3**0.5 * 1**2 / 10, rel=1e-6)
    assert stated["P_V1"] == pytest.approx(stated["P_R1"])
    assert stated["P_K1"] == stated["P_L2"] == 0.0
