"""Which way currents and power are counted. The simulation counts into a part's first pin.

Of a source books count either into it or out of it, as its arrow points and its power is given; neither is a
wrong sign. Where both ends of a part look alike nobody sees which pin is the first, but the arrow on the
drawing points as the current flows: counted that way, it is right as well.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

from lucidbench.core.comparison.bench import read_reading
from lucidbench.core.comparison.estimate import Estimate
from lucidbench.core.comparison.ledger import BenchEntry, Voices
from lucidbench.core.errors import LucidError
from lucidbench.core.formula import Known


@dataclass(frozen=True)
class Counting:
    """Names of figures of sources, and of currents through parts with ends that look alike."""

    sources: frozenset[str] = frozenset()
    parts: frozenset[str] = frozenset()


def turned_in(voices: Voices, counting: Counting) -> frozenset[str]:
    """Simulated figures that the working or, without one, the bench counts out of the first pin."""
    bench = {entry.quantity: entry for entry in voices.bench if entry.text.strip()}
    found = set()
    for name in counting.sources | counting.parts:
        own = voices.simulated.get(name)
        if own is None:
            continue
        if own.angle is not None:
            points_back = own.number.real < 0 or name in counting.sources
            if points_back and _is_opposite_phasor(voices.hand.get(name), own.number):
                found.add(name)
            continue
        told = _by_hand(voices, name) or (_read(bench[name], own.unit) if name in bench else 0.0)
        if told * own.value < 0 and (told > 0 or name in counting.sources):
            found.add(name)
    return frozenset(found)


def as_counted(voices: Voices, turned: Collection[str], counting: Counting) -> Voices:
    """With the simulated figures that are turned counting out of the first pin. Readings follow, where their
    sign is a matter of how one counts."""
    simulated = {n: own.turned if n in turned else own for n, own in voices.simulated.items()}
    either = counting.sources | set(turned)
    entries = [
        replace(entry, is_turned=True)
        if entry.quantity in either and _is_opposite(entry, simulated.get(entry.quantity))
        else entry
        for entry in voices.bench
    ]
    return replace(voices, simulated=simulated, bench=entries)


def _is_opposite_phasor(told: Known | Estimate | None, own: complex) -> bool:
    """Turned by more than a right angle: nearer to the one that is counted the other way."""
    if told is None:
        return False
    value = told.number if isinstance(told, Estimate) else complex(told.value)
    return (value * own.conjugate()).real < 0


def _is_opposite(entry: BenchEntry, own: Estimate | None) -> bool:
    return own is not None and _read(entry, own.unit) * own.value < 0


def _by_hand(voices: Voices, name: str) -> float:
    own = voices.hand.get(name)
    return 0.0 if own is None else complex(own.value).real


def _read(entry: BenchEntry, unit: str) -> float:
    try:
        return read_reading(entry.text, unit).value
    except LucidError:
        return 0.0
