"""From the drawing to nodes, and what is said of drawings that are no circuit."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path

import networkx as nx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucidbench.core.document.exercise import Exercise, read_exercise
from lucidbench.core.evaluate import Evaluation, evaluation_of
from lucidbench.core.schematic import (
    Junction,
    Label,
    NumberedNode,
    Part,
    Schematic,
    Wire,
    interpret,
    wiring,
)
from lucidbench.core.schematic.geometry import on_segment, pin_points
from tests.depth import examples

HOME = Path(__file__).parents[2]


def resistor(name: str, x: int, y: int, value: str = "1k", rotation: int = 0) -> Part:
    values = {"resistance": value, "tolerance": "5 %"}
    return Part(id=name, kind="resistor", name=name, values=values, at=(x, y), rotation=rotation)  # type: ignore[arg-type]


def source(name: str, x: int, y: int, value: str = "5V") -> Part:
    return Part(
        id=name, kind="voltage_source", name=name, values={"voltage": value}, at=(x, y), rotation=90
    )


def ground(x: int, y: int, name: str = "g") -> Part:
    return Part(id=name, kind="ground", name="GND", at=(x, y))


def wire(name: str, *points: tuple[int, int]) -> Wire:
    return Wire(id=name, points=list(points))


def divider() -> Schematic:
    """V1 from (0, 3) up to (0, -3); R1 and R2 in a row from its plus; ground at its minus."""
    return Schematic(
        parts=[
            source("V1", 0, 0),
            resistor("R1", 6, -3),
            resistor("R2", 9, 0, rotation=90),
            ground(0, 3),
        ],
        wires=[wire("w1", (0, -3), (3, -3)), wire("w2", (0, 3), (9, 3))],
        labels=[Label(id="l1", name="out", at=(9, -3))],
    )


def seen(schematic: Schematic) -> Evaluation:
    return evaluation_of(Exercise(schematic=schematic))


def codes(schematic: Schematic) -> list[str]:
    return [finding.code for finding in seen(schematic).findings]


def mended(schematic: Schematic, code: str, which: int = 0) -> Schematic:
    """The drawing after the mend, as the page applies it."""
    finding = next(f for f in seen(schematic).findings if f.code == code)
    mend = finding.mends[which]
    groups = {}
    for name in ("parts", "wires", "labels"):
        kept = {item.id: item for item in getattr(schematic, name) if item.id not in mend.remove}
        kept |= {item.id: item for item in getattr(mend, name)}
        groups[name] = list(kept.values())
    return schematic.model_copy(update=groups)


def test_pins_wires_and_touching_pins_make_nodes() -> None:
    result = seen(divider())
    assert result.findings == []
    values = {q.name: q.value for q in result.quantities}
    assert values["V_out"] == pytest.approx(2.5)
    assert {net.name for net in result.nets} == {"0", "out", "n1"}
    r1 = next(p for p in result.parts if p.id == "R1")
    assert r1.description == "R1, resistor, 1\u00a0kΩ, from n1 to out"


def test_crossing_wires_join_only_at_a_junction_or_an_end() -> None:
    crossing = Schematic(wires=[wire("a", (0, 0), (10, 0)), wire("b", (5, -5), (5, 5))])
    assert len(wiring(crossing).nets) == 2
    assert wiring(crossing).joints == []
    dotted = crossing.model_copy(update={"junctions": [Junction(id="j", at=(5, 0))]})
    assert len(wiring(dotted).nets) == 1
    assert wiring(dotted).joints == [(5, 0)]
    named = crossing.model_copy(update={"labels": [Label(id="l", name="a", at=(5, 0))]})
    assert len(wiring(named).nets) == 1
    assert wiring(named).joints == [(5, 0)]
    tee = Schematic(wires=[wire("a", (0, 0), (10, 0)), wire("b", (5, 0), (5, 5))])
    assert len(wiring(tee).nets) == 1
    assert wiring(tee).joints == [(5, 0)]
    # Laid over the other for a while, it parts from it at its corner; and there the dot stands.
    along = Schematic(wires=[wire("a", (0, 0), (10, 0)), wire("b", (3, 0), (7, 0), (7, 5))])
    assert len(wiring(along).nets) == 1
    assert wiring(along).joints == [(7, 0)]
    # A corner on a wire of another node, and a wire laid over another to its very end, are none.
    touching = Schematic(wires=[wire("a", (0, 0), (10, 0)), wire("b", (4, -5), (4, 0), (9, 5))])
    assert (len(wiring(touching).nets), wiring(touching).joints) == (2, [])
    twice = Schematic(wires=[wire("a", (0, 0), (10, 0)), wire("b", (3, 0), (10, 0))])
    assert (len(wiring(twice).nets), wiring(twice).joints) == (1, [])


def chain(*at: int) -> Schematic:
    """Resistors one after the other, each pin on that of the next, from the places given."""
    return Schematic(parts=[resistor(f"R{k}", x, 0) for k, x in enumerate(at, 1)])


def numbers(schematic: Schematic) -> dict[str, set[str]]:
    """Nodes that join something, by the parts they join."""
    nets = wiring(schematic).nets
    return {net.name: {pin.part for pin in net.pins} for net in nets if len(net.pins) > 1}


def numbered(schematic: Schematic, *gone: str) -> Schematic:
    """The drawing as the page keeps it once it was looked at."""
    nodes = [
        NumberedNode(name=net.name, pins=[(pin.part, pin.number) for pin in net.pins])
        for net in wiring(schematic).nets
        if len(net.pins) > 1 and not net.labels and not net.is_ground
    ]
    nodes += [NumberedNode(name=name) for name in gone]
    return schematic.model_copy(update={"nodes": nodes})


def test_a_number_stays_with_its_node() -> None:
    row = chain(0, 6, 12, 18)
    begun = {"n1": {"R1", "R2"}, "n2": {"R2", "R3"}, "n3": {"R3", "R4"}}
    assert numbers(row) == begun  # its loose ends have taken no number from them
    kept = numbered(row)
    far = [part.model_copy(update={"id": f"S{k}"}) for k, part in enumerate(chain(-20, -14).parts)]
    pasted = kept.model_copy(update={"parts": [*kept.parts, *far]})
    assert numbers(pasted) == {**begun, "n4": {"S0", "S1"}}
    turned = [kept.parts[0].model_copy(update={"at": (3, 3), "rotation": 270}), *kept.parts[1:]]
    assert numbers(kept.model_copy(update={"parts": turned})) == begun
    # Without its first part the others keep theirs, and what comes next takes the one that is free,
    # unless it is still spoken of.
    left = kept.model_copy(update={"parts": kept.parts[1:]})
    assert numbers(left) == {"n2": {"R2", "R3"}, "n3": {"R3", "R4"}}
    for again, name in ((numbered(left), "n1"), (numbered(left, "n1"), "n4")):
        more = again.model_copy(update={"parts": [*again.parts, *far]})
        assert numbers(more) == {**numbers(left), name: {"S0", "S1"}}
    # Joined, and parted again, the larger piece has the number.
    joined = kept.model_copy(
        update={
            "wires": [wire("w", (3, 0), (9, 0))],
            "parts": [*kept.parts, resistor("R5", 3, 3, rotation=90)],
        }
    )
    assert numbers(joined) == {"n1": {"R1", "R2", "R3", "R5"}, "n3": {"R3", "R4"}}
    parted = numbered(joined).model_copy(update={"wires": []})
    assert numbers(parted) == {"n1": {"R1", "R2", "R5"}, "n2": {"R2", "R3"}, "n3": {"R3", "R4"}}
    # A name that somebody gives to another node is that node's.
    labelled = kept.model_copy(update={"labels": [Label(id="l", name="n1", at=(15, 0))]})
    assert numbers(labelled) == {"n4": {"R1", "R2"}, "n2": {"R2", "R3"}, "n1": {"R3", "R4"}}


@examples(60)
@given(
    rotation=st.sampled_from([0, 90, 180, 270]),
    mirror=st.booleans(),
    dx=st.integers(-500, 500),
    dy=st.integers(-500, 500),
)
def test_moving_turning_and_mirroring_all_changes_nothing(
    rotation: int, mirror: bool, dx: int, dy: int
) -> None:
    """The meaning of a drawing does not depend on where or which way round it is drawn."""

    def point(p: tuple[int, int]) -> tuple[int, int]:
        x, y = (-p[0] if mirror else p[0]), p[1]
        for _ in range(rotation // 90):
            x, y = -y, x
        return x + dx, y + dy

    def part(p: Part) -> Part:
        turned = (-p.rotation if mirror else p.rotation) + rotation
        change = {"at": point(p.at), "rotation": turned % 360, "mirror": p.mirror != mirror}
        return p.model_copy(update=change)

    plain = divider()
    moved = Schematic(
        parts=[part(p) for p in plain.parts],
        wires=[w.model_copy(update={"points": [point(p) for p in w.points]}) for w in plain.wires],
        labels=[m.model_copy(update={"at": point(m.at)}) for m in plain.labels],
    )
    values = {q.name: q.value for q in seen(moved).quantities}
    assert values["V_out"] == pytest.approx(2.5)
    assert values["I_R1"] == pytest.approx(2.5e-3)


def test_no_ground_and_its_mend() -> None:
    plain = divider()
    bare = plain.model_copy(update={"parts": plain.parts[:-1]})
    assert codes(bare) == ["no_ground"]
    assert seen(bare).findings[0].place.points == [(0, 3)]  # at the source's minus
    assert seen(bare).unsolved
    assert codes(mended(bare, "no_ground")) == []
    ground = plain.parts[-1].model_copy(update={"at": (40, 40)})
    apart = plain.model_copy(update={"parts": [*plain.parts[:-1], ground]})
    assert "draw a wire to it" in seen(apart).findings[0].sentence
    second = ground.model_copy(update={"id": "g2", "at": (50, 40)})
    loose = apart.model_copy(update={"wires": [], "parts": [*apart.parts, second]})
    (third,) = seen(loose).findings[0].mends[0].parts
    assert third.at == (0, 3)


def test_an_island_is_told_and_the_rest_is_solved() -> None:
    plain = divider()
    island = [resistor("R8", 30, 0), resistor("R9", 30, 6)]
    wires = [wire("i1", (27, 0), (27, 6)), wire("i2", (33, 0), (33, 6))]
    both = plain.model_copy(
        update={"parts": [*plain.parts, *island], "wires": [*plain.wires, *wires]}
    )
    (finding,) = seen(both).findings
    assert finding.code == "floating"
    assert "R8 and R9 have no path to ground" in finding.sentence
    assert {q.name for q in seen(both).quantities} >= {"V_out", "I_R1"}
    assert codes(mended(both, "floating")) == []


@pytest.mark.parametrize(
    ("value", "says", "after"),
    [
        ("", "a value is missing", "1k"),
        ("22U", "not a prefix", "22µ"),
        ("0", "resistance is zero", None),
        ("-3", "resistance is negative", "1k"),
        ("4.7m", "unusually small", "4.7 MΩ"),
        ("abc", "does not begin with a number", None),
    ],
)
def test_values_are_questioned(value: str, says: str, after: str | None) -> None:
    plain = divider()
    parts = [p if p.name != "R1" else resistor("R1", 6, -3, value) for p in plain.parts]
    drawing = plain.model_copy(update={"parts": parts})
    finding = seen(drawing).findings[0]
    assert finding.sentence.startswith("R1")
    assert says in finding.sentence
    assert finding.place.parts == ["R1"]
    if after:
        mend = mended(drawing, finding.code)
        assert next(p for p in mend.parts if p.name == "R1").values["resistance"] == after
    if value == "0":  # a wire in its place leaves a circuit
        assert codes(mended(drawing, "value")) == []


def test_names_are_checked() -> None:
    plain = divider()
    two = [*plain.labels, Label(id="l2", name="tap", at=(9, -3))]
    drawing = plain.model_copy(update={"labels": two})
    assert codes(drawing) == ["several_names"]
    assert codes(mended(drawing, "several_names", 1)) == []

    shared = [*plain.labels, Label(id="l2", name="out", at=(1, -3))]
    drawing = plain.model_copy(update={"labels": shared})
    assert set(codes(drawing)) == {"shared_name", "shorted"}  # the name has shorted R1
    again = mended(drawing, "shared_name")
    assert codes(again) == []
    assert {net.name for net in seen(again).nets} >= {"out", "out_2"}

    parts = [p if p.name != "R2" else p.model_copy(update={"name": "R1"}) for p in plain.parts]
    drawing = plain.model_copy(update={"parts": parts})
    assert codes(drawing) == ["duplicate_name"]
    assert codes(mended(drawing, "duplicate_name")) == []


def test_shorted_open_and_looped_parts() -> None:
    plain = divider()
    short = plain.model_copy(
        update={"wires": [*plain.wires, wire("s", (3, -3), (3, -6), (9, -6), (9, -3))]}
    )
    assert codes(short) == ["shorted"]
    assert "R1 is shorted by a wire" in seen(short).findings[0].sentence

    loose = plain.model_copy(update={"parts": [*plain.parts, resistor("R3", 12, -3)]})
    (finding,) = seen(loose).findings
    assert (finding.code, finding.place.points) == ("open_pin", [(15, -3)])
    alone = plain.model_copy(update={"parts": [*plain.parts, resistor("R3", 40, 40)]})
    assert "R3 is not connected to anything" in seen(alone).findings[0].sentence
    assert codes(mended(alone, "open_pin")) == []

    second = plain.model_copy(
        update={
            "parts": [*plain.parts, source("V2", -6, 0)],
            "wires": [*plain.wires, wire("x", (-6, -3), (0, -3)), wire("y", (-6, 3), (0, 3))],
        }
    )
    (finding,) = seen(second).findings
    assert finding.code == "voltage_loop"
    assert "V1 and V2 form a loop" in finding.sentence
    assert finding.place.parts == ["V1", "V2"]


@pytest.mark.parametrize(
    ("typed", "kind", "detail"),
    [
        ("4k7", "resistor", "4.7 kΩ"),
        ("5V", "voltage_source", "5 V"),
        ("2mA", "current_source", "2 mA"),
        ("gnd", "ground", ""),
        ("res", "resistor", "1 kΩ"),
        ("r 330", "resistor", "330 Ω"),
        ("100n", "capacitor", "100 nF"),  # a resistor of 100 nΩ is not likely
        ("npn", "npn", "β 180"),
        ("zener 3.3V", "zener", "3.3 V"),
        ("sine 1kHz 2V", "voltage_source", "2 V 1 kHz"),
        ("square 10mA 20% 50Hz", "current_source", "0 A 10 mA 50 Hz, duty cycle 20 %"),
        ("step 5V 1ms", "voltage_source", "0 V 5 V, at 1 ms"),
        ("5 V 50 Hz", "voltage_source", "5 V 50 Hz"),
        ("2V 1kHz triangle wave", "voltage_source", "0 V 2 V 1 kHz"),
        ("opamp", "opamp", ""),
        ("out", None, "name the node here"),
    ],
)
def test_typing_to_place(typed: str, kind: str | None, detail: str) -> None:
    first = next(
        p for p in interpret(typed).placements if kind is None or typed != "res" or p.kind == kind
    )
    assert (first.kind, first.detail.replace("\u00a0", " ")) == (kind, detail)


@pytest.mark.parametrize(
    ("typed", "label"),
    [
        ("R7 47k", "Resistor R7"),
        ("C_load 10n", "Capacitor C_load"),
        ("V2 sine 1kHz 2V", "Sine voltage V2"),
        ("Q1 npn", "NPN transistor Q1"),
        ("D3", "Diode D3"),
    ],
)
def test_typing_a_part_by_its_own_name(typed: str, label: str) -> None:
    first = interpret(typed).placements[0]
    assert (first.label, first.name) == (label, typed.split()[0])


def test_a_kind_called_by_its_name_is_not_offered_beside_others() -> None:
    assert [p.label for p in interpret("resistor 10k").placements] == ["Resistor"]
    assert [p.style for p in interpret("vcc").placements[:2]] == ["supply", "name"]


def test_typing_what_cannot_be_placed_is_helped() -> None:
    assert [c.text for c in interpret("R7 22U").corrections] == ["R7 22µ"]
    helped = interpret("22U")
    assert helped.placements == []
    assert [c.text for c in helped.corrections] == ["22µ"]
    assert interpret("???").problem


def kept(given: object, raw: object) -> bool:
    """Whether everything in `raw` is in `given`; what is left out in `raw` has its default there."""
    if isinstance(raw, dict):
        return isinstance(given, dict) and all(kept(given.get(k), v) for k, v in raw.items())
    if isinstance(raw, list):
        return isinstance(given, list) and all(map(kept, given, raw)) and len(given) == len(raw)
    return given == raw


def test_examples_are_tidy_and_round_trip() -> None:
    """Every example is without findings, and unknown fields come back as they were."""
    for path in sorted((HOME / "examples").glob("*.json")):
        raw = json.loads(path.read_text())
        raw["from_a_later_version"] = {"kept": [1, 2]}
        raw["schematic"]["parts"][0]["colour"] = "blue"
        document = read_exercise(json.dumps(raw))
        assert kept(json.loads(document.model_dump_json()), raw)
        result = evaluation_of(document)
        assert result.findings == []
        assert all(line.problem is None for line in result.lines)


_points = st.tuples(st.integers(-12, 12), st.integers(-12, 12))
_parts = st.builds(
    Part,
    id=st.text(min_size=1, max_size=4),
    kind=st.sampled_from(["resistor", "voltage_source", "current_source", "ground", "mystery"]),
    name=st.text(max_size=4),
    values=st.dictionaries(
        st.sampled_from(["resistance", "voltage", "current"]), st.text(max_size=5)
    ),
    at=_points,
    rotation=st.sampled_from([0, 90, 180, 270]),
    mirror=st.booleans(),
)
_schematics = st.builds(
    Schematic,
    parts=st.lists(_parts, max_size=6, unique_by=lambda p: p.id),
    wires=st.lists(
        st.builds(
            Wire,
            id=st.text(min_size=1, max_size=4),
            points=st.lists(_points, min_size=2, max_size=4),
        ),
        max_size=6,
        unique_by=lambda w: w.id,
    ),
    labels=st.lists(
        st.builds(Label, id=st.text(min_size=1, max_size=4), name=st.text(max_size=4), at=_points),
        max_size=4,
        unique_by=lambda m: m.id,
    ),
)


@examples(200)
@given(_schematics)
def test_any_drawing_can_be_looked_at(schematic: Schematic) -> None:
    """Whatever is drawn, the look answers: figures, or the reason why there are none."""
    result = seen(schematic)
    assert bool(result.quantities) != bool(result.unsolved)


@st.composite
def drawings(draw: st.DrawFn) -> Schematic:
    """Resistors, grounds, wires, names and junctions thrown on a small sheet, so that much touches."""
    spot = st.tuples(st.integers(0, 12), st.integers(0, 12))
    turned = st.sampled_from([0, 90, 180, 270])
    parts = [
        resistor(f"R{k}", *draw(spot), rotation=draw(turned))
        for k in range(draw(st.integers(0, 6)))
    ]
    parts += [ground(*draw(spot), name=f"g{k}") for k in range(draw(st.integers(0, 2)))]
    wires = []
    for k in range(draw(st.integers(0, 8))):
        x, y = draw(spot)
        points = [(x, y)]
        for across in draw(st.lists(st.booleans(), min_size=1, max_size=3)):
            to = draw(st.integers(0, 12))
            points.append((to, points[-1][1]) if across else (points[-1][0], to))
        wires.append(wire(f"w{k}", *points))
    names = st.sampled_from(["a", "b"])
    labels = [
        Label(id=f"l{k}", name=draw(names), at=draw(spot)) for k in range(draw(st.integers(0, 3)))
    ]
    dots = [Junction(id=f"j{k}", at=draw(spot)) for k in range(draw(st.integers(0, 3)))]
    return Schematic(parts=parts, wires=wires, labels=labels, junctions=dots)


@examples(200)
@given(drawings())
def test_nodes_are_the_connected_components(schematic: Schematic) -> None:
    """Net extraction against NetworkX: every touching pair told to a plain graph, its components taken."""
    graph = nx.Graph()

    def touching(point: tuple[int, int]) -> list[str]:
        return [
            w.id for w in schematic.wires
            if any(on_segment(point, a, b) for a, b in pairwise(w.points))
        ]  # fmt: skip

    for w in schematic.wires:
        graph.add_node(w.id)
        for end in (w.points[0], w.points[-1]):
            graph.add_edges_from((w.id, other) for other in touching(end))
    for place in (*schematic.junctions, *schematic.labels):
        graph.add_edges_from((place.at, other) for other in touching(place.at))
    graph.add_edges_from((label.at, f"name {label.name}") for label in schematic.labels)
    for drawn in schematic.parts:
        for index, point in enumerate(pin_points(drawn)):
            graph.add_edge((drawn.id, index), point)
            graph.add_edges_from((point, other) for other in touching(point))
            if drawn.kind == "ground":
                graph.add_edge(point, "ground")
    pins = {(p.id, k) for p in schematic.parts for k in range(len(pin_points(p)))}
    expected = {frozenset(part & pins) for part in nx.connected_components(graph)} - {frozenset()}
    found = {
        frozenset((pin.part, pin.number) for pin in net.pins) for net in wiring(schematic).nets
    } - {frozenset()}
    assert found == expected
