"""What a page shows when the server, or its reader's rights, are not there; and a long notebook."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import Windows
from tests.browser.hands import (
    eventually,
    figure,
    message,
    open_exercise,
    part,
    saved,
    set_value,
    sheet,
)
from tests.serving import HOME, Client, Server, environment, serving, with_demo

BATTERY = json.loads((HOME / "examples" / "battery-sense.json").read_text())
MANY = 130


@pytest.mark.own_server
def test_nobody_answers_and_nothing_is_lost(notebook: Page, server: Server) -> None:
    """The connection seems open, and nobody answers on it; then the server is gone, and comes back."""
    open_exercise(notebook, "Battery sense")
    out = figure(notebook, "label l2")
    before = out.text_content()
    assert server.process
    os.kill(server.process.pid, signal.SIGSTOP)
    set_value(notebook, "R2", "Resistance", "330k")
    behind = notebook.get_by_role("alert").filter(has_text="from before your last edit")
    expect(behind).to_contain_text("Trying again")
    assert out.text_content() == before
    os.kill(server.process.pid, signal.SIGCONT)
    expect(behind).to_have_count(0)
    expect(out).not_to_have_text(before or "")
    saved(notebook)
    server.stop()
    set_value(notebook, "R2", "Resistance", "470k")
    expect(notebook.get_by_role("status", name="Saving")).to_contain_text("does not answer")
    server.start()
    saved(notebook)
    notebook.reload()
    expect(part(notebook, "R2, resistor, 470 kΩ")).to_be_visible()
    notebook.get_by_role("button", name="Notebook").click()
    expect(notebook.get_by_role("link", name="Level bridge")).to_be_visible()
    server.stop()
    notebook.get_by_role("link", name="Level bridge").hover()
    notebook.get_by_role("button", name="Delete Level bridge").click()
    expect(message(notebook, "The server does not answer.")).to_be_visible()
    expect(notebook.get_by_role("link", name="Level bridge")).to_be_visible()


def test_a_worker_that_is_killed_is_hardly_noticed(page: Page, tmp_path: Path) -> None:
    with_demo(tmp_path)
    with serving(tmp_path, workers=2) as server:
        page.goto(server.url)
        open_exercise(page, "Battery sense")
        out = figure(page, "label l2")
        for worker in server.workers:
            os.kill(worker, signal.SIGKILL)
        before = out.text_content() or ""
        set_value(page, "R2", "Resistance", "470k")
        expect(out).not_to_have_text(before)
        saved(page)
        page.reload()
        expect(part(page, "R2, resistor, 470 kΩ")).to_be_visible()


def test_who_is_signed_out_elsewhere_is_told_at_the_drawing(
    browser: Browser, server: Server, windows: Windows
) -> None:
    command = [sys.executable, "-m", "lucidbench", "account", "ada", "--data", server.data]
    subprocess.run(command, input="let me in\n", text=True, cwd=HOME, env=environment(), check=True)
    size = {"width": 1280, "height": 800}
    context = windows.begin(browser.new_context(viewport=size), signed_in=False)
    page, other = context.new_page(), context.new_page()
    page.goto(server.url)
    expect(page.get_by_label("Name")).to_be_focused()
    page.keyboard.type("ada")
    page.keyboard.press("Tab")
    page.keyboard.type("guess")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("name or the password is wrong")
    page.get_by_label("Password").fill("let me in")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="New exercise").click()
    page.get_by_role("button", name="Battery sense").click()
    expect(sheet(page)).to_contain_text("2.679")
    other.goto(server.url)
    other.get_by_role("button", name="Sign out ada").click()
    expect(other.get_by_role("form", name="Sign in")).to_be_visible()
    set_value(page, "R2", "Resistance", "330k")
    page.keyboard.press("Escape")
    behind = page.get_by_role("alert").filter(has_text="from before your last edit")
    expect(behind).to_contain_text("You are not signed in")
    expect(page.get_by_role("status", name="Saving")).to_contain_text("not signed in")
    expect(page.get_by_role("region", name="Findings")).to_contain_text("Not checked since")
    # Signed in again, the page goes on where it was.
    behind.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("textbox", name="Name")).to_be_focused()
    page.keyboard.type("ada")
    page.keyboard.press("Tab")
    page.keyboard.type("let me in")
    page.keyboard.press("Enter")
    expect(behind).to_have_count(0)
    expect(sheet(page)).not_to_contain_text("2.679")
    saved(page)


def test_a_long_notebook_is_shown_in_windows(
    notebook: Page, server: Server, windows: Windows
) -> None:
    client = Client(server)
    client.cookies["sessionid"] = windows.key or ""
    for k in range(MANY):
        document = {**BATTERY, "title": f"Divider d{k:03}", "number": str(1_000 - k), "group": "B"}
        client.call("POST", "/exercises", {"document": document})
    notebook.reload()
    cards = notebook.get_by_role("link", name=re.compile("^Divider"))
    expect(cards.first).to_have_text(f"Divider d{MANY - 1:03}")
    notebook.mouse.move(640, 500)

    def scrolled_to_the_last() -> bool:
        notebook.mouse.wheel(0, 1_500)
        return notebook.get_by_role("link", name="Sounder driver").count() > 0

    eventually(notebook, scrolled_to_the_last)
    expect(notebook.get_by_role("link", name="Sounder driver")).to_be_visible()
    assert cards.count() < 40  # of those that are not looked at, nothing is kept
    notebook.get_by_role("combobox", name="Order of the notebook").select_option("By number")
    notebook.mouse.wheel(0, -1_000_000)
    expect(notebook.get_by_role("link").first).to_have_text("Battery sense")
    notebook.get_by_role("searchbox", name="Find an exercise").fill("divider d07")
    expect(cards).to_have_count(10)
    expect(cards.first).to_have_text("Divider d079")
    notebook.get_by_role("searchbox", name="Find an exercise").fill("nothing like it")
    expect(notebook.get_by_text("No exercise has these words")).to_be_visible()
