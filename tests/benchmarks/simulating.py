"""From the last key in a part's value to the curve drawn anew, on demo circuits."""

from __future__ import annotations

from playwright.sync_api import Page

from tests.benchmarks.editing import quantile
from tests.benchmarks.page import demo_page, seconds_to_show
from tests.benchmarks.rows import Row
from tests.browser.hands import open_exercise, part

REACH = 100e-3  # [s], p95
EDITS = 30
CASES = (
    ("Time-signal filter", "Frequency sweep", "R1, resistor", "", "300", "330"),
    ("Hydrophone stage", "Transient", "R3, resistor", "10 ms", "2k", "2k4"),
)
# The readings stand in the same pass of drawing as the curves; a frame later both are on the screen.
READINGS = "[aria-label=Readings]"


def rows() -> list[Row]:
    with demo_page() as page:
        return [_measured(page, *case) for case in CASES]


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
        taken.append(seconds_to_show(page, first if k % 2 else second, READINGS))
        page.wait_for_timeout(150)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Notebook").click()
    work = f"edit to redrawn curve, {exercise}, {analysis.lower()} {stop}".rstrip()
    return Row(f"{work}, p95", "100 ms", quantile(taken, 0.95), REACH, 1)
