"""What a result depends on shows in the circuit's fingerprint."""

from __future__ import annotations

from dataclasses import fields, replace

from lucidbench.core.devices.waveforms import Sine
from lucidbench.core.netlist import Element
from tests.core.circuits import circuit


def test_every_field_of_an_element_and_of_a_circuit_is_in_the_fingerprint() -> None:
    plain = circuit("V1 a 0 1", "V2 b 0 1", "F1 0 c V1 2", "R1 c 0 1k")
    other = {
        "name": "F2",
        "kind": "current_controlled_voltage",
        "nodes": ("0", "b"),
        "values": {"gain": 3.0},
        "spreads": {"gain": 0.1},
        "form": "other",
        "waveform": Sine(0.0, 1.0, 1e3),
        "refers": ("V2",),
        "program": (1.0,),
    }
    assert set(other) == {field.name for field in fields(Element)}
    sensing = plain.element("F1")
    seen = {plain.fingerprint}
    for key, value in other.items():
        changed = replace(sensing, **{key: value})
        elements = tuple(changed if e is sensing else e for e in plain)
        seen.add(replace(plain, elements=elements).fingerprint)
    seen.add(replace(plain, temperature=310.0).fingerprint)
    seen.add(replace(plain, near={"a": 1.0}).fingerprint)
    seen.add(replace(plain, parameters={"x": 1.0}).fingerprint)
    assert len(seen) == 1 + len(other) + 3
    # How it is titled, or where it was read from, changes nothing.
    assert replace(plain, title="another").fingerprint == plain.fingerprint
