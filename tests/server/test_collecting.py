"""Memory is given back though nothing is collected while answers are made."""

from __future__ import annotations

import gc
import time
import weakref

import pytest

from lucidbench.server import collecting


class Circle:
    """Garbage that only a collection finds."""

    def __init__(self) -> None:
        self.own = self


def test_garbage_goes_once_nobody_asks(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(collecting, "PAUSE", 0.05)
    monkeypatch.setattr(collecting, "WORTH_IT", 0)
    left: list[weakref.ref[Circle]] = []

    def answer(environ: object, start_response: object) -> list[bytes]:
        left.append(weakref.ref(Circle()))
        time.sleep(0.2)  # longer than a pause, and not one
        assert left[0]() is not None
        return [b""]

    try:
        application = collecting.CollectsInPauses(answer)
        assert not gc.isenabled()
        application({}, lambda *_: lambda _: None)
        deadline = time.monotonic() + 10
        while left[0]() is not None and time.monotonic() < deadline:
            time.sleep(0.01)
        assert left[0]() is None
    finally:
        gc.enable()
        gc.unfreeze()
