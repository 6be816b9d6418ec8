"""Families of ordinary circuits with random values, each with figures from equations of its own.

A family makes one specimen from a random generator: a netlist, what it must come to, and how long it may
take. None may fail: `./lucid zoo --runs N --seed S` tries many and prints what did, by family.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from lucidbench.core.analyses.run import Watch
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import read_netlist
from lucidbench.core.runs.answers import Answer
from lucidbench.core.runs.kinds import answer

Check = Callable[[list[Answer]], None]


@dataclass(frozen=True)
class Specimen:
    """One circuit: `check` raises AssertionError where a figure is not as it must be.

    `refusal` are words that the sentence must hold with which the run is refused, where it must be.
    """

    text: str
    check: Check = lambda answers: None
    seconds: float = 4.0
    refusal: tuple[str, ...] = ()
    notes: bool = False  # whether the run may say something


Family = Callable[[random.Random], Specimen]
FAMILIES: dict[str, Family] = {}


def family(make: Family) -> Family:
    """Registers a family under its function's name."""
    FAMILIES[make.__name__] = make
    return make


def complaint(specimen: Specimen) -> str:
    """What is wrong with how it came out; empty where nothing is."""
    began = time.monotonic()
    try:
        netlist = read_netlist(specimen.text)
        answers = [
            answer(netlist.circuit, request, Watch(seconds=specimen.seconds))
            for request in netlist.requests
        ]
    except LucidError as error:
        if specimen.refusal and all(word in str(error) for word in specimen.refusal):
            return ""
        return f"refused after {time.monotonic() - began:.1f} s: {error}"
    if specimen.refusal:
        return "was not refused"
    notes = [note for each in answers for note in each.notes]
    if notes and not specimen.notes:
        return f"note: {notes[0]}"
    try:
        specimen.check(answers)
    except AssertionError as wrong:
        return str(wrong).split("\n")[0] or "a figure is wrong"
    return ""


def specimens(runs: int, seed: int, only: str = "") -> Iterator[tuple[str, int, Specimen]]:
    """`runs` specimens, the families in turn: (family, its own seed, specimen)."""
    names = [name for name in sorted(FAMILIES) if only in name]
    for k in range(runs):
        name = names[k % len(names)]
        own = seed * 1_000_003 + k
        yield name, own, FAMILIES[name](random.Random(own))


def within(
    found: float, wanted: float, relative: float, least: float = 0.0, what: str = ""
) -> None:
    """Raise AssertionError where `found` is not `wanted`."""
    allowed = relative * abs(wanted) + least
    assert abs(found - wanted) <= allowed, f"{what} is {found:.9g}, and {wanted:.9g} is right"


from tests.zoo import coupled, gates, junctions, rectifiers, sources, switched  # noqa: E402, F401
