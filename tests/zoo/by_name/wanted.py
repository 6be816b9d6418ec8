"""A circuit by name: its text and the figures it must come to."""

from __future__ import annotations

import numpy as np

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, within
from tests.zoo.junctions import scale_at

Wanted = dict[str | tuple[str, float], float]
VT = scale_at(27.0)


def named(text: str, wanted: Wanted, relative: float = 1e-6, least: float = 1e-12) -> Specimen:
    """A circuit and its figures: of the operating point by name, of a run or sweep by (name, where)."""

    def check(answers: list[Answer]) -> None:
        last = answers[-1]
        for key, value in wanted.items():
            if isinstance(key, str):
                found = answers[0].values[key]
            else:
                assert last.axis is not None
                places = np.argsort(last.axis.values)  # a sweep may run downwards
                trace = np.asarray(last.traces[key[0]])[places]
                found = float(np.interp(key[1], last.axis.values[places], trace))
            within(found, value, relative, least, str(key))

    return Specimen("named\n" + text, check, seconds=10)


def parallel(*ohms: float) -> float:
    return 1 / sum(1 / r for r in ohms)
