"""What differs between two states of a document, in a few words, for whoever looks for one of them.

On plain JSON: whatever version either is of, it is only told, and never refused.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice
from typing import Any

Raw = dict[str, Any]

MOST_TOLD = 3  # things
_SHORT = 24  # letters of a value that is told
_TITLES = ("title", "author", "group", "number", "purpose")
_LISTS = {
    "parameters": "parameter", "blocks": "block", "runs": "run", "records": "record", "cases": "case",
    "ledger": "ledger row",
}  # fmt: skip


_NAMED = ("quantity", "curve", "part", "formula")  # where a figure tells what was read


def difference(before: Raw, after: Raw) -> str:
    """ "R1: 4.7 kΩ → 10 kΩ, C2 added"; "" where nothing that is told of differs."""
    told = list(islice(_told(before, after), 100))
    more = len(told) - MOST_TOLD
    return ", ".join(told[:MOST_TOLD]) + (f" and {more} more" if more > 0 else "")


def _told(before: Raw, after: Raw) -> Iterator[str]:
    yield from _drawing(before.get("schematic") or {}, after.get("schematic") or {})
    for key in _TITLES:
        if before.get(key) != after.get(key):
            yield f"{key} “{_cut(after.get(key))}”" if after.get(key) else f"{key} removed"
    for key, word in _LISTS.items():
        for was, now in _pairs(before.get(key), after.get(key)):
            yield from _thing(word, was, now)
    for was, now in _pairs(before.get("hand"), after.get("hand")):
        if now and now.get("text"):
            yield f"working: {_cut(now['text'])}"
        elif was and was.get("text"):
            yield f"working removed: {_cut(was['text'])}"
    for was, now in _pairs(before.get("measurements"), after.get("measurements")):
        figure = (now or was or {}).get("figure") or {}
        of = next((str(figure[key]) for key in _NAMED if figure.get(key)), "")
        yield f"bench reading of {_cut(of)}{'' if now else ' removed'}"


def _drawing(before: Raw, after: Raw) -> Iterator[str]:
    for was, now in _pairs(before.get("parts"), after.get("parts")):
        yield from _part(was, now)
    for was, now in _pairs(before.get("labels"), after.get("labels")):
        if was and now and was.get("name") != now.get("name"):
            yield f"node {was.get('name')} renamed {now.get('name')}"
        elif now and not was:
            yield f"node {now.get('name')} named"
        elif was and not now:
            yield f"name {was.get('name')} removed"
    if any(_pairs(before.get("wires"), after.get("wires"))):
        yield "wires"
    if any(_pairs(before.get("notes"), after.get("notes"))):
        yield "notes on the drawing"


def _part(was: Raw | None, now: Raw | None) -> Iterator[str]:
    if was is None or now is None:
        thing = now or was or {}
        if thing.get("kind") != "ground":
            yield f"{thing.get('name')} {'added' if now else 'removed'}"
        else:
            yield f"ground {'added' if now else 'removed'}"
        return
    if was.get("name") != now.get("name"):
        yield f"{was.get('name')} renamed {now.get('name')}"
    values, others = was.get("values") or {}, now.get("values") or {}
    changed = [k for k in {**values, **others} if values.get(k, "") != others.get(k, "")]
    if len(changed) == 1:
        old, new = (_cut(texts.get(changed[0], "")) or "empty" for texts in (values, others))
        yield f"{now.get('name')}: {old} → {new}"
    elif changed or was.get("form") != now.get("form") or was.get("kind") != now.get("kind"):
        yield f"{now.get('name')} changed"
    elif any(was.get(k) != now.get(k) for k in ("at", "rotation", "mirror", "caption")):
        yield f"{now.get('name')} moved"


def _thing(word: str, was: Raw | None, now: Raw | None) -> Iterator[str]:
    name = _cut((now or was or {}).get("name", ""))
    yield f"{word} {name} {'added' if not was else 'changed' if now else 'removed'}".replace(
        "  ", " "
    )


def _pairs(before: Any, after: Any) -> Iterator[tuple[Raw | None, Raw | None]]:
    """Of two lists of things with ids, those that differ, each with what it was."""
    old, new = (
        {str(item.get("id")): item for item in items if isinstance(item, dict)}
        for items in (before or [], after or [])
    )
    for identity in {**old, **new}:
        was, now = old.get(identity), new.get(identity)
        if was != now:
            yield was, now


def _cut(text: Any) -> str:
    words = str(text or "")
    return words if len(words) <= _SHORT else words[: _SHORT - 1] + "…"
