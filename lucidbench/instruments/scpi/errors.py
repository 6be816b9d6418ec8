"""What can go wrong with a message, by the numbers of SCPI-1999, volume 2, chapter 21."""

from __future__ import annotations

from typing import NamedTuple

_WORDS = {
    0: "No error",
    -101: "Invalid character",
    -102: "Syntax error",
    -104: "Data type error",
    -108: "Parameter not allowed",
    -109: "Missing parameter",
    -113: "Undefined header",
    -114: "Header suffix out of range",
    -121: "Invalid character in number",
    -131: "Invalid suffix",
    -138: "Suffix not allowed",
    -141: "Invalid character data",
    -151: "Invalid string data",
    -161: "Invalid block data",
    -171: "Invalid expression",
    -200: "Execution error",
    -213: "Init ignored",
    -221: "Settings conflict",
    -222: "Data out of range",
    -223: "Too much data",
    -224: "Illegal parameter value",
    -230: "Data corrupt or stale",
    -241: "Hardware missing",
    -310: "System error",
    -350: "Queue overflow",
    -363: "Input buffer overrun",
    -410: "Query INTERRUPTED",
}
# Bits of the standard event status register, IEEE 488.2-1992, 11.5.1.
_QUERY, _DEVICE, _EXECUTION, _COMMAND = 4, 8, 16, 32


class ErrorEntry(NamedTuple):
    """As it stands in the error queue; `more` says in plain words what it is about."""

    number: int
    more: str = ""

    def __str__(self) -> str:
        words = _WORDS[self.number] + (f"; {self.more}" if self.more else "")
        return f'{self.number},"{words.replace(chr(34), chr(39))}"'

    @property
    def event(self) -> int:
        """The bit it sets in the standard event status register."""
        if self.number <= -400:
            return _QUERY
        if self.number <= -300:
            return _DEVICE
        if self.number <= -200:
            return _EXECUTION
        return _COMMAND if self.number else 0


class ScpiError(Exception):
    """A message that cannot be carried out."""

    def __init__(self, number: int, more: str = "") -> None:
        super().__init__(number, more)
        self.entry = ErrorEntry(number, more)
