"""`./lucid pictures`: takes the pictures of docs/screenshots anew, from the demo data."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from tests.browser.conftest import CHROMIUM
from tests.browser.hands import (
    begin_empty,
    open_exercise,
    place,
    set_value,
    sheet,
)
from tests.serving import HOME, Server

PICTURES = HOME / "docs" / "screenshots"
WINDOW = {"width": 1280, "height": 800}
PROJECTOR = {"width": 1920, "height": 1080}


def take(page: Page, name: str) -> None:
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(400)  # transitions
    page.screenshot(path=PICTURES / f"{name}.png")


def predict(page: Page) -> None:
    open_exercise(page, "Battery sense")
    take(page, "predict")


def compare(page: Page) -> None:
    open_exercise(page, "Battery sense")
    page.get_by_role("tab", name="Compare").click()
    take(page, "compare")


def gap(page: Page) -> None:
    open_exercise(page, "Battery sense")
    page.get_by_role("tab", name="Compare").click()
    set_value(page, "R2", "Resistance", "330k")
    expect(page.get_by_label("Resistance as understood")).to_have_text("= 330 kΩ")
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
    take(page, "projector-dark")


def placing(page: Page) -> None:
    begin_empty(page)
    sheet(page).focus()
    place(page, "5V")
    page.keyboard.press("Enter")
    for _ in range(2):
        page.keyboard.press("Shift+ArrowRight")
    page.keyboard.type("4k7")
    expect(page.get_by_role("option").first).to_contain_text("4.7 k")
    take(page, "type-to-place")


def stage(page: Page) -> None:
    open_exercise(page, "Hydrophone stage")
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


def curve(page: Page) -> None:
    """Two currents over the supply, on the plot of the sweep, and what is left between."""
    open_exercise(page, "Lamp curve")
    page.get_by_role("tab", name="Simulate").click()
    page.get_by_role("region", name="Bench", exact=True).wait_for()
    take(page, "bench-on-a-sweep")


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


def component(page: Page) -> None:
    """The coil taken out: its inductance, and the loss that is the missing piece."""
    open_exercise(page, "Time-signal filter")
    way(page, "Component")
    page.get_by_role("button", name="Read", exact=True).click()
    page.get_by_role("table", name="Readings").wait_for()
    take(page, "measure-component")


def phasors(page: Page) -> None:
    """A Kirchhoff sum laid head to tail."""
    open_exercise(page, "Feed line")
    page.get_by_role("tab", name="Simulate").click()
    page.get_by_role("button", name="Show phasors").click()
    page.get_by_role("button", name="Currents at the feed", exact=True).click()
    page.get_by_role("img", name=re.compile("^Currents leaving feed")).wait_for()
    take(page, "phasors")


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


def main() -> None:
    PICTURES.mkdir(parents=True, exist_ok=True)
    views = (
        ("notebook", None, WINDOW, "light"),
        ("", predict, WINDOW, "light"),
        ("", compare, WINDOW, "light"),
        ("", gap, WINDOW, "light"),
        ("", finding, WINDOW, "light"),
        ("", placing, WINDOW, "light"),
        ("", stage, WINDOW, "light"),
        ("", meter, WINDOW, "light"),
        ("", record, WINDOW, "light"),
        ("", response, WINDOW, "light"),
        ("", curve, WINDOW, "light"),
        ("", voices, WINDOW, "light"),
        ("", phasors, WINDOW, "light"),
        ("", budget, WINDOW, "light"),
        ("", cases, WINDOW, "light"),
        ("", simulate, WINDOW, "light"),
        ("", component, WINDOW, "light"),
        ("", sweep, PROJECTOR, "dark"),
        ("", layers, PROJECTOR, "dark"),
    )
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=CHROMIUM,
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        for name, act, viewport, theme in views:
            with tempfile.TemporaryDirectory() as folder:
                server = Server(Path(folder), "--demo")
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


if __name__ == "__main__":
    main()
