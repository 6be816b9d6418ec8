"""What is told of exercises, beyond the core's own models."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from ninja import Schema
from pydantic import Field

from lucidbench.core.document.exercise import Exercise as Document
from lucidbench.core.schematic.document import Point, Schematic
from lucidbench.core.schematic.kinds import KindLook

MOST_CARDS = 100  # told at once


class Picture(Schema):
    """What an exercise's card shows of its drawing and its ledger."""

    schematic: Schematic
    joints: list[Point]
    blocks: list[KindLook]
    parts: int
    compared: int
    agreeing: int
    faults: int


class Card(Schema):
    """An exercise as the notebook shows it. Unless `is_current`, the picture is still to be made anew."""

    id: int
    title: str
    author: str
    group: str
    number: str
    purpose: str
    saved: datetime
    picture: Picture | None
    is_current: bool


class Listed(Schema):
    """Some of the exercises there are, from `first` on, in the order asked for."""

    total: int
    first: int
    cards: list[Card]


class ListQuery(Schema):
    """Which exercises to list: those with every word of `find`, `count` of them from `first` on. With
    `deleted`, of what was deleted lately instead."""

    find: str = Field("", max_length=200)
    order: Literal["newest", "oldest", "title", "number", "group"] = "newest"
    first: int = Field(0, ge=0)
    count: int = Field(48, ge=1, le=MOST_CARDS)
    deleted: bool = False


class Opened(Schema):
    id: int
    revision: int
    restores: int | None
    saved: datetime
    document: Document


class Save(Schema):
    based_on: int = Field(ge=1)
    restores: int | None = None
    document: Document


class Saved(Schema):
    revision: int
    saved: datetime


class Start(Schema):
    document: Document | None = None


class RevisionOut(Schema):
    """`changed` says in words what differs from the one before."""

    number: int
    saved: datetime
    restores: int | None
    changed: str
