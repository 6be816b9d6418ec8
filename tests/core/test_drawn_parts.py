"""Drawn parts of every kind: what they mean to the analyses, with parameters, formulas and blocks."""

from __future__ import annotations

import math

import pytest

from lucidbench.core.analyses import TransientSettings, dc_sweep, operating_point, transient
from lucidbench.core.devices import CATALOGUE, DEVICES
from lucidbench.core.document.exercise import Exercise
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.netlist import read_netlist, write_netlist
from lucidbench.core.schematic import (
    Block,
    Label,
    NamedValue,
    Part,
    Port,
    Schematic,
    Wire,
    read_drawing,
)
from lucidbench.core.schematic.geometry import pin_points
from lucidbench.core.schematic.reading import Reading


def part(
    kind: str, name: str, nodes: str, x: int = 0, form: str = "", **values: str
) -> tuple[Part, list[Label]]:
    """A part in a place of its own, with a label at each pin; node "0" is a ground of its own."""
    drawn = Part(
        id=name, kind=kind, name=name, form=form, at=(x, 0),
        values={**CATALOGUE[kind].starting_values, **values},
    )  # fmt: skip
    labels = [
        Label(id=f"{name}{k}", name=node, at=at)
        for k, (node, at) in enumerate(zip(nodes.split(), pin_points(drawn), strict=True))
    ]
    return drawn, labels


def sheet(*parts: tuple[Part, list[Label]]) -> Schematic:
    """The parts side by side, joined by the names at their pins."""
    placed, labels, grounds = [], [], []
    for k, (drawn, named) in enumerate(parts):
        moved = drawn.model_copy(update={"at": (20 * k, 0)})
        for label in named:
            at = (label.at[0] + 20 * k - drawn.at[0], label.at[1])
            if label.name == "0":
                grounds.append(Part(id=f"g{label.id}", kind="ground", name="GND", at=at))
            else:
                labels.append(label.model_copy(update={"at": at}))
        placed.append(moved)
    return Schematic(parts=[*placed, *grounds], labels=labels)


def read(*parts: tuple[Part, list[Label]], parameters: dict[str, str] | None = None) -> Reading:
    named = [NamedValue(id=n, name=n, text=t) for n, t in (parameters or {}).items()]
    return read_drawing(sheet(*parts), "a drawing", named)


def faults(reading: Reading) -> list[str]:
    return [f.sentence for f in reading.findings if f.severity == "fault"]


@pytest.mark.parametrize("kind", [d.kind for d in CATALOGUE.values() if d.element])
def test_a_new_part_of_every_kind_is_understood(kind: str) -> None:
    """As it comes from the tray: pins as its element has, values without complaint, a netlist line."""
    description = CATALOGUE[kind]
    device = DEVICES[description.element].description
    nodes = " ".join(f"n{k}" for k in range(len(description.symbol.pins)))
    wants = {p.key for p in description.parameters if p.reads in ("part", "formula")}
    given = dict.fromkeys(wants, "V9") if "formula" not in wants else {"formula": "2*V_n0"}
    for key in ("first_coil", "second_coil"):
        if key in wants:
            given[key] = "L9" if key == "first_coil" else "L8"
    reading = read(
        part(kind, "X1", nodes, **given), part("voltage_source", "V9", "n0 0"),
        part("inductor", "L9", "p 0"), part("inductor", "L8", "q 0"),
    )  # fmt: skip
    assert not [v.problem for v in reading.values["X1"] if v.problem]
    element = reading.circuit.element("X1")
    if not description.element.startswith("formula"):  # sensed nodes follow the pins
        assert len(element.nodes) == len(device.pins)
    again = read_netlist(write_netlist(reading.circuit)).circuit
    assert [e.kind for e in again] == [e.kind for e in reading.circuit]


