"""From a source to a node in the frequency domain: the transfer function, its corner frequencies, its
asymptotes.

Written with its polynomials in jω of the lowest terms, as in any circuits text; up to the second order, where
closed forms are what anyone writes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from lucidbench.core.analyses.symbolic import transfer
from lucidbench.core.equations.system import assemble
from lucidbench.core.errors import LucidError
from lucidbench.core.formula.sympy_bridge import formula_text
from lucidbench.core.netlist import Circuit, Element
from lucidbench.core.working.network import NoWorking
from lucidbench.core.working.step import Derivation, known

HIGHEST_ORDER = 2
_DECADES = 2  # beyond the outermost corners


@dataclass(frozen=True)
class Asymptotes:
    """Straight lines of the magnitude [dB] over frequency [Hz], by their corners, and the curve itself."""

    corners: tuple[tuple[float, float], ...]
    curve: tuple[tuple[float, float], ...]


def ideal_amplifiers(circuit: Circuit, pad: Derivation) -> Circuit:
    """With every op-amp ideal, which is said where one is not."""
    changed = [e for e in circuit if e.kind in ("opamp", "powered_opamp") and e.form != "ideal"]

    def ideal(e: Element) -> Element:
        return replace(e, form="ideal") if e in changed else e

    if changed:
        names = ", ".join(e.name for e in changed)
        pad.say(f"{names}: taken as ideal, with inputs at one voltage and no current into them.",
                tuple(e.name for e in changed))  # fmt: skip
    return replace(circuit, elements=tuple(ideal(e) for e in circuit))


def signal_of(circuit: Circuit) -> Element:
    """The one source that has a signal. Raises NoWorking."""
    sources = [e for e in circuit if e.imposes]
    moving = [e for e in sources if e.values.get("magnitude") or e.waveform is not None] or sources
    if len(moving) != 1:
        raise NoWorking(
            "A transfer function is from one source; here there are several with a signal."
        )
    return moving[0]


def frequency_response(circuit: Circuit, output: str, pad: Derivation) -> tuple[str, Asymptotes]:
    """Writes H in letters and what follows from it; gives the name of H at its asymptotic value, and the
    asymptotes. Raises NoWorking."""
    source = signal_of(circuit)
    circuit = ideal_amplifiers(circuit, pad)
    if not assemble(circuit).is_linear:
        raise NoWorking("A transfer function is worked out here for linear circuits.")
    try:
        exact = transfer(circuit, source.name, output)
    except LucidError as error:
        raise NoWorking(str(error)) from error
    import sympy

    s = exact.s
    above = _coefficients(exact.numerator, s)
    below = _coefficients(exact.denominator, s)
    if max(len(above), len(below)) - 1 > HIGHEST_ORDER:
        raise NoWorking(
            f"The circuit is of order {len(below) - 1}; its corners have no closed form on paper."
        )
    if not any(above):
        raise NoWorking(f"Nothing of {source.name} reaches node {output}.")
    values = {str(symbol): float(number) for symbol, number in exact.values.items()}
    for e in circuit:
        if e.name in values:
            main = e.device.description.main
            pad.names.setdefault(e.name, known(values[e.name], main.unit if main else ""))
    for name, number in values.items():
        if name not in pad.names:
            raise NoWorking(f"{name} = {number:g} has no unit here.")
    # Both divided by the lowest term of the denominator.
    low = next(k for k, c in enumerate(below) if c != 0)
    lead = below[low]
    above, below = (
        [sympy.factor_terms(sympy.cancel(c / lead)) for c in each] for each in (above, below)
    )
    pad.say(
        f"With jω for d/dt, node equations give V_{output} over {source.name} as one fraction in jω; "
        f"here the lowest term of its denominator is made one.",
        tuple(e.name for e in circuit if e.name in values),
    )
    a = _written("a", above, values, pad, exact.values)
    b = _written("b", below, values, pad, exact.values)
    pad.say(f"So H(jω) = {_fraction(a, b)}.")
    corners = _corners(a, b, pad)
    curve = _curve(exact, corners)
    return _asymptotic_gain(a, b, pad), Asymptotes(_broken(exact, corners), curve)


def _coefficients(polynomial: Any, s: Any) -> list[Any]:
    """From the lowest power up."""
    import sympy

    return list(reversed(sympy.Poly(polynomial, s).all_coeffs()))


def _written(
    letter: str,
    coefficients: Sequence[Any],
    values: dict[str, float],
    pad: Derivation,
    symbols: Any,
) -> list[tuple[str, float]]:
    """Each coefficient as a line, but for those that are 0 or 1: (text, value)."""
    told: list[tuple[str, float]] = []
    what = "numerator" if letter == "a" else "denominator"
    for power, coefficient in enumerate(coefficients):
        number = (
            float(coefficient.subs(symbols)) if coefficient.free_symbols else float(coefficient)
        )
        text = formula_text(coefficient)
        if coefficient == 0 or not coefficient.free_symbols:
            told.append((text if coefficient != 0 else "0", number))
            continue
        of = {0: "", 1: " jω", 2: " (jω)²"}[power]
        parts = tuple(name for name in values if name in {str(x) for x in coefficient.free_symbols})
        name = pad.write(
            f"Of the {what}: what stands before{of or ' no jω'}.", pad.free(f"{letter}_{power}"), text,
            number, parts,
        )  # fmt: skip
        told.append((name, number))
    return told


def _fraction(a: list[tuple[str, float]], b: list[tuple[str, float]]) -> str:
    """As it is read: "a_1·jω/(1 + b_1·jω)"."""

    def polynomial(told: list[tuple[str, float]]) -> str:
        terms = []
        for (text, number), power in zip(told, ("", "jω", "(jω)²"), strict=False):
            if number:
                own = "" if text == "1" and power else text
                terms.append("·".join(part for part in (own, power) if part))
        return " + ".join(terms)

    above, below = polynomial(a), polynomial(b)
    above = f"({above})" if " + " in above and below != "1" else above
    if below == "1":
        return above
    return f"{above}/({below})" if " + " in below or "·" in below else f"{above}/{below}"


def _corners(
    a: list[tuple[str, float]], b: list[tuple[str, float]], pad: Derivation
) -> list[tuple[float, int]]:
    """Writes them; (frequency [Hz], +1 for one of the numerator, -1 of the denominator)."""
    found: list[tuple[float, int]] = []
    for told, sign, what in ((b, -1, "denominator"), (a, 1, "numerator")):
        low = next(k for k, (_, number) in enumerate(told) if number != 0)
        rest = told[low:]
        if len(rest) == 2 and rest[1][1]:
            value = rest[0][1] / rest[1][1] / (2 * math.pi)
            over = "1" if rest[0][0] == "1" else rest[0][0]
            name = pad.free("f_c" if sign < 0 else "f_z")
            body = f"{over}/(2*pi*{rest[1][0]})"
            pad.write(
                f"The {what} has one corner, where both its terms are of one size.",
                name, f"abs({body})" if value < 0 else body, abs(value),
            )  # fmt: skip
            found.append((abs(value), sign))
        elif len(rest) == 3 and rest[2][1]:
            found += _second_order(rest, sign, what, pad)
    return found


def _second_order(
    rest: list[tuple[str, float]], sign: int, what: str, pad: Derivation
) -> list[tuple[float, int]]:
    (zeroth, c0), (first, c1), (second, c2) = rest
    middle = math.sqrt(c0 / c2) / (2 * math.pi) if c0 / c2 > 0 else math.nan
    if math.isnan(middle):
        raise NoWorking("Its roots lie on both sides; corners say nothing of such a circuit.")
    over = "" if zeroth == "1" else f"{zeroth}/"
    body = f"sqrt({over}{second})" if over else f"1/sqrt({second})"
    suffix = "0" if sign < 0 else "z"
    f_0 = pad.write(
        f"The {what} is of second order; its two ends meet at", pad.free(f"f_{suffix}"),
        f"{body}/(2*pi)" if over else f"1/(2*pi*sqrt({second}))", middle,
    )  # fmt: skip
    if not c1:
        return [(middle, sign), (middle, sign)]
    quality = math.sqrt(c0 * c2) / abs(c1)
    root = f"sqrt({second})" if zeroth == "1" else f"sqrt({zeroth}*{second})"
    q = pad.write(
        "and its quality factor is",
        pad.free("Q" if sign < 0 else "Q_z"),
        f"{root}/{first}",
        quality,
    )
    if quality >= 0.5:
        pad.say(
            "It is 0.5 or more, so there are no two corners apart: the asymptotes meet at that one frequency."
        )
        return [(middle, sign), (middle, sign)]
    spread = math.sqrt(1 / (4 * quality**2) - 1)
    both = [middle * (1 / (2 * quality) + way * spread) for way in (-1, 1)]
    for k, (way, value) in enumerate(zip("-+", both, strict=True), start=1):
        pad.write(
            "It is less than 0.5: two corners apart." if k == 1 else "",
            pad.free(f"f_{k}" if sign < 0 else f"f_z{k}"),
            f"{f_0}*(1/(2*{q}) {way} sqrt(1/(4*{q}^2) - 1))", value,
        )  # fmt: skip
    return [(both[0], sign), (both[1], sign)]


def _asymptotic_gain(
    a: list[tuple[str, float]], b: list[tuple[str, float]], pad: Derivation
) -> str:
    low_a = next(k for k, (_, n) in enumerate(a) if n)
    low_b = next(k for k, (_, n) in enumerate(b) if n)
    power = low_a - low_b
    body, value = a[low_a][0], a[low_a][1] / b[low_b][1]
    if power == 0:
        return pad.write("Far below all corners the gain is", pad.free("H_low"), body, value)
    high = (len(a) - 1) - (len(b) - 1)
    if high == 0:
        body = f"{a[-1][0]}/{b[-1][0]}"
        return pad.write(
            f"Far below, it rises by {20 * power} dB a decade; far above all corners it is",
            pad.free("H_high"), body, a[-1][1] / b[-1][1],
        )  # fmt: skip
    if len(b) == 3 and len(a) == 2 and low_a == 1 and a[1][1] and b[1][1]:
        return pad.write(
            "It rises, and falls again: in the middle, where only the terms of jω are left, it is",
            pad.free("H_mid"), f"{a[1][0]}/{b[1][0]}", a[1][1] / b[1][1],
        )  # fmt: skip
    where = abs(value) ** (-1 / power) / (2 * math.pi)
    way = "rises" if power > 0 else "falls"
    if abs(power) > 1:
        raise NoWorking("It has no level that could be named.")
    inside = body if power < 0 else f"1/({body})"
    sign = f"abs({inside})" if value < 0 else inside
    return pad.write(
        f"Far below all corners it {way} by 20 dB a decade, and would be one at",
        pad.free("f_one"), f"{sign}/(2*pi)", where,
    )  # fmt: skip


def _curve(exact: Any, corners: list[tuple[float, int]]) -> tuple[tuple[float, float], ...]:
    grid = np.geomspace(*_ends(corners), 121)
    return tuple((float(f), _db(exact, f)) for f in grid)


def _ends(corners: list[tuple[float, int]]) -> tuple[float, float]:
    if not corners:
        return 1.0, 1e6
    values = [f for f, _ in corners]
    return min(values) / 10**_DECADES, max(values) * 10**_DECADES


def _db(exact: Any, f: float) -> float:
    return 20 * math.log10(max(abs(exact.at(2j * math.pi * f)), 1e-30))


def _broken(exact: Any, corners: list[tuple[float, int]]) -> tuple[tuple[float, float], ...]:
    """The asymptotes' corners, from the level far below on."""
    start, stop = _ends(corners)
    s = exact.s
    above, below = (_coefficients(p, s) for p in (exact.numerator, exact.denominator))
    low_a = next(k for k, c in enumerate(above) if c != 0)
    low_b = next(k for k, c in enumerate(below) if c != 0)
    ratio = float((above[low_a] / below[low_b]).subs(exact.values))
    slope = low_a - low_b  # in 20 dB a decade
    level = 20 * math.log10(abs(ratio) * (2 * math.pi * start) ** slope)
    points, here = [(start, level)], start
    for f, sign in sorted(corners):
        level += 20 * slope * math.log10(f / here)
        points.append((f, level))
        slope, here = slope + sign, f
    points.append((stop, level + 20 * slope * math.log10(stop / here)))
    return tuple(points)
