"""The main job as a person does it: change, build, be helped, come back, and lose nothing."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import OpenWindow
from tests.browser.hands import (
    begin_empty,
    eventually,
    figure,
    new_run,
    open_exercise,
    part,
    place,
    row,
    saved,
    set_value,
    sheet,
)


def test_changing_a_resistor_moves_drawing_ledger_and_verdict(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    expect(figure(notebook, "label l2")).to_have_text("out2.679 V")
    notebook.get_by_role("tab", name="Compare").click()
    ledger_row = row(notebook, "V_out")
    expect(ledger_row).to_contain_text("agree")
    expect(ledger_row.get_by_label("Bench reading of V_out")).to_have_value("2.594 V ± 0.017 V")

    set_value(notebook, "R2", "Resistance", "330k")
    expect(notebook.get_by_label("Resistance as understood")).to_have_text("= 330 kΩ")
    notebook.keyboard.press("Enter")

    # 12.6 V · 330/(1000 + 330), the divider of any circuits text
    expect(figure(notebook, "label l2")).to_have_text("out3.126 V")
    expect(ledger_row).to_contain_text("3.126 V")
    expect(ledger_row).to_contain_text("differs")
    expect(ledger_row).to_contain_text("Bench lies 532 mV (17 %) below simulated")
    notebook.keyboard.press("Control+z")
    expect(ledger_row).to_contain_text("agree")
    notebook.keyboard.press("Control+y")
    expect(ledger_row).to_contain_text("differs")
    saved(notebook)
    notebook.reload()
    expect(figure(notebook, "label l2")).to_have_text("out3.126 V")
    # Undo goes back past the reload.
    notebook.get_by_role("button", name="Undo").click()
    expect(figure(notebook, "label l2")).to_have_text("out2.679 V")


def test_a_bench_reading_and_a_hand_line_make_a_verdict(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    notebook.get_by_role("button", name="Line", exact=True).click()
    notebook.keyboard.type("I_R2 = V_out/R1")
    expect(notebook.get_by_label("Result of line").last).to_have_text("= 2.679 µA")
    notebook.get_by_role("tab", name="Compare").click()
    expect(row(notebook, "I_R2")).to_contain_text("differs")
    bench = notebook.get_by_label("Bench reading of I_R2")
    bench.fill("9.8 µA ± 5 %")
    expect(row(notebook, "I_R2")).to_contain_text("bench − simulated")
    bench.fill("9.8 V")
    expect(row(notebook, "I_R2")).to_contain_text("a unit of another kind")
    notebook.get_by_role("tab", name="Predict").click()
    notebook.get_by_role("combobox", name="Line 5").fill("I_R2 = V_out/R7")
    expect(notebook.get_by_text("Nothing is called “R7” here")).to_be_visible()


def test_building_a_divider_with_the_keyboard_alone(notebook: Page) -> None:
    begin_empty(notebook)
    sheet(notebook).focus()
    keys = notebook.keyboard

    def go(where: str, times: int) -> None:
        for _ in range(times):
            keys.press(f"Shift+Arrow{where}")

    # The source, then two resistors one above the other to its right, each turned upright.
    place(notebook, "10V")
    keys.press("Enter")
    go("Right", 2)
    go("Up", 1)
    place(notebook, "1k")
    keys.press("r")
    keys.press("Enter")
    go("Down", 2)
    place(notebook, "4k7")
    keys.press("r")
    keys.press("Enter")
    expect(part(notebook, "R2, resistor, 4.7 kΩ")).to_be_visible()

    # Wires from pin to pin: Control and an arrow goes to the next pin that way.
    def wire(first: list[str], second: list[str]) -> None:
        for key in first:
            keys.press(f"Control+Arrow{key}")
        keys.press("w")
        for key in second:
            keys.press(f"Control+Arrow{key}")
        keys.press("Enter")

    status = notebook.get_by_role("status", name="Under the cursor")
    keys.press("Control+ArrowUp")
    expect(status).to_contain_text("Pin 1 of R2")
    wire([], ["Up"])  # up to the foot of R1
    wire(["Up"], ["Left"])  # from the head of R1 to the source's plus
    expect(status).to_contain_text("Pin + of V1")
    wire(["Down"], ["Right", "Down"])  # from its minus to the foot of R2
    expect(status).to_contain_text("Pin 2 of R2")
    place(notebook, "gnd")
    keys.press("Enter")
    keys.press("Control+ArrowUp")
    place(notebook, "mid")

    expect(notebook.get_by_text("The circuit is complete")).to_be_visible()
    # 10 V · 4.7/(1 + 4.7)
    expect(sheet(notebook)).to_contain_text("mid8.246 V")
    saved(notebook)


def test_building_a_divider_with_the_mouse_alone(notebook: Page) -> None:
    notebook.get_by_role("button", name="New exercise").click()
    notebook.get_by_role("button", name="Empty sheet").click()
    expect(notebook.get_by_text("An empty sheet")).to_be_visible()
    mouse = notebook.mouse
    box = sheet(notebook).bounding_box()
    assert box
    unit = 13  # px a grid unit on a fresh sheet
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)

    def at(x: float, y: float) -> tuple[float, float]:
        return middle[0] + unit * x, middle[1] + unit * y

    drawn = sheet(notebook).locator("[data-role=part]")

    def put(label: str, x: int, y: int, *, upright: bool = False) -> None:
        notebook.get_by_role("button", name=label).click()
        mouse.move(*at(x, y))
        before = drawn.count()
        mouse.click(*at(x, y))
        expect(drawn).not_to_have_count(before)  # a hand waits for the eye
        if upright:
            mouse.dblclick(*at(x, y))
            notebook.get_by_role("button", name="Rotate").click()
            mouse.click(*at(-18, -8))

    def pin(name: str, which: str) -> tuple[float, float]:
        target = sheet(notebook).locator(f"[data-role=pin][data-pin='{which}']")
        identity = part(notebook, name).get_attribute("data-id")
        spot = target.and_(notebook.locator(f"[data-id='{identity}']")).bounding_box()
        assert spot
        return spot["x"] + spot["width"] / 2, spot["y"] + spot["height"] / 2

    def drag(start: tuple[float, float], end: tuple[float, float]) -> None:
        mouse.move(*start)
        mouse.down()
        mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=4)
        mouse.move(*end, steps=4)
        mouse.up()

    put("Place voltage source", -8, 2)
    put("Place resistor", 4, -3, upright=True)
    put("Place resistor", 4, 7, upright=True)
    put("Place ground", 4, 13)
    drag(pin("V1", "0"), pin("R1", "0"))
    drag(pin("R1", "1"), pin("R2", "0"))
    drag(pin("V1", "1"), pin("R2", "1"))
    drag(pin("R2", "1"), pin("Ground", "0"))
    notebook.get_by_role("button", name="Name a node").click()
    mouse.click(*pin("R2", "0"))
    notebook.get_by_role("textbox", name="Node name").fill("tap")
    mouse.click(*at(-18, -8))
    expect(notebook.get_by_text("The circuit is complete")).to_be_visible()
    expect(sheet(notebook)).to_contain_text("tap2.5 V")  # 5 V halved

    # A moved part keeps its wires.
    drag(at(4, 7), at(12, 6))
    expect(sheet(notebook)).to_contain_text("tap2.5 V")
    expect(notebook.get_by_text("The circuit is complete")).to_be_visible()


def test_deleting_the_ground_is_told_and_mended(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    findings = notebook.get_by_role("region", name="Findings")
    notebook.get_by_role("button", name="Ground", exact=True).focus()
    notebook.keyboard.press("Delete")
    expect(findings).to_contain_text("There is no ground")
    expect(figure(notebook, "label l2")).to_have_text("out")
    findings.get_by_role("button", name=re.compile("Put a ground")).click()
    expect(figure(notebook, "label l2")).to_have_text("out2.679 V")
    expect(findings).to_contain_text("complete")


def test_two_tabs_clash_and_nothing_is_lost(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    other = notebook.context.new_page()
    other.goto(notebook.url)
    expect(other.get_by_role("region", name="Findings")).to_contain_text("complete")
    set_value(other, "R1", "Resistance", "2M")
    saved(other)
    set_value(notebook, "R2", "Resistance", "100k")
    alert = notebook.get_by_role("alert")
    expect(alert).to_contain_text("changed elsewhere")
    expect(part(notebook, "R2, resistor, 100 kΩ")).to_be_visible()
    alert.get_by_role("button", name="Save mine on top").click()
    saved(notebook)
    notebook.reload()
    expect(part(notebook, "R2, resistor, 100 kΩ")).to_be_visible()
    notebook.get_by_role("button", name="Earlier versions").click()
    versions = notebook.get_by_role("listitem")
    versions.get_by_role("button", name="R1: 1M → 2M").click()
    notebook.get_by_role("button", name="Go back to this version").click()
    expect(part(notebook, "R1, resistor, 2 MΩ")).to_be_visible()


def test_deleting_an_exercise_can_be_undone(notebook: Page) -> None:
    notebook.get_by_role("button", name="Delete Level bridge").focus()
    notebook.keyboard.press("Enter")
    expect(notebook.get_by_role("link", name="Level bridge")).to_have_count(0)
    notebook.get_by_role("button", name="Undo").click()
    expect(notebook.get_by_role("link", name="Level bridge")).to_be_visible()


# Pairs of drawn things that overlap by more than 2 px, a little less than the air line boxes hold.
# A text's own box is told in whole units of the drawing, so its length is asked for instead.
CLASHES = """() => {
  const boxOf = (e) => {
    if (e.tagName !== 'text') return e.getBoundingClientRect();
    const length = e.getComputedTextLength() + 0.4 * (e.childElementCount - 1);
    const start = { start: 0, middle: length / 2, end: length }[getComputedStyle(e).textAnchor];
    const size = Math.max(...[...e.children].map((t) => parseFloat(getComputedStyle(t).fontSize)));
    const [x, y] = [e.x.baseVal[0].value - start, e.y.baseVal[0].value];
    const on = e.getScreenCTM();
    const [left, right] = [x, x + length].map((v) => on.a * v + on.e);
    const [top, bottom] = [y - size, y + 0.25 * size].map((v) => on.d * v + on.f);
    return { left, right, top, bottom, width: right - left, height: bottom - top };
  };
  const drawn = [...document.querySelectorAll('.note, .part')].map((group) => ({
    group, words: group.textContent || group.getAttribute('aria-label'),
    boxes: [...group.querySelectorAll('text, .stroke')].map(boxOf)
      .filter((box) => group.matches('.note') || Math.min(box.width, box.height) > 4),
  }));
  const meet = (a, b) => a.left < b.right - 2 && b.left < a.right - 2
    && a.top < b.bottom - 2 && b.top < a.bottom - 2;
  return drawn.flatMap((one, i) => drawn.slice(i + 1)
    .filter((other) => one.boxes.some((a) => other.boxes.some((b) => meet(a, b))))
    .map((other) => `${one.words} over ${other.words}`));
}"""


def test_nothing_on_the_drawing_covers_anything(notebook: Page) -> None:
    """Every text of the busiest demo drawing, all layers on, lies clear of the others and the parts."""
    open_exercise(notebook, "Level bridge")
    notebook.get_by_role("button", name="Powers").click()
    expect(sheet(notebook)).to_contain_text("takes")

    # Texts are laid out anew when the fonts have come.
    notebook.evaluate("document.fonts.ready.then(() => true)")
    eventually(notebook, lambda: not notebook.evaluate(CLASHES))
    assert notebook.evaluate(CLASHES) == []
    assert sheet(notebook).locator(".note").count() >= 8 + 4 + 8 + 8  # captions, nodes, figures


AXE_RULES = {
    "light": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"],
    "dark": ["color-contrast", "link-in-text-block"],
}


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_contrast_names_and_roles(open_window: OpenWindow, theme: str) -> None:
    """WCAG 2.2 A and AA as the axe rules check them, on every view; in the dark those on colours."""
    from tests.serving import HOME

    page = open_window(color_scheme=theme, viewport={"width": 1280, "height": 800})
    axe = (HOME / "web/node_modules/axe-core/axe.min.js").read_text()

    def check() -> list[str]:
        page.evaluate(axe)
        report = page.evaluate("rules => axe.run({runOnly: rules})", AXE_RULES[theme])
        return [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in report["violations"]]

    page.get_by_role("link", name="Battery sense").wait_for()
    assert check() == []
    open_exercise(page, "Level bridge")
    assert check() == []
    page.get_by_role("tab", name="Compare").click()
    set_value(page, "R1", "Resistance", "22U")
    expect(page.get_by_role("dialog", name="Resistor R1")).to_contain_text("not a prefix")
    assert check() == []
    page.get_by_role("button", name="Notebook").click()
    page.get_by_role("button", name="New exercise").click()
    expect(page.get_by_role("button", name="From a file")).to_be_visible()
    assert check() == []
    page.get_by_role("button", name="Close").click()
    open_exercise(page, "Time-signal filter")
    page.get_by_role("tab", name="Simulate").click()
    page.get_by_role("list", name="Runs").wait_for()
    assert check() == []
    new_run(page, "Frequency sweep")
    expect(page.get_by_role("list", name="Readings")).to_contain_text("bandwidth")
    page.get_by_role("group", name="Plot of").press("Enter")
    page.get_by_role("table", name="Markers").wait_for()
    assert check() == []
    page.get_by_role("button", name="Run", exact=True).click()
    page.get_by_role("menuitem", name="Fourier").click()
    page.get_by_role("list", name="Harmonics").wait_for()
    assert check() == []
    page.get_by_role("button", name="Notebook").click()
    open_exercise(page, "Attenuator chain")
    page.get_by_role("button", name="All parts").click()
    page.get_by_role("searchbox", name="Find a part").wait_for()
    assert check() == []
    page.keyboard.press("Escape")
    part(page, "V1, voltage source").dblclick()
    page.get_by_role("combobox", name="Waveform").select_option("sine")
    expect(page.get_by_role("img", name="From")).to_be_visible()
    assert check() == []
    page.keyboard.press("Escape")
    part(page, "X1, pad").dblclick()
    page.get_by_role("button", name="Open its drawing").click()
    page.get_by_role("button", name="Parameters").click()
    page.get_by_role("textbox", name="Value of R_s").wait_for()
    assert check() == []
