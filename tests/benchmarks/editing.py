"""The sheet under the hand: frames while three hundred parts are moved about, and from edit to figure."""

from __future__ import annotations

import json
from typing import Any

from playwright.sync_api import Page

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.schematic import Label, Part, Schematic, Wire
from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.page import demo_page, seconds_to_show
from tests.benchmarks.rows import Row

FRAME = 1 / 60  # [s]
# [s], p95 from an edit to the figures that follow from it
EDIT_REACH = {"30 parts": 50e-3, "294 parts": 100e-3}
LARGE = sized((14, 10), (3, 7))  # rows, and sections of each
DRAGGED = sized("R101, resistor", "R5, resistor")
MOVES = repeated(90)
TURNS = repeated(60)  # of the wheel
EDITS = repeated(100)  # enough that a moment in which the machine stands still is not what is told
PAUSE = 50  # [ms] between two edits, in which what follows from the one is painted: twenty a second
_START_FRAMES = """() => {
  window.frames_ = []; window.running_ = true; let last = performance.now();
  const tick = (now) => { window.frames_.push(now - last); last = now;
    if (window.running_) requestAnimationFrame(tick); };
  requestAnimationFrame(tick);
}"""
_END_FRAMES = "() => { window.running_ = false; return window.frames_.slice(2); }"
_CREATE = """async (document_) => {
  const token = /csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? '';
  const answer = await fetch('/api/exercises', {method: 'POST', body: JSON.stringify({document: document_}),
    headers: {'Content-Type': 'application/json', 'X-CSRFToken': token}});
  return (await answer.json()).id;
}"""


def drawing(rows: int, sections: int) -> Exercise:
    """`rows` ladders one below the other, each of `sections` series and shunt resistors and a source."""
    parts: list[Part] = []
    wires: list[Wire] = []
    labels: list[Label] = []
    for row in range(rows):
        y = 16 * row
        number = 2 * sections * row

        def add(
            kind: str, name: str, x: int, dy: int, turned: int = 0, y: int = y, **values: str
        ) -> None:
            parts.append(
                Part(id=f"p{len(parts)}", kind=kind, name=name, values=values, at=(x, y + dy),
                     rotation=turned)  # type: ignore[arg-type]
            )  # fmt: skip

        def run(*points: tuple[int, int], y: int = y) -> None:
            wires.append(Wire(id=f"w{len(wires)}", points=[(x, y + dy) for x, dy in points]))

        add("voltage_source", f"V{row + 1}", 0, 4, 90, voltage="12 V")
        add("ground", "GND", 0, 8)
        run((0, 1), (0, 0), (2, 0))
        run((0, 7), (0, 8))
        for k in range(sections):
            x = 2 + 10 * k
            add("resistor", f"R{number + 2 * k + 1}", x + 3, 0, resistance="1k", tolerance="5 %")
            add(
                "resistor", f"R{number + 2 * k + 2}", x + 6, 4, 90, resistance="1k", tolerance="5 %"
            )
            run((x + 6, 0), (x + 6, 1))
            run((x + 6, 0), (x + 10, 0))
            run((x - 4 if k else 0, 8), (x + 6, 8), (x + 6, 7))
        labels.append(Label(id=f"l{row}", name=f"out{row + 1}", at=(2 + 10 * sections, y)))
    return Exercise(
        title="Three hundred", schematic=Schematic(parts=parts, wires=wires, labels=labels)
    )


def quantile(values: list[float], share: float) -> float:
    return sorted(values)[min(len(values) - 1, int(share * len(values)))]


def frames(page: Page, move: Any) -> float:
    """95th percentile of the time between frames [s] while `move` is done."""
    page.evaluate(_START_FRAMES)
    move()
    return quantile(page.evaluate(_END_FRAMES), 0.95) / 1000


def rows() -> list[Row]:
    with demo_page() as page:
        return _measured(page)


def _measured(page: Page) -> list[Row]:
    found = []
    small = page.evaluate(_CREATE, json.loads(drawing(2, 7).model_dump_json()))
    large = page.evaluate(_CREATE, json.loads(drawing(*LARGE).model_dump_json()))
    page.goto(f"/exercises/{large}")
    page.locator("[data-note='label l0']").wait_for()
    frame = page.get_by_role("application", name="Schematic sheet").bounding_box()
    assert frame
    x, y = frame["x"] + frame["width"] / 2, frame["y"] + frame["height"] / 2

    def pan() -> None:
        for k in range(MOVES):
            page.mouse.wheel(12 if 2 * k < MOVES else -12, 7 if 2 * k < MOVES else -7)
            page.wait_for_timeout(8)

    def zoom() -> None:
        for k in range(TURNS):
            page.mouse.wheel(0, -100 if 2 * k < TURNS else 100)
            page.wait_for_timeout(8)

    def drag() -> None:
        page.get_by_role("button", name=DRAGGED).hover()
        page.mouse.down()
        for k in range(MOVES):
            page.mouse.move(x + 3 * (k % 30), y + 2 * (k % 20))
            page.wait_for_timeout(8)
        page.mouse.up()

    page.mouse.move(x, y)
    for name, move in (("pan", pan), ("zoom", zoom), ("drag a part", drag)):
        found.append(
            Row(f"{name}, 294 parts, frame p95", "a 60 Hz frame", frames(page, move), FRAME, 1.5)
        )
    for name, identity in (("30 parts", small), ("294 parts", large)):
        page.goto(f"/exercises/{identity}")
        page.locator("[data-note='label l0']").wait_for()
        page.get_by_role("button", name="R1, resistor").dblclick()
        page.get_by_role("textbox", name="Resistance", exact=True).wait_for()
        page.wait_for_timeout(500)
        figure = "[data-note='label l0']"
        taken = []
        for k in range(EDITS):
            taken.append(seconds_to_show(page, f"{1 + k % 7}.{k % 9 + 1}k", figure))
            page.wait_for_timeout(PAUSE)
        found.append(
            Row(f"edit to annotated drawing, {name}, p95", f"{1e3 * EDIT_REACH[name]:g} ms",
                quantile(taken[3:], 0.95), EDIT_REACH[name], 1)
        )  # fmt: skip
    return found


if __name__ == "__main__":
    for row in rows():
        print(row)
