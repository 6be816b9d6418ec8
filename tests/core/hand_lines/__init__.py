"""Lines of working as students write them, each with what is to be said of it; the texts beside say how."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from lucidbench.core.document.exercise import Exercise, HandLine
from lucidbench.core.document.importing import read_any
from tests.core.circuits import drawn_from

HERE = Path(__file__).parent
_LINE = re.compile(r"(=m|!\+|[=@~!x.]) (.*?)(?: \| (\w+)(?: (\w+))?)?")


@dataclass(frozen=True)
class Judged:
    """`before` are the lines it rests on; `reason` and `part` are those of an approximation, "" where they
    are not asked for."""

    circuit: str
    netlist: str
    sign: str
    before: tuple[str, ...]
    line: str
    reason: str
    part: str

    @property
    def text(self) -> str:
        return f"{self.circuit}: {self.sign} {' ; '.join((*self.before, self.line))}"

    @cached_property
    def exercise(self) -> Exercise:
        return self.with_lines(*self.before, self.line)

    def with_lines(self, *lines: str) -> Exercise:
        """Its circuit with other lines."""
        hand = [HandLine(id=f"h{k}", text=text) for k, text in enumerate(lines)]
        return drawn_from(read_any(self.netlist)).model_copy(update={"hand": hand})


def lines_of(name: str) -> Iterator[Judged]:
    """Those of one of the texts."""
    for block in (HERE / f"{name}.txt").read_text().split("circuit ")[1:]:
        title, *rest = [line for line in block.splitlines() if line.strip()]
        netlist = [line for line in rest if not _LINE.fullmatch(line)]
        for line in rest:
            match = _LINE.fullmatch(line)
            if match:
                sign, text, reason, part = match.groups()
                *before, last = text.split(" ; ")
                yield Judged(
                    title, "\n".join([title, *netlist, ".end"]), sign, tuple(before), last,
                    reason or "", part or "",
                )  # fmt: skip
