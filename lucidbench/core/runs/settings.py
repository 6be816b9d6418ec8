"""What an analysis is told: settings as they were typed, understood, proposed, or found fault with."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from pydantic import BaseModel

from lucidbench.core.analyses.dc_sweep import TEMPERATURE, axis_of
from lucidbench.core.errors import CircuitError, LucidError, ValueTextError
from lucidbench.core.netlist import Circuit
from lucidbench.core.runs.looks import SettingLook
from lucidbench.core.runs.pictures import sums
from lucidbench.core.runs.probe_points import places_of
from lucidbench.core.runs.traces import dimensions_of
from lucidbench.core.units import engineering, parse_value

TOLERANCES = "tolerances"  # what is varied where every value is drawn within its own
CASES = "cases"  # what is varied where the run is of every case


class Setting(BaseModel):
    """One thing an analysis is told.

    `reads` is a "quantity", "values" (several of them), "voltages" of nodes, a "choice" among `choices`,
    or the name of a "source", a "node", its "terminals" with ground, a "trace", of what can be "swept",
    of what can be "varied", of a Kirchhoff "sum", of an "output" (a node or none), of what is read
    "against" (a node or ground), of a "place" to clip something to (a node, a part, or a pin of one), or of
    a "part" of two pins. A quantity `of` another setting's subject has that one's unit.
    """

    key: str
    label: str
    unit: str = ""
    meaning: str = ""
    reads: str = "quantity"
    choices: list[tuple[str, str]] = []
    optional: bool = False
    aside: bool = False  # seldom wanted: folded away
    of: str = ""


# Where a circuit can rest in several states, this says which is meant.
NEAR = Setting(
    key="near",
    label="Initial guess",
    reads="voltages",
    optional=True,
    meaning="Node voltages near which to look for the operating point, where there are several.",
)
# Any run in numbers may be a family of them.
FAMILY = (
    Setting(key="vary", label="Repeat for", reads="varied", optional=True,
            meaning="A part or circuit parameter: one run for each of its values."),
    Setting(key="over", label="Values", reads="values", optional=True,
            meaning="Its values, with commas between: 1 µF, 10 µF, 100 µF. Of tolerances: how often."),
)  # fmt: skip


@dataclass(frozen=True)
class Proposal:
    """A setting's number in SI units, or text, and what it was taken from."""

    number: float | None
    because: str
    text: str = ""


@dataclass(frozen=True)
class ResolvedSettings:
    """The settings of a run as numbers and texts, by key."""

    looks: tuple[SettingLook, ...]
    numbers: Mapping[str, float]
    texts: Mapping[str, str]

    @property
    def problem(self) -> str | None:
        wrong = next((look.problem for look in self.looks if look.problem), None)
        return f"{wrong}." if wrong else None

    def words(self, settings: Iterable[Setting]) -> Iterator[str]:
        """Those that are told or decide something, as one would note them beside a figure."""
        for setting, look in zip(settings, self.looks, strict=True):
            words = dict(look.choices).get(look.text or look.proposed) if look.choices else None
            text = words or look.echo or look.text or look.proposed
            if text and (look.text or not setting.optional):
                yield f"{setting.label.lower()} {text}"


def resolved(
    circuit: Circuit,
    settings: Iterable[Setting],
    proposals: Mapping[str, Proposal] | None,
    typed: Mapping[str, str],
    units: Mapping[str, str],
    cases: Sequence[str] = (),
) -> ResolvedSettings:
    """The settings as `typed`, what is empty as proposed; without `proposals` it may stay so.

    `units` are those of the circuit's parameters; `cases` the names of those there are.
    """
    offered = proposals or {}
    looks, numbers, texts = [], dict[str, float](), dict[str, str]()
    for setting in settings:
        text = typed.get(setting.key, "").strip()
        proposal = offered.get(setting.key, Proposal(None, ""))
        unit = setting.unit
        if setting.of:
            subject = texts.get(setting.of, "")
            unit = unit_of(circuit, subject, units)
            named = typed.get(setting.of, "").strip()
            if named not in ("", offered.get(setting.of, Proposal(None, "")).text):
                proposal = Proposal(None, "")
        proposed = proposal.text or (
            engineering(proposal.number, unit) if proposal.number is not None else ""
        )
        look = SettingLook(
            key=setting.key, text=text, proposed=proposed.replace("\u00a0", " "),
            because=proposal.because, choices=_choices(circuit, setting, cases),
        )  # fmt: skip
        if setting.reads == "voltages":
            _read_voltages(circuit, setting, text, look)
            texts[setting.key] = text
        elif setting.reads != "quantity":
            texts[setting.key] = text or proposal.text
        elif not text:
            if proposal.number is not None:
                numbers[setting.key] = proposal.number
            elif proposals is not None and not setting.optional:
                look.problem = f"“{setting.label}” is still empty"
        else:
            try:
                value = parse_value(text, unit)
                scale = 100 if unit == "%" else 1  # which is read as a share
                numbers[setting.key], look.echo = scale * value.number, value.echo
            except ValueTextError as error:
                look.problem = f"“{setting.label}”: {error}"
        looks.append(look)
    return ResolvedSettings(tuple(looks), numbers, texts)


