"""From the last key in a part's value to the curve drawn anew, on demo circuits."""

from __future__ import annotations

from playwright.sync_api import Page

from tests.benchmarks.editing import FRAME, frames, quantile
from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.page import demo_page, seconds_to_show
from tests.benchmarks.rows import Row
from tests.browser.hands import new_run, open_exercise, part

REACH = 100e-3  # [s], p95
EDITS = repeated(90)
TURNS = repeated(60, 6)
FAMILY = [f"{k} kΩ" for k in range(1, sized(11, 4))]
CASES = (
    ("Time-signal filter", "Frequency sweep", "R1, resistor", "", "300", "330"),
    ("Hydrophone stage", "Transient", "R3, resistor", "10 ms", "2k", "2k4"),
)
# The readings stand in the same pass of drawing as the curves; a frame later both are on the screen.
READINGS = "[aria-label=Readings]"


def rows() -> list[Row]:
    with demo_page() as page:
        return [*(_measured(page, *case) for case in CASES), *_looked_at(page)]


def _looked_at(page: Page) -> list[Row]:
    """Three curves of 140,000 points together, then ten of a family."""
    open_exercise(page, "Hydrophone stage")
    page.get_by_role("tab", name="Simulate").click()
    new_run(page, "Transient")
    long = page.get_by_role("textbox", name="Stop time")
    long.fill(sized("1 s", "20 ms"))
    page.wait_for_timeout(sized(8_000, 500))
    found = [_frames(page, "140,000 points of three curves")]
    for name in ("V_in", "V_b"):
        page.get_by_role("button", name=f"Remove {name}").click()
    long.fill(sized("200 ms", "20 ms"))
    page.get_by_role("combobox", name="Repeat for").select_option("R3")
    page.get_by_role("textbox", name="Values").fill(", ".join(FAMILY))
    page.wait_for_timeout(sized(1_000, 500))
    again = page.get_by_role("button", name="Run again")
    if again.is_visible():  # what took long the last time waits to be asked for
        again.click()
    page.get_by_role("button", name=f"R3 = {FAMILY[-1]}").first.wait_for(timeout=60_000)
    page.wait_for_timeout(sized(2_000, 100))
    return [*found, _frames(page, "a family of ten curves")]


def _frames(page: Page, what: str) -> Row:
    """Looking closer and along."""
    box = page.locator(".u-over").first.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)

    def turn() -> None:
        page.keyboard.down("Control")
        for k in range(TURNS):
            page.mouse.wheel(0, -40 if 2 * k < TURNS else 40)
            page.wait_for_timeout(8)
        page.keyboard.up("Control")
        page.keyboard.down("Shift")
        for k in range(TURNS):
            page.mouse.wheel(0, 60 if 2 * k < TURNS else -60)
            page.wait_for_timeout(8)
        page.keyboard.up("Shift")

    return Row(
        f"look closer and along, {what}, frame p95",
        "a 60 Hz frame", frames(page, turn), FRAME, 1.5,
    )  # fmt: skip


def _measured(
    page: Page, exercise: str, analysis: str, edited: str, stop: str, first: str, second: str
) -> Row:
    open_exercise(page, exercise)
    page.get_by_role("tab", name="Simulate").click()
    new_run(page, analysis)
    page.get_by_role("list", name="Readings").wait_for()
    if stop:
        page.get_by_role("textbox", name="Stop time").fill(stop)
    part(page, edited).dblclick()
    page.locator("[data-first]").wait_for()
    page.wait_for_timeout(sized(1500, 100))
    taken = []
    for k in range(EDITS):
        taken.append(seconds_to_show(page, first if k % 2 else second, READINGS))
        page.wait_for_timeout(150)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Notebook").click()
    work = f"edit to redrawn curve, {exercise}, {analysis.lower()} {stop}".rstrip()
    return Row(f"{work}, p95", "100 ms", quantile(taken, 0.95), REACH, 1)
