"""The functions of the formula language, with what they take and give.

ln and lg are the natural and the decimal logarithm (ISO 80000-2, 2-13); dB(x) is 20 lg|x|.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

from lucidbench.core.units.dimensions import NUMBER, Dimension

Scalar = float | complex
RECORDED = "bench"


@dataclass(frozen=True)
class Function:
    compute: Callable[[Scalar], Scalar]
    dimension: Callable[[Dimension], Dimension] | None  # None: takes and gives plain numbers only
    latex: str


def _keep(dimension: Dimension) -> Dimension:
    return dimension


def _number(dimension: Dimension) -> Dimension:
    return NUMBER


def _root(dimension: Dimension) -> Dimension:
    return dimension ** Fraction(1, 2)


def _logarithm(x: Scalar, base: float) -> Scalar:
    if x == 0:
        raise ValueError("the logarithm of zero has no value")
    if isinstance(x, complex):
        return cmath.log(x) / math.log(base)
    if x < 0:
        raise ValueError("the logarithm of a negative number is not real")
    return math.log(x) / math.log(base) if base != 10 else math.log10(x)


def _square_root(x: Scalar) -> Scalar:
    if isinstance(x, complex):
        return cmath.sqrt(x)
    if x < 0:
        raise ValueError("the square root of a negative number is not real")
    return math.sqrt(x)


def _exponential(x: Scalar) -> Scalar:
    return cmath.exp(x) if isinstance(x, complex) else math.exp(x)


def _of_angle(
    real: Callable[[float], float], general: Callable[[complex], complex]
) -> Callable[[Scalar], Scalar]:
    return lambda x: general(x) if isinstance(x, complex) else real(x)


def _real(x: Scalar) -> Scalar:
    return complex(x).real


def _imaginary(x: Scalar) -> Scalar:
    return complex(x).imag


def _of_no_record(x: Scalar) -> Scalar:
    raise ValueError("no record from the bench stands beside it")


FUNCTIONS: dict[str, Function] = {
    "abs": Function(abs, _keep, r"\left|%s\right|"),
    "arg": Function(lambda x: cmath.phase(x), _number, r"\arg\left(%s\right)"),
    "Re": Function(_real, _keep, r"\operatorname{Re}\left(%s\right)"),
    "Im": Function(_imaginary, _keep, r"\operatorname{Im}\left(%s\right)"),
    "ln": Function(lambda x: _logarithm(x, math.e), None, r"\ln\left(%s\right)"),
    "lg": Function(lambda x: _logarithm(x, 10), None, r"\lg\left(%s\right)"),
    "log10": Function(lambda x: _logarithm(x, 10), None, r"\lg\left(%s\right)"),
    "sqrt": Function(_square_root, _root, r"\sqrt{%s}"),
    "exp": Function(_exponential, None, r"\exp\left(%s\right)"),
    "sin": Function(_of_angle(math.sin, cmath.sin), None, r"\sin\left(%s\right)"),
    "cos": Function(_of_angle(math.cos, cmath.cos), None, r"\cos\left(%s\right)"),
    "tan": Function(_of_angle(math.tan, cmath.tan), None, r"\tan\left(%s\right)"),
    "atan": Function(_of_angle(math.atan, cmath.atan), None, r"\arctan\left(%s\right)"),
    # What a record of the bench says: the runs it stands beside put that in its place.
    RECORDED: Function(_of_no_record, _keep, r"%s_{\text{bench}}"),
    "dB": Function(
        lambda x: 20 * _logarithm(abs(x), 10), None, r"\operatorname{dB}\left(%s\right)"
    ),
}