def _read_voltages(circuit: Circuit, setting: Setting, text: str, look: SettingLook) -> None:
    look.proposed = _of_several_states(circuit)
    try:
        near = voltages_in(text, circuit)
        look.echo = ", ".join(f"V_{n} = {engineering(v, 'V')}" for n, v in near.items())
    except LucidError as error:
        look.problem = f"“{setting.label}”: {error}"


def _choices(circuit: Circuit, setting: Setting, cases: Sequence[str]) -> list[tuple[str, str]]:
    sources = [e.name for e in circuit if e.imposes]
    match setting.reads:
        case "source":
            return _named(sources)
        case "swept":
            return [*_named([*sources, *circuit.parameters]), (TEMPERATURE, "temperature")]
        case "varied":
            parts = [e.name for e in circuit if e.device.description.main and "." not in e.name]
            names = _named([*circuit.parameters, *parts])
            kinds = [("", "one value"), (TOLERANCES, "tolerances")]
            if cases:
                kinds.append((CASES, "all cases"))
            return [*kinds, *names, (TEMPERATURE, "temperature")]
        case "node":
            return _named(circuit.nodes)
        case "terminals":
            return [(node, f"{node} and ground") for node in circuit.nodes]
        case "output":
            return [("", "nowhere"), *_named(circuit.nodes)]
        case "sum":
            return [("", "from one origin"), *sums(circuit)]
        case "against":
            return [("", "ground"), *_named(circuit.nodes)]
        case "part":
            return _named(e.name for e in circuit if len(e.nodes) == 2)
        case "place":
            return [(place.key, place.label) for place in places_of(circuit)]
        case "trace":
            return _named(n for n in dimensions_of(circuit) if not n.startswith("P_"))
    return setting.choices


def _named(names: Iterable[str]) -> list[tuple[str, str]]:
    return [(name, name) for name in names]


def voltages_in(text: str, circuit: Circuit) -> dict[str, float]:
    """The voltages [V] of nodes in "V_a = 0 V, V_b = 5 V". Raises LucidError."""
    found = {}
    for piece in filter(None, (piece.strip() for piece in text.split(","))):
        name, equals, value = piece.partition("=")
        node = name.strip().removeprefix("V_")
        if not equals or not value.strip():
            raise LucidError(f"{piece} is not of the form V_{node or 'out'} = 5 V")
        if node not in circuit.nodes:
            raise LucidError(f"there is no node called {node}")
        found[node] = parse_value(value.strip(), "V").number
    return found


def _of_several_states(circuit: Circuit) -> str:
    """How voltages are written, for a circuit that may rest in several states; "" for others."""
    amplifying = [e for e in circuit if e.device.description.amplifies]
    if len(amplifying) < 2 or len(circuit.nodes) < 2:
        return ""
    node = next((n for e in amplifying for n in e.nodes if n in circuit.nodes), "")
    return f"V_{node} = 0 V" if node else ""


def unit_of(circuit: Circuit, subject: str, units: Mapping[str, str]) -> str:
    """What the values of a swept or varied thing are counted in; "" where there is no such thing."""
    try:
        return units.get(subject) or axis_of(circuit, subject, np.zeros(0)).unit
    except CircuitError:
        return ""
