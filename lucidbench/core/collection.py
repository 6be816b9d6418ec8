"""Garbage collection paused where many live objects are made at once.

Among a hundred thousand new tuples that all stay, looking for garbage costs more than the work itself.
"""

from __future__ import annotations

import gc
from collections.abc import Callable
from contextlib import ContextDecorator
from types import TracebackType
from typing import TypeVar

Function = TypeVar("Function", bound=Callable[..., object])


class collection_paused(ContextDecorator):  # noqa: N801  # used as a decorator
    """No collection while it is entered, unless it was already off."""

    def __enter__(self) -> None:
        self.was_on = gc.isenabled()
        gc.disable()

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        if self.was_on:
            gc.enable()

    def _recreate_cm(self) -> collection_paused:
        return collection_paused()
