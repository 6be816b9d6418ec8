"""A real server on a database of its own, and Debian's Chromium in front of it."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.serving import Server, serving

CHROMIUM = "/usr/bin/chromium"
SHOWS_WITHIN = 20_000  # ms; how long a busy machine may take to show what is expected

expect.set_options(timeout=SHOWS_WITHIN)

# Playwright's own event loop would make Django refuse its database; the tests here ask the server only.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    return {
        "executable_path": CHROMIUM,
        "args": ["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
    }


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}, "color_scheme": "light"}


@pytest.fixture(scope="session")
def demo_data(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with the demo exercises, to be copied."""
    data = tmp_path_factory.mktemp("demo")
    with serving(data, "--demo"):
        pass
    return data


@pytest.fixture
def server(tmp_path: Path, demo_data: Path) -> Iterator[Server]:
    shutil.copytree(demo_data, tmp_path / "data")
    with serving(tmp_path / "data", "--demo") as running:
        yield running


@pytest.fixture
def notebook(server: Server, page: Page) -> Page:
    """The notebook, open, with the demo exercises in it. Errors of the page fail the test."""
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on("console", lambda m: errors.append(m.text) if "Content Security" in m.text else None)
    page.goto(server.url)
    page.get_by_role("heading", name="Notebook").wait_for()
    yield page
    assert errors == []
