"""`./lucid pictures`: takes the pictures of docs/screenshots anew, from the demo data."""

from __future__ import annotations

import argparse
import re
import shutil
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from tests.browser.conftest import CHROMIUM
from tests.browser.hands import (
    open_exercise,
    set_value,
)
from tests.serving import HOME, Server, with_demo

PICTURES = HOME / "docs" / "screenshots"
WINDOW = {"width": 1280, "height": 800}
PROJECTOR = {"width": 1920, "height": 1080}


def take(page: Page, name: str) -> None:
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(400)  # transitions
    page.screenshot(path=PICTURES / f"{name}.png")


def predict(page: Page) -> None:
    open_exercise(page, "Battery sense")
    page.get_by_role("list", name="Working").get_by_text("exact", exact=True).first.wait_for()
    take(page, "predict")


def compare(page: Page) -> None:
    open_exercise(page, "Battery sense")
    page.get_by_role("tab", name="Compare").click()
    page.locator("tbody[data-quantity]").first.wait_for()
    expect(page.get_by_text("working out")).to_have_count(0)
    take(page, "compare")


def gap(page: Page) -> None:
    open_exercise(page, "Battery sense")
    page.get_by_role("tab", name="Compare").click()
    set_value(page, "R2", "Resistance", "330k")
    expect(page.get_by_label("Resistance as understood")).to_have_text("= 330 kΩ")
    expect(page.get_by_text("working out")).to_have_count(0)
    take(page, "part-card-and-gap")


def finding(page: Page) -> None:
    open_exercise(page, "Level bridge")
    page.get_by_role("button", name="Ground", exact=True).focus()
    page.keyboard.press("Delete")
    findings = page.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("no ground")
    findings.get_by_role("listitem").first.hover()
    take(page, "finding")


def layers(page: Page) -> None:
    open_exercise(page, "Level bridge")
    page.get_by_role("button", name="Powers").click()
    page.get_by_role("tab", name="Compare").click()
    page.locator("tbody[data-quantity]").first.wait_for()
    take(page, "projector-dark")


def stage(page: Page) -> None:
    open_exercise(page, "Hydrophone stage")
    page.get_by_text("the textbook form").first.wait_for()
    take(page, "hydrophone-stage")


def way(page: Page, name: str) -> None:
    """A way to measure, its plan there."""
    page.get_by_role("tab", name="Measure").click()
    page.get_by_role("list", name="Ways to measure").get_by_role("button", name=name).click()
    page.get_by_role("list", name="Where the leads go").wait_for()


def meter(page: Page) -> None:
    open_exercise(page, "Battery sense")
    way(page, "Meter")
    page.get_by_role("button", name="Read", exact=True).click()
    page.get_by_role("table", name="Readings").get_by_role("row").nth(3).wait_for()
    take(page, "measure-meter")


def record(page: Page) -> None:
    open_exercise(page, "Anti-alias ladder")
    way(page, "Record")
    page.get_by_role("region", name="Bench", exact=True).wait_for()
    take(page, "measure-record")


def response(page: Page) -> None:
    open_exercise(page, "Time-signal filter")
    way(page, "Response")
    page.get_by_role("region", name="Bench", exact=True).wait_for()
    take(page, "measure-response")


def voices(page: Page) -> None:
    """The formula in pencil, the simulation in ink, the bench in copper."""
    open_exercise(page, "Flow integrator")
    page.get_by_role("tab", name="Simulate").click()
    page.get_by_role("region", name="Bench", exact=True).wait_for()
    take(page, "three-voices")


def simulate(page: Page) -> None:
    open_exercise(page, "Hydrophone stage")
    page.get_by_role("tab", name="Simulate").click()
    page.get_by_role("button", name="Input and output", exact=True).click()
    page.get_by_role("table", name="Markers").wait_for()
    take(page, "simulate")


def sweep(page: Page) -> None:
    open_exercise(page, "Time-signal filter")
    page.get_by_role("tab", name="Simulate").click()
    page.get_by_role("combobox", name="Repeat for").select_option("R_1")
    page.get_by_role("textbox", name="Values").fill("100, 220, 470")
    expect(page.get_by_role("list", name="Readings")).to_contain_text("470")
    take(page, "frequency-sweep")


def working(page: Page) -> None:
    """A bridge by superposition, one step pointed at."""
    open_exercise(page, "Level bridge")
    page.get_by_role("tab", name="Predict").click()
    region = page.get_by_role("region", name="Show the working")
    region.get_by_label("Figure to work out").select_option("V_left")
    region.get_by_role("button", name="Show the working", exact=True).click()
    region.get_by_role("radio", name="Superposition").click()
    steps = region.get_by_role("list", name="Steps by Superposition").get_by_role("listitem")
    steps.filter(has_text="V2 alone").scroll_into_view_if_needed()
    together = steps.filter(has_text="R5 and R13 are in series").first
    together.scroll_into_view_if_needed()
    together.hover()
    take(page, "working")


