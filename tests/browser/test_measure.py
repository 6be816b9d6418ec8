"""Measuring as a student does: on the stand-in bench, on a real one, and from tables."""

from __future__ import annotations

import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import FilePayload, Locator, Page, expect

from lucidbench.instruments.models import INSTRUMENTS
from tests.browser.hands import build_panel, open_exercise, part, saved, sheet, way
from tests.serving import HOME, Server, free_port


def middle(locator: Locator) -> tuple[float, float]:
    box = locator.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_voltage_is_read_by_pointing_at_the_drawing(notebook: Page) -> None:
    """Battery sense: the meter on the upper node, then the current of a part; both stand in the ledger."""
    open_exercise(notebook, "Battery sense")
    form = way(notebook, "Meter")
    form.get_by_role("button", name="Point at at on the drawing").click()
    expect(notebook.get_by_role("status", name="What to do")).to_contain_text("press a wire")
    x, _ = middle(part(notebook, "V1, voltage source").locator(".halo"))
    above = middle(part(notebook, "R1, resistor").locator(".halo"))
    notebook.mouse.click(x, above[1] - 40)  # the wire between the two
    expect(form.get_by_label("At", exact=True)).to_have_value("bat")
    expect(form.get_by_role("list", name="Where the leads go")).to_contain_text(
        "Red lead on node bat"
    )
    form.get_by_role("button", name="Read", exact=True).click()
    readings = notebook.get_by_role("table", name="Readings")
    expect(readings.get_by_role("row").last).to_contain_text(re.compile(r"12\.\d+ V ± 0\.\d+ V"))
    form.get_by_label("Reads").select_option("current, DC")
    form.get_by_role("button", name="Point at at on the drawing").click()
    notebook.mouse.click(*above)
    expect(form.get_by_label("At", exact=True)).to_have_value("R1")
    form.get_by_role("button", name="Read", exact=True).click()
    expect(readings.get_by_role("row").last).to_contain_text("µA")
    expect(readings.get_by_role("row").last).to_contain_text("100 Ω in series")
    saved(notebook)
    notebook.get_by_role("tab", name="Compare").click()
    row = notebook.locator("[data-quantity=I_R1]")
    expect(row.get_by_label("Bench reading of I_R1")).to_have_value(re.compile("µA ±"))
    expect(row).to_contain_text("agree")


def test_a_response_comes_point_by_point_and_can_be_paused(notebook: Page) -> None:
    """Time-signal filter: what the coil loses shows in the same row as hand and simulation."""
    open_exercise(notebook, "Time-signal filter")
    form = way(notebook, "Response")
    form.get_by_label("From").click()
    notebook.keyboard.type("50k")
    notebook.keyboard.press("Tab")
    notebook.keyboard.type("120k")
    form.get_by_label("Frequencies").click()
    notebook.keyboard.type("120")
    form.get_by_role("button", name="Measure", exact=True).click()
    form.get_by_role("button", name="Pause").click()
    expect(form.get_by_role("button", name="Go on")).to_be_visible()
    told = form.get_by_text(re.compile(r"^\s*\d+ of 120"))
    stopped_at = told.inner_text()
    notebook.wait_for_timeout(600)  # in which some points would have come
    assert told.inner_text() == stopped_at
    form.get_by_role("button", name="Go on").click()
    record = notebook.get_by_role("region", name="Response at out")
    expect(record).to_contain_text("120 points, taken")
    bench = record.get_by_role("region", name="Bench")
    expect(bench).to_contain_text(re.compile(r"Q\s*3\.\d+\s*±|Q\s*4\.[0-6]"))
    expect(bench).to_contain_text("the gap is between")
    notebook.keyboard.press("Control+z")  # all of it at once
    expect(record).to_have_count(0)


def test_a_record_is_triggered_and_laid_over_its_run(notebook: Page) -> None:
    """Anti-alias ladder: taken while it runs, laid by its trigger where a pulse of the settled run rises."""
    open_exercise(notebook, "Anti-alias ladder")
    form = way(notebook, "Record")
    expect(form.get_by_label("Level")).to_have_attribute("placeholder", "1.65 V")
    form.get_by_role("button", name="Measure", exact=True).click()
    record = notebook.get_by_role("region", name="Record at in and out")
    expect(record).to_contain_text("1000 points")
    expect(record).to_contain_text("moved by 100 µs")
    expect(record.get_by_role("region", name="Bench")).to_contain_text(
        re.compile(r"Agrees at \d+ of")
    )
    handle = record.get_by_role("button", name=re.compile("^Move Record at in and out along"))
    handle.scroll_into_view_if_needed()
    x, y = middle(handle)
    notebook.mouse.move(x, y)
    notebook.mouse.down()
    notebook.mouse.move(x + 90, y, steps=5)
    notebook.mouse.up()
    expect(record).to_contain_text(re.compile(r"moved by [78]\d\d(\.\d)?\sµs"))
    notebook.get_by_role("tab", name="Simulate").click()
    bench = notebook.get_by_role("region", name="Bench")
    shown = bench.get_by_role("button", name="Show the record Record at in and out")
    expect(shown).to_have_attribute("aria-pressed", "true")
    shown.click()
    expect(shown).to_have_attribute("aria-pressed", "false")


