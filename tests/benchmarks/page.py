"""The page on a server of its own, and how long an edit takes to show."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.browser.conftest import CHROMIUM, THERE_WITHIN
from tests.serving import Server, with_demo

_EDIT = """([text, watched]) => new Promise((done) => {
  const input = document.querySelector('[data-first]');
  let figure = document.querySelector(watched);
  const told = () => {  // looked for again only where it was drawn anew: that takes milliseconds
    if (!figure?.isConnected) figure = document.querySelector(watched);
    return figure?.textContent;
  };
  const before = told(); const began = performance.now();
  const seen = new MutationObserver(() => {
    if (told() !== undefined && told() !== before) {
      seen.disconnect(); requestAnimationFrame(() => done(performance.now() - began)); }
  });
  seen.observe(document.body, {subtree: true, childList: true, characterData: true});
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(input, text);
  input.dispatchEvent(new Event('input', {bubbles: true}));
})"""


@contextmanager
def demo_page() -> Iterator[Page]:
    """The notebook with the demo exercises."""
    data = Path(tempfile.mkdtemp())
    with_demo(data)
    server = Server(data)
    server.start()
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
            page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=server.url)
            page.set_default_timeout(THERE_WITHIN)
            page.goto("/")
            page.get_by_role("heading", name="Notebook").wait_for()
            yield page
    finally:
        server.stop()


def seconds_to_show(page: Page, text: str, watched: str) -> float:
    """From `text` in the open card's first field to a change of `watched` on the screen [s]."""
    return float(page.evaluate(_EDIT, [text, watched])) / 1000
