"""A smooth interval between two breakpoints of the sources."""

from __future__ import annotations

from lucidbench.core.devices.laws.compiler import kernel

_NUDGE = 1e-12  # of it: sources are taken this far within it, so jumps fall between intervals
_ULP = 2.220446049250313e-16


@kernel
def within(t, begin, end):
    """`t` kept off the breakpoints at either end of an interval."""
    off = _NUDGE * (end - begin) + 4.0 * _ULP * max(abs(begin), abs(end))
    return min(max(t, begin + off), max(end - off, begin + off))
