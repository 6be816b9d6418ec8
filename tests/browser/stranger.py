"""A stranger at an empty sheet: types what a part is called, clicks where it goes, drags from pin to pin."""

from __future__ import annotations

import re
from itertools import pairwise

from playwright.sync_api import Locator, Page, expect

from lucidbench.core.schematic import Part
from lucidbench.core.schematic.geometry import pin_points
from lucidbench.core.units import parse_value
from tests.browser.hands import new_run, sheet

Spot = tuple[int, int]


class Stranger:
    """Counts what is pressed: `clicks` of the mouse, `keys` of the keyboard."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.parts: dict[str, Part] = {}
        self.clicks = self.keys = 0

    def begin(self) -> None:
        self.click(self.page.get_by_role("button", name="New exercise"))
        self.click(self.page.get_by_role("button", name="Empty sheet"))
        expect(self.page.get_by_text("An empty sheet")).to_be_visible()

    # What hands do.

    def click(self, what: Locator) -> None:
        what.click()
        self.clicks += 1

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self.keys += len(text)

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.keys += 1

    def at(self, point: tuple[float, float]) -> None:
        self.page.mouse.click(*self.spot(point))
        self.clicks += 1

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Between two places of the page."""
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=4)
        self.page.mouse.move(*end, steps=4)
        self.page.mouse.up()
        self.clicks += 1

    def spot(self, point: tuple[float, float]) -> tuple[float, float]:
        """Where a point of the grid is on the page, as the eye would find it."""
        left, top, wide, box = sheet(self.page).evaluate(
            "e => { const svg = e.querySelector('svg'); const r = svg.getBoundingClientRect();"
            " return [r.x, r.y, r.width, svg.getAttribute('viewBox')] }"
        )
        x, y, width, _ = map(float, box.split())
        return left + (point[0] - x) * wide / width, top + (point[1] - y) * wide / width

    # What is drawn.

    def put(self, text: str, name: str, kind: str, at: Spot, turned: int = 0) -> None:
        """Type what it is, turn it, click where it goes."""
        self.type(text)
        self.press("Enter")
        expect(self.page.get_by_role("combobox", name="Type to place")).to_have_count(0)
        self.press(*["r"] * turned)
        self.page.mouse.move(*self.spot(at))
        self.at(at)
        upright = {"voltage_source": 90, "current_source": 270}.get(kind, 0)
        self.parts[name] = Part.model_validate({
            "id": name, "kind": kind, "name": name, "at": at, "rotation": (upright + 90 * turned) % 360,
        })  # fmt: skip

    def pin(self, which: str) -> Spot:
        """ "R1.2" is the second pin of R1."""
        name, _, number = which.partition(".")
        return pin_points(self.parts[name])[int(number or 1) - 1]

    def wire(self, *pins: str) -> None:
        for start, end in pairwise(pins):
            self.drag(self.spot(self.pin(start)), self.spot(self.pin(end)))

    def call(self, pin: str, name: str) -> None:
        """Give the node at a pin a name."""
        self.click(self.page.get_by_role("button", name="Name a node"))
        self.at(self.pin(pin))
        self.type(name)
        self.press("Enter")
        expect(sheet(self.page)).to_contain_text(name)

    def part(self, name: str) -> Locator:
        return sheet(self.page).get_by_role("button", name=re.compile(f"^{name}, "))

    def port(self, name: str, side: str) -> tuple[float, float]:
        """Where on the page the pin of a block is that stands out at one of its sides."""
        box = self.part(name).bounding_box()
        assert box
        pins = [p.bounding_box() for p in sheet(self.page).locator("[data-role=pin]").all()]
        middles = [(p["x"] + p["width"] / 2, p["y"] + p["height"] / 2) for p in pins if p]
        edge = box["x"] + (box["width"] if side == "right" else 0)
        beside = [m for m in middles if box["y"] <= m[1] <= box["y"] + box["height"]]
        return min(beside, key=lambda m: abs(m[0] - edge))

    def open(self, name: str) -> None:
        """The card of a part."""
        self.part(name).dblclick()
        self.clicks += 2

    def set(self, name: str, **fields: str) -> None:
        """Values of a part, by the labels of its card, words joined by _."""
        self.open(name)
        for label, text in fields.items():
            field = self.page.get_by_role("textbox", name=label.replace("_", " "), exact=True)
            self.click(field)
            self.press("ControlOrMeta+a")
            self.type(text)
        self.press("Escape")

    # What is asked.

    def run(self, analysis: str) -> None:
        """A run of this analysis, the first or another."""
        self.click(self.page.get_by_role("tab", name="Simulate"))
        first = self.page.get_by_role("button", name=re.compile(f"^{analysis}"))
        if self.page.get_by_role("list", name="Runs").count():
            new_run(self.page, analysis)
            self.clicks += 2
        else:
            self.click(first)

    def fill(self, field: str, text: str) -> None:
        self.click(self.page.get_by_label(field, exact=True))
        self.press("ControlOrMeta+a")
        self.type(text)

    def show(self, *formulas: str) -> None:
        for formula in formulas:
            self.click(self.page.get_by_role("combobox", name="Show also"))
            self.type(formula)
            self.press("Enter")

    def solved(self) -> None:
        expect(self.page.get_by_text("The circuit is complete")).to_be_visible()

    def reading(self, curve: str, label: str, unit: str) -> float:
        """A figure read off a curve, in SI units."""
        row = self.page.get_by_role("list", name="Readings").get_by_role("listitem").filter(
            has=self.page.get_by_role("button", name=f"Show {curve}", exact=True)
        )  # fmt: skip
        term = row.get_by_role("term").filter(has_text=re.compile(f"^{re.escape(label)}$"))
        return told(term.locator("..").get_by_role("definition").inner_text(), unit)

    def between(self, label: str, unit: str) -> float:
        """A figure between the markers, by the words before it."""
        box = self.page.get_by_label("Between the markers")
        term = box.get_by_role("term").filter(has_text=re.compile(f"^{re.escape(label)}$"))
        return told(term.locator("..").get_by_role("definition").inner_text(), unit)

    def angle_between(self) -> float:
        """By how much the curve of B leads that of A, in degrees."""
        term = self.page.get_by_label("Between the markers").get_by_role("term")
        leads = term.filter(has_text=re.compile("leads|lags"))
        text = leads.locator("..").get_by_role("definition").inner_text()
        return float(text.replace("\u2212", "-").rstrip("°").strip())


