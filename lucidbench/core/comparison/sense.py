"""Which way a source's current and power are counted: into its first pin, as the simulation does, or out of
it, as its arrow points and its power is given. Books do either, so neither is a wrong sign.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from lucidbench.core.comparison.bench import read_reading
from lucidbench.core.comparison.ledger import BenchEntry, Voices
from lucidbench.core.errors import LucidError


def as_counted(voices: Voices, either_way: Iterable[str]) -> tuple[Voices, set[str]]:
    """The voices, in whose simulated figures those named count as the working does or, without one, as the
    bench does; readings follow. And which of them were turned round."""
    bench = {entry.quantity: entry for entry in voices.bench if entry.text.strip()}
    simulated, turned = dict(voices.simulated), set()
    for name in either_way:
        own = simulated.get(name)
        if own is None:
            continue
        read = _read(bench[name], own.unit) if name in bench else 0.0
        if (_by_hand(voices, name) or read) * own.value < 0:
            simulated[name] = own = own.turned
            turned.add(name)
        if read * own.value < 0:
            bench[name] = replace(bench[name], is_turned=True)
    entries = [bench.get(entry.quantity, entry) for entry in voices.bench]
    return replace(voices, simulated=simulated, bench=entries), turned


def _by_hand(voices: Voices, name: str) -> float:
    own = voices.hand.get(name)
    return 0.0 if own is None else complex(own.value).real


def _read(entry: BenchEntry, unit: str) -> float:
    try:
        return read_reading(entry.text, unit).value
    except LucidError:
        return 0.0
