"""From the last key in a part's value to the curve drawn anew, on demo circuits."""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.benchmarks.editing import quantile
from tests.benchmarks.rows import Row
from tests.browser.conftest import CHROMIUM, Server
from tests.browser.hands import open_exercise, part

REACH = 100e-3  # [s], p95
EDITS = 30
CASES = (
    ("Time-signal filter", "Frequency sweep", "R1, resistor", "", "300", "330"),
    ("Hydrophone stage", "Transient", "R3, resistor", "10 ms", "2k", "2k4"),
)
# The readings stand in the same pass of drawing as the curves; a frame later both are on the screen.
_REDRAWN = """(text) => new Promise((done) => {
  const input = document.querySelector('[data-first]');
  const readings = document.querySelector('[aria-label=Readings]');
  const before = readings.textContent; const began = performance.now();
  const seen = new MutationObserver(() => {
    if (readings.textContent !== before) {
      seen.disconnect(); requestAnimationFrame(() => done(performance.now() - began)); }
  });
  seen.observe(readings, {subtree: true, childList: true, characterData: true});
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(input, text);
  input.dispatchEvent(new Event('input', {bubbles: true}));
})"""


def rows() -> list[Row]:
    server = Server(Path(tempfile.mkdtemp()))
    server.start()
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(server.url)
            return [_measured(page, *case) for case in CASES]
    finally:
        server.stop()


def _measured(
    page: Page, exercise: str, analysis: str, edited: str, stop: str, first: str, second: str
) -> Row:
    open_exercise(page, exercise)
    page.get_by_role("tab", name="Simulate").click()
    page.get_by_role("button", name=analysis).click()
    page.get_by_role("list", name="Readings").wait_for()
    if stop:
        page.get_by_role("textbox", name="How long").fill(stop)
    part(page, edited).dblclick()
    page.locator("[data-first]").wait_for()
    page.wait_for_timeout(1500)
    taken = []
    for k in range(EDITS):
        taken.append(page.evaluate(_REDRAWN, first if k % 2 else second))
        page.wait_for_timeout(150)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Notebook").click()
    work = f"edit to redrawn curve, {exercise}, {analysis.lower()} {stop}".rstrip()
    return Row(f"{work}, p95", "100 ms", quantile(taken, 0.95) / 1000, REACH, 1)
