"""SI prefixes (BIPM, The International System of Units, 9th edition, table 7), as used in circuits."""

from __future__ import annotations

MICRO = "µ"  # U+00B5; the Greek letter U+03BC is read as the same

EXPONENTS: dict[str, int] = {
    "f": -15,
    "p": -12,
    "n": -9,
    MICRO: -6,
    "m": -3,
    "": 0,
    "k": 3,
    "M": 6,
    "G": 9,
    "T": 12,
}

BY_EXPONENT: dict[int, str] = {exponent: prefix for prefix, exponent in EXPONENTS.items()}

# Other spellings that can mean only one thing. "u" is the usual keyboard stand-in for the micro sign.
SPELLINGS: dict[str, str] = {**{p: p for p in EXPONENTS if p}, "u": MICRO, "μ": MICRO, "K": "k"}

# Letters that differ from a prefix by case alone: refused, with the offer of what was probably meant.
WRONG_CASE: dict[str, str] = {"U": MICRO, "N": "n", "P": "p", "g": "G", "t": "T"}