def sought(page: Page) -> None:
    """An integrator's resistor from its specification."""
    open_exercise(page, "Flow integrator")
    page.get_by_role("tab", name="Predict").click()
    for text in ("f_low = 15 Hz ± 10 %", "R2 = ?"):
        page.get_by_role("button", name="Line", exact=True).click()
        page.keyboard.type(text)
        page.keyboard.press("Escape")
    table = page.get_by_role("list", name="Working").get_by_role("table")
    expect(table).to_contain_text("of builds meet it", timeout=20_000)
    page.get_by_role("button", name="Sentence").scroll_into_view_if_needed()
    take(page, "design")


def why(page: Page) -> None:
    """A gap and its causes."""
    open_exercise(page, "Time-signal filter")
    page.get_by_role("tab", name="Compare").click()
    page.get_by_role("button", name="Why? Q, bench − simulated").click()
    sheet_of = page.get_by_role("region", name="Why", exact=True)
    first = sheet_of.get_by_role("list", name="Causes", exact=True).get_by_role("listitem").first
    expect(sheet_of).to_contain_text("What would tell them apart")
    first.hover()
    take(page, "why")


def why_by_hand(page: Page) -> None:
    open_exercise(page, "Hydrophone stage")
    page.get_by_role("tab", name="Compare").click()
    page.get_by_role("button", name="Why? V_e, simulated − hand").click()
    sheet_of = page.get_by_role("region", name="Why", exact=True)
    expect(sheet_of).to_contain_text("0.7 V above", timeout=60_000)
    take(page, "why-by-hand")


def budget(page: Page) -> None:
    """What decides on the bandwidth: a run's figure beside the hand's and the bench's, source by source."""
    open_exercise(page, "Time-signal filter")
    page.get_by_role("tab", name="Compare").click()
    page.get_by_role("table", name="Curves").wait_for()
    page.get_by_role("button", name="What decides on B").click()
    page.get_by_role("table", name="Curves").scroll_into_view_if_needed()
    take(page, "uncertainty-budget")


def cases(page: Page) -> None:
    """Four cases side by side, and one of them on the sheet."""
    open_exercise(page, "Hydrophone stage")
    page.get_by_role("button", name=re.compile("^Case:")).click()
    page.get_by_role("menuitem", name="Without both").click()
    page.get_by_role("tab", name="Compare").click()
    page.get_by_role("button", name="All cases").click()
    table = page.get_by_role("table", name="Ledger of all cases")
    table.locator("tbody[data-figure='A_v']").wait_for()
    table.locator("tbody[data-figure='phi']").scroll_into_view_if_needed()
    take(page, "four-cases")


def run(options: argparse.Namespace) -> int:
    PICTURES.mkdir(parents=True, exist_ok=True)
    views = (
        ("notebook", None, WINDOW, "light"),
        ("", predict, WINDOW, "light"),
        ("", compare, WINDOW, "light"),
        ("", gap, WINDOW, "light"),
        ("", finding, WINDOW, "light"),
        ("", stage, WINDOW, "light"),
        ("", meter, WINDOW, "light"),
        ("", record, WINDOW, "light"),
        ("", response, WINDOW, "light"),
        ("", why, WINDOW, "light"),
        ("", voices, WINDOW, "light"),
        ("", why_by_hand, WINDOW, "light"),
        ("", budget, WINDOW, "light"),
        ("", cases, WINDOW, "light"),
        ("", simulate, WINDOW, "light"),
        ("", working, WINDOW, "light"),
        ("", sought, WINDOW, "light"),
        ("", sweep, PROJECTOR, "dark"),
        ("", layers, PROJECTOR, "dark"),
    )
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            # The one with windows sets text as people see it.
            executable_path=shutil.which("chromium") or CHROMIUM,
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        for name, act, viewport, theme in views:
            with tempfile.TemporaryDirectory() as folder:
                with_demo(Path(folder))
                server = Server(Path(folder))
                server.start()
                try:
                    context = browser.new_context(viewport=viewport, color_scheme=theme)
                    page = context.new_page()
                    page.goto(server.url)
                    page.get_by_role("link", name="Battery sense").wait_for()
                    if act:
                        act(page)
                    else:
                        take(page, name)
                    context.close()
                finally:
                    server.stop()
        browser.close()

    return 0
