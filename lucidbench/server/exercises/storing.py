"""How a document lies in the database: its long columns of numbers apart, the rest against an earlier one.

A revision differs from the one before in a value or a wire. Packed by Zstandard (RFC 8878) with the text
of an earlier revision as its dictionary, it takes a few dozen bytes; every revision is still read in two
steps, whatever was saved since.
"""

from __future__ import annotations

import json
from hashlib import sha256
from typing import Any

import zstandard

WORTH = 3  # times shorter than alone a text must be against an earlier one to refer to it
MANY = 200  # numbers or characters beyond which a value lies apart

Apart = dict[str, str]  # JSON text by its content hash
Places = list[
    tuple[list[str | int], str]
]  # of what lies apart: the way to it, and its content hash


def extract_blobs(document: dict[str, Any]) -> tuple[str, Places, Apart]:
    """(JSON text without the long values, where they were, and they themselves)."""
    places: Places = []
    apart: Apart = {}

    def thinned(value: Any, way: list[str | int]) -> Any:
        if isinstance(value, dict):
            return {key: thinned(each, [*way, key]) for key, each in value.items()}
        is_numbers = isinstance(value, list) and value and isinstance(value[0], int | float)
        if (is_numbers or isinstance(value, str)) and len(value) > MANY:
            text = json.dumps(value, ensure_ascii=False)
            key = sha256(text.encode()).hexdigest()
            places.append((way, key))
            apart[key] = text
            return None
        if isinstance(value, list) and not is_numbers:
            return [thinned(each, [*way, k]) for k, each in enumerate(value)]
        return value

    text = json.dumps(thinned(document, []), ensure_ascii=False, separators=(",", ":"))
    return text, places, apart


def restore_blobs(text: str, places: Places, apart: Apart) -> dict[str, Any]:
    """The document again."""
    document: dict[str, Any] = json.loads(text)
    for way, key in places:
        holder: Any = document
        for step in way[:-1]:
            holder = holder[step]
        holder[way[-1]] = json.loads(apart[key])
    return document


def packed(text: str, against: str = "") -> bytes:
    """`text`, shorter by all that it shares with `against`."""
    return zstandard.ZstdCompressor(dict_data=_dictionary(against)).compress(text.encode())


def shortest(text: str, base: str | None) -> tuple[bytes, bool]:
    """(`text` packed, whether against `base`), which has to be worth it."""
    alone = packed(text)
    if base is not None:
        against = packed(text, base)
        if WORTH * len(against) < len(alone):
            return against, True
    return alone, False


def unpacked(content: bytes, against: str = "") -> str:
    return zstandard.ZstdDecompressor(dict_data=_dictionary(against)).decompress(content).decode()


def _dictionary(text: str) -> zstandard.ZstdCompressionDict | None:
    if not text:
        return None
    return zstandard.ZstdCompressionDict(text.encode(), dict_type=zstandard.DICT_TYPE_RAWCONTENT)
