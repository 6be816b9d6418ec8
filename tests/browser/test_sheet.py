"""The sheet under the hand: choosing, turning, layers, names, themes, the seam, the palette."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.hands import figure, open_exercise, part, set_value, sheet


def test_sweeping_and_deleting_can_be_undone(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    box = notebook.get_by_role("region", name="Schematic", exact=True).bounding_box()
    assert box
    parts = sheet(notebook).locator(".part")
    expect(parts).to_have_count(4)
    notebook.mouse.move(box["x"] + 20, box["y"] + 90)
    notebook.mouse.down()
    notebook.mouse.move(box["x"] + box["width"] - 20, box["y"] + box["height"] - 130, steps=5)
    notebook.mouse.up()
    assert all(p.get_attribute("aria-pressed") == "true" for p in parts.all())
    notebook.keyboard.press("Delete")
    expect(notebook.get_by_text("An empty sheet")).to_be_visible()
    notebook.keyboard.press("Control+z")
    expect(parts).to_have_count(4)
    expect(figure(notebook, "label l2")).to_have_text("out2.679 V")


def test_turning_mirroring_and_nudging_keep_the_circuit(notebook: Page) -> None:
    open_exercise(notebook, "Level bridge")
    part(notebook, "R5, resistor").focus()
    for key in ("r", "m", "ArrowDown", "ArrowDown", "r"):
        notebook.keyboard.press(key)
        expect(notebook.get_by_text("The circuit is complete")).to_be_visible()
        expect(figure(notebook, "label l2")).to_contain_text("6.206 V")
    expect(part(notebook, "R5, resistor, 470 Ω, from")).to_be_visible()


def test_mirroring_a_source_reverses_it(notebook: Page) -> None:
    open_exercise(notebook, "Level bridge")
    before = figure(notebook, "label l3").text_content()
    part(notebook, "V2, voltage source").focus()
    notebook.keyboard.press("m")
    expect(figure(notebook, "label l3")).to_contain_text(" V")
    expect(figure(notebook, "label l3")).not_to_have_text(before or "")


def test_a_name_given_twice_is_remarked_on_and_separated(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    figure(notebook, "label l2").click()
    notebook.get_by_role("textbox", name="Node name").fill("bat")
    notebook.keyboard.press("Enter")
    findings = notebook.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("The name bat joins 2 separate places")
    expect(findings).to_contain_text("R1 is shorted")
    findings.get_by_role("button", name="Separate them: call one bat_2").click()
    expect(findings).to_contain_text("complete")
    expect(figure(notebook, "label l2")).to_have_text("bat_22.679 V")


def test_findings_point_at_their_place(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    part(notebook, "R2, resistor").focus()
    notebook.keyboard.press("Delete")
    findings = notebook.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("One end of R1 is not connected")
    findings.get_by_role("listitem").first.hover()
    expect(sheet(notebook).locator("circle[stroke='var(--fault)']")).to_have_count(1)


def test_a_text_is_moved_and_stays_and_a_part_is_replaced(notebook: Page) -> None:
    open_exercise(notebook, "Lamp curve")
    caption = figure(notebook, "part p2")
    before = caption.bounding_box()
    assert before
    notebook.mouse.move(before["x"] + 8, before["y"] + 8)
    notebook.mouse.down()
    notebook.mouse.move(before["x"] + 60, before["y"] + 60, steps=4)
    notebook.mouse.up()
    after = caption.bounding_box()
    assert after
    assert after["y"] - before["y"] > 30
    part(notebook, "R1, resistor").dblclick()
    notebook.get_by_role("button", name="Replace by another part").click()
    notebook.get_by_role("menuitem", name="Capacitor", exact=True).click()
    expect(part(notebook, "R1, capacitor, 100 nF, from a to ground")).to_be_visible()
    notebook.keyboard.press("Escape")
    kept = caption.bounding_box()
    assert kept
    assert abs(kept["y"] - after["y"]) < 2


def test_a_slider_retunes_the_circuit(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    part(notebook, "R2, resistor").dblclick()
    slider = notebook.get_by_role("slider", name="Resistance, slider")
    slider.press("ArrowRight")
    expect(figure(notebook, "label l2")).not_to_have_text("out2.679 V")
    field = notebook.get_by_role("textbox", name="Resistance", exact=True)
    field.fill("270k")
    expect(figure(notebook, "label l2")).to_have_text("out2.679 V")
    field.press("ArrowUp")
    expect(field).to_have_value("280 kΩ")
    expect(figure(notebook, "label l2")).to_have_text("out2.756 V")  # 12.6 V · 280/1280
    # Drawn along by the mouse it stays under it, also while the answers to earlier values come in.
    box = slider.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    notebook.mouse.move(x, y)
    notebook.mouse.down()
    for step in range(1, 21):
        notebook.mouse.move(x + step * box["width"] / 41, y)
        notebook.wait_for_timeout(20)  # as a hand moves, not all at once
    notebook.mouse.up()
    ohms = float(field.input_value().removesuffix(" MΩ"))
    assert 2.2 < ohms < 2.8  # all but a decade up
    expect(figure(notebook, "label l2")).to_have_text(re.compile("^out9\\.|^out8\\.9"))


def test_two_fingers_push_and_enlarge_the_paper(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    resistor = part(notebook, "R1, resistor").locator(".halo")
    before = resistor.bounding_box()
    assert before
    touch = notebook.context.new_cdp_session(notebook)

    def fingers(kind: str, *points: tuple[float, float]) -> None:
        spots = [{"x": x, "y": y, "id": k} for k, (x, y) in enumerate(points)]
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": spots})

    fingers("touchStart", (300, 400))
    fingers("touchStart", (300, 400), (400, 400))
    for reach in range(10, 60, 10):
        fingers("touchMove", (300 - reach, 400), (400 + reach, 400))
    fingers("touchEnd")
    after = resistor.bounding_box()
    assert after
    assert after["height"] > 1.5 * before["height"]
    expect(sheet(notebook).locator(".part")).to_have_count(4)  # and nothing was drawn or moved


def test_a_reload_in_the_middle_of_a_drag_loses_nothing(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    set_value(notebook, "R2, resistor", "Resistance", "300k")
    notebook.keyboard.press("Escape")
    halo = part(notebook, "R1, resistor").locator(".halo").bounding_box()
    assert halo
    notebook.mouse.move(halo["x"] + halo["width"] / 2, halo["y"] + halo["height"] / 2)
    notebook.mouse.down()
    notebook.mouse.move(halo["x"] + 90, halo["y"] + 90, steps=4)
    notebook.reload()
    expect(part(notebook, "R2, resistor, 300 kΩ")).to_be_visible()
    expect(notebook.get_by_text("The circuit is complete")).to_be_visible()


def test_ports_move_and_wires_follow(notebook: Page) -> None:
    open_exercise(notebook, "Attenuator chain")
    figures = figure(notebook, "label l4").text_content()
    part(notebook, "X1, pad").dblclick()
    notebook.get_by_role("button", name="Open its drawing").click()
    notebook.get_by_role("combobox", name="Side of in").select_option("top")
    notebook.get_by_role("combobox", name="Side of in").select_option("right")  # at once
    notebook.get_by_role("button", name="Put in before out").click()
    expect(notebook.get_by_role("button", name="Put out before in")).to_be_visible()
    notebook.get_by_role("button", name="Back").click()
    expect(part(notebook, re.compile("^X2, pad, .*from a to b"))).to_be_visible()
    expect(figure(notebook, "label l4")).to_have_text(figures or "")
    expect(notebook.get_by_text("The circuit is complete")).to_be_visible()
    for side in ("left", "right", "bottom"):  # wires laid anew at once keep clear of each other
        part(notebook, "X1, pad").dblclick()
        notebook.get_by_role("button", name="Open its drawing").click()
        notebook.get_by_role("combobox", name="Side of in").select_option(side)
        notebook.get_by_role("button", name="Back").click()
        for k, ends in enumerate(("from in to a", "from a to b", "from b to out"), 1):
            expect(part(notebook, re.compile(f"^X{k}, pad, .*{ends}"))).to_be_visible()
        expect(figure(notebook, "label l4")).to_have_text(figures or "")


def test_a_wire_branches_off_where_it_is_pulled(notebook: Page) -> None:
    open_exercise(notebook, "Level bridge")
    wires = sheet(notebook).locator("polyline.wire")
    before = wires.count()
    bridge = part(notebook, "R5, resistor").locator(".halo").bounding_box()
    bottom = part(notebook, "Ground").last.locator(".halo").bounding_box()
    assert bridge
    assert bottom
    notebook.mouse.move(bridge["x"] + bridge["width"] + 14, bridge["y"] + bridge["height"] / 2)
    notebook.mouse.down()
    notebook.mouse.move(bottom["x"] + bottom["width"] / 2, bottom["y"] - 60, steps=6)
    notebook.mouse.move(bottom["x"] + bottom["width"] / 2, bottom["y"] - 6, steps=3)
    notebook.mouse.up()
    expect(part(notebook, "R5, resistor, 470 Ω, from left to ground")).to_be_visible()
    assert wires.count() > before
