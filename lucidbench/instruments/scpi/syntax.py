"""Program messages taken apart: IEEE 488.2-1992, clause 7, and SCPI-1999, volume 1, chapters 6 and 7."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from lucidbench.instruments.scpi.errors import ScpiError

_NUMBER = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+)(?:\s*[eE]\s*[+-]?\d+)?)\s*([A-Za-z/%]*)")
_HEX = re.compile(r"#([HQB])([0-9A-F]+)", re.IGNORECASE)
_HEADER = re.compile(r"(\*[A-Za-z]+|:?[A-Za-z]\w*(?::[A-Za-z]\w*)*)(\??)")
_MULTIPLIERS = {
    "EX": 1e18, "PE": 1e15, "T": 1e12, "G": 1e9, "MA": 1e6, "K": 1e3, "": 1.0, "M": 1e-3, "U": 1e-6,
    "N": 1e-9, "P": 1e-12, "F": 1e-15, "A": 1e-18,
}  # fmt: skip
# In these M is mega, by SCPI-1999, volume 1, 7.1.
_MEGA = {"MHZ": ("HZ", 1e6), "MOHM": ("OHM", 1e6)}
_PAIRS = {'"': '"', "'": "'", "(": ")"}


class Message(NamedTuple):
    """One unit of a program message: its whole header in capitals, and its data as written."""

    header: str
    is_query: bool
    data: tuple[str, ...]


def messages(line: str) -> Iterator[Message]:
    """The units of a program message, their headers made whole. Raises ScpiError at the first that is
    none, after those before it."""
    path = ""
    for unit in _split(line, ";"):
        text = unit.strip()
        if not text:
            continue
        found = _HEADER.match(text)
        rest = text[found.end() :] if found else text
        if not found or (rest and not rest[0].isspace()):
            wrong = next((c for c in text if not (c.isalnum() or c in "*:?_ ")), "")
            raise ScpiError(-101 if wrong and not wrong.isascii() else -102, text[:40])
        header, is_query = found[1].upper(), bool(found[2])
        if not header.startswith("*"):
            header = header[1:] if header.startswith(":") else path + header
            path = header[: header.rfind(":") + 1]
        data = tuple(piece.strip() for piece in _split(rest, ",")) if rest.strip() else ()
        yield Message(header, is_query, data)


def _split(text: str, at: str) -> Iterator[str]:
    """Apart from what stands in quotes or parentheses. Raises ScpiError where these are not closed."""
    until, start = "", 0
    for k, letter in enumerate(text):
        if until:
            until = "" if letter == until else until
        elif letter in _PAIRS:
            until = _PAIRS[letter]
        elif letter == at:
            yield text[start:k]
            start = k + 1
    if until:
        raise ScpiError(-171 if until == ")" else -151, f"no {until} closes it")
    yield text[start:]


class Pattern:
    """A header as the standard writes it: `CONFigure[:VOLTage][:DC]`, capitals alone being the short
    form, brackets what may be left out, and # a numeric suffix, which is 1 where it is not given."""

    def __init__(self, text: str) -> None:
        self.text = text
        steps = []
        for k, step in enumerate(re.findall(r"\[:?[^\]]+\]:?|:?[^:\[\]]+", text)):
            word = step.strip("[]:")
            name = word.rstrip("#")
            short = re.match(r"[A-Z*]+", name)
            assert short, text
            either = re.escape(name.upper())
            if short[0] != name:
                either = f"(?:{re.escape(short[0])}|{either})"
            node = either + (r"(\d*)" if word.endswith("#") else "1?")
            if word.startswith("*"):
                node = either
            if step.startswith("["):
                steps.append(f"(?:{node}:)?" if k == 0 else f"(?::{node})?")
            else:
                steps.append(f":{node}" if k and not steps[-1].endswith(":)?") else node)
        self._whole = re.compile("".join(steps))

    def suffixes(self, header: str) -> tuple[int, ...] | None:
        """The numbers behind its mnemonics; None where the header is another."""
        found = self._whole.fullmatch(header)
        return None if found is None else tuple(int(text or 1) for text in found.groups())