def test_forms_of_a_source_are_what_they_say() -> None:
    # Values at 0.3 ms straight from each shape's definition.
    at = 0.3e-3
    expected = {
        "sine": 0.5 + 2 * math.sin(2 * math.pi * 1e3 * at + math.pi / 6),
        "square": 4.0,
        "step": 4.0,
        "triangle": 1 + 3 * 0.6,
        "sawtooth": 1 + 3 * 0.3,
        "pulse": 4.0,
        "exponential": 1 + 3 * (1 - math.exp(-0.3)),
        "piecewise": 3.0,
        "samples": 1.5,
    }
    for form, value in expected.items():
        reading = read(
            part("voltage_source", "V1", "a 0", form=form, amplitude="2 V", offset="0.5 V",
                 start_phase="30", low="1 V", high="4 V", frequency="1 kHz", width="1 ms",
                 from_level="1 V", to_level="4 V", step_at="0.2 ms",
                 points="0 0, 1m 10", samples="0 5 1", interval="1 ms"),
            part("resistor", "R1", "a 0"),
        )  # fmt: skip
        assert not faults(reading), form
        run = transient(reading.circuit, TransientSettings(0.4e-3))
        import numpy as np

        assert run.trace("V_a", np.array([at]))[0] == pytest.approx(value, rel=1e-6), form
    sine = read(part("voltage_source", "V1", "a 0", form="sine", amplitude="2 V", offset="0.5 V"))
    source = sine.circuit.element("V1")
    assert source.values["magnitude"] == 2.0  # its own phasor
    assert source.values["voltage"] == 0.5  # its value at DC


def test_a_textbook_part_leaves_its_imperfections_out_and_keeps_them() -> None:
    # A coil of 10 Ω winding across 1 V takes 100 mA at DC; an ideal one is a wire and shorts the source.
    source, (coil, labels) = (
        part("voltage_source", "V1", "a 0", voltage="1 V"),
        part("inductor", "L1", "a 0", series_resistance="10"),
    )
    practical = read(source, (coil, labels))
    assert operating_point(practical.circuit).currents["L1"] == pytest.approx(0.1)
    ideal = coil.model_copy(update={"textbook": True})
    assert any("plain wire" in f for f in faults(read(source, (ideal, labels))))
    assert ideal.values["series_resistance"] == "10"


def test_parameters_give_values_and_are_checked() -> None:
    # f_c = 1/(2πRC): the design of a low-pass, any circuits text.
    parts = (
        part("voltage_source", "V1", "a 0", voltage="2*U_0"),
        part("resistor", "R1", "a b", resistance="R_1"),
        part("capacitor", "C1", "b 0", capacitance="1/(2*pi*f_c*R_1)"),
        part("resistor", "R2", "b 0", resistance="3*R_1"),
    )
    named = {"f_c": "1 kHz", "R_1": "10 kΩ", "U_0": "2 V"}
    reading = read(*parts, parameters=named)
    assert not faults(reading)
    assert reading.circuit.element("C1").values["capacitance"] == pytest.approx(1 / (2e7 * math.pi))
    assert operating_point(reading.circuit).voltages["b"] == pytest.approx(3.0)
    swept = dc_sweep(reading.circuit, "U_0", [1.0, 3.0])
    assert swept.traces["V_b"] == pytest.approx([1.5, 4.5])
    circular = read(*parts, parameters={**named, "R_1": "2*R_2", "R_2": "R_1/2"})
    assert "circle" in circular.wrong["R_1"]
    wrong = read(*parts, parameters={**named, "R_1": "10 kV"})
    assert any("a resistance is wanted" in fault for fault in faults(wrong))


def test_formula_sources_and_sensed_currents() -> None:
    reading = read(
        part("voltage_source", "V1", "a 0", voltage="3 V"),
        part("resistor", "R1", "a 0", resistance="1k"),
        part("formula_voltage", "B1", "b 0", formula="k*V_a^2 + 1000*I_V1"),
        part("resistor", "R2", "b 0"),
        part("current_controlled_current", "F1", "c 0", gain="2", senses="V1"),
        part("resistor", "R3", "c 0", resistance="1k"),
        parameters={"k": "2"},
    )
    assert not faults(reading)
    point = operating_point(reading.circuit)
    assert point.voltages["b"] == pytest.approx(
        2 * 9 - 3
    )  # I_V1 = -3 mA, from + through the source
    assert point.voltages["c"] == pytest.approx(6)
    lost = read(
        part("formula_voltage", "B1", "b 0", formula="2*V_q"), part("resistor", "R2", "b 0")
    )
    assert any("no node called q" in fault for fault in faults(lost))
    unsensing = read(part("current_controlled_current", "F1", "c 0"), part("resistor", "R3", "c 0"))
    assert any("name of a part" in fault for fault in faults(unsensing))


