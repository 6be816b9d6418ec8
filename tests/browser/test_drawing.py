"""Whole circuits drawn from an empty sheet, as a person would, against those in the example files."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from lucidbench.core.document.exercise import read_exercise
from lucidbench.core.evaluate import evaluation_of
from lucidbench.core.schematic import Part
from lucidbench.core.schematic.geometry import pin_points
from tests.browser.hands import (
    begin_empty,
    message,
    name_node,
    open_exercise,
    part,
    place,
    saved,
    sheet,
)

EXAMPLES = Path(__file__).parents[2] / "examples"
Spot = tuple[int, int]
STRIDE = 5  # grid units of an arrow key with Shift


def example(name: str) -> dict[str, Any]:
    return dict(json.loads((EXAMPLES / f"{name}.json").read_text()))


def typed(part: dict[str, Any]) -> str:
    """What a person would type to place it."""
    kind, values = part["kind"], part["values"]
    words = {"npn": "npn", "unijunction": "ujt", "ground": "gnd", "opamp": "opamp"}
    if kind in words:
        return words[kind]
    if part.get("form") == "sine":
        return f"sine {values['amplitude']} {values['frequency']}".replace(" m", "m").replace(
            " k", "k"
        )
    main = {"resistor": "resistance", "capacitor": "capacitance", "voltage_source": "voltage"}[kind]
    return str(values[main]).replace(" ", "")


def turns(part: dict[str, Any]) -> int:
    """How often R is pressed: sources come upright, the rest lying."""
    as_placed = 90 if part["kind"] == "voltage_source" else 0
    return (part["rotation"] - as_placed) % 360 // 90


def on_the_way(start: Spot, end: Spot) -> set[Spot]:
    """Every grid point of a straight piece."""
    (x1, y1), (x2, y2) = sorted((start, end))
    return {(x, y) for x in range(x1, x2 + 1) for y in range(min(y1, y2), max(y1, y2) + 1)}


class Mouse:
    """Places and wires with the mouse, typing only values and names."""

    def __init__(self, page: Page, shift: tuple[int, int]) -> None:
        self.page, self.shift = page, shift

    def spot(self, point: list[int]) -> tuple[float, float]:
        # Both at one moment: the sheet grows and shrinks as findings come and go below it.
        left, top, wide, box = sheet(self.page).evaluate(
            "e => { const svg = e.querySelector('svg'); const r = svg.getBoundingClientRect();"
            " return [r.x, r.y, r.width, svg.getAttribute('viewBox')] }"
        )
        x, y, width, _ = map(float, box.split())
        scale = wide / width
        at = (point[0] + self.shift[0], point[1] + self.shift[1])
        return left + (at[0] - x) * scale, top + (at[1] - y) * scale

    def put(self, text: str, turned: int, at: list[int]) -> None:
        place(self.page, text)
        for _ in range(turned):
            self.page.keyboard.press("r")
        self.page.mouse.move(*self.spot(at))
        self.page.mouse.click(*self.spot(at))

    def wire(self, points: list[list[int]], loose: bool = False) -> None:
        """Along `points`; with `loose` the last of them is empty paper, where twice ends it."""
        self.page.get_by_role("button", name="Draw a wire").click()
        for point in (*points, *([points[-1]] if loose else [])):
            self.page.mouse.move(*self.spot(point))
            self.page.mouse.click(*self.spot(point))

    def name(self, text: str, at: list[int]) -> None:
        self.page.mouse.move(*self.spot(at))
        name_node(self.page, text)


class Keys:
    """The same by keyboard alone."""

    def __init__(self, page: Page, shift: tuple[int, int]) -> None:
        self.page, self.shift, self.at = page, shift, (0, 0)

    def go(self, point: list[int]) -> None:
        to = (point[0] + self.shift[0], point[1] + self.shift[1])
        for axis, (less, more) in enumerate((("Left", "Right"), ("Up", "Down"))):
            way = to[axis] - self.at[axis]
            arrow = f"Arrow{more if way > 0 else less}"
            for _ in range(abs(way) // STRIDE):
                self.page.keyboard.press(f"Shift+{arrow}")
            for _ in range(abs(way) % STRIDE):
                self.page.keyboard.press(arrow)
        self.at = to

    def put(self, text: str, turned: int, at: list[int]) -> None:
        place(self.page, text)
        for _ in range(turned):
            self.page.keyboard.press("r")
        self.go(at)
        self.page.keyboard.press("Enter")

    def wire(self, points: list[list[int]], loose: bool = False) -> None:
        self.go(points[0])
        self.page.keyboard.press("w")
        for point in (*points[1:], *([points[-1]] if loose else [])):
            self.go(point)
            self.page.keyboard.press("Enter")

    def name(self, text: str, at: list[int]) -> None:
        self.go(at)
        name_node(self.page, text)


def draw(page: Page, schematic: dict[str, Any], hand: type[Mouse | Keys]) -> Mouse | Keys:
    """Everything of a drawing, in its own order, moved near the middle of the sheet.

    A little above it: findings may come below while the hand pauses.
    """
    xs = [p[0] for w in schematic["wires"] for p in w["points"]]
    ys = [p[1] for w in schematic["wires"] for p in w["points"]]
    shift = (-(min(xs) + max(xs)) // 2, -(min(ys) + max(ys)) // 2 - 4)
    sheet(page).focus()
    with_hand = hand(page, shift)
    for drawn in schematic["parts"]:
        with_hand.put(typed(drawn), turns(drawn), drawn["at"])
    joined = {point for drawn in schematic["parts"] for point in pin_points(Part(**drawn))}
    for wire in schematic["wires"]:
        for start, end in pairwise(map(tuple, wire["points"])):
            with_hand.wire([list(start), list(end)], loose=end not in joined)
            joined |= on_the_way(start, end)
    for label in schematic["labels"]:
        with_hand.name(label["name"], label["at"])
    return with_hand


def expect_figures_of(page: Page, name: str) -> None:
    """Every named voltage as the core computes it from the example file."""
    expected = evaluation_of(read_exercise((EXAMPLES / f"{name}.json").read_text()))
    names = {net.name for net in expected.nets if net.named}
    voltages = {q.subject: q.text for q in expected.quantities if q.kind == "voltage"}
    for node in names:
        expect(sheet(page)).to_contain_text(f"{node}{voltages[node]}")
    expect(page.get_by_text("The circuit is complete")).to_be_visible()


@pytest.mark.parametrize(("name", "hand"), [("hydrophone-stage", Mouse), ("beacon-flasher", Keys)])
def test_drawing_from_an_empty_sheet(notebook: Page, name: str, hand: type[Mouse | Keys]) -> None:
    begin_empty(notebook)
    draw(notebook, example(name)["schematic"], hand)
    expect_figures_of(notebook, name)
    saved(notebook)
    drawn = stored(notebook)
    undo = notebook.get_by_role("button", name="Undo")
    steps = 0
    while undo.is_enabled() and steps < 300:
        notebook.keyboard.press("Control+z")
        steps += 1
    expect(notebook.get_by_text("An empty sheet")).to_be_visible()
    for _ in range(steps):
        notebook.keyboard.press("Control+y")
    saved(notebook)
    assert stored(notebook) == drawn


def stored(page: Page) -> Any:
    """The document as the server keeps it."""
    return page.evaluate(
        "async () => (await (await fetch('/api' + location.pathname.replace(/[/][a-z]+$/, '')))"
        ".json()).document"
    )


def test_an_attenuator_chain_with_a_block(notebook: Page) -> None:
    """A pad drawn, made a block, given a parameter, placed twice more, one with its own value."""
    begin_empty(notebook)
    sheet(notebook).focus()
    hand = Mouse(notebook, (-16, -4))
    hand.put("1k", 0, [2, 0])
    hand.put("500", 1, [8, 6])
    hand.put("gnd", 0, [8, 11])
    hand.wire([[5, 0], [8, 0], [8, 3]])
    hand.wire([[8, 9], [8, 11]])
    hand.wire([[8, 0], [12, 0]], loose=True)
    hand.wire([[-1, 0], [-4, 0]], loose=True)
    hand.name("in", [-4, 0])
    hand.name("out", [12, 0])
    sheet(notebook).focus()
    notebook.keyboard.press("Control+a")
    notebook.get_by_role("button", name="Make a block").click()
    notebook.get_by_role("button", name="Open its drawing").click()
    bar = notebook.get_by_role("region", name="Inside a block")
    bar.get_by_role("textbox", name="Name of the block").fill("Pad")
    notebook.get_by_role("button", name="Parameters").click()
    notebook.get_by_role("button", name="Parameter", exact=True).click()
    notebook.get_by_role("textbox", name="Name of the parameter").fill("R_s")
    notebook.get_by_role("textbox", name="Value of R_s").fill("1 kΩ")
    notebook.keyboard.press("Escape")
    for name, value in (("R1, resistor", "R_s"), ("R2, resistor", "R_s/2")):
        part(notebook, name).dblclick()
        notebook.get_by_role("textbox", name="Resistance", exact=True).fill(value)
        notebook.keyboard.press("Escape")
    bar.get_by_role("button", name="Back").click()
    expect(part(notebook, "X1, pad")).to_be_visible()
    sheet(notebook).focus()
    notebook.keyboard.press("Control+a")
    notebook.keyboard.press("Delete")
    notebook.keyboard.press("Home")
    positions = ([-12, 0], [4, 0], [20, 0])
    flat = Mouse(notebook, (-3, 0))
    for at in positions:
        notebook.get_by_role("button", name="All parts").click()
        notebook.get_by_role("searchbox", name="Find a part").fill("pad")
        notebook.get_by_role("region", name="Blocks").get_by_role("button", name="Pad").click()
        notebook.mouse.move(*flat.spot(at))
        notebook.mouse.click(*flat.spot(at))
    flat.put("9V", 0, [-22, 5])
    flat.put("gnd", 0, [-22, 8])
    flat.wire([[-22, 2], [-22, 0], [-18, 0]])
    flat.wire([[-6, 0], [-2, 0]])
    flat.wire([[10, 0], [14, 0]])
    flat.name("a", [-4, 0])
    flat.name("b", [12, 0])
    flat.name("out", [26, 0])
    part(notebook, "X3, pad").dblclick()
    notebook.get_by_role("textbox", name="R_s").fill("10 kΩ")
    notebook.keyboard.press("Escape")
    expected = {
        q.name: q.text
        for q in evaluation_of(
            read_exercise((EXAMPLES / "attenuator-chain.json").read_text())
        ).quantities
    }
    for node in ("a", "b", "out"):
        expect(sheet(notebook)).to_contain_text(f"{node}{expected[f'V_{node}']}")
    saved(notebook)


def test_copy_paste_align_and_renumber(notebook: Page) -> None:
    open_exercise(notebook, "Anti-alias ladder")
    sheet(notebook).focus()
    parts = sheet(notebook).locator(".part")
    before = parts.count()
    notebook.keyboard.press("Control+a")
    notebook.keyboard.press("Control+c")
    notebook.get_by_role("button", name="Notebook").click()
    begin_empty(notebook)
    sheet(notebook).focus()
    notebook.keyboard.press("Control+v")
    expect(parts).to_have_count(before)
    notebook.keyboard.press("Control+d")
    expect(parts).to_have_count(2 * before)
    expect(part(notebook, "C4, capacitor")).to_be_visible()
    notebook.keyboard.press("Delete")
    expect(parts).to_have_count(before)
    part(notebook, "R2, resistor").click()
    notebook.keyboard.press("Delete")
    part(notebook, "R1, resistor").dblclick()
    notebook.get_by_role("textbox", name="Name", exact=True).fill("R7")
    notebook.keyboard.press("Escape")
    expect(sheet(notebook)).to_be_focused()
    notebook.keyboard.press("Control+k")
    notebook.keyboard.type("number the parts")
    notebook.keyboard.press("Enter")
    expect(part(notebook, "R1, resistor")).to_be_visible()


def test_nonsense_is_refused_at_the_place(notebook: Page, tmp_path: Path) -> None:
    open_exercise(notebook, "Battery sense")
    sheet(notebook).focus()
    notebook.evaluate(
        "const data = new DataTransfer(); data.setData('text/plain', 'not a drawing');"
        "document.querySelector('.sheet').dispatchEvent("
        "new ClipboardEvent('paste', {clipboardData: data, bubbles: true}))"
    )
    expect(message(notebook, "no piece of a drawing")).to_be_visible()
    expect(sheet(notebook).locator(".part")).to_have_count(4)
    notebook.get_by_role("button", name="Notebook").click()
    broken = example("battery-sense")
    broken["schematic"]["wires"][0]["points"] = [[0, 0]]
    files = {
        "junk.bin": (b"\x00\x01junk", "no text"),
        "later.json": (b'{"format": "lucid-bench-exercise", "version": 9}', "up to version 3"),
        "other.cir": (b"title\nR1 a 0\n", "line 2"),
        "vast.json": (b" " * 50_000_000, "larger than 5 MB"),
        "broken.json": (json.dumps(broken).encode(), "Wire w1 cannot be read and was left out"),
    }
    notebook.get_by_role("button", name="New exercise").click()
    for name, (content, sentence) in files.items():
        (tmp_path / name).write_bytes(content)
        with notebook.expect_file_chooser() as chooser:
            notebook.get_by_role("button", name="From a file").click()
        chooser.value.set_files(tmp_path / name)
        expect(message(notebook, sentence)).to_be_visible()
    expect(notebook.get_by_label("Title")).to_have_value("Battery sense")  # what could be kept


def test_a_netlist_is_laid_out_and_a_drawing_exported(notebook: Page, tmp_path: Path) -> None:
    lines = ("stage", "V1 vcc 0 12", "R1 vcc b 47k", "R2 b 0 10k", "R3 vcc c 2.2k", "R4 e 0 470")
    text = "\n".join((*lines, "Q1 c b e q", ".model q NPN(BF=180)", ""))
    (tmp_path / "stage.cir").write_text(text)
    notebook.get_by_role("button", name="New exercise").click()
    with notebook.expect_file_chooser() as chooser:
        notebook.get_by_role("button", name="From a file").click()
    chooser.value.set_files(tmp_path / "stage.cir")
    expect(notebook.get_by_label("Title")).to_have_value("stage")
    expect(notebook.get_by_text("The circuit is complete")).to_be_visible()
    from lucidbench.core.analyses import operating_point
    from lucidbench.core.netlist import read_netlist
    from lucidbench.core.units import engineering

    point = operating_point(read_netlist(text).circuit)
    for node in ("b", "c", "e"):
        expect(sheet(notebook)).to_contain_text(f"{node}{engineering(point.voltages[node], 'V')}")
    for item, ending, begins in (("SVG", "svg", b"<?xml"), ("PNG", "png", b"\x89PNG")):
        notebook.get_by_role("button", name="More").click()
        with notebook.expect_download() as download:
            notebook.get_by_role("menuitem", name=f"Picture of the schematic, {item}").click()
        assert download.value.suggested_filename == f"stage.{ending}"
        assert download.value.path().read_bytes().startswith(begins)
    saved(notebook)
    notebook.get_by_role("button", name="More").click()
    with notebook.expect_download() as download:
        notebook.get_by_role("menuitem", name="Download as netlist text").click()
    again = operating_point(read_netlist(download.value.path().read_text()).circuit)
    assert again.voltages["c"] == pytest.approx(point.voltages["c"], rel=1e-6)