class Finger(Stranger):
    """The same on glass: taps and drags of a finger, and keys once a field is there for them."""

    def click(self, what: Locator) -> None:
        what.tap()
        self.clicks += 1

    def at(self, point: tuple[float, float]) -> None:
        self.page.touchscreen.tap(*self.spot(point))
        self.clicks += 1

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        glass = self.page.context.new_cdp_session(self.page)

        def touch(kind: str, *points: tuple[float, float]) -> None:
            glass.send(
                "Input.dispatchTouchEvent",
                {"type": kind, "touchPoints": [{"x": x, "y": y} for x, y in points]},
            )

        touch("touchStart", start)
        for k in range(1, 5):
            touch("touchMove", tuple(a + (b - a) * k / 4 for a, b in zip(start, end, strict=True)))
        touch("touchEnd")
        glass.detach()
        self.clicks += 1

    def put(self, text: str, name: str, kind: str, at: Spot, turned: int = 0) -> None:
        self.click(self.page.get_by_role("button", name="Type to place"))
        super().put(text, name, kind, at)
        for _ in range(turned):
            self.open(name)
            self.click(self.page.get_by_role("dialog").get_by_role("button", name="Rotate"))
            self.at((at[0] - 4, at[1] + 4))  # beside the card, which leaves by it
            expect(self.page.get_by_role("dialog")).to_have_count(0)
        part = self.parts[name]
        rotation = (part.rotation + 90 * turned) % 360
        self.parts[name] = part.model_copy(update={"rotation": rotation})

    def open(self, name: str) -> None:
        box = self.part(name).bounding_box()
        assert box
        self.page.wait_for_timeout(600)  # or the tap before would be the first of the two
        for _ in range(2):
            self.page.touchscreen.tap(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.clicks += 2


def told(text: str, unit: str) -> float:
    return parse_value(text.strip().replace("\u2212", "-"), unit).number