FILES = {
    "scope.csv": (
        "Skerry instruments,M1\nSample Interval,2.5e-5 s\nChannel,1\n\nV_out\n(mV)\n"
        + "\n".join(f"{1000 * k / 40:.1f}" for k in range(40))
    ),
    "analyser.txt": "Freq (kHz)\tGain (dB)\tPhase (deg)\n1\t-1.2\t-20\n3\t-4.9\t-55\n10\t-14\t-95\n",
    "tabelle.csv": "t [ms];V_out [V];± [V]\n0,0;0,10;0,05\n0,5;1,90;0,05\n1,0;2,80;0,05\n",
}  # fmt: skip


def test_three_instruments_files(notebook: Page) -> None:
    """A sample interval instead of times; decibels and degrees; decimal commas with an uncertainty."""
    open_exercise(notebook, "Anti-alias ladder")
    notebook.get_by_role("tab", name="Measure").click()
    for name, text in FILES.items():
        notebook.get_by_role("button", name="Table …").click()
        dialog = notebook.get_by_role("dialog", name="Record from a table")
        with notebook.expect_file_chooser() as chooser:
            dialog.get_by_role("button", name="File …").click()
        payload = FilePayload(name=name, mimeType="text/csv", buffer=text.encode())
        chooser.value.set_files(payload)
        expect(dialog.get_by_role("img").first).to_be_visible()
        dialog.get_by_role("button", name="Keep as a record").click()
        expect(dialog).to_have_count(0)
        record = notebook.get_by_role("region", name=name.split(".")[0], exact=True)
        expect(record.get_by_role("region", name="Bench")).to_be_visible()
    expect(notebook.get_by_role("list", name="Records").get_by_role("button")).to_have_count(4)


@contextmanager
def real_bench(exercise: str, port: int) -> Iterator[tuple[subprocess.Popen[str], dict[str, str]]]:
    command = [sys.executable, "-m", "lucidbench", "bench", str(HOME / "examples" / exercise)]
    with subprocess.Popen(
        [*command, "--port", str(port)], stdout=subprocess.PIPE, text=True, cwd=HOME
    ) as process:
        assert process.stdout
        try:
            yield process, dict(process.stdout.readline().strip().split(": ") for _ in INSTRUMENTS)
        finally:
            process.kill()


def test_a_real_bench_is_switched_off_and_on_in_the_middle(notebook: Page, server: Server) -> None:
    """A second process on another port; what was taken is kept, and the response goes on."""
    file = server.data / "instruments.toml"
    port = free_port(len(INSTRUMENTS))
    with real_bench("time-signal-filter.json", port) as (process, addresses):
        lines = "\n".join(f'{kind} = "{address}"' for kind, address in addresses.items())
        file.write_text(f'[[bench]]\nname = "Bench 3"\n{lines}\n')
        open_exercise(notebook, "Time-signal filter")
        form = way(notebook, "Response")
        form.get_by_label("On which bench").select_option("Bench 3")
        expect(form.get_by_role("list", name="Where the leads go")).to_contain_text(
            "1. The generator"
        )
        form.get_by_label("Frequencies").click()
        notebook.keyboard.type("150")
        form.get_by_role("button", name="Measure", exact=True).click()
        expect(form.get_by_text(re.compile(r"[1-9]\d* of 150"))).to_be_visible()
        process.send_signal(signal.SIGKILL)
        expect(form.get_by_role("alert")).to_contain_text("of Bench 3")
        taken = re.search(r"(\d+) of 150", form.inner_text())
        assert taken
        assert int(taken[1]) < 150
    with real_bench("time-signal-filter.json", port):
        form.get_by_role("button", name="Go on").click()
        record = notebook.get_by_role("region", name="Response at out")
        expect(record).to_contain_text("150 points, taken")
        expect(record).to_contain_text("on Bench 3")


def test_a_fault_is_planted_sealed_and_found_by_measuring(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    form = way(notebook, "Meter")
    panel = build_panel(notebook)
    panel.get_by_role("button", name="Plant a fault").click()
    panel.get_by_label("Part that is wrong").select_option("R2")
    panel.get_by_label("What is wrong with it").select_option("is open")
    panel.get_by_label("Word").click()
    notebook.keyboard.type("tern")
    notebook.keyboard.press("Enter")
    expect(panel).to_contain_text("found out by measuring")
    notebook.keyboard.press("Escape")
    form.get_by_role("button", name="Read", exact=True).click()
    expect(notebook.get_by_role("table", name="Readings").get_by_role("row").last).to_contain_text(
        re.compile(r"1[12]\.\d+ V")
    )
    assert sheet(notebook).is_visible()
