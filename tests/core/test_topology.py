"""The wiring checks against linear algebra: a fault is told exactly where the equations are singular."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core.analyses import operating_point
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import CircuitError
from lucidbench.core.netlist import Circuit, Element, FaultKind, topology_faults
from tests.core.circuits import circuit
from tests.depth import examples

_nodes = st.sampled_from(["0", "1", "2", "3", "4"])
_elements = st.one_of(
    st.tuples(st.just("resistor"), _nodes, _nodes),
    st.tuples(st.just("voltage_source"), _nodes, _nodes),
    st.tuples(st.just("current_source"), _nodes, _nodes),
)
_VALUES = {"resistor": "resistance", "voltage_source": "voltage", "current_source": "current"}


@st.composite
def any_networks(draw: st.DrawFn) -> Circuit:
    """Up to eight elements between any nodes, solvable or not."""
    drawn = draw(st.lists(_elements, min_size=1, max_size=8))
    elements = tuple(
        # Distinct values: no two parts cancel by chance.
        Element(f"{kind[0].upper()}{i}", kind, (a, b), {_VALUES[kind]: 1.0 + 0.37 * i})
        for i, (kind, a, b) in enumerate(drawn)
    )
    return Circuit("any", elements)


@examples(400)
@given(any_networks())
def test_faults_are_told_exactly_where_the_matrix_is_singular(network: Circuit) -> None:
    """Rank by numpy's singular values, on the assembled conductance matrix."""
    faults = topology_faults(network)
    if any(fault.kind is FaultKind.NO_GROUND for fault in faults):
        assert all("0" not in element.nodes for element in network)
        return
    system = assemble(network)
    matrix = system.matrix(system.conductances)
    singular = system.size > 0 and np.linalg.matrix_rank(matrix) < system.size
    assert bool(faults) == bool(singular)


@pytest.mark.parametrize(
    ("lines", "kind", "elements", "nodes"),
    [
        (["R1 a 0 1", "R2 b c 1", "V1 c d 1"], FaultKind.FLOATING, ("R2", "V1"), ("b", "c", "d")),
        (["V1 a 0 1", "R1 a 0 1", "V2 0 a 1"], FaultKind.VOLTAGE_LOOP, ("V1", "V2"), ("0", "a")),
        (["I1 0 a 1", "I2 a b 1", "R1 b 0 1"], FaultKind.CURRENT_CUT, ("I1", "I2"), ("a",)),
        (["R1 a b 1"], FaultKind.NO_GROUND, (), ()),
    ],
)
def test_the_culprits_are_named(
    lines: list[str], kind: FaultKind, elements: tuple[str, ...], nodes: tuple[str, ...]
) -> None:
    (fault,) = topology_faults(circuit(*lines))
    assert (fault.kind, fault.elements, fault.nodes) == (kind, elements, nodes)
    assert fault.sentence.endswith(".")


def test_several_faults_are_all_told() -> None:
    faults = topology_faults(
        circuit("V1 a 0 1", "V2 a 0 2", "R1 a 0 1", "R2 x y 1", "I1 a b 1", "V3 q q 1")
    )
    assert [fault.kind for fault in faults] == [
        FaultKind.FLOATING,
        FaultKind.FLOATING,
        FaultKind.VOLTAGE_LOOP,
        FaultKind.VOLTAGE_LOOP,
        FaultKind.CURRENT_CUT,
    ]


@pytest.mark.parametrize(
    ("lines", "node", "volts"),
    [
        (("I1 0 a 1m", "G1 a 0 a 0 1m"), "a", 1.0),  # as a resistor of 1 kΩ
        (("V1 in 0 2", "G1 0 out in out 1m", "C1 out 0 1n"), "out", 2.0),  # a follower
        (("V1 in 0 3", "G1 0 bp in lp 1m", "C1 bp 0 1n", "G2 0 lp bp 0 1m", "C2 lp 0 1n"), "lp", 3.0),
        (("I1 0 a 1m", "G1 0 b a 0 1m", "G2 a 0 b 0 1m", "R1 b 0 1k"), "b", 1.0),  # a gyrator
        (("I1 0 a 1m", "B1 a 0 I={2m*V(a)}"), "a", 0.5),
    ],
)  # fmt: skip
def test_what_a_controlled_source_senses_holds_the_voltage_that_it_feeds(
    lines: tuple[str, ...], node: str, volts: float
) -> None:
    assert operating_point(circuit(*lines)).voltages[node] == pytest.approx(volts, rel=1e-9)


def test_a_controlled_source_that_senses_elsewhere_holds_nothing() -> None:
    for lines in (
        ("V1 in 0 1", "G1 0 a in 0 1m"),
        ("V1 in 0 1", "I1 0 a 1m", "G1 a b a 0 1m", "G2 b 0 a 0 1m"),
    ):
        with pytest.raises(CircuitError, match="no way back"):
            operating_point(circuit(*lines))
