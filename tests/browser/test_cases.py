"""Cases as a student makes and fills them: left out by the mouse, worked out, measured, side by side."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.hands import figure, message, open_exercise, part, row, saved, set_value


def look_at(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile("^Case:")).click()
    page.get_by_role("menuitem", name=name, exact=True).click()


def measured(page: Page, node: str) -> None:
    """The meter's AC voltage at a node, in the case that is looked at."""
    page.get_by_role("tab", name="Measure").click()
    page.get_by_role("list", name="Ways to measure").get_by_role("button", name="Meter").click()
    form = page.get_by_role("region", name="Meter", exact=True)
    form.get_by_label("Reads").select_option("voltage, AC (RMS)")
    form.get_by_label("At", exact=True).select_option(node)
    before = page.get_by_role("table", name="Readings").get_by_role("row").count()
    form.get_by_role("button", name="Read", exact=True).click()
    rows = page.get_by_role("table", name="Readings").get_by_role("row")
    expect(rows).to_have_count(before + 1)


def line_of(table: Locator, quantity: str, case: str) -> Locator:
    figures = table.locator(f"tbody[data-figure='{quantity}']")
    return figures.get_by_role("row").filter(
        has=table.page.get_by_role("button", name=case, exact=True)
    )


def test_a_case_is_made_by_the_mouse_and_its_gain_said_by_three_voices(notebook: Page) -> None:
    """Hydrophone stage, its collector resistor halved by a second one: left out, worked out, measured."""
    open_exercise(notebook, "Hydrophone stage")
    part(notebook, "R5, resistor").locator(".halo").click(button="right")
    notebook.get_by_role("menuitem", name="Leave out in a new case").click()
    expect(notebook.get_by_role("button", name="Case: Without R5")).to_be_visible()
    expect(part(notebook, "R5, resistor")).to_have_attribute("data-case", "open")
    expect(notebook.get_by_role("region", name="Findings")).to_contain_text("undetermined")
    # Another value in the same case, written where the part stands: the circuit as drawn keeps its own.
    set_value(notebook, "R3", "Resistance", "1.1k")
    expect(notebook.get_by_text("In “Without R5” with other values")).to_be_visible()
    notebook.keyboard.press("Escape")
    expect(figure(notebook, "label l3")).to_contain_text(re.compile(r"8\.9\d"))
    measured(notebook, "node in")
    measured(notebook, "node out")
    notebook.get_by_role("tab", name="Compare").click()
    notebook.get_by_role("button", name="All cases").click()
    table = notebook.get_by_role("table", name="Ledger of all cases")
    line = line_of(table, "A_v", "Without R5")
    field = line.get_by_label("Hand value of A_v")
    field.click()
    notebook.keyboard.type("g_m*R3")
    expect(line).to_contain_text(re.compile(r"11\d"))  # simulated
    expect(line.get_by_label("Bench reading of A_v")).to_have_attribute(
        "placeholder", re.compile(r"^1\d\d(\.\d)? ±")
    )
    expect(line.get_by_text("agrees").or_(line.get_by_text("differs"))).to_be_visible()
    expect(line_of(table, "A_v", "As drawn")).to_contain_text("176.8")
    notebook.get_by_role("group", name="Which voices").get_by_role("button", name="Hand").click()
    by_hand = notebook.get_by_role("table", name="Ledger of all cases, hand")
    expect(by_hand.get_by_role("columnheader")).to_have_count(6)
    saved(notebook)
    notebook.reload()
    expect(notebook.get_by_role("button", name="Case: As drawn")).to_be_visible()
    expect(figure(notebook, "label l3")).to_contain_text("5.904")
    look_at(notebook, "Without R5")
    notebook.get_by_role("button", name="Case: Without R5").click()
    notebook.get_by_role("menuitem", name="Remove this case").click()
    expect(
        message(notebook, "The case Without R5 is gone, with what belonged to it.")
    ).to_be_visible()
    expect(part(notebook, "R5, resistor")).not_to_have_attribute("data-case", "open")


def test_a_verdict_turns_as_tolerances_are_tightened_and_says_what_decides(notebook: Page) -> None:
    """Battery sense: within 5 % parts the reading agrees; parts of 0.1 % leave a gap."""
    open_exercise(notebook, "Battery sense")
    notebook.get_by_role("tab", name="Compare").click()
    out = row(notebook, "V_out")
    expect(out).to_contain_text("agrees")
    out.get_by_role("button", name="What decides on V_out").click()
    budget = out.get_by_role("table", name="Uncertainty budget")
    expect(budget.get_by_role("row").nth(1)).to_contain_text("tolerance of R")
    for name in ("R1", "R2"):
        set_value(notebook, name, "Tolerance", "0.1 %")
        notebook.keyboard.press("Escape")
    expect(out).to_contain_text("differs")
    expect(budget.get_by_role("row").nth(1)).to_contain_text("reading of")
    allowed = notebook.get_by_label("Difference that counts as agreement, in per cent")
    allowed.click()
    notebook.keyboard.type("5")
    notebook.keyboard.press("Enter")
    expect(out).to_contain_text("within the 5 % that count as agreement")
