"""Why? as a student asks it: from a gap to its cause, and to the gap closed."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.hands import build_panel, message, open_exercise, part, row, saved, way


def asked(page: Page, of: str | re.Pattern[str]) -> Locator:
    """The answer beside a gap, once all causes are tried."""
    page.get_by_role("button", name=of).first.click()
    sheet = page.get_by_role("region", name="Why", exact=True)
    expect(sheet).to_be_visible()
    return told(sheet)


def told(sheet: Locator) -> Locator:
    expect(sheet).not_to_contain_text("Looking for causes")
    expect(sheet).not_to_contain_text("Trying causes")
    return sheet


def causes(sheet: Locator) -> Locator:
    return sheet.get_by_role("list", name="Causes", exact=True).get_by_role("listitem")


def cause(sheet: Locator, text: str) -> Locator:
    return causes(sheet).filter(has_text=text).first


def write_reading(page: Page, quantity: str, text: str) -> None:
    row(page, quantity).get_by_label(f"Bench reading of {quantity}").click()
    page.keyboard.press("Control+a")
    page.keyboard.press("Delete")
    page.keyboard.type(text)
    page.keyboard.press("Enter")


def test_a_coil_s_loss_is_found_put_into_the_model_and_the_gap_closes(notebook: Page) -> None:
    open_exercise(notebook, "Time-signal filter")
    notebook.get_by_role("tab", name="Compare").click()
    sheet = asked(notebook, "Why? Q, bench − simulated")
    expect(sheet).to_contain_text("cannot tell apart")
    first = causes(sheet).first
    expect(first).to_contain_text("The winding of L1 has 33")
    expect(first).to_contain_text("explains 100 %")
    first.hover()
    expect(part(notebook, "L1, inductor")).to_have_attribute("data-lit", "true")
    expect(sheet.get_by_role("img", name=re.compile("winding")).first).to_be_visible()
    first.get_by_role("button", name="Put it into the model").click()
    expect(message(notebook, "undo takes it out")).to_be_visible()
    expect(sheet).to_contain_text("There is no gap")
    expect(row(notebook, "Q")).to_contain_text("4.2")
    saved(notebook)
    notebook.keyboard.press("Escape")
    expect(sheet).to_have_count(0)
    notebook.keyboard.press("Control+z")
    expect(row(notebook, "Q")).to_contain_text("4.869")


def test_the_loading_of_a_meter_is_found_and_told_apart_by_a_measurement(notebook: Page) -> None:
    """A meter of 1 MΩ across 270 kΩ of a divider, typed in: 12.6 V · 212.6/1212.6 = 2.209 V."""
    open_exercise(notebook, "Battery sense")
    notebook.get_by_role("tab", name="Compare").click()
    write_reading(notebook, "V_out", "2.209 V ± 0.01 V")
    sheet = asked(notebook, "Why? V_out, bench − simulated")
    expect(cause(sheet, "The meter loads what it reads with")).to_contain_text(
        re.compile(r"1\.\d+ MΩ|\d{3} kΩ")
    )
    others = causes(sheet).count()
    assert others > 1  # a resistor beyond its tolerance would do as well
    expect(sheet).to_contain_text("What would tell them apart")
    sheet.get_by_role("button", name="Measure this").click()
    expect(sheet.get_by_role("button", name=re.compile("R[12] by itself|V_"))).not_to_have_count(2)
    told(sheet)
    cause(sheet, "The meter loads").get_by_role("button", name="Put it into the model").click()
    expect(notebook.get_by_role("button", name=re.compile("^R3, resistor"))).to_be_visible()


def test_a_record_taken_settled_is_told_from_a_run_at_switch_on(notebook: Page) -> None:
    open_exercise(notebook, "Anti-alias ladder")
    notebook.get_by_role("tab", name="Simulate").click()
    notebook.get_by_role("list", name="Runs").get_by_role(
        "button", name="Pulse", exact=True
    ).click()
    bench = notebook.get_by_role("region", name="Bench", exact=True)
    bench.get_by_role("button", name="Pulses on the bench").click()  # shown beside this run as well
    sheet = asked(bench.page, re.compile(r"^Why\? V_"))
    expect(causes(sheet).first).to_contain_text("began long after switch-on")
    causes(sheet).first.get_by_role("button", name="Put it into the model").click()
    expect(notebook.get_by_label("Start from")).to_have_value("settled")


def read_again(page: Page, node: str) -> None:
    form = page.get_by_role("region", name="Meter", exact=True)
    form.get_by_label("At", exact=True).select_option(node)
    form.get_by_role("button", name="Read", exact=True).click()
    rows = page.get_by_role("table", name="Readings").get_by_role("row")
    expect(rows.filter(has_text=node.removeprefix("node "))).to_have_count(1)


def test_a_sealed_fault_is_found_by_measuring_on(notebook: Page) -> None:
    """A lead of R5 makes no contact: planted, sealed, and looked for with what is proposed."""
    open_exercise(notebook, "Level bridge")
    notebook.get_by_role("tab", name="Compare").click()
    for quantity in ("V_left", "V_right"):  # of the bench as it was before
        write_reading(notebook, quantity, "")
    way(notebook, "Meter")
    panel = build_panel(notebook)
    panel.get_by_role("button", name="Plant a fault").click()
    panel.get_by_label("Part that is wrong").select_option("R5")
    panel.get_by_label("What is wrong with it").select_option("is open")
    panel.get_by_label("Word").click()
    notebook.keyboard.type("tide")
    notebook.keyboard.press("Enter")
    expect(panel).to_contain_text("sealed")
    panel.get_by_role("button", name="Close").click()
    read_again(notebook, "node left")
    read_again(notebook, "node right")
    notebook.get_by_role("tab", name="Compare").click()
    sheet = asked(notebook, "Explain all that was measured")
    expect(sheet).to_contain_text("R5 makes no contact")
    expect(sheet).to_contain_text("cannot tell apart")
    sheet.get_by_text("What is planted in the build").click()
    expect(sheet).to_contain_text("It is sealed.")
    sheet.get_by_role("button", name="Measure this").click()
    expect(sheet.get_by_role("button", name="R5 by itself")).to_be_visible()
    told(sheet)
    expect(sheet).to_contain_text("Almost certainly: R5 makes no contact")
    expect(sheet).not_to_contain_text("cannot tell apart")
