"""Lines of working as students write them: what is right passes, what is wrong does not, nothing is silent.

The lines and what is to be said of them are written down in hand_lines/, by circuit theory (divider, bridge,
superposition, phasors, first and second order: common practice, no published source).
"""

from __future__ import annotations

import pytest

from lucidbench.core.evaluate.exactness import exactness
from lucidbench.core.evaluate.judged import JudgedLine, judged
from tests.core.hand_lines import Judged, lines_of

ALLOWED = {
    "=": {"equal"}, "=m": {"equal_to_textbook_model", "equal"}, "@": {"equal_at_these_values"},
    "~": {"approximate"}, "!": {"wrong"}, "!+": {"wrong"}, "x": {"wrong", "approximate"},
    ".": {"not_judged"},
}  # fmt: skip
RIGHT = {"equal", "equal_to_textbook_model", "equal_at_these_values"}
NAMES = ["at_rest", "nonlinear", "over_frequency", "over_time"]


@pytest.mark.parametrize("name", NAMES)
def test_every_line_is_told_what_it_is(name: str) -> None:
    slips, mended, wrong = 0, 0, []
    for line in lines_of(name):
        said = judged(line.exercise)[-1]
        if said.verdict not in ALLOWED[line.sign]:
            wrong.append((line.text, said.verdict, said.reason))
        if line.reason and (said.reason, line.part in (*said.parts, "")) != (line.reason, True):
            wrong.append((line.text, said.reason, said.parts))
        if line.sign == "!+":
            slips += 1
            mended += is_mended(line, said)
    assert wrong == []
    assert mended >= 0.95 * slips


def is_mended(line: Judged, said: JudgedLine) -> bool:
    """Whether the line is right with what is offered in the place of the line of that name."""
    if said.mend is None:
        return False
    of = said.mend.partition("=")[0].strip()
    before = [said.mend if text.partition("=")[0].strip() == of else text for text in line.before]
    own = said.mend if line.line.partition("=")[0].strip() == of else line.line
    again = judged(line.with_lines(*before, own))[-1]
    # What rests on a rule of thumb is right but for that.
    return again.verdict in RIGHT or again.reason == "base_current"


@pytest.mark.parametrize(
    ("line", "parts", "words"),
    [
        ("V_out = V1/2", ("R1", "R2"), "equal"),
        ("V_out = V1*10 kΩ/(R1+R2)", ("R2",), "at these values of R2"),
    ],
)
def test_what_is_right_here_alone_says_why(line: str, parts: tuple[str, ...], words: str) -> None:
    divider = next(each for each in lines_of("at_rest") if each.circuit == "divider of equal parts")
    (told,) = exactness(divider.with_lines(line))
    assert told.verdict == "equal_at_these_values"
    assert set(parts) <= set(told.parts)
    assert words in told.sentence
