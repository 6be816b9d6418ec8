"""A real server on a machine of one's own, for all tests that only ask it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from tests.serving import Server, serving


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    with serving(tmp_path_factory.mktemp("data")) as running:
        yield running