def pad(block: str = "pad") -> Block:
    """An L pad: R_s in series, R_p to ground; ports in and out."""
    inner = sheet(
        part("resistor", "R1", "in out", resistance="R_s"),
        part("resistor", "R2", "out 0", resistance="R_p"),
    )
    named = [NamedValue(id=n, name=n, text=t) for n, t in (("R_s", "1 kΩ"), ("R_p", "R_s"))]
    ports = [Port(name="in", at=(-5, 0)), Port(name="out", at=(5, 0))]
    return Block(id=block, name="Derivation", schematic=inner, ports=ports, parameters=named)


def cascade(**values: str) -> Exercise:
    """Two pads in a row behind 8 V."""
    uses = [
        Part(id=f"X{k}", kind="block", block="pad", name=f"X{k}", at=(10 * k, 0), values=values)
        for k in (1, 2)
    ]
    source = Part(id="V1", kind="voltage_source", name="V1", at=(0, 3), rotation=90,
                  values={"voltage": "8 V"})  # fmt: skip
    return Exercise(
        schematic=Schematic(
            parts=[*uses, source, Part(id="g", kind="ground", name="GND", at=(0, 6))],
            wires=[Wire(id="w", points=[(0, 0), (5, 0)])],
            labels=[Label(id="l1", name="mid", at=(15, 0)), Label(id="l2", name="out", at=(25, 0))],
        ),
        blocks=[pad()],
    )


def test_blocks_unfold_with_their_own_values() -> None:
    # Two equal L pads of 1 kΩ: the second loads the first, V_mid = 8·(2/3)/(1 + 2/3), V_out half of it.
    seen = {q.name: q.value for q in evaluation_of(cascade()).quantities}
    assert seen["V_mid"] == pytest.approx(8 * (2 / 3) / (5 / 3))
    assert seen["V_out"] == pytest.approx(seen["V_mid"] / 2)
    lighter = {q.name: q.value for q in evaluation_of(cascade(R_p="1 MΩ")).quantities}
    assert lighter["V_out"] > 7.9
    inside = evaluation_of(cascade(), inside="pad")
    assert {q.name: q.value for q in inside.quantities}["V_out"] == pytest.approx(seen["V_mid"])
    assert not [f for f in inside.findings if f.severity == "fault"]
    within_itself = cascade()
    within_itself.blocks[0].schematic.parts.append(
        Part(id="Xx", kind="block", block="pad", name="Xx", at=(90, 0))
    )
    assert any("holds itself" in f.sentence for f in evaluation_of(within_itself).findings)
    gone = cascade().model_copy(update={"blocks": []})
    assert any("not known here" in f.sentence for f in evaluation_of(gone).findings)


def test_figures_of_a_transistor_are_told_by_pin() -> None:
    reading = sheet(
        part("voltage_source", "V1", "vcc 0", voltage="12 V"),
        part("resistor", "RB", "vcc b", resistance="1M"),
        part("resistor", "RC", "vcc c", resistance="2.2k"),
        part("npn", "Q1", "c b 0", form="fixed"),
    )
    seen = {q.name: q for q in evaluation_of(Exercise(schematic=reading)).quantities}
    # V_BE = 0.7 V and β = 180 (textbook form): I_C = 180·11.3 V/1 MΩ.
    assert seen["I_Q1.C"].value == pytest.approx(180 * 11.3e-6, rel=1e-3)
    assert seen["I_Q1.C"].meaning == "current into C of Q1"


def test_blocks_within_blocks_are_bounded() -> None:
    """Ten uses in each of nine blocks are a thousand million: refused with a sentence, at once."""
    blocks = [
        Block(
            id=f"b{k}",
            name=f"B{k}",
            schematic=Schematic(
                parts=[
                    Part(id=f"p{j}", kind="block", block=f"b{k + 1}", name=f"X{j}", at=(0, 20 * j))
                    for j in range(10 if k < 9 else 0)
                ]
            ),
        )
        for k in range(10)
    ]
    top = Schematic(parts=[Part(id="p", kind="block", block="b0", name="X", at=(0, 0))])
    findings = evaluation_of(Exercise(schematic=top, blocks=blocks)).findings
    assert any("more than 5,000 times" in f.sentence for f in findings)
