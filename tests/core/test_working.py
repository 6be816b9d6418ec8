"""Workings against published examples, against the analyses, and line by line in random circuits.

Circuits and figures of the published examples are from memory; the physics they state confirms them.
A&S: Alexander and Sadiku, Fundamentals of Electric Circuits, 4th edition. S&S: Sedra and Smith,
Microelectronic Circuits, 5th edition.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
import pytest

from lucidbench.core.analyses import TransientSettings, operating_point, transient
from lucidbench.core.analyses.equivalents import equivalent, two_port
from lucidbench.core.analyses.frequency import phasors
from lucidbench.core.errors import CircuitError
from lucidbench.core.formula import Formula, Known, evaluate, parse
from lucidbench.core.formula.parser import sides_of
from lucidbench.core.formula.tree import Node, Operation
from lucidbench.core.netlist import Circuit, Element, read_netlist
from lucidbench.core.units.dimensions import RESISTANCE, VOLTAGE
from lucidbench.core.working import Told, workings
from lucidbench.core.working.at_rest import textbook_form
from lucidbench.core.working.network import Branch, Network
from lucidbench.core.working.reduction import merge, triangle
from lucidbench.core.working.step import Derivation
from tests.depth import many


def of(text: str) -> Circuit:
    return read_netlist(f"an example\n{text}").circuit


def by(told: list[Told], key: str) -> Told:
    found = next(each for each in told if each.key == key)
    assert found.steps, found.reason
    return found


def value(told: Told) -> complex:
    assert told.value is not None
    return complex(told.value.value)


def line_values(told: Told) -> dict[str, complex]:
    """What every name of the working comes to."""
    return {s.target: complex(s.value.value) for s in told.steps if s.value and s.target}


NODES = "I1 2 1 5\nI2 0 2 10\nR1 1 2 4\nR2 1 0 2\nR3 2 0 6\n"
MESH = "V1 a 0 15\nR1 a b 5\nR2 b c 10\nV2 c 0 10\nR3 b d 6\nR4 d 0 4\n"
TWO_SOURCES = "V1 a 0 6\nR1 a b 8\nR2 b 0 4\nI1 0 b 3\n"
LOAD = "V1 a 0 32\nR1 a b 4\nR2 b 0 12\nI1 0 b 2\nR3 b c 1\nR4 c 0 6\n"
SEVEN = "I1 0 a 1\nR1 a b 4\nR2 b c 2\nR3 c d 6\nR4 c d 3\nR5 b e 1\nR6 e d 5\nR7 d 0 8\n"
SUPERNODE = "I1 0 1 2\nI2 2 0 7\nR1 1 0 2\nR2 2 0 4\nR3 1 2 10\nV1 2 1 2\n"
NORTON = "I1 0 x 2\nR1 x y 4\nV1 y 0 12\nR2 x a 8\nR3 b 0 8\nR4 a b 5\nR5 a b 6\n"
TRANSFORMED = "V1 p 0 12\nR1 p q 3\nR2 q 0 8\nI1 r 0 3\nR3 r 0 4\nR4 r q 2\n"


@pytest.mark.parametrize(
    ("circuit", "figure", "way", "expected"),
    [
        # A&S example 3.1: two nodes, 13.33 V and 20 V.
        (NODES, "V_2", "nodes", 20.0),
        (NODES, "V_1", "nodes", 40 / 3),
        # A&S example 3.5: two meshes, 1 A in each, none between them.
        (MESH, "I_R1", "meshes", 1.0),
        (MESH, "I_R2", "meshes", 0.0),
        # A&S example 4.3: 2 V and 8 V of two sources.
        (TWO_SOURCES, "V_b", "superposition", 10.0),
        # A&S example 4.6: sources transformed; 3.2 V across 8 Ω.
        (TRANSFORMED, "V_q", "transformation", 3.2),
        # A&S example 4.8: 30 V behind 4 Ω, 3 A into 6 Ω.
        (LOAD, "I_R4", "thevenin", 3.0),
        # A&S example 2.12: 4 Ω with 6 Ω and 3 Ω in parallel at 12 V: 4 V, 4/3 A, 5.333 W.
        ("V1 a 0 12\nR1 a b 4\nR2 b 0 6\nR3 b 0 3\n", "I_R3", "reduction", 4 / 3),
        ("V1 a 0 12\nR1 a b 4\nR2 b 0 6\nR3 b 0 3\n", "P_R3", "reduction", 16 / 3),
        # A&S example 2.9: 14.4 Ω of seven resistors, met by 1 A.
        (SEVEN, "V_a", "reduction", 14.4),
        # A&S example 3.3: a source ties two nodes, -7.333 V and -5.333 V.
        (SUPERNODE, "V_1", "nodes", -22 / 3),
        (SUPERNODE, "V_2", "nodes", -16 / 3),
        # A&S example 5.4: both inputs fed, -6 V.
        ("V1 a 0 6\nV2 p 0 2\nR1 a n 20k\nR2 n out 40k\nE1 out 0 p n 1e9\n", "V_out", "", -6.0),
        # A&S example 5.3: an inverting amplifier, -1.25 V.
        ("V1 a 0 0.5\nR1 a n 10k\nR2 n out 25k\nE1 out 0 0 n 1e9\n", "V_out", "", -1.25),
    ],
)  # fmt: skip
def test_published_examples_at_rest(circuit: str, figure: str, way: str, expected: float) -> None:
    parsed = of(circuit)
    if not way:  # an op-amp is a part of its own here
        plus = "p" if "V2 p" in circuit else "0"
        amplifier = Element("A1", "opamp", (plus, "n", "out"), {}, form="ideal")
        parsed = parsed.without({"E1"}).with_element(amplifier)
        way = "nodes"
    found = by(workings(parsed, figure), way)
    assert value(found) == pytest.approx(expected, abs=2e-6)


def test_published_equivalents_have_their_parts() -> None:
    # A&S example 4.8: V_Th = 30 V, R_Th = 4 Ω.
    told = line_values(by(workings(of(LOAD), "I_R4"), "thevenin"))
    assert (told["V_T"].real, told["R_T"].real) == pytest.approx((30.0, 4.0), rel=1e-9)
    # A&S example 4.11: 1 A beside 4 Ω.
    told = line_values(by(workings(of(NORTON), "I_R5"), "norton"))
    assert (told["I_N"].real, told["R_T"].real) == pytest.approx((1.0, 4.0), rel=1e-9)
    # A&S example 2.14: a triangle of 25, 10 and 15 Ω is a star of 5, 7.5 and 3 Ω.
    sides = [("R1", ("a", "b"), 25.0), ("R2", ("b", "c"), 10.0), ("R3", ("c", "a"), 15.0)]
    branches = tuple(Branch(n, "impedance", ends, v, (n,)) for n, ends, v in sides)
    probe = Branch("I1", "current", ("a", "b"), 1.0, ("I1",))
    pad = Derivation({n: Known(v, RESISTANCE) for n, _, v in sides})
    network = Network((*branches, probe))
    found = triangle(network, frozenset())
    assert found is not None
    after, _ = merge(network, found, pad)
    arms = sorted(b.value.real for b in after.branches if b.kind == "impedance")
    assert arms == pytest.approx([3.0, 5.0, 7.5])


@pytest.mark.parametrize("ends", [("a", "b"), ("a", "0"), ("b", "a")])
def test_the_equivalent_at_two_nodes_is_the_one_that_the_analysis_finds(
    ends: tuple[str, str],
) -> None:
    bridge = of(
        "V1 in 0 10\nR1 in a 1k\nR2 in b 1.2k\nR3 a 0 1.5k\nR4 b 0 820\nR5 a n 470\nV2 n b 1.5\n"
    )
    truth = equivalent(bridge, *ends)
    figure = f"V_{ends[0]}" if ends[1] == "0" else f"V_{ends[0]} - V_{ends[1]}"
    every = workings(bridge, figure)
    for key, name in (("thevenin", "V_T"), ("norton", "I_N")):
        told = line_values(by(every, key))
        if ends[1] != "0":  # nothing lies between them: all is seen from there
            assert told["R_T"].real == pytest.approx(truth.impedance.real, rel=1e-6)
            own = truth.voltage if name == "V_T" else truth.voltage / truth.impedance
            assert told[name].real == pytest.approx(own.real, rel=1e-6)
        assert value(by(every, key)).real == pytest.approx(truth.voltage.real, rel=1e-6)


def test_a_divider_is_worked_out_as_anyone_would() -> None:
    found = workings(of("V1 a 0 12\nR1 a out 4k\nR2 out 0 2k\n"), "V_out")[0]
    assert found.key == "reduction"
    assert [step.line for step in found.steps] == ["V_out = V1*R2/(R1 + R2)"]


def test_a_published_phasor_example() -> None:
    """A&S example 9.11: 20 V at -15° over 60 Ω and -j25 Ω beside j20 Ω: 17.15 V at 15.96°."""
    w = 4.0
    circuit = of("V1 a 0 0 ac 20 -15\nR1 a o 60\nC1 o 0 10m\nL1 o 0 5\n")
    for way in ("reduction", "nodes", "meshes"):
        found = value(by(workings(circuit, "V_o", "phasor", w / (2 * math.pi)), way))
        assert abs(found) == pytest.approx(17.15, abs=0.005)
        assert math.degrees(math.atan2(found.imag, found.real)) == pytest.approx(15.96, abs=0.01)


def test_published_transients_of_first_and_second_order() -> None:
    # A&S example 7.10: from 15 V to 30 V with 2 s (drawn as one source that steps).
    stepped = of("V1 a 0 pwl 0 15 1m 15 1.001m 30\nR1 a b 4k\nC1 b 0 0.5m\n")
    told = line_values(by(workings(stepped, "V_b", "step"), "step"))
    assert told["tau"].real == pytest.approx(2.0)
    assert (told["V_b_begin"].real, told["V_b_end"].real) == pytest.approx((15.0, 30.0))
    assert told["V_b"].real == pytest.approx(30 - 15 * math.exp(-1))
    # A&S example 8.1: 40 Ω, 4 H and 1/4 F in series: ω₀ = 1, ζ = 5, roots -0.101 and -9.899.
    series = of("V1 a 0 pwl 0 0 1m 0 1.001m 1\nR1 a b 40\nL1 b c 4\nC1 c 0 0.25\n")
    told = line_values(by(workings(series, "V_c", "step"), "step"))
    assert (told["w_0"].real, told["zeta"].real) == pytest.approx((1.0, 5.0))
    assert (-1 / told["tau_1"].real, -1 / told["tau_2"].real) == pytest.approx(
        (-0.101, -9.899), abs=5e-4
    )


@pytest.mark.parametrize("resistance", [20.0, 2e3], ids=["swinging", "creeping"])
def test_a_step_response_is_that_of_the_transient(resistance: float) -> None:
    circuit = of(
        f"V1 a 0 pulse 0 5 0.1m 0 0 1 2\nR1 a b {resistance}\nL1 b c 10m\nC1 c 0 1u\nR2 c 0 10k\n"
    )
    told = by(workings(circuit, "V_c", "step"), "step")
    at = line_values(told)["t"].real + 0.1e-3
    run = transient(circuit, TransientSettings(stop=2 * at, relative=1e-7))
    simulated = float(run.trace("V_c", np.array([at]))[0])
    assert value(told).real == pytest.approx(simulated, rel=1e-4)


STAGE = """V2 vcc 0 12
R1 vcc b 80k
R2 b 0 40k
R3 vcc c 4k
R4 e 0 3.3k
V1 in 0 0 ac 1
C1 in b 1
C3 e 0 1
C2 c out 1
R5 out 0 100k
Q1 c b e mod
.model mod npn bf=100
"""


def test_a_published_bias_and_its_gain() -> None:
    """S&S, section 5.5: 80 kΩ and 40 kΩ at 12 V with 3.3 kΩ give an emitter current of 0.93 mA."""
    circuit = of(STAGE)
    told = by(workings(circuit, "I_Q1.E"), "bias")
    assert line_values(told)["I_E"].real == pytest.approx(0.93e-3, abs=0.005e-3)
    gain = by(workings(circuit, "V_out", "gain"), "hybrid_pi")
    # The hybrid-π circuit of the text is that of the analysis at the same current.
    names = line_values(gain)
    assert names["g_m"].real == pytest.approx(names["I_C"].real / names["V_th"].real)
    point = operating_point(textbook_form(circuit))
    assert point.voltages["c"] == pytest.approx(names["V_c"].real, rel=2e-3)
    simulated = two_port(circuit, "V1", "out", frequency=1e3)
    assert value(gain).real == pytest.approx(simulated.gain.real, rel=0.05)
    assert names["R_in"].real == pytest.approx(abs(simulated.input_impedance), rel=0.08)


def test_corners_and_asymptotes_of_a_transfer_function() -> None:
    """A first-order low-pass is at -3 dB at 1/(2π R C) (common practice, no published source)."""
    told = by(
        workings(of("V1 in 0 0 ac 1\nR1 in out 1.5k\nC1 out 0 100n\n"), "V_out", "gain"), "transfer"
    )
    corner = 1 / (2 * math.pi * 1.5e3 * 100e-9)
    assert line_values(told)["f_c"].real == pytest.approx(corner)
    assert told.asymptotes is not None
    assert told.asymptotes.corners[1] == pytest.approx((corner, 0.0))
    assert np.interp(corner, *zip(*told.asymptotes.curve, strict=True)) == pytest.approx(
        -3.01, abs=0.02
    )
    start, stop = told.asymptotes.corners[-2:]
    assert (stop[1] - start[1]) / math.log10(stop[0] / start[0]) == pytest.approx(-20.0)


# Random circuits.

VALUES = {
    "resistor": ("R", "resistance", (1.5, 5)), "capacitor": ("C", "capacitance", (-8, -6)),
    "inductor": ("L", "inductance", (-4, -2)),
}  # fmt: skip


def random_circuit(random: np.random.Generator, is_moving: bool) -> Circuit:
    """Up to six nodes on a tree of parts, a few more across."""
    nodes = ["0", *"abcdef"[: random.integers(2, 6)]]
    elements: list[Element] = []

    def add(kind: str, a: str, b: str) -> None:
        k = sum(e.kind == kind for e in elements) + 1
        if kind in VALUES:
            letter, key, (low, high) = VALUES[kind]
            values = {key: float(f"{10 ** random.uniform(low, high):.3g}")}
        else:
            letter, size, key = ("V", 12, "voltage") if kind[0] == "v" else ("I", 0.02, "current")
            number = float(f"{random.uniform(-size, size):.3g}")
            values = {key: number}
            if is_moving:
                values |= {
                    "magnitude": abs(number),
                    "phase": float(random.choice([0, 30, -45, 90])),
                }
        elements.append(Element(f"{letter}{k}", kind, (a, b), values))

    passive = ["resistor"] * 4 + (["capacitor", "inductor"] if is_moving else [])
    for k in range(1, len(nodes)):
        add(
            str(random.choice([*passive, "voltage_source"])), nodes[k], nodes[random.integers(0, k)]
        )
    for _ in range(random.integers(1, 5)):
        a, b = random.choice(len(nodes), 2, replace=False)
        add(str(random.choice([*passive, "current_source"])), nodes[a], nodes[b])
    if not any(e.imposes for e in elements):
        add("current_source", "0", nodes[1])
    return Circuit("random", tuple(elements))


def terms_of(node: Node) -> list[Node]:
    """What a sum adds up, so that its rounding can be judged."""
    if isinstance(node, Operation) and node.operator in "+-":
        return [*terms_of(node.left), *terms_of(node.right)]
    return [node]


def every_line_holds(told: Told, given: Mapping[str, Known], truths: Mapping[str, complex]) -> int:
    """Works every line out anew; voltages and currents of the circuit itself are those analysed."""
    assert told.names is not None
    names = {n: k for n, k in told.names.items() if n in given}
    later = dict(told.names)
    count = 0
    for step in told.steps:
        if not step.line:
            continue
        count += 1
        if step.value is None:
            one, other = (evaluate(side, later) for side in sides_of(step.line))
            sides = [complex(one.value), complex(other.value)]
            terms = [t for side in sides_of(step.line) for t in terms_of(side.body)]
            largest = max(abs(complex(evaluate(Formula(None, t, ""), later).value)) for t in terms)
            assert one.dimension == other.dimension
            assert abs(sides[0] - sides[1]) <= 1e-6 * largest + 1e-11, step.line
            continue
        formula = parse(step.line)
        assert formula.target
        found = evaluate(formula, names)
        names[formula.target] = step.value
        alike = [abs(complex(k.value)) for k in later.values() if k.dimension == found.dimension]
        scale = max(abs(complex(step.value.value)), 1e-3 * max(alike))
        assert abs(complex(found.value) - complex(step.value.value)) <= 1e-3 * scale + 1e-11, (
            step.line
        )
        if formula.target in truths:
            truth = truths[formula.target]
            assert complex(step.value.value) == pytest.approx(truth, rel=1e-5, abs=1e-9), step.line
    return count


def test_every_line_of_every_way_in_random_circuits() -> None:
    """Against node voltages, currents and powers of the analyses: superposition, star and triangle among
    them."""
    random = np.random.default_rng(22)
    lines = {
        "nodes": 0,
        "meshes": 0,
        "reduction": 0,
        "superposition": 0,
        "thevenin": 0,
        "norton": 0,
        "transformation": 0,
    }
    stars = 0
    count = many(quick=120, deep=500)
    for k in range(count):
        is_moving = k % 3 == 2
        circuit = random_circuit(random, is_moving)
        part = circuit.elements[random.integers(len(circuit.elements))].name
        node = circuit.nodes[-1]
        figure = str(
            random.choice([f"V_{node}", f"I_{part}", *([] if is_moving else [f"P_{part}"])])
        )
        told = workings(
            circuit, figure, "phasor" if is_moving else "rest", 1e3 if is_moving else None
        )
        at = phasors(circuit, 1e3) if is_moving else operating_point(circuit)
        truths: dict[str, complex] = {f"V_{n}": complex(v) for n, v in at.voltages.items()}
        truths |= {f"I_{n}": complex(i) for n, i in at.currents.items()}
        given = {e.name: Known(0.0, VOLTAGE) for e in circuit} | {"f": Known(0.0, VOLTAGE)}
        leading = [each for each in told if each.steps]
        assert leading, (
            figure,
            [each.reason for each in told],
            [(e.name, e.nodes, dict(e.values)) for e in circuit],
        )
        for each in leading:
            lines[each.key] += every_line_holds(each, given, truths)
            stars += sum("triangle" in s.sentence for s in each.steps)
            wanted = at.powers[part] if figure[0] == "P" else truths.get(figure)
            assert value(each) == pytest.approx(wanted, rel=1e-5, abs=1e-9)
    assert min(lines.values()) > 0.1 * count
    assert stars > 0.04 * count


def with_controlled(circuit: Circuit, random: np.random.Generator) -> Circuit:
    """With one or two controlled sources or transformers, each with a load."""
    elements, nodes = list(circuit.elements), ["0", *circuit.nodes]
    sensed = [e.name for e in elements if e.kind in ("resistor", "voltage_source")]
    for k in range(random.integers(1, 3)):
        a, b = map(str, random.choice(nodes, 2, replace=False))
        gain, new = float(f"{random.uniform(-5, 5):.3g}"), f"z{k}"
        size = 10 ** random.uniform(2, 4)
        load = Element(f"RX{k}", "resistor", (new, a), {"resistance": float(f"{size:.3g}")})
        kinds = ["voltage_controlled_voltage", "voltage_controlled_current", "transformer"]
        kinds += ["current_controlled_voltage", "current_controlled_current"] if sensed else []
        kind = str(random.choice(kinds))
        if kind == "transformer":
            source = Element(f"T{k}", kind, (a, "0", new, "0"), {"ratio": abs(gain) + 0.1})
        elif kind.startswith("voltage"):
            size = gain if kind.endswith("voltage") else 1e-3 * gain
            source = Element(f"E{k}", kind, (new, "0", a, b), {"gain": size})
        else:
            size = 1e3 * gain if kind.endswith("voltage") else gain
            by = (str(random.choice(sensed)),)
            source = Element(f"F{k}", kind, (new, "0"), {"gain": size}, refers=by)
        elements += [source, load]
    return Circuit("controlled", tuple(elements))


def test_controlled_sources_and_transformers_in_random_circuits(
    caplog: pytest.LogCaptureFixture,
) -> None:
    """Against the analyses; what does not hold in numbers would be logged."""
    random = np.random.default_rng(7)
    tried = led = 0
    for k in range(many(quick=100, deep=1000)):
        is_moving = k % 3 == 2
        circuit = with_controlled(random_circuit(random, is_moving), random)
        try:
            at = phasors(circuit, 1e3) if is_moving else operating_point(circuit)
        except CircuitError:  # sources around a loop, and the like
            continue
        part = str(random.choice(sorted(at.currents)))
        figure, truth = max(
            (f"V_{circuit.nodes[-1]}", at.voltages[circuit.nodes[-1]]), (f"I_{part}", at.currents[part]),
            key=lambda _: random.random(),
        )  # fmt: skip
        told = workings(
            circuit, figure, "phasor" if is_moving else "rest", 1e3 if is_moving else None
        )
        tried += 1
        led += any(each.steps for each in told)
        for each in told:
            assert not each.steps or value(each) == pytest.approx(truth, rel=1e-5, abs=1e-9)
    assert led > 0.8 * tried > 20
    assert not caplog.records
