"""Whether a circuit rests at its operating point or only balances there, as a coin on its edge, and where
it would rest instead.

With a capacitance at every node the circuit leaves a point of balance by itself: an odd number of its
modes grow, which the sign of the Jacobian's determinant tells (Green and Willson, How to identify
unstable dc operating points, IEEE Transactions on Circuits and Systems 39, 1992).
"""

from __future__ import annotations

import numpy as np

from lucidbench.core.analyses.natural import LARGEST, finite_eigenvalues
from lucidbench.core.analyses.operating_point import OperatingPoint, read_solution, relaxed
from lucidbench.core.analyses.small_signal import jacobian
from lucidbench.core.equations.system import Array
from lucidbench.core.units import engineering

_PUSH = 0.1  # [V]: how far from a point of balance the search for rest begins
_APART = 1e-3  # [V]: states nearer to one another are one
_MOST_TOLD = 2  # nodes of which a sentence gives the voltages


def balances(point: OperatingPoint) -> bool:
    """Whether the circuit would leave the point as soon as anything disturbs it."""
    if point.ready is None or point.system.size > LARGEST:
        return False
    g = _dense(jacobian(point))
    nodes = np.diag(point.ready.tables.is_node.astype(float))
    far = 1e3 * max(float(np.abs(g).max()), 1.0)
    here, there = np.linalg.slogdet(g)[0], np.linalg.slogdet(g + far * nodes)[0]
    return bool(here * there < 0)


def resting_points(point: OperatingPoint, b: Array | None = None) -> list[OperatingPoint]:
    """Where a circuit that only balances would rest, to either side of the point; often two.

    `b`, shape (n,), is what drives it there, where that is not its sources' DC values.
    """
    if point.ready is None or not balances(point):
        return []
    drive = point.ready.tables.constant if b is None else b
    direction = _leaving(point)
    found: list[OperatingPoint] = []
    if direction is None:
        return found
    for side in (1.0, -1.0):
        x = relaxed(point.ready, drive, point.x + side * _PUSH * direction)
        if x is None:
            continue
        other = read_solution(point.system, x, point.ready)
        apart = all(_distance(other, known) > _APART for known in (point, *found))
        if apart and not balances(other):
            found.append(other)
    return found


def balance_sentence(point: OperatingPoint, others: list[OperatingPoint], choosing: str) -> str:
    """That the point is one of balance, in a sentence; `choosing` says how another is chosen."""
    differing = sorted(
        point.node_voltages,
        key=lambda node: -max(abs(other.voltages[node] - point.voltages[node]) for other in others),
    )[:_MOST_TOLD]
    states = [
        " and ".join(f"V_{node} = {engineering(other.voltages[node], 'V')}" for node in differing)
        for other in others
    ]
    return (
        f"The circuit only balances at this operating point, as a coin on its edge. It rests with "
        f"{', or with '.join(states)}; {choosing}."
    )


def _leaving(point: OperatingPoint) -> Array | None:
    """The direction in which the point is left fastest, largest voltage one."""
    assert point.ready is not None
    is_node = point.ready.tables.is_node
    s, vectors = finite_eigenvalues(_dense(jacobian(point)), np.diag(is_node.astype(float)))
    growing = (s.real > 0) & (np.abs(s.imag) <= 1e-9 * np.abs(s))
    if not np.any(growing):
        return None
    direction = vectors[:, int(np.argmax(np.where(growing, s.real, -np.inf)))].real
    return np.asarray(direction / max(float(np.abs(direction[is_node]).max()), 1e-300))


def _distance(one: OperatingPoint, other: OperatingPoint) -> float:
    return max((abs(one.voltages[n] - other.voltages[n]) for n in one.voltages), default=0.0)


def _dense(matrix: object) -> Array:
    return np.asarray(matrix.toarray() if hasattr(matrix, "toarray") else matrix)
