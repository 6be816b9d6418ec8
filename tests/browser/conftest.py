"""A real server, Debian's Chromium in front of it, and for each test an account of its own."""

from __future__ import annotations

import os
import re
import shutil
import tempfile
from collections.abc import Callable, Generator, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.serving import Server, serving, with_accounts, with_demo

# Debian's Chromium without a window does half the work of the one that has windows and does not show them.
CHROMIUM = (
    os.environ.get("LUCID_CHROMIUM")
    or shutil.which("chromium-headless-shell")
    or "/usr/bin/chromium"
)
# ms; how long a machine with other work may take until what is expected or pressed is there.
THERE_WITHIN = 240_000
SHARED_HOST = "127.0.0.2"  # where people sign in

expect.set_options(timeout=THERE_WITHIN)

# Playwright's own event loop would make Django refuse its database; the tests here ask the server only.
os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

OpenWindow = Callable[..., Page]


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    if not Path(CHROMIUM).exists():
        pytest.fail(
            "Chromium is missing: ./lucid test installs it, as does apt install chromium.",
            False,
        )
    return {
        "executable_path": CHROMIUM,
        "args": ["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
    }


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}, "color_scheme": "light"}


@pytest.fixture(scope="session")
def sessions(
    request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory
) -> tuple[Path, list[str]]:
    """A data folder with an account for every test that may want one, and their sessions' keys."""
    wanted = sum("server" in getattr(item, "fixturenames", ()) for item in request.session.items)
    data = tmp_path_factory.mktemp("shared")
    return data, with_accounts(data, wanted)


@pytest.fixture(scope="session")
def shared_server(sessions: tuple[Path, list[str]]) -> Iterator[Server]:
    """One for all tests of this process that do not stop theirs."""
    with serving(sessions[0], host=SHARED_HOST) as running:
        yield running


@pytest.fixture
def server(request: pytest.FixtureRequest) -> Iterator[Server]:
    """The shared one; with the mark `own_server` one that the test may stop, with the demo exercises."""
    if not request.node.get_closest_marker("own_server"):
        yield request.getfixturevalue("shared_server")
        return
    data = request.getfixturevalue("tmp_path") / "data"
    with_demo(data)
    with serving(data) as running:
        yield running


class Windows:
    """Signs windows in to the account of a test, and keeps what a failure leaves behind."""

    def __init__(self, server: Server, key: str | None, folder: Path) -> None:
        self.server, self.key, self.folder = server, key, folder
        self.open: list[BrowserContext] = []

    def begin(self, context: BrowserContext, signed_in: bool = True) -> BrowserContext:
        self.open.append(context)
        context.set_default_timeout(THERE_WITHIN)
        context.tracing.start()
        if self.key and signed_in:
            cookie = {
                "name": "sessionid",
                "value": self.key,
                "url": self.server.url,
                "sameSite": "Strict",
            }
            context.add_cookies([cookie])  # type: ignore[list-item]
        return context

    def end(self, failed: bool) -> None:
        for k, context in enumerate(self.open):
            if failed:
                for j, page in enumerate(context.pages):
                    page.screenshot(path=self.folder / f"page-{k}-{j}.png")
                context.tracing.stop(path=self.folder / f"trace-{k}.zip")
            context.close()


@pytest.fixture
def windows(request: pytest.FixtureRequest, server: Server) -> Iterator[Windows]:
    is_shared = server.host == SHARED_HOST
    key = request.getfixturevalue("sessions")[1].pop() if is_shared else None
    found = Windows(server, key, _left_behind(request.node))
    yield found
    found.end(request.node.stash.get(FAILED, False))


@pytest.fixture
def context(
    browser: Browser, browser_context_args: dict[str, object], windows: Windows
) -> BrowserContext:
    return windows.begin(browser.new_context(**browser_context_args))  # type: ignore[arg-type]


@pytest.fixture
def open_window(browser: Browser, server: Server, windows: Windows) -> OpenWindow:
    """Opens the notebook in a window of another kind, told as Playwright's own options."""

    def window(**options: object) -> Page:
        page = windows.begin(browser.new_context(**options)).new_page()  # type: ignore[arg-type]
        page.goto(server.url)
        return page

    return window


@pytest.fixture
def notebook(server: Server, page: Page) -> Iterator[Page]:
    """The notebook, open, with the demo exercises in it. Errors of the page fail the test."""
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on("console", lambda m: errors.append(m.text) if "Content Security" in m.text else None)
    page.goto(server.url)
    page.get_by_role("heading", name="Notebook").wait_for()
    yield page
    assert errors == []


FAILED = pytest.StashKey[bool]()
RUN = os.environ.get("PYTEST_XDIST_TESTRUNUID", str(os.getpid()))[:8]


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(
    item: pytest.Item, call: pytest.CallInfo[None]
) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """A failure says where its pictures and traces are."""
    report = yield
    if report.failed and "windows" in getattr(item, "fixturenames", ()):
        item.stash[FAILED] = True
        folder = _left_behind(item)
        show = f".venv/bin/playwright show-trace {folder}/trace-0.zip"
        told = f"Pictures and traces: {folder}\nLook at one with: {show}"
        report.sections.append(("Left behind", told))
    return report


def _left_behind(item: pytest.Item) -> Path:
    name = re.sub(r"[^\w.-]+", "-", item.nodeid.partition("::")[2]).strip("-")
    return Path(tempfile.gettempdir()) / f"lucid-failures-{RUN}" / name
