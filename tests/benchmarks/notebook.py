"""A notebook of a thousand exercises: from its address to the first words, and to its cards."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from pathlib import Path

from playwright.sync_api import sync_playwright

from tests.benchmarks.effort import repeated, sized
from tests.benchmarks.looking import ladder
from tests.benchmarks.rows import Row
from tests.browser.conftest import CHROMIUM, THERE_WITHIN
from tests.serving import Client, Server

EXERCISES = sized(1_000, 12)
SECTIONS = 4  # of the ladder in each: 9 parts
TIMES = repeated(15)
FIRST_WORDS, CARDS = 0.1, 0.3  # [s]
# When the first card with a drawing is on the screen, from the beginning of the navigation.
_CARDS = """() => new Promise((done) => {
  const look = () => document.querySelector('li h2') && document.querySelector('.miniature')
    ? requestAnimationFrame(() => done(performance.now())) : requestAnimationFrame(look);
  look();
})"""
_FIRST_WORDS = (
    """() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? null"""
)


def rows() -> list[Row]:
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        server.start()
        try:
            _fill(server)
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path=CHROMIUM, args=["--no-sandbox"]
                )
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.set_default_timeout(THERE_WITHIN)
                words, cards = [], []
                for _ in range(TIMES):
                    page.goto(server.url, wait_until="commit")
                    cards.append(page.evaluate(_CARDS) / 1e3)
                    told = page.evaluate(_FIRST_WORDS)
                    words.append((told if told is not None else 1e3 * cards[-1]) / 1e3)
                    page.wait_for_timeout(200)
        finally:
            server.stop()
    # The first time the browser's own caches are empty; the others are what a day is made of.
    return [
        Row("notebook of 1,000, first words", "100 ms", statistics.median(words), FIRST_WORDS, 1),
        Row("notebook of 1,000, cards", "300 ms", statistics.median(cards), CARDS, 1),
    ]


def _fill(server: Server) -> None:
    client = Client(server)
    document = json.loads(ladder(SECTIONS).model_dump_json())
    for k in range(EXERCISES):
        document |= {"title": f"Ladder {k}", "number": str(k), "group": f"Group {k % 7}"}
        client.call("POST", "/exercises", {"document": document})
    for first in range(0, EXERCISES, 100):  # until every card has its picture
        path = f"/exercises?first={first}&count=100"
        while not all(card["is_current"] for card in client.call("GET", path)[1]["cards"]):
            time.sleep(0.01)


if __name__ == "__main__":
    for row in rows():
        print(row)
