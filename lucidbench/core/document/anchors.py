"""Nodes that a document speaks of though they bear only a number: naming them keeps the place meant."""

from __future__ import annotations

import re
from dataclasses import dataclass

from lucidbench.core.document.exercise import Exercise
from lucidbench.core.document.mentions import AT, SettingReads, Speech, mentions
from lucidbench.core.schematic.document import Point
from lucidbench.core.schematic.nets import Wiring

_NODE = re.compile(r"(?<![A-Za-z0-9_.])V_([A-Za-z0-9_]+)")


@dataclass(frozen=True, slots=True)
class NodePlace:
    """A node by the name it has, and a point of it on the sheet."""

    name: str
    at: Point


def unnamed_nodes(document: Exercise, wiring: Wiring, settings: SettingReads) -> list[NodePlace]:
    """Nodes of the exercise's own sheet that are numbered by themselves and spoken of somewhere.

    The numbers follow where things stand, so they shift as the drawing grows; a name does not.
    """
    numbered = {
        net.name: net.points[0]
        for net in wiring.nets
        if not net.labels and not net.is_ground and net.points
    }
    spoken: dict[str, None] = {}
    for mention in mentions(document, settings):
        if mention.sheet:
            continue
        if mention.speech is Speech.FORMULA:
            spoken |= dict.fromkeys(_NODE.findall(mention.text))
        elif mention.speech in (Speech.NODE, Speech.PLACE):
            spoken[mention.text] = None
        elif mention.speech is Speech.SUM and mention.text.startswith(AT):
            spoken[mention.text.removeprefix(AT)] = None
    return [NodePlace(name, numbered[name]) for name in spoken if name in numbered]
