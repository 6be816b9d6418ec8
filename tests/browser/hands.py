"""What a person does on the sheet, in their own terms."""

from __future__ import annotations

import json
import re
import time
from collections.abc import Callable
from re import Pattern

from playwright.sync_api import Locator, Page, expect


def eventually(page: Page, is_so: Callable[[], bool]) -> None:
    """Look again and again until it is so. Raises AssertionError where it does not come about."""
    until = time.monotonic() + 60
    while not is_so():
        assert time.monotonic() < until, "it did not come about"
        page.evaluate("() => new Promise(requestAnimationFrame)")


def open_exercise(page: Page, title: str) -> None:
    page.get_by_role("link", name=title, exact=True).click()
    expect(page.get_by_role("application", name="Schematic sheet")).to_be_visible()
    expect(page.get_by_role("region", name="Findings")).not_to_contain_text("Checking")


def begin_empty(page: Page) -> None:
    """From the notebook to an empty sheet, by keyboard."""
    page.get_by_role("button", name="New exercise").focus()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Empty sheet").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("An empty sheet")).to_be_visible()


def sheet(page: Page) -> Locator:
    return page.get_by_role("application", name="Schematic sheet")


def part(page: Page, name: str | Pattern[str]) -> Locator:
    """A part on the sheet by the start of its spoken description."""
    return sheet(page).get_by_role("button", name=name)


def figure(page: Page, quantity: str) -> Locator:
    """A figure written on the drawing."""
    return sheet(page).locator(f"[data-note='{quantity}']")


def row(page: Page, quantity: str) -> Locator:
    """A row of the ledger."""
    return page.locator(f"tbody[data-quantity='{quantity}']")


def new_run(page: Page, analysis: str) -> None:
    """Another run of the open exercise, in the Simulate station."""
    page.get_by_role("button", name="Run", exact=True).click()
    page.get_by_role("menuitem", name=analysis, exact=True).click()
    expect(page.get_by_role("list", name="Runs")).to_contain_text(analysis)


def set_value(page: Page, name: str, field: str, text: str) -> None:
    part(page, name).dblclick()
    page.get_by_role("textbox", name=field, exact=True).fill(text)


def place(page: Page, text: str) -> None:
    """Type on the sheet and take what is understood first."""
    page.keyboard.type(text)
    page.keyboard.press("Enter")
    expect(page.get_by_role("combobox", name="Type to place")).to_have_count(0)


def name_node(page: Page, text: str) -> None:
    """Type a node's name, and take the name where the word could be a part too."""
    page.keyboard.type(text)
    listed = page.get_by_role("listbox", name="What can be placed")
    expect(listed).to_have_attribute("aria-busy", "false")
    naming = page.get_by_role("option", name="name the node here")
    expect(naming).to_be_visible()
    for _ in range(page.get_by_role("option").count()):
        if naming.get_attribute("aria-selected") == "true":
            break
        page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_role("combobox", name="Type to place")).to_have_count(0)


def message(page: Page, text: str) -> Locator:
    """A short message at the foot of the page; it is read aloud too, by an element of its own."""
    return page.get_by_role("region", name="Notifications").get_by_text(text)


def asks_of(page: Page) -> list[str]:
    """What the page asks on lines that it opens from now on, as it is asked."""
    asks: list[str] = []

    def hear(frame: str | bytes) -> None:
        asks.append(json.loads(frame).get("ask", "cancel"))

    page.on("websocket", lambda socket: socket.on("framesent", hear))
    return asks


def saved(page: Page) -> None:
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved")


def way(page: Page, name: str) -> Locator:
    """The form of a way to measure, opened by its button."""
    page.get_by_role("tab", name="Measure").click()
    page.get_by_role("list", name="Ways to measure").get_by_role("button", name=name).click()
    return page.get_by_role("region", name=name, exact=True)


def build_panel(page: Page) -> Locator:
    """What stands on the bench, opened from the form of a way to measure."""
    page.get_by_role("button", name=re.compile("^Build")).click()
    return page.get_by_role("dialog", name="What stands on the bench")
