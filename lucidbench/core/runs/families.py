"""The circuits of a run: the one drawn, or a family with one thing at one value after the other."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal, NamedTuple

from lucidbench.core.analyses.dc_sweep import changed
from lucidbench.core.analyses.run import RunRefused
from lucidbench.core.errors import ValueTextError
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs.settings import CASES, TOLERANCES, ResolvedSettings, unit_of
from lucidbench.core.tolerance import builds
from lucidbench.core.units import parse_value

MOST_MEMBERS = 24
BUILDS, MOST_BUILDS = 20, 200

Role = Literal["alone", "value", "nominal", "build"]


class Variant(NamedTuple):
    """One circuit of a run. `key` is what it is known by, the value it was run with; `label` is that in
    words; both are empty for a circuit that is no family's."""

    key: str
    label: str
    role: Role
    circuit: Circuit


def variants(
    circuit: Circuit,
    settings: ResolvedSettings,
    units: Mapping[str, str],
    cases: Callable[[], list[Variant]] = list,
) -> list[Variant]:
    """`cases` gives those of the exercise. Raises RunRefused where the family is not told as it must be."""
    subject, listed = settings.texts.get("vary", ""), settings.texts.get("over", "")
    if not subject:
        return [Variant("", "", "alone", circuit)]
    if subject == CASES:
        return cases()
    if subject == TOLERANCES:
        return _builds(circuit, listed)
    texts = [text.strip() for text in listed.replace(";", ",").split(",") if text.strip()]
    if not texts:
        raise RunRefused(f"Write the values {subject} shall take, with commas between them.")
    if len(texts) > MOST_MEMBERS:
        raise RunRefused(f"A family has at most {MOST_MEMBERS} members; this one has {len(texts)}.")
    unit = unit_of(circuit, subject, units)
    members = []
    for text in texts:
        try:
            value = parse_value(text, unit)
        except ValueTextError as error:
            raise RunRefused(f"“Values”: {text} cannot be read; {error}.") from error
        label = f"{subject} = {value.echo}"
        members.append(Variant(value.echo, label, "value", changed(circuit, subject, value.number)))
    return members


def _builds(circuit: Circuit, asked: str) -> list[Variant]:
    """The circuit as it is, then built so many times with every value drawn within its tolerance."""
    text = asked.strip() or str(BUILDS)
    if not text.isdecimal() or not 1 <= int(text) <= MOST_BUILDS:
        raise RunRefused(
            f"“Values” says how often the circuit is built: a whole number from 1 to {MOST_BUILDS}, "
            f"and {asked.strip()} is none."
        )
    drawn = enumerate(builds(circuit, int(text)), 1)
    return [
        Variant("nominal", "nominal", "nominal", circuit),
        *(Variant(f"build {k}", f"build {k}", "build", here) for k, here in drawn),
    ]
