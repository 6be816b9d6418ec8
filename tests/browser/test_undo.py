"""Editing, undoing, redoing and reloading in any order, by keys on the real page, against a model."""

from __future__ import annotations

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    RuleBasedStateMachine,
    invariant,
    precondition,
    rule,
    run_state_machine_as_test,
)
from playwright.sync_api import Page, expect

from tests.browser.hands import open_exercise, part, saved, set_value
from tests.depth import examples

STEPS = 8
VALUES = ("100 kΩ", "220 kΩ", "330 kΩ", "470 kΩ")


class Editor(RuleBasedStateMachine):
    """`past` and `future` are values of R2 on both sides of the one that is shown."""

    def __init__(self, page: Page) -> None:
        super().__init__()
        self.page = page
        self.shown = "270 kΩ"
        self.past: list[str] = []
        self.future: list[str] = []
        page.get_by_role("button", name="Notebook").click()
        page.get_by_role("button", name="New exercise").click()
        page.get_by_role("dialog").get_by_role("button", name="Battery sense").click()
        expect(page.get_by_text("The circuit is complete")).to_be_visible()

    @rule(value=st.sampled_from(VALUES))
    def edit(self, value: str) -> None:
        if value == self.shown:
            return
        set_value(self.page, "R2", "Resistance", value)
        self.page.keyboard.press("Escape")
        self.past.append(self.shown)
        self.future.clear()
        self.shown = value

    @precondition(lambda self: self.past)
    @rule()
    def undo(self) -> None:
        self.page.keyboard.press("Control+z")
        self.future.append(self.shown)
        self.shown = self.past.pop()

    @precondition(lambda self: self.future)
    @rule(key=st.sampled_from(["Control+y", "Control+Shift+z"]))
    def redo(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.past.append(self.shown)
        self.shown = self.future.pop()

    @rule()
    def reload(self) -> None:
        """What is shown stays; what can be undone then is what was saved, another test's concern."""
        saved(self.page)
        self.page.reload()
        self.past.clear()
        self.future.clear()

    @invariant()
    def what_is_shown_is_the_models(self) -> None:
        expect(part(self.page, f"R2, resistor, {self.shown}")).to_be_visible()


def test_undo_redo_and_reload_in_any_order(notebook: Page) -> None:
    open_exercise(notebook, "Battery sense")
    run_state_machine_as_test(
        lambda: Editor(notebook), settings=settings(examples(2), stateful_step_count=STEPS)
    )
