"""Frequency sweeps: phasors of closed form, real and imaginary part."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

import numpy as np

from lucidbench.core.runs.answers import Answer
from tests.zoo import Specimen, within
from tests.zoo.by_name.wanted import VT

Transfer = Callable[[complex], complex]


def swept(text: str, trace: str, transfer: Transfer, relative: float = 1e-6) -> Specimen:
    """A circuit driven by one volt, and its transfer function of s = jω at every point of three decades."""

    def check(answers: list[Answer]) -> None:
        axis = answers[-1].axis
        assert axis is not None
        for hertz, found in zip(axis.values, answers[-1].traces[trace], strict=True):
            wanted = transfer(2j * math.pi * hertz)
            off = abs(complex(found) - wanted)
            within(
                off, 0.0, 0.0, relative * abs(wanted) + 1e-12, f"{trace} at {hertz:g} Hz, the error"
            )

    return Specimen(f"swept\nV1 a 0 AC 1\n{text}.ac dec 5 100 100k\n", check)


def circuits() -> Iterable[tuple[str, Specimen]]:
    r, c, henries = 1e3, 100e-9, 10e-3
    yield (
        "low-pass of R and C",
        swept("R1 a b 1k\nC1 b 0 100n\n", "V_b", lambda s: 1 / (1 + s * r * c)),
    )
    yield (
        "high-pass of C and R",
        swept("C1 a b 100n\nR1 b 0 1k\n", "V_b", lambda s: s * r * c / (1 + s * r * c)),
    )
    yield (
        "high-pass of R and L",
        swept("R1 a b 1k\nL1 b 0 10m\n", "V_b", lambda s: s * henries / (r + s * henries)),
    )
    for ohms in (10.0, 632.455532, 10e3):

        def series(s: complex, ohms: float = ohms) -> complex:
            return 1 / (1 + s * ohms * c + s * s * henries * c)

        yield (
            f"series resonance through {ohms:g} Ω",
            swept(f"R1 a b {ohms}\nL1 b d 10m\nC1 d 0 100n\n", "V_d", series, 1e-5),
        )
    yield (
        "parallel resonance",
        swept(
            "R1 a b 10k\nL1 b 0 10m\nC1 b 0 100n\n", "V_b",
            lambda s: (s * henries / 1e4) / (1 + s * henries / 1e4 + s * s * henries * c), 1e-5,
        ),
    )  # fmt: skip
    yield (
        "a trap of L and C",
        swept(
            "R1 a b 1k\nL1 b d 10m\nC1 d 0 100n\n", "V_b",
            lambda s: (1 + s * s * henries * c) / (1 + s * r * c + s * s * henries * c), 1e-5,
        ),
    )  # fmt: skip
    yield (
        "a bridge of R and C that leads and lags",
        swept(
            "R1 a d 1k\nC1 d b 100n\nR2 b 0 1k\nC2 b 0 100n\n", "V_b",
            lambda s: s * r * c / (1 + 3 * s * r * c + (s * r * c) ** 2),
        ),
    )  # fmt: skip
    yield (
        "three lags in a row",
        swept(
            "R1 a b 1k\nC1 b 0 100n\nR2 b d 1k\nC2 d 0 100n\nR3 d e 1k\nC3 e 0 100n\n", "V_e",
            lambda s: 1 / ((s * r * c) ** 3 + 5 * (s * r * c) ** 2 + 6 * s * r * c + 1),
        ),
    )  # fmt: skip
    yield (
        "a probe, matched",
        swept("R1 a b 9meg\nC1 a b 10p\nR2 b 0 1meg\nC2 b 0 90p\n", "V_b", lambda s: 0.1 + 0j),
    )
    yield (
        "a lossy integrator",
        swept(
            "R1 a n 1k\nR2 n o 10k\nC1 n o 100n\nY1 0 n o opamp\n", "V_o",
            lambda s: -10 / (1 + s * 1e4 * c),
        ),
    )  # fmt: skip
    yield (
        "an all-pass",
        swept(
            "R1 a n 1k\nR2 n o 1k\nR3 a p 1k\nC1 p 0 100n\nY1 p n o opamp\n", "V_o",
            lambda s: (1 - s * r * c) / (1 + s * r * c),
        ),
    )  # fmt: skip
    # Sallen and Key, A Practical Method of Designing RC Active Filters, 1955.
    for gain in (1.0, 1.586, 2.9):

        def low(s: complex, gain: float = gain) -> complex:
            x = s * r * c
            return gain / (1 + (3 - gain) * x + x * x)

        feedback = f"RF n o {(gain - 1) * 1e3 + 1e-9}\nRG n 0 1k\n" if gain > 1 else "VF n o 0\n"
        yield (
            f"second-order low-pass with one amplifier, gain {gain:g}",
            swept(
                f"R1 a b 1k\nR2 b p 1k\nC1 b o 100n\nC2 p 0 100n\n{feedback}Y1 p n o opamp\n",
                "V_o", low, 1e-5,
            ),
        )  # fmt: skip
    yield (
        "a gyrator as a coil",
        swept(
            "R1 a x 1k\nR2 x o 100\nC1 x p 100n\nR3 p 0 100k\nY1 p o o opamp\n", "V_x",
            # What runs into x: (x - o)/100 + s·C·(x - p), with p = x·sCR/(1 + sCR) and o = p.
            lambda s: 1 / (1 + 1e3 * (1 / 100 + s * c) / (1 + s * c * 1e5)), 1e-5,
        ),
    )  # fmt: skip
    coupled = 0.5 * math.sqrt(10e-3 * 40e-3)
    yield (
        "coupled coils under load",
        swept(
            "R1 a b 50\nL1 b 0 10m\nL2 d 0 40m\nK1 L1 L2 0.5\nR2 d 0 1k\n", "V_d",
            lambda s: s * coupled * 1e3 / ((50 + s * 10e-3) * (1e3 + s * 40e-3) - (s * coupled) ** 2), 1e-5,
        ),
    )  # fmt: skip
    # The dynamic resistance V_T/I of a junction at 1 mA, and its charge by transit time: g·TT.
    slope = 1e-3 / VT
    yield (
        "a diode biased by a milliampere",
        swept(
            "CB a b 1k\nI1 0 b 1m\nD1 b 0 d\n.model d D(IS=1e-14 TT=1u)\n", "I_D1",
            lambda s: (slope * (1 + 1e-14 / 1e-3)) * (1 + s * 1e-6), 1e-4,
        ),
    )  # fmt: skip
    yield (
        "a transmission line of ten sections at its middle",
        swept(
            "".join(f"R{k} n{k - 1} n{k} 100\nC{k} n{k} 0 10n\n" for k in range(1, 11)) + "V0 n0 a 0\n",
            "V_n5", ladder_of_ten, 1e-6,
        ),
    )  # fmt: skip


def ladder_of_ten(s: complex) -> complex:
    """V_n5 of one volt, by chain matrices: any network theory text."""
    section = np.array([[1 + 100 * s * 10e-9, 100], [s * 10e-9, 1]], dtype=complex)
    whole = np.linalg.matrix_power(section, 10)
    rest = np.linalg.matrix_power(section, 5)
    return complex(rest[0, 0] / whole[0, 0])
