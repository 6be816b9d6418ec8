"""The examples of the documentation, run as they stand."""

from __future__ import annotations

import re
from pathlib import Path
from types import ModuleType

import pytest

DOCS = Path(__file__).parents[2] / "docs"
ADDING = sorted(path.name for path in DOCS.glob("adding-*.md"))


def examples_in(page: str) -> list[str]:
    return re.findall(r"```python\n(.*?)```", (DOCS / page).read_text(), re.DOTALL)


def run(page: str) -> dict[str, object]:
    """All examples of a page, one after the other, as one module."""
    together = ModuleType("example_of_" + re.sub(r"\W", "_", page)).__dict__
    for block in examples_in(page):
        exec(compile(block, page, "exec"), together)
    return together


def test_the_examples_of_the_engine_run() -> None:
    assert len(examples_in("core.md")) >= 8
    run("core.md")


@pytest.mark.parametrize("doc", [doc for doc in ADDING if doc != "adding-a-station.md"])
def test_what_a_page_on_adding_something_shows_works_as_written(doc: str) -> None:
    """Each ends in asserts on what it added."""
    assert any("assert " in block for block in examples_in(doc)), doc
    run(doc)


@pytest.mark.parametrize("doc", sorted(path.name for path in DOCS.glob("*.md")))
def test_what_is_linked_to_and_named_is_there(doc: str) -> None:
    text = (DOCS / doc).read_text()
    for target in re.findall(r"\]\((?!http)([^)#]+)\)", text):
        assert (DOCS / target).exists(), target
    shown = re.findall(
        r"`([\w./-]+)`:\n\n```", text
    )  # files that the page itself gives the text of
    for path in re.findall(r"`((?:lucidbench|web|tests|docs|tools|examples)/[\w./-]+\.\w+)`", text):
        if path not in shown:
            assert (DOCS.parent / path).exists(), path
