"""Names and results: what is called otherwise is so everywhere, and no result passes for another's."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.hands import (
    asks_of,
    eventually,
    figure,
    message,
    new_run,
    open_exercise,
    part,
    row,
    saved,
    set_value,
    sheet,
)
from tests.serving import HOME


def opened_from(page: Page, folder: Path, document: dict[str, Any]) -> None:
    """The document opened as a file."""
    (folder / "own.json").write_text(json.dumps(document))
    page.get_by_role("button", name="New exercise").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="From a file").click()
    chooser.value.set_files(folder / "own.json")
    expect(sheet(page)).to_be_visible()
    expect(page.get_by_role("region", name="Findings")).not_to_contain_text("Checking")


def demo(name: str) -> dict[str, Any]:
    document: dict[str, Any] = json.loads((HOME / "examples" / f"{name}.json").read_text())
    return document


def test_a_part_and_a_node_are_renamed_wherever_they_are_spoken_of(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    part(notebook, "R1, resistor").dblclick()
    name = notebook.get_by_role("textbox", name="Name", exact=True)
    name.click()
    notebook.keyboard.press("ControlOrMeta+A")
    notebook.keyboard.type("R_top")
    notebook.keyboard.press("Enter")
    notebook.keyboard.press("Escape")
    line = notebook.get_by_role("combobox", name="Line 1")
    expect(line).to_have_value("V_out = V1*R2/(R_top+R2)")
    expect(notebook.get_by_role("combobox", name="Line 2")).to_have_value("I_R_top = V1/(R_top+R2)")
    figure(notebook, "label l2").click()
    notebook.get_by_role("textbox", name="Node name").fill("tap")
    notebook.keyboard.press("Enter")
    expect(line).to_have_value("V_tap = V1*R2/(R_top+R2)")
    notebook.get_by_role("tab", name="Compare").click()
    expect(notebook.get_by_role("textbox", name="Bench reading of V_tap")).to_have_value(
        "2.594 V ± 0.017 V"
    )
    expect(notebook.get_by_text("All 5 compared quantities agree.")).to_be_visible()
    # One step back each, and forth again.
    notebook.keyboard.press("Escape")
    notebook.keyboard.press("ControlOrMeta+Z")
    expect(row(notebook, "V_out")).to_be_visible()
    notebook.keyboard.press("ControlOrMeta+Z")
    expect(row(notebook, "I_R1")).to_be_visible()
    # A name that is another's is refused.
    part(notebook, "R1, resistor").dblclick()
    name.fill("R2")
    notebook.keyboard.press("Enter")
    expect(message(notebook, "R2 is the name of another part already.")).to_be_visible()
    expect(part(notebook, "R1, resistor")).to_be_visible()


def test_a_node_spoken_of_by_its_number_keeps_its_place(notebook: Page, tmp_path: Path) -> None:
    document = demo("level-bridge")
    document["schematic"]["labels"] = []
    document |= {"hand": [], "measurements": []}
    opened_from(notebook, tmp_path, document)
    written = sheet(notebook).locator("[data-note^='node ']").filter(has_text="n1")
    told = (written.text_content() or "").removeprefix("n1")
    assert told
    notebook.get_by_role("button", name="Line", exact=True).click()
    notebook.keyboard.type(f"V_n1 = {told.replace('−', '-')}")
    saved(notebook)
    # Something is drawn to the left of everything, where numbers begin: this one stays.
    sheet(notebook).focus()
    for key in ("Home", *["Shift+ArrowLeft"] * 6):
        notebook.keyboard.press(key)
    notebook.keyboard.type("1k")
    notebook.keyboard.press("Enter")
    notebook.keyboard.press("Enter")
    expect(part(notebook, "R6, resistor")).to_be_visible()
    expect(written).to_have_text(f"n1{told}")
    notebook.get_by_role("tab", name="Compare").click()
    expect(row(notebook, "V_n1")).to_contain_text("agrees")
    # Given a name of its own where its wire is, it is spoken of by that.
    notebook.get_by_role("button", name="Name a node").click()
    source = part(notebook, "V1, voltage source").bounding_box()
    assert source
    notebook.mouse.click(source["x"] + source["width"] / 2, source["y"] + 2)
    notebook.get_by_role("textbox", name="Node name").fill("supply")
    notebook.keyboard.press("Enter")
    expect(row(notebook, "V_supply")).to_contain_text("agrees")


def test_a_node_is_named_by_a_press_and_what_is_typed_then(notebook: Page) -> None:
    open_exercise(notebook, "Time-signal filter")
    notebook.get_by_role("button", name="Name a node").click()
    coil = part(notebook, "L1, inductor").bounding_box()
    assert coil
    notebook.mouse.click(coil["x"] + coil["width"] - 2, coil["y"] + coil["height"] / 2)
    expect(notebook.get_by_role("textbox", name="Node name")).to_be_focused()
    notebook.keyboard.type("mid")
    notebook.keyboard.press("Escape")  # the card closes, and what was typed stays
    expect(part(notebook, "L1, inductor, 2.2 mH, from in to mid")).to_be_visible()


def test_a_slow_result_is_out_of_date_and_looked_at_as_it_was(notebook: Page) -> None:
    asks = asks_of(notebook)
    open_exercise(notebook, "Hydrophone stage")
    notebook.get_by_role("tab", name="Simulate").click()
    new_run(notebook, "Transient")
    notebook.get_by_role("textbox", name="Stop time").fill("8 s")
    shown = notebook.get_by_role("list", name="Readings")
    expect(notebook.locator("section[aria-busy=true]")).to_have_count(0)
    before = shown.text_content()
    again = notebook.get_by_role("button", name="Run again")
    expect(again).to_have_count(0)
    set_value(notebook, "R3", "Resistance", "1k")
    notebook.keyboard.press("Escape")
    expect(again).to_be_visible()
    # Looked at closer it is the same result still, and nothing is run.
    plot = notebook.get_by_role("group", name="Plot of")
    box = plot.locator(".u-over").first.bounding_box()
    assert box
    notebook.mouse.move(box["x"] + 50, box["y"] + 50)
    notebook.mouse.down()
    notebook.mouse.move(box["x"] + 90, box["y"] + 50, steps=4)
    before_it = asks.copy()
    notebook.mouse.up()
    eventually(notebook, lambda: "closer" in asks)
    assert asks[len(before_it) :] == ["closer"]
    expect(again).to_be_visible()
    assert shown.text_content() == before
    notebook.keyboard.press("ControlOrMeta+Z")
    expect(again).to_have_count(0)  # undone, it is of now again
