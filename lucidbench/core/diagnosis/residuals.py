"""What is left when nothing explains it: a factor, a slope, a shift, or mere scatter."""

from __future__ import annotations

import numpy as np

from lucidbench.core.diagnosis.blocks import AtRest, OverFrequency, OverTime
from lucidbench.core.diagnosis.observed import Array, Column, Observed
from lucidbench.core.units import engineering

_FEWEST = 12  # points of a column whose scatter can be seen
_OF_MEDIAN = 1.4826  # standard deviation of a bell curve over the median of its magnitudes
_OF_SECONDS = 6.0**0.5  # of second differences over that of the points themselves
_MOST_OF_IT = 0.6  # share of the misfit's square that a shape must take away to be named


def scatter(observed: Observed, predicted: Array) -> float:
    """How much the misfits jump from point to point, in stated uncertainties: by second differences, whose
    median does not mind where the curve bends. 1 where there are too few points."""
    misfit = observed.misfit(predicted)
    jumps = [
        np.abs(np.diff(part, 2))
        for part in _columns(observed, misfit)
        if len(part) >= _FEWEST
    ]  # fmt: skip
    if not jumps:
        return 1.0
    return float(_OF_MEDIAN * np.median(np.concatenate(jumps)) / _OF_SECONDS)


def _columns(observed: Observed, numbers: Array) -> list[Array]:
    sizes = [len(column.values) for block in observed.blocks for column in block.columns]
    return [np.asarray(part) for part in np.split(numbers, np.cumsum(sizes)[:-1])]


def shape_of(observed: Observed, predicted: Array) -> str:
    """What the difference that is left looks like, in words."""
    if scatter(observed, predicted) > 0.7 * _size(observed.misfit(predicted)):
        return "What is left is scatter: the readings jump about more than was said of them."
    columns = [(b, c) for b in observed.blocks for c in b.columns]
    words = [
        told
        for (block, column), values in zip(columns, _columns(observed, predicted), strict=True)
        if (told := _of_column(block, column, values))
    ]
    return words[0] if words else "What is left is no mere factor, slope or shift."


def missing(observed: Observed) -> str:
    """What was not measured and might tell more, in words; "" where that is all there is."""
    circuits = list(observed.circuits.values())
    wanted = []
    is_driven = any(e.imposes and e.values.get(e.main_key) for c in circuits for e in c)
    if is_driven and not any(isinstance(block, AtRest) for block in observed.blocks):
        wanted.append("the voltages at rest")
    for block in observed.blocks:
        parts = {column.part for column in block.columns}
        if isinstance(block, OverFrequency) and not block.by_waveforms and "arg" not in parts:
            wanted.append(f"the phase of {block.columns[0].formula.text}")
    read = {place[0] for block in observed.blocks for place in block.places}
    others = [node for node in circuits[0].nodes if node not in read]
    if others:
        wanted.append(
            f"anything at the node{'s' if len(others) > 1 else ''} {', '.join(others[:3])}"
        )
    return f"Not measured yet: {'; '.join(wanted)}." if wanted else ""


def _size(misfit: Array) -> float:
    return float(np.sqrt(np.mean(misfit**2)))


def _of_column(block: object, column: Column, predicted: Array) -> str:
    less = column.values - predicted
    whole = float(np.sum((less / column.sigma) ** 2))
    if whole < 4 * len(less) or len(less) < 3:
        return ""

    def left(shape: Array) -> tuple[float, float]:
        """(share of the misfit that a shape takes away, its size)."""
        weighted, seen = shape / column.sigma, less / column.sigma
        size = float(weighted @ seen) / max(float(weighted @ weighted), 1e-300)
        rest = float(np.sum((seen - size * weighted) ** 2))
        return 1 - rest / whole, size

    found = {"factor": left(predicted)}
    if column.part in ("arg", "dB"):
        found = {"offset": left(np.ones(len(less)))}
    if isinstance(block, OverFrequency):
        found["slope"] = left(predicted * np.log(block.frequencies / np.median(block.frequencies)))
    if isinstance(block, OverTime):
        found["shift"] = left(-np.gradient(predicted, block.times))
        found["offset"] = left(np.ones(len(less)))
    kind = max(found, key=lambda each: found[each][0])
    share, size = found[kind]
    if share < _MOST_OF_IT:
        return ""
    match kind:
        case "factor":
            return f"What is left of {column.text} is a constant factor: {1 + size:.3g} times."
        case "offset":
            unit = {"arg": "°", "dB": "dB"}.get(column.part, "")
            return f"What is left of {column.text} is a constant difference of {engineering(size, unit, 3)}."
        case "slope":
            return f"What is left of {column.text} grows steadily with frequency."
        case _:
            return (
                f"What is left of {column.text} is a shift in time of {engineering(size, 's', 2)}."
            )