@dataclass
class Data:
    """The data of a command, taken one after the other. What is not there or of the wrong kind raises
    ScpiError."""

    pieces: Sequence[str]
    suffixes: tuple[int, ...] = ()  # behind the mnemonics of the header
    header: str = ""  # as the command was declared
    taken: int = field(default=0, init=False)

    @property
    def is_over(self) -> bool:
        return self.taken >= len(self.pieces)

    def next(self) -> str:
        if self.is_over:
            raise ScpiError(-109)
        self.taken += 1
        return self.pieces[self.taken - 1]

    def number(self, unit: str, low: float, high: float, default: float | None = None) -> float:
        """In `unit` as SCPI writes it: V, HZ, OHM; or MIN, MAX, DEF. Raises ScpiError out of range."""
        text = self.next()
        limit = _limit(text, low, high, default)
        value = numeric(text, unit) if limit is None else limit
        if not low <= value <= high:
            raise ScpiError(-222, f"{text} lies outside {low:g} to {high:g} {unit}".strip())
        return value

    def whole(self, low: int, high: int, default: int | None = None) -> int:
        return round(self.number("", low, high, default))

    def choice(self, *words: str) -> str:
        """One of these, in its short or long form; told by its short one."""
        text = self.next().upper()
        for word in words:
            short = "".join(c for c in word if not c.islower())
            if text in (short, word.upper()):
                return short
        raise ScpiError(-141 if text[:1].isalpha() else -104, f"{text[:20]}: {', '.join(words)}")

    def boolean(self) -> bool:
        text = self.next().upper()
        if text in ("ON", "OFF"):
            return text == "ON"
        return round(numeric(text, "")) != 0

    def channels(self) -> tuple[str, ...]:
        """The names of a channel list: (@out,gnd)."""
        text = self.next()
        if not re.fullmatch(r"\(@[^()@]*\)", text):
            raise ScpiError(-171, f"{text[:40]}: a list is written (@out,gnd)")
        return tuple(name.strip() for name in text[2:-1].split(",") if name.strip())


def limits(data: Data, low: float, high: float, default: float) -> float | None:
    """What a query for MIN, MAX or DEF asks for; None where it asks for what is set."""
    if data.is_over:
        return None
    text = data.next()
    limit = _limit(text, low, high, default)
    if limit is None:
        raise ScpiError(-141, text[:20])
    return limit


def _limit(text: str, low: float, high: float, default: float | None) -> float | None:
    named: Mapping[str, float | None] = {
        "MIN": low, "MINIMUM": low, "MAX": high, "MAXIMUM": high, "DEF": default, "DEFAULT": default,
    }  # fmt: skip
    return named.get(text.upper())


def numeric(text: str, unit: str) -> float:
    """A decimal number with its suffix: `10 MV`, `1.5KHZ`; or #H1F. Raises ScpiError."""
    other = _HEX.fullmatch(text)
    if other:
        return float(int(other[2], {"H": 16, "Q": 8, "B": 2}[other[1].upper()]))
    found = _NUMBER.fullmatch(text.strip())
    if not found:
        is_number = text[:1] in "+-.0123456789" and text
        raise ScpiError(-121 if is_number else -104, text[:20])
    number = float(found[1].replace(" ", ""))
    value = number * _factor(found[2].upper(), unit.upper())
    if not math.isfinite(value):
        raise ScpiError(-222, text[:20])
    return value


def _factor(suffix: str, unit: str) -> float:
    if not suffix:
        return 1.0
    if not unit:
        raise ScpiError(-138, suffix)
    mega = _MEGA.get(suffix)
    if mega and mega[0] == unit:
        return mega[1]
    if suffix.endswith(unit) and suffix[: len(suffix) - len(unit)] in _MULTIPLIERS:
        return _MULTIPLIERS[suffix[: len(suffix) - len(unit)]]
    raise ScpiError(-131, f"{suffix} where {unit} is meant")


def decimal(value: float) -> str:
    """NR3, as answers are written; what is no number is told as 9.91E37 (SCPI-1999, volume 1, 7.2.1.5)."""
    if math.isnan(value):
        return "9.91E37"
    if math.isinf(value):
        return "9.9E37" if value > 0 else "-9.9E37"
    return f"{value:.9E}"


def block(content: bytes) -> bytes:
    """A definite-length block (IEEE 488.2-1992, 8.7.9)."""
    length = str(len(content)).encode()
    return b"#" + str(len(length)).encode() + length + content
