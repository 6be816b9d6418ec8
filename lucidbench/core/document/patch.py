"""Changes to a document, as operations of JSON Patch (RFC 6902).

What a change does not touch is not read again: the changed document shares it with the one before.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from lucidbench.core.document.exercise import Exercise, checked
from lucidbench.core.errors import DocumentError


class Change(BaseModel):
    """`path` is a JSON Pointer (RFC 6901); `value` means nothing where something is removed."""

    op: Literal["add", "replace", "remove"]
    path: Annotated[str, Field(max_length=1_000)]
    value: Any = None


def patched(document: Exercise, changes: Iterable[Change]) -> Exercise:
    """`document`, which stays as it is, with `changes`. Raises DocumentError naming the place."""
    whole: Any = {"": document}
    for change in changes:
        try:
            _carry_out(change, whole)
        except (KeyError, IndexError, ValueError, TypeError) as error:
            place = change.path.strip("/").replace("/", " → ")
            raise DocumentError(f"The document has nothing to change at {place}.") from error
    return checked(whole[""])


def _carry_out(change: Change, whole: Any) -> None:
    key: Any
    *way, last = (step.replace("~1", "/").replace("~0", "~") for step in change.path.split("/"))
    place = whole
    for step in way:
        key = _index(step) if isinstance(place, list) else step
        place[key] = opened = _opened(place[key])
        place = opened
    key = last
    if isinstance(place, list):
        key = len(place) if last == "-" else _index(last)
        if change.op == "add":
            if key > len(place):
                raise IndexError(key)
            place.insert(key, change.value)
            return
    if change.op == "remove":
        del place[key]
        return
    if change.op == "replace":
        place[key]  # it must be there
    place[key] = change.value


def _index(step: str) -> int:
    if not step.isdecimal():
        raise ValueError(step)
    return int(step)


def _opened(held: Any) -> Any:
    """A copy one step deep, to be changed and read again."""
    return list(held) if isinstance(held, list | tuple) else dict(held)
