"""Random linear networks against rational arithmetic: figures are right, and what is nothing is told so.

The equations are Kirchhoff's, written out here and solved without rounding (SymPy's rationals).
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from fractions import Fraction
from typing import Any, NamedTuple

import numpy as np
import pytest
from sympy import QQ_I
from sympy.polys.matrices import DomainMatrix
from sympy.polys.matrices.exceptions import DMNonInvertibleMatrixError

from lucidbench.core.analyses import TransientSettings, operating_point, phasors, transient
from lucidbench.core.errors import CircuitError
from tests.core.circuits import circuit
from tests.depth import many

FREQUENCY = 1000.0


class Part(NamedTuple):
    name: str
    nodes: tuple[str, ...]
    value: float

    def admittance(self) -> Any:
        s = rational(2 * math.pi * FREQUENCY) * QQ_I(0, 1)
        value = rational(self.value)
        by_letter: dict[str, Callable[[], Any]] = {
            "R": lambda: 1 / value,
            "C": lambda: s * value,
            "L": lambda: 1 / (s * value),
        }
        return by_letter[self.name[0]]()


def rational(value: float) -> Any:
    exact = Fraction(value)
    return QQ_I(exact.numerator, 0) / QQ_I(exact.denominator, 0)


def solved(parts: list[Part]) -> dict[str, Any] | None:
    """V, I and V·I* by name, exactly; None where there is no single solution."""
    nodes = sorted({node for part in parts for node in part.nodes} - {"0"})
    forcing = [part for part in parts if part.name[0] in "VE"]
    row = {node: k for k, node in enumerate(nodes)}
    own = {part.name: len(nodes) + k for k, part in enumerate(forcing)}
    n = len(nodes) + len(forcing)
    a = [[QQ_I(0, 0)] * n for _ in range(n)]
    b = [[QQ_I(0, 0)] for _ in range(n)]

    def add(at: str | int, of: str | int, value: Any) -> None:
        if at != "0" and of != "0":
            a[row.get(at, at)][row.get(of, of)] += value  # type: ignore[arg-type,index]

    for name, ends, value in parts:
        p, q = ends[:2]
        if name[0] == "I":
            for node, sign in ((p, -1), (q, 1)):
                if node != "0":
                    b[row[node]][0] += sign * rational(value)
        elif name[0] in "VE":
            k = own[name]
            for node, sign in ((p, 1), (q, -1)):
                add(node, k, QQ_I(sign, 0))
                add(k, node, QQ_I(sign, 0))
            if name[0] == "V":
                b[k][0] = rational(value)
            for node, sign in zip(ends[2:], (-1, 1), strict=False):
                add(k, node, sign * rational(value))
        else:
            g = Part(name, ends, value).admittance()
            for at, of, sign in ((p, p, 1), (q, q, 1), (p, q, -1), (q, p, -1)):
                add(at, of, sign * g)
    try:
        x = DomainMatrix(a, (n, n), QQ_I).lu_solve(DomainMatrix(b, (n, 1), QQ_I)).to_list_flat()
    except DMNonInvertibleMatrixError:
        return None
    volts = {"0": QQ_I(0, 0), **{node: x[k] for node, k in row.items()}}
    return told_of(parts, volts, {name: x[k] for name, k in own.items()})


def told_of(parts: list[Part], volts: dict[str, Any], own: dict[str, Any]) -> dict[str, Any]:
    """V, I and V·I*; of voltages, and the currents through what forces them."""
    told = {f"V_{node}": volt for node, volt in volts.items() if node != "0"}
    for part in parts:
        across = volts[part.nodes[0]] - volts[part.nodes[1]]
        if part.name[0] == "I":
            current = rational(part.value)
        else:
            current = own[part.name] if part.name in own else part.admittance() * across
        told[f"I_{part.name}"] = current
        told[f"P_{part.name}"] = across * QQ_I(current.x, -current.y)
    return told


def network(seed: int, letters: str, is_wide: bool) -> list[Part]:
    """A tree of parts to ground, more across it, and sources anywhere; `is_wide` from mΩ to 100 MΩ."""
    by_chance = random.Random(seed)
    count = by_chance.randint(2, 6)
    nodes = [str(k) for k in range(count + 1)]

    def value(low: int, high: int) -> float:
        return float(
            f"{by_chance.choice([1, 2.2, 3.3, 4.7, 5, 6.8])}e{by_chance.randint(low, high)}"
        )

    ranges = {"R": (-3, 8) if is_wide else (1, 5), "C": (-9, -6), "L": (-4, -1), "V": (-1, 2), "I": (-6, -1),
              "E": (-1, 2)}  # fmt: skip
    parts: list[Part] = []

    def put(letter: str, *ends: str) -> None:
        parts.append(Part(f"{letter}{len(parts)}", ends, value(*ranges[letter])))

    for k in range(1, count + 1):
        put(by_chance.choice(letters), str(k), str(by_chance.randint(0, k - 1)))
    for _ in range(by_chance.randint(0, 3)):
        put(by_chance.choice(letters), *by_chance.sample(nodes, 2))
    for _ in range(by_chance.randint(1, 2)):
        put(by_chance.choice("VI"), *by_chance.sample(nodes, 2))
    if letters == "R" and not is_wide and by_chance.random() < 0.3:
        put("E", *by_chance.sample(nodes, 2), *by_chance.sample(nodes, 2))
    return parts


def wrong(parts: list[Part], told: dict[str, complex], exact: dict[str, Any]) -> list[str]:
    """The figures that are told of nothing, lost though they are not, or off."""
    named = {name: complex(float(z.x), float(z.y)) for name, z in exact.items()}
    largest = {
        letter: max(abs(z) for name, z in named.items() if name[0] == letter) for letter in "VIP"
    }
    found = []
    for name, figure in told.items():
        truth, of = named[name], largest[name[0]]
        if truth == 0:
            is_right = abs(figure) <= 1e-24 * of
        elif figure == 0:
            is_right = abs(truth) <= 1e-15 * of
        else:
            is_right = abs(figure - truth) <= 1e-6 * abs(truth)
        if not is_right:
            found.append(f"{name}: {figure} for {truth}, beside {of}, of {parts}")
    return found


@pytest.mark.parametrize("is_wide", [False, True])
def test_rest_is_exact_or_nothing(is_wide: bool) -> None:
    """A branch may hang in the air, an island by one thread, a bridge may balance."""
    count = 0
    for seed in range(many(300, 5000)):
        parts = network(seed, "R", is_wide)
        exact = solved(parts)
        try:
            lines = [f"{p.name} {' '.join(p.nodes)} {p.value!r}" for p in parts]
            told = operating_point(circuit(*lines)).values
        except CircuitError:
            continue
        assert exact is not None
        assert not wrong(parts, dict(told), exact)
        count += 1
    assert count > 200


def test_phasors_are_exact_or_nothing() -> None:
    count = 0
    for seed in range(many(200, 2000)):
        parts = network(seed, "RRCL", is_wide=False)
        exact = solved(parts)
        try:
            lines = [
                f"{p.name} {' '.join(p.nodes)} {'ac ' if p.name[0] in 'VI' else ''}{p.value!r}"
                for p in parts
            ]
            told = phasors(circuit(*lines), FREQUENCY).values
        except CircuitError:
            continue
        assert exact is not None
        plain = {name: z for name, z in told.items() if name[0] in "VI"}
        assert not wrong(parts, plain, exact)
        count += 1
    assert count > 150


def test_what_hangs_in_the_air_carries_nothing_in_time() -> None:
    of = circuit("V1 a 0 sin(0 230 50)", "R1 a b 47", "R2 b 0 330", "R3 b c 0.1", "R4 c d 22")
    run = transient(of, TransientSettings(stop=40e-3)).traces()
    assert not np.any(run["I_R3"])
    assert not np.any(run["I_R4"])
    assert np.abs(run["I_R2"]).max() == pytest.approx(230 / 377, rel=1e-2)  # of the points alone
