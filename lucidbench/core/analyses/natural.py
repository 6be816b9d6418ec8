"""Natural frequencies: the s at which G + s·C is singular, about the operating point."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from lucidbench.core.analyses.operating_point import OperatingPoint
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.analyses.small_signal import linearised, small_signals
from lucidbench.core.equations.system import Array, ComplexArray, refuse_reactances
from lucidbench.core.netlist import Circuit

LARGEST = 400  # unknowns: beyond it the dense eigenvalues take too long
_INFINITE = 1e-11  # of the largest |β|: below it an eigenvalue (α, β) is at infinity


def finite_eigenvalues(g: Array, c: Array) -> tuple[ComplexArray, Any]:
    """(s [1/s], vectors): (G + s·C)·v = 0, shapes (k,) and (n, k), slowest first.

    Rows and columns are first scaled to like size; eigenvalues at infinity, one for each algebraic
    equation, are left out (Golub and Van Loan, Matrix Computations, 4th ed., 2013, section 7.7).
    """
    from scipy.linalg import eig

    if not np.any(c):
        return np.zeros(0, complex), np.zeros((g.shape[0], 0), complex)
    # One frequency makes G and C comparable; then rows and columns are brought to size one.
    unit = _typical_rate(g, c)
    both = np.abs(g) + unit * np.abs(c)
    rows = 1 / np.sqrt(np.maximum(both.max(axis=1), 1e-300))
    columns = 1 / np.maximum((rows[:, None] * both).max(axis=0), 1e-300)
    a = rows[:, None] * g * columns
    b = unit * rows[:, None] * c * columns
    (alpha, beta), vectors = eig(-a, b, homogeneous_eigvals=True)
    size = np.hypot(np.abs(alpha), np.abs(beta))
    finite = np.abs(beta) > _INFINITE * size
    s = unit * alpha[finite] / beta[finite]
    order = np.lexsort((s.imag, np.abs(s)))
    return s[order], (columns[:, None] * vectors[:, finite])[:, order]


def _typical_rate(g: Array, c: Array) -> float:
    """A rate [1/s] between the slowest and the fastest of the circuit."""
    rows_g, rows_c = np.abs(g).max(axis=1), np.abs(c).max(axis=1)
    storing = (rows_c > 0) & (rows_g > 0)
    if not np.any(storing):
        return 1.0
    return float(np.exp(np.median(np.log(rows_g[storing] / rows_c[storing]))))


@dataclass(frozen=True)
class Mode:
    """One natural frequency, or a complex pair told once with its upper half."""

    s: complex  # [1/s]

    @property
    def is_pair(self) -> bool:
        return self.s.imag != 0

    @property
    def frequency(self) -> float:
        """|s|/2π [Hz]: undamped."""
        return abs(self.s) / (2 * np.pi)

    @property
    def ringing_frequency(self) -> float:
        """|Im s|/2π [Hz]: of the oscillation seen; 0 for a plain exponential."""
        return abs(self.s.imag) / (2 * np.pi)

    @property
    def time_constant(self) -> float:
        """-1/Re s [s]; negative where it grows, infinite where it neither grows nor fades."""
        return -1 / self.s.real if self.s.real else np.inf

    @property
    def damping(self) -> float:
        """Damping ratio ζ = -Re s/|s|."""
        return -self.s.real / abs(self.s) if self.s else 0.0

    @property
    def quality(self) -> float:
        """Q = 1/(2ζ); 0.5 and below does not ring."""
        return 1 / (2 * self.damping) if self.damping else np.inf


@dataclass(frozen=True)
class NaturalFrequencies:
    """Modes, slowest first; `run_for` [s] and `band` [Hz] propose how long to run and what to sweep."""

    circuit: Circuit
    modes: tuple[Mode, ...]

    @property
    def poles(self) -> tuple[complex, ...]:
        """Every one, both halves of a pair."""
        both = ((m.s, m.s.conjugate()) if m.is_pair else (m.s,) for m in self.modes)
        return tuple(s for pair in both for s in pair)

    @property
    def stable(self) -> bool:
        return all(m.s.real <= 1e-9 * abs(m.s) for m in self.modes)

    @property
    def run_for(self) -> float | None:
        """Five of the slowest time constant; ten periods of what does not fade; None without modes."""
        spans = []
        for mode in self.modes:
            if mode.s == 0:
                continue
            fading = 5 * mode.time_constant if mode.s.real < 0 else np.inf
            ringing = 10 / mode.ringing_frequency if mode.is_pair else np.inf
            growing = 20 / mode.s.real if mode.s.real > 0 else np.inf
            spans.append(
                min(fading if fading < 1e4 * ringing else ringing, growing + ringing)
                if mode.is_pair
                else min(fading, growing)
            )
        finite = [s for s in spans if np.isfinite(s)]
        return float(max(finite)) if finite else None

    @property
    def band(self) -> tuple[float, float] | None:
        """Two decades below the slowest to two above the fastest; None without modes."""
        rates = [m.frequency for m in self.modes if m.s != 0]
        return (min(rates) / 100, max(rates) * 100) if rates else None


def natural_frequencies(circuit: Circuit) -> NaturalFrequencies:
    """All finite natural frequencies about the operating point. Raises CircuitError, RunRefused."""
    refuse_reactances(circuit, "a search for natural frequencies")
    system, _, g, c = small_signals(circuit)
    if system.size > LARGEST:
        raise RunRefused(
            f"Natural frequencies are worked out for up to {LARGEST} unknowns; "
            f"the circuit has {system.size:,}."
        )
    s, _ = finite_eigenvalues(*map(_dense, (g, c)))
    real = np.abs(s.imag) <= 1e-9 * np.abs(s)
    s = np.where(real, s.real + 0j, s)
    return NaturalFrequencies(circuit, tuple(Mode(complex(v)) for v in s if v.imag >= 0))


def _dense(matrix: Any) -> Array:
    return matrix if isinstance(matrix, np.ndarray) else np.asarray(matrix.toarray())


def zeros(circuit: Circuit, output: str, reference: str = "0") -> tuple[complex, ...]:
    """The s at which no source's phasor reaches the voltage between two nodes.

    They are the natural frequencies of the circuit bordered by its input and its output (Emami-Naeini
    and Van Dooren, Automatica 18, 1982).
    """
    system, _, *matrices = small_signals(circuit)
    g, c = map(_dense, matrices)
    n = system.size
    bordered_g, bordered_c = np.zeros((n + 1, n + 1)), np.zeros((n + 1, n + 1))
    bordered_g[:n, :n], bordered_c[:n, :n] = g, c
    bordered_g[:n, n] = -system.phasor_drive().real
    for node, sign in ((output, 1.0), (reference, -1.0)):
        row = system.row(node)
        if row >= 0:
            bordered_g[n, row] += sign
    s, _ = finite_eigenvalues(bordered_g, bordered_c)
    return tuple(complex(v.real) if abs(v.imag) <= 1e-9 * abs(v) else complex(v) for v in s)


def growing_mode(point: OperatingPoint, least: float) -> tuple[Array, float] | None:
    """How the unknowns move as the operating point is left, largest voltage one, and how fast [1/s]; None
    where stable.

    What grows more slowly than `least` [1/s] is none: leaks beside conductances make rounding of it.
    """
    system = point.system
    if system.size > LARGEST or system.is_linear:
        return None
    g, c = map(_dense, linearised(point))
    s, vectors = finite_eigenvalues(g, c)
    growing = s.real > np.maximum(1e-6 * np.abs(s), least)
    if not np.any(growing):
        return None
    k = int(np.argmax(np.where(growing, s.real, -np.inf)))
    v = vectors[:, k].real
    if not np.any(v):
        v = vectors[:, k].imag
    volts = v[: len(system.rows) - 1]
    largest = float(volts[np.argmax(np.abs(volts))])
    return np.asarray(v / (largest or 1e-300)), float(abs(s[k]))
