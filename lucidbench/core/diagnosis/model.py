"""What was observed, as a circuit with tolerances and perhaps with causes in it would have told it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from lucidbench.core.diagnosis.causes import Cause
from lucidbench.core.diagnosis.fitting import STEP
from lucidbench.core.diagnosis.observed import PLAIN, Array, Observed
from lucidbench.core.edits import applied
from lucidbench.core.errors import LucidError
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.units.uncertain import STANDARD

_MOST = 1e6  # uncertainties: what a misfit counts as at most
_STEP_OF_BEGINNING = 0.5
_FARTHEST = 12.0  # deviations of a prior


@dataclass(frozen=True)
class Nuisance:
    """A value known within a tolerance: `share` is the standard deviation of its logarithm, `is_usual`
    whether it is that usual for the kind of part, none being given."""

    part: str
    key: str
    share: float
    is_usual: bool


def nuisances_of(observed: Observed) -> tuple[Nuisance, ...]:
    """Every value that a tolerance is given for, or usual."""
    found = []
    for name, element in observed.elements.items():
        for parameter in element.device.description.parameters:
            key = parameter.tolerance_of
            if key is None or not element.values.get(key):
                continue
            given = element.spreads.get(key)
            width = element.device.defaults[parameter.key] if given is None else given
            if width > 0:
                found.append(Nuisance(name, key, float(width * STANDARD), given is None))
    return tuple(found)


@dataclass(frozen=True)
class Model:
    """Parameters `theta`, each in deviations of its prior: those of the values known within tolerances, of
    the shares by which columns may be off together, of where records begin, then one of each cause that
    has a size."""

    observed: Observed
    causes: tuple[Cause, ...] = ()

    @cached_property
    def nuisances(self) -> tuple[Nuisance, ...]:
        return nuisances_of(self.observed)

    @cached_property
    def _commons(self) -> list[tuple[int, slice, float, str]]:
        """(block, where among its numbers, share, part) of columns that may be off together."""
        found = []
        for k, block in enumerate(self.observed.blocks):
            begin = 0
            for column in block.columns:
                end = begin + len(column.values)
                if column.common and column.part != "arg":
                    found.append((k, slice(begin, end), column.common, column.part))
                begin = end
        return found

    @cached_property
    def _beginnings(self) -> list[tuple[int, float]]:
        """(block, [s]) of records that may begin a little beside what they say."""
        blocks = enumerate(self.observed.blocks)
        return [(k, block.unsure_by) for k, block in blocks if block.unsure_by]

    @property
    def shared(self) -> int:
        """How many parameters it has without causes."""
        return len(self.nuisances) + len(self._commons) + len(self._beginnings)

    @property
    def size(self) -> int:
        return self.shared + sum(cause.size is not None for cause in self.causes)

    @property
    def steps(self) -> Array:
        """How far to go for slopes: where a record begins, far enough to smooth over its jumps."""
        found = np.full(self.size, STEP)
        first = len(self.nuisances) + len(self._commons)
        found[first : first + len(self._beginnings)] = _STEP_OF_BEGINNING
        return found

    def sizes(self, theta: Array) -> list[float]:
        """z of each cause; zero where it has none."""
        left = iter(theta[self.shared :].tolist())
        return [next(left) if cause.size else 0.0 for cause in self.causes]

    def circuits(self, theta: Array) -> dict[str, Circuit]:
        """The circuit of each case at `theta`, with the causes in."""
        shares = {
            (each.part, each.key): float(np.exp(np.clip(each.share * theta[k], -30, 30)))
            for k, each in enumerate(self.nuisances)
        }
        found = {}
        for case, circuit in self.observed.circuits.items():
            elements = tuple(_moved(element, shares) for element in circuit)
            changed = replace(circuit, elements=elements)
            for cause, z in zip(self.causes, self.sizes(theta), strict=True):
                changed = applied(changed, cause.edits(cause.amount(z)))
            found[case] = changed
        return found

    def predicted(self, theta: Array) -> Array:
        """All numbers that were observed. Raises LucidError."""
        circuits = self.circuits(theta)
        sizes = self.sizes(theta)
        late = {
            k: by * float(theta[len(self.nuisances) + len(self._commons) + m])
            for m, (k, by) in enumerate(self._beginnings)
        }
        found = []
        for k, block in enumerate(self.observed.blocks):
            view = replace(PLAIN, shift=late[k]) if k in late else PLAIN
            for cause, z in zip(self.causes, sizes, strict=True):
                view = cause.seen(k, z, view)
            found.append(block.predicted(circuits[block.case], view))
        for m, (k, where, share, part) in enumerate(self._commons):
            by = share * theta[len(self.nuisances) + m]
            if part == "dB":
                found[k][where] += 20 * np.log10(np.exp(by))
            else:
                found[k][where] *= np.exp(by)
        return np.concatenate(found)

    def misfit(self, theta: Array) -> Array:
        """Observed less predicted, in uncertainties; infinite where it cannot be worked out."""
        if np.any(np.abs(theta) > _FARTHEST):
            return np.full(self.observed.points, np.inf)
        try:
            less = self.observed.misfit(self.predicted(theta))
        except (LucidError, ArithmeticError, np.linalg.LinAlgError):
            return np.full(self.observed.points, np.inf)
        return np.nan_to_num(np.clip(less, -_MOST, _MOST), nan=_MOST)

    def residual(self, theta: Array) -> Array:
        """The misfits, then the priors."""
        return np.concatenate([self.misfit(theta), theta])

    def with_cause(self, cause: Cause) -> Model:
        return replace(self, causes=(*self.causes, cause))


def _moved(element: Element, shares: Mapping[tuple[str, str], float]) -> Element:
    for key in element.values:
        share = shares.get((element.name, key))
        if share is not None:
            element = element.with_value(key, element.values[key] * share)
    return element
