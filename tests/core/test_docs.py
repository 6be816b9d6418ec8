"""The examples of docs/core.md, run as they stand."""

from __future__ import annotations

import re
from pathlib import Path

DOCS = Path(__file__).parents[2] / "docs"


def test_the_examples_run() -> None:
    blocks = re.findall(r"```python\n(.*?)```", (DOCS / "core.md").read_text(), re.DOTALL)
    assert len(blocks) >= 8
    together: dict[str, object] = {}
    for block in blocks:
        exec(compile(block, "docs/core.md", "exec"), together)
