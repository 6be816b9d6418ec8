"""Nodes that a document speaks of by the number they have."""

from __future__ import annotations

import re

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.mentions import AT, SettingReads, Speech, mentions

_IN_FORMULA = re.compile(r"(?<![A-Za-z0-9_.])V_(n[1-9][0-9]*)(?![A-Za-z0-9_.])")
_NUMBERED = re.compile(r"n[1-9][0-9]*")


def spoken_numbers(document: Exercise, settings: SettingReads, sheet: str = "") -> list[str]:
    """Names such as n3 that are spoken of on a sheet, whether such a node is there or not."""
    spoken: dict[str, None] = {}
    for mention in mentions(document, settings):
        if mention.sheet != sheet:
            continue
        match mention.speech:
            case Speech.FORMULA | Speech.PROSE:
                spoken |= dict.fromkeys(_IN_FORMULA.findall(mention.text))
            case Speech.NODE | Speech.PLACE | Speech.SUM:
                name = mention.text.removeprefix(AT)
                if _NUMBERED.fullmatch(name):
                    spoken[name] = None
    return list(spoken)
